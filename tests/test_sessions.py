import subprocess

import psutil
import pytest

from tests import sessions
from tests.helpers import eventually
from tests.sessions import elsewhere, share, shared_alike

SHARES = share() is not None
LESS = 5  # anybody may ask for less


def sleeper() -> "subprocess.Popen[bytes]":
    return subprocess.Popen(["sleep", "60"], start_new_session=True)


@pytest.mark.skipif(not SHARES, reason="this system asks each process how nice it is")
def test_a_session_that_begins_meanwhile_gets_the_share_of_the_tests(monkeypatch: pytest.MonkeyPatch) -> None:
    told, given = share, {LESS, share()} - {0}  # where the whole run has a share of its own, its look may be the first
    monkeypatch.setattr(sessions, "share", lambda session="self": LESS if session == "self" else told(session))
    with shared_alike():
        begun = sleeper()
        try:
            eventually(lambda: told(begun.pid) in given)
        finally:
            begun.kill()
            begun.wait()


@pytest.mark.skipif(not SHARES, reason="this system asks each process how nice it is")
def test_what_is_elsewhere_comes_after_all_else() -> None:
    begun = elsewhere(sleeper, LESS)
    try:
        assert (share(begun.pid), psutil.Process(begun.pid).nice()) == (LESS, LESS)
        assert share() != LESS
    finally:
        begun.kill()
        begun.wait()
