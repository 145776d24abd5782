"""Outgoing windows: how many, and what is wrong where none of them is well."""

from cartouche.core.pictures import Size
from cartouche.core.watch.window import WindowFacts, window_says
from cartouche.live.windows import Windows

OUT = Size(1280, 720)
WELL = WindowFacts("visible", Size(1280, 720))


def test_each_state_has_its_sentence() -> None:
    assert window_says(WELL, OUT) is None
    assert "minimised or covered" in (window_says(WELL._replace(state="hidden"), OUT) or "")
    assert "to sleep" in (window_says(WELL._replace(state="frozen"), OUT) or "")
    assert "640x360 of 1280x720" in (window_says(WindowFacts("visible", Size(640, 360)), OUT) or "")
    assert window_says(WindowFacts("visible", Size(900, 506)), OUT) is None


def test_one_that_is_well_is_enough_and_one_that_told_nothing_says_nothing() -> None:
    changes: list[int] = []
    windows = Windows(lambda: changes.append(windows.count))
    windows.opened("a")
    assert windows.says(OUT) is None
    windows.tell("a", WELL._replace(state="hidden"))
    windows.tell("a", WELL._replace(state="hidden"))
    assert "minimised" in (windows.says(OUT) or "")
    windows.opened("b")
    windows.tell("b", WELL)
    assert windows.says(OUT) is None
    windows.closed("b")
    windows.closed("b")
    windows.tell("b", WELL)
    assert windows.count == 1
    windows.closed("a")
    assert (windows.count, windows.says(OUT)) == (0, None)
    assert changes[:2] == [1, 1]
