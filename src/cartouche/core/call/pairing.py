"""Pairing the browser extension with this Cartouche: both show the same few signs, and the teacher says that they are the same.

Numeric comparison, as other pairings do it (Suomalainen, Valkonen & Asokan, Security associations in personal networks, 2007).
Time is passed in.
"""

import hmac
import re
from collections import deque
from dataclasses import dataclass

VALID_FOR_S = 180.0
CODE_LENGTH = 6
WINDOW_S = 60.0
MAX_ASKED = 6  # a minute: a teacher who presses again needs fewer
EXTENSION = re.compile(r"chrome-extension://[a-p]{32}|moz-extension://[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}")


@dataclass
class Asked:
    """code: what both show.  secret: known to the asker alone.  confirmed: the teacher has pressed it."""

    origin: str
    code: str
    secret: str
    at_s: float
    confirmed: bool = False

    def left_s(self, now_s: float) -> float:
        return max(0.0, self.at_s + VALID_FOR_S - now_s)


def is_extension(origin: str) -> bool:
    """Whether this is the origin of a browser extension, as browsers write it."""
    return EXTENSION.fullmatch(origin) is not None


class Pairings:
    """One request at a time: the newest takes the place of one before that was not confirmed."""

    def __init__(self) -> None:
        self._asked: Asked | None = None
        self._times: deque[float] = deque(maxlen=MAX_ASKED)

    def open(self, now_s: float) -> Asked | None:
        """What waits for the teacher's press."""
        asked = self._asked
        return asked if asked is not None and not asked.confirmed and asked.left_s(now_s) > 0 else None

    def ask(self, origin: str, code: str, secret: str, now_s: float) -> Asked | None:
        """None where too many were asked of late. code, secret: made by the caller from a secure source."""
        if len(self._times) == MAX_ASKED and now_s - self._times[0] < WINDOW_S:
            return None
        self._times.append(now_s)
        self._asked = Asked(origin, code, secret, now_s)
        return self._asked

    def confirm(self, code: str, now_s: float) -> bool:
        asked = self.open(now_s)
        if asked is None or not hmac.compare_digest(asked.code.encode(), code.encode()):
            return False
        asked.confirmed = True
        return True

    def refuse(self) -> None:
        self._asked = None

    def collect(self, origin: str, secret: str, now_s: float) -> bool | None:
        """Whether the asker is paired now: once. None while the teacher has not pressed; False: refused, run out, or never asked."""
        asked = self._asked
        if (
            asked is None
            or asked.origin != origin
            or not hmac.compare_digest(asked.secret.encode(), secret.encode())
            or not asked.left_s(now_s)
        ):
            return False
        if not asked.confirmed:
            return None
        self._asked = None
        return True
