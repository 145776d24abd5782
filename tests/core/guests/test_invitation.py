"""Codes: once, for ten minutes, and not to be guessed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cartouche.core.guests.invitation import (
    ALPHABET,
    CODE_LENGTH,
    MAX_WRONG_EACH,
    VALID_FOR_S,
    WINDOW_S,
    Invitation,
    Invitations,
    Refused,
)

CODE = "K7M2QX"


@pytest.fixture
def book() -> Invitations:
    made = Invitations()
    made.add(CODE, 0.0)
    return made


def reason(answer: Invitation | Refused) -> str:
    return answer.reason if isinstance(answer, Refused) else "welcome"


@pytest.mark.parametrize("typed", [CODE, CODE.lower(), "k7m 2qx", "K7M-2QX", " k7m2qx "])
def test_it_lets_in_however_it_is_typed(book: Invitations, typed: str) -> None:
    assert reason(book.enter(typed, "phone", 10.0)) == "welcome"


def test_it_lets_in_once(book: Invitations) -> None:
    book.enter(CODE, "phone", 10.0)
    assert reason(book.enter(CODE, "other", 11.0)) == "used"


def test_it_runs_out_after_ten_minutes(book: Invitations) -> None:
    assert reason(book.enter(CODE, "phone", VALID_FOR_S - 0.1)) == "welcome"
    later = Invitations()
    later.add(CODE, 0.0)
    assert reason(later.enter(CODE, "phone", VALID_FOR_S)) == "expired"
    assert not later.open(VALID_FOR_S)


def test_a_withdrawn_code_has_run_out(book: Invitations) -> None:
    book.withdraw(book.open(5.0)[0], 5.0)
    assert reason(book.enter(CODE, "phone", 6.0)) == "expired"


def test_a_code_that_never_was_is_wrong(book: Invitations) -> None:
    for typed in ("", "K7M2Q", "K7M2QXX", "ABCDEF", "K7M2Q\u212a", "\x00" * 6):
        assert reason(book.enter(typed, "phone", 1.0)) in ("wrong", "wait")


def test_one_who_guesses_must_wait_and_others_need_not(book: Invitations) -> None:
    for n in range(MAX_WRONG_EACH):
        assert reason(book.enter("AAAAAA", "guesser", n)) == "wrong"
    assert reason(book.enter(CODE, "guesser", 10.0)) == "wait"
    assert reason(book.enter(CODE, "phone", 10.0)) == "welcome"


def test_after_a_minute_he_may_try_again(book: Invitations) -> None:
    for _ in range(MAX_WRONG_EACH):
        book.enter("AAAAAA", "guesser", 0.0)
    assert reason(book.enter(CODE, "guesser", WINDOW_S)) == "welcome"


def test_many_who_guess_together_do_not_keep_the_invited_phone_out(book: Invitations) -> None:
    for n in range(3000):
        book.enter("AAAAAA", f"guesser {n % 250}", 1.0)
    assert reason(book.enter("AAAAAA", "guesser 7", 2.0)) == "wait"
    assert reason(book.enter(CODE, "phone", 2.0)) == "welcome"


def test_how_likely_a_guess_is_in_ten_minutes() -> None:
    """By every other address of a usual network, each as often as it may."""
    guesses = 253 * MAX_WRONG_EACH * VALID_FOR_S / WINDOW_S
    assert guesses / len(ALPHABET) ** CODE_LENGTH < 2e-5


def test_signs_that_are_taken_for_each_other_are_not_used() -> None:
    assert not set("01OIL") & set(ALPHABET)


@pytest.mark.parametrize("code", ["", "ABC", "ABCDEFG", "abcdef", "ABCDE0"])
def test_a_code_of_other_signs_is_a_mistake(book: Invitations, code: str) -> None:
    with pytest.raises(ValueError, match="wanted 6"):
        book.add(code, 0.0)


@given(st.text(max_size=30), st.floats(0, 1e6))
def test_whatever_is_typed_is_answered(typed: str, now_s: float) -> None:
    assert not Invitations().enter(typed, "somebody", now_s)


def test_left_counts_down_to_nought() -> None:
    made = Invitation(CODE, 100.0)
    assert made.left_s(100.0) == VALID_FOR_S
    assert made.left_s(160.0) == VALID_FOR_S - 60
    assert made.left_s(1e9) == 0
    made.used = True
    assert made.left_s(101.0) == 0
