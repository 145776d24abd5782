import pytest

from cartouche.core.call.pairing import MAX_ASKED, VALID_FOR_S, Pairings, is_extension

OURS = "chrome-extension://" + "abcdefghijklmnop" * 2
OTHER = "chrome-extension://" + "ponmlkjihgfedcba" * 2


@pytest.mark.parametrize(
    ("origin", "known"),
    [
        (OURS, True),
        ("moz-extension://0a1b2c3d-0000-4000-8000-0a1b2c3d4e5f", True),
        ("chrome-extension://" + "z" * 32, False),
        (OURS + ".example.org", False),
        ("https://chrome-extension.example", False),
        (f"http://127.0.0.1/{OURS}", False),
        ("null", False),
        ("", False),
    ],
)
def test_extensions_are_told_by_their_origin(origin: str, known: bool) -> None:
    assert is_extension(origin) is known


def test_paired_once_after_the_teacher_has_compared() -> None:
    pairings = Pairings()
    pairings.ask(OURS, "ABC234", "secret", 0.0)
    assert pairings.collect(OURS, "secret", 1.0) is None
    assert not pairings.confirm("ABC235", 1.0)
    assert pairings.confirm("ABC234", 2.0)
    assert pairings.open(2.0) is None  # nothing waits any more
    assert pairings.collect(OTHER, "secret", 3.0) is False
    assert pairings.collect(OURS, "guess", 3.0) is False
    assert pairings.collect(OURS, "secret", 3.0) is True
    assert pairings.collect(OURS, "secret", 4.0) is False  # replayed


def test_refused_run_out_and_overtaken() -> None:
    pairings = Pairings()
    assert not pairings.confirm("ABC234", 0.0)
    pairings.ask(OURS, "ABC234", "secret", 0.0)
    pairings.refuse()
    assert pairings.collect(OURS, "secret", 1.0) is False
    pairings.ask(OURS, "ABC234", "secret", 10.0)
    assert pairings.open(9.0 + VALID_FOR_S) is not None
    assert not pairings.confirm("ABC234", 11.0 + VALID_FOR_S)
    pairings.ask(OURS, "ABC234", "first", 300.0)
    pairings.ask(OTHER, "XYZ789", "second", 301.0)
    assert not pairings.confirm("ABC234", 302.0)
    assert pairings.collect(OURS, "first", 302.0) is False


def test_a_flood_of_requests_is_refused_for_a_minute() -> None:
    pairings = Pairings()
    assert all(pairings.ask(OURS, "ABC234", "s", float(at)) for at in range(MAX_ASKED))
    assert pairings.ask(OURS, "ABC234", "s", float(MAX_ASKED)) is None
    assert pairings.ask(OURS, "ABC234", "s", 61.0) is not None
