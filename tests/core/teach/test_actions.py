"""One key for each action; the teacher's own keys, and what collides."""

import pytest

from cartouche.core.teach.actions import ACTIONS, TAKEN, KeyTable, KeyTaken, NoSuchKey, table_of

FIRST = KeyTable({})


def test_no_key_does_two_things() -> None:
    keys = [key for action in ACTIONS for key in action.keys]
    assert len(keys) == len(set(keys))
    assert not set(keys) & set(TAKEN)


def test_a_key_of_ones_own_takes_the_place_of_the_first() -> None:
    table = FIRST.with_key("hold", "F9")
    assert table.by_key()["F9"] == "hold"
    assert "h" not in table.by_key()
    assert table.with_key("sheet", "H").by_key()["h"] == "sheet"  # free by now
    assert table.as_first("hold").by_key()["h"] == "hold"


@pytest.mark.parametrize(("key", "does"), [("n", "Next plate"), ("M", "Close all microphones"), ("3", "Make this plate outgoing")])
def test_what_collides_is_said(key: str, does: str) -> None:
    with pytest.raises(KeyTaken, match=does):
        FIRST.with_key("hold", key)


def test_first_keys_that_do_something_else_by_now_are_not_taken_back() -> None:
    with pytest.raises(KeyTaken, match="Keep a sheet"):
        FIRST.with_key("hold", "F9").with_key("sheet", "h").as_first("hold")


@pytest.mark.parametrize(
    ("name", "key"), [("hold", ""), ("hold", "ab"), ("hold", "\n"), ("hold", "<img>"), ("plate", "q"), ("nothing", "q")]
)
def test_what_is_no_key_is_refused(name: str, key: str) -> None:
    with pytest.raises(NoSuchKey):
        FIRST.with_key(name, key)


def test_what_is_kept_comes_back_without_what_collides() -> None:
    table = table_of({"hold": ("F9",), "sheet": ("n",), "gone": ("q",)})
    assert table.own == {"hold": ("F9",)}
