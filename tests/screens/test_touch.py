"""Square up under fingers: a tablet or a touch screen drags corners and pinches the page as a mouse and its wheel do."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import CDPSession, Page

from tests.helpers import Application, eventually, settled
from tests.screens.test_job import chain_of, shown, square_up

Spot = tuple[float, float]


@pytest.fixture
def fingers(page: Page, app: Application) -> Iterator[CDPSession]:
    """The browser's own touch events: Playwright taps only."""
    before = chain_of(app)
    session = page.context.new_cdp_session(page)
    session.send("Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 2})
    yield session
    app.ask("PUT", "/api/square-up/desk-camera/chain", {"chain": before})


def slide(session: CDPSession, ways: list[tuple[Spot, Spot]], steps: int = 8) -> None:
    """Each finger from its first spot to its second, all at once."""

    def at(share: float) -> list[dict[str, float]]:
        return [{"x": a[0] + share * (b[0] - a[0]), "y": a[1] + share * (b[1] - a[1]), "id": number} for number, (a, b) in enumerate(ways)]

    session.send("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": at(0)})
    for step in range(1, steps + 1):
        session.send("Input.dispatchTouchEvent", {"type": "touchMove", "touchPoints": at(step / steps)})
    session.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})


def middle_of(page: Page, label: str) -> tuple[Spot, Spot]:
    """The middle of a picture and its size, px."""
    box = shown(page, label).bounding_box()
    assert box is not None
    return (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2), (box["width"], box["height"])


def test_a_finger_drags_a_corner(page: Page, app: Application, fingers: CDPSession) -> None:
    square_up(page)
    handle = page.get_by_role("button", name="Lower right corner").bounding_box()
    assert handle is not None
    start = (handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2)
    before = chain_of(app)["square"]["corners"]
    _, (wide, high) = middle_of(page, "The raw picture with four corners")
    slide(fingers, [(start, (start[0] - 30, start[1] - 20))])
    eventually(lambda: chain_of(app)["square"]["corners"] != before)
    after = settled(lambda: chain_of(app)["square"]["corners"])
    moved = [(b[0] - a[0], b[1] - a[1]) for a, b in zip(before, after, strict=True) if a != b]
    assert moved == [pytest.approx((-30 / wide, -20 / high), abs=0.006)]


def test_two_fingers_pinch_the_page_closer_and_one_drags_it(page: Page, app: Application, fingers: CDPSession) -> None:
    app.ask("PUT", "/api/square-up/desk-camera/frame", {"framing": "whole"})
    square_up(page)
    (x, y), (_, high) = middle_of(page, "The straightened page")
    slide(fingers, [((x - 30, y), (x - 60, y)), ((x + 30, y), (x + 60, y))])
    eventually(lambda: chain_of(app)["frame"]["zoom"] == pytest.approx(2, rel=0.1))
    before = settled(lambda: chain_of(app)["frame"])
    slide(fingers, [((x, y), (x, y + 0.15 * high))])
    eventually(lambda: chain_of(app)["frame"]["y"] == pytest.approx(before["y"] + 0.15, abs=0.02))
    assert chain_of(app)["frame"]["zoom"] == before["zoom"]


def test_a_pinch_does_not_zoom_the_browser_nor_scroll_it(page: Page, app: Application, fingers: CDPSession) -> None:
    square_up(page)
    (x, y), (_, high) = middle_of(page, "The straightened page")
    slide(fingers, [((x - 20, y), (x - 70, y)), ((x + 20, y), (x + 70, y))])
    slide(fingers, [((x, y), (x, y - 0.4 * high))])
    assert page.evaluate("[window.visualViewport.scale, window.scrollY]") == [1, 0]
