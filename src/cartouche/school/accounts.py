"""Accounts for a trial on one machine: names and salted hashes (scrypt, RFC 7914) in one file. A school's own sign-on takes their place."""

import hashlib
import json
import os
import re
import secrets
import time
from pathlib import Path

NAME = re.compile(r"[a-z][a-z0-9-]{0,39}")  # it becomes the name of a folder
COST = {"n": 2**14, "r": 8, "p": 1}
WORDS = 4
MAX_WRONG, FORGOTTEN_S = 5, 60.0  # wrong passwords for one name, then it waits
_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"


class Accounts:
    def __init__(self, path: Path) -> None:
        self._path = path
        self._wrong: dict[str, list[float]] = {}

    def add(self, name: str) -> str:
        """A new password for a new or known name. Raises ValueError where that is no name."""
        if not NAME.fullmatch(name):
            raise ValueError(f"{name!r} is no name for an account: small letters, digits and - after a letter, 40 at most.")
        password = "-".join("".join(secrets.choice(_LETTERS) for _ in range(4)) for _ in range(WORDS))
        salt = secrets.token_bytes(16)
        self._write({**self._kept(), name: {"salt": salt.hex(), "hash": _hash(password, salt)}})
        return password

    def remove(self, name: str) -> None:
        self._write({known: kept for known, kept in self._kept().items() if known != name})

    def names(self) -> list[str]:
        return sorted(self._kept())

    def fits(self, name: str, password: str, now_s: float | None = None) -> bool:
        now_s = time.monotonic() if now_s is None else now_s
        wrong = [at for at in self._wrong.get(name, []) if now_s - at < FORGOTTEN_S]
        kept = self._kept().get(name)
        made = _hash(password[:200], bytes.fromhex(kept["salt"]) if kept else b"nobody's salt...")  # an unknown name takes as long
        if kept is not None and len(wrong) < MAX_WRONG and secrets.compare_digest(made, kept["hash"]):
            self._wrong.pop(name, None)
            return True
        if kept is not None:
            self._wrong[name] = [*wrong, now_s][-MAX_WRONG:]
        return False

    def _kept(self) -> dict[str, dict[str, str]]:
        try:
            found: dict[str, dict[str, str]] = json.loads(self._path.read_text("utf-8"))
        except FileNotFoundError:
            return {}
        return found

    def _write(self, accounts: dict[str, dict[str, str]]) -> None:
        new = self._path.with_suffix(".new")
        with open(os.open(new, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w", encoding="utf-8") as file:
            json.dump(accounts, file, indent=1)
        new.replace(self._path)


def _hash(password: str, salt: bytes) -> str:
    return hashlib.scrypt(password.encode(), salt=salt, n=COST["n"], r=COST["r"], p=COST["p"], dklen=32).hex()
