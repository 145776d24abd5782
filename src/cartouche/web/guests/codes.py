"""The way in by a code, for who sends as for who watches: one at a time, and the door stays open while somebody is let in."""

import secrets
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

from cartouche.core.guests.invitation import ALPHABET, CODE_LENGTH, Invitation, Invitations, Refused
from cartouche.web.guests.errors import BY_REASON


class Codes:
    """May be called from any thread."""

    def __init__(self) -> None:
        self._invitations, self._entering = Invitations(), threading.Lock()
        self._letting_in = False

    def new(self) -> Invitation:
        return self._invitations.add("".join(secrets.choice(ALPHABET) for _ in range(CODE_LENGTH)), time.monotonic())

    def withdraw(self, invitation: Invitation) -> None:
        self._invitations.withdraw(invitation, time.monotonic())

    def holds(self, invitation: Invitation) -> bool:
        """Whether somebody may still come by it, or is coming in just now: its code is used before who comes by it is kept."""
        return self._letting_in or invitation.left_s(time.monotonic()) > 0

    @contextmanager
    def enter(self, code: str, who: str) -> Iterator[Invitation]:
        """The invitation that this code is for; who comes by it is kept before this ends. who: the address that asks. Raises NotLetIn."""
        with self._entering:  # two at once must not both come in by one code
            self._letting_in = True
            try:
                entered = self._invitations.enter(code, who, time.monotonic())
                if isinstance(entered, Refused):
                    raise BY_REASON[entered.reason]
                yield entered
            finally:
                self._letting_in = False
