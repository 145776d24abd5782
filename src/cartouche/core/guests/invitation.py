"""Invitations: a short code that lets one phone or tablet in, once, for a few minutes. Time is passed in."""

import hmac
from collections import deque
from dataclasses import dataclass
from typing import Literal

ALPHABET = "23456789ABCDEFGHJKMNPQRSTUVWXYZ"  # without 0 O 1 I L, which are taken for each other
CODE_LENGTH = 6
VALID_FOR_S = 600.0
REMEMBERED_FOR_S = 3600.0  # so long a code that has run out is told from one that never was
WINDOW_S = 60.0
MAX_WRONG_EACH = 5  # a minute from one address: a person who mistypes needs fewer
MAX_KNOWN = 4096  # wrong guesses that are remembered: a network's every address may have made its five

Reason = Literal["wrong", "expired", "used", "wait"]


@dataclass
class Invitation:
    """One code and whether somebody has come in by it."""

    code: str
    made_s: float
    used: bool = False

    def left_s(self, now_s: float) -> float:
        """Seconds until it runs out; 0 once it is used."""
        return 0.0 if self.used else max(0.0, self.made_s + VALID_FOR_S - now_s)


@dataclass(frozen=True)
class Refused:
    """Falsy: nobody is let in, and why."""

    reason: Reason

    def __bool__(self) -> bool:
        return False


class Invitations:
    """All codes that are or were valid, and the wrong guesses of the last minute."""

    def __init__(self) -> None:
        self._made: list[Invitation] = []
        self._wrong: deque[tuple[float, str]] = deque(maxlen=MAX_KNOWN)

    def add(self, code: str, now_s: float) -> Invitation:
        """A new code, made by the caller from ALPHABET with a secure source. Raises ValueError for any other."""
        if len(code) != CODE_LENGTH or set(code) - set(ALPHABET):
            raise ValueError(f"code: wanted {CODE_LENGTH} of {ALPHABET}, got {len(code)} signs")
        invitation = Invitation(code, now_s)
        self._made = [known for known in self._made if now_s - known.made_s < REMEMBERED_FOR_S] + [invitation]
        return invitation

    def withdraw(self, invitation: Invitation, now_s: float) -> None:
        """It runs out now."""
        invitation.made_s = min(invitation.made_s, now_s - VALID_FOR_S)

    def open(self, now_s: float) -> list[Invitation]:
        return [invitation for invitation in self._made if invitation.left_s(now_s) > 0]

    def enter(self, typed: str, who: str, now_s: float) -> Invitation | Refused:
        """Let one in by its code. who: the address that asks; typed: in any case, with blanks or hyphens."""
        if self._must_wait(who, now_s):
            return Refused("wait")
        code = "".join(sign for sign in typed.upper() if sign.isalnum())
        found = [known for known in self._made if hmac.compare_digest(known.code.encode(), code.encode())]
        if not found:
            self._wrong.append((now_s, who))
            return Refused("wrong")
        invitation = found[-1]
        if invitation.used:
            return Refused("used")
        if invitation.left_s(now_s) <= 0:
            return Refused("expired")
        invitation.used = True
        return invitation

    def _must_wait(self, who: str, now_s: float) -> bool:
        """Each address is counted for itself: strangers who guess must not keep the invited phone out."""
        while self._wrong and now_s - self._wrong[0][0] >= WINDOW_S:
            self._wrong.popleft()
        return sum(address == who for _, address in self._wrong) >= MAX_WRONG_EACH
