"""Which browser extension may take the outgoing picture: the one that was paired, by its origin and its key."""

import hashlib
import hmac
import secrets
import time
from dataclasses import dataclass

from cartouche.core.call.pairing import CODE_LENGTH, Asked, Pairings, is_extension
from cartouche.core.guests.invitation import ALPHABET
from cartouche.store.database import Database
from cartouche.store.settings import set_setting, setting
from cartouche.web.errors import NothingAsksToPair, NotPaired, TooManyPairings

ORIGIN, HASH = "extension_origin", "extension_key"


@dataclass(frozen=True)
class Paired:
    origin: str
    key: str


class ExtensionKey:
    """May be asked from any thread. One extension at a time: pairing anew takes the place of what was paired."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._pairings = Pairings()

    @property
    def is_paired(self) -> bool:
        return bool(setting(self._database, HASH))

    def asked(self) -> Asked | None:
        """What waits for the teacher's press."""
        return self._pairings.open(time.monotonic())

    def ask(self, origin: str | None) -> Asked:
        """Raises NotPaired for anything but an extension, TooManyPairings."""
        if origin is None or not is_extension(origin):
            raise NotPaired
        code = "".join(secrets.choice(ALPHABET) for _ in range(CODE_LENGTH))
        asked = self._pairings.ask(origin, code, secrets.token_urlsafe(24), time.monotonic())
        if asked is None:
            raise TooManyPairings
        return asked

    def confirm(self, code: str) -> None:
        """Raises NothingAsksToPair."""
        if not self._pairings.confirm(code, time.monotonic()):
            raise NothingAsksToPair

    def refuse(self) -> None:
        self._pairings.refuse()

    def collect(self, origin: str | None, secret: str) -> str | None:
        """The key, once, when the teacher has pressed; None while they have not. Raises NotPaired."""
        granted = self._pairings.collect(origin or "", secret, time.monotonic())
        if granted is None:
            return None
        if not granted or origin is None:
            raise NotPaired
        key = secrets.token_urlsafe(32)
        set_setting(self._database, ORIGIN, origin)
        set_setting(self._database, HASH, _hash(key))
        return key

    def holds(self, origin: str | None, key: str) -> bool:
        kept = setting(self._database, HASH) or ""
        same = hmac.compare_digest(kept.encode(), _hash(key).encode())
        return bool(kept) and same and origin == setting(self._database, ORIGIN)

    def forget(self) -> None:
        """Nobody is paired any more."""
        set_setting(self._database, HASH, "")


def _hash(key: str) -> str:
    """A key is 32 random bytes: a plain hash of it tells nothing and needs no salt."""
    return hashlib.sha256(key.encode()).hexdigest()
