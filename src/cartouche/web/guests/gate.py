"""How many lines from the network may be open at once: bounded in all and for each address, before a single byte is read.

A line that is one too many is closed at once. The door may then be full; the lesson, which has files and memory of its own, goes on.
Some room is left for addresses from which somebody was let in, and a line on which nothing is asked is closed soon.
"""

import socket
import threading
from collections import Counter
from typing import Any, cast

MAX_LINES = 128  # eight phones with eight lines each, and room for who comes for the first time
FOR_KNOWN = 32  # of them, that strangers cannot take
MAX_KNOWN = 64  # addresses that are remembered: more than a lesson has guests
MAX_EACH = 24  # of one address: a phone, a remote and a board behind it
TURNED_AWAY_AT_ONCE = 32  # then whoever accepts rests


class Acquainted:
    """Addresses from which somebody was let in, the newest; the same for all doors."""

    def __init__(self) -> None:
        self._addresses: dict[str, None] = {}

    def __contains__(self, who: str) -> bool:
        return who in self._addresses

    def add(self, who: str) -> None:
        self._addresses.pop(who, None)
        self._addresses[who] = None
        while len(self._addresses) > MAX_KNOWN:
            self._addresses.pop(next(iter(self._addresses)))


class _Line(socket.socket):
    """Counted until it is closed."""

    gate: "Gate | None" = None
    who = ""

    def close(self) -> None:
        gate, self.gate = self.gate, None
        if gate is not None:
            gate.left(self.who)
        super().close()


class Gate(socket.socket):
    """A listening socket: accepted from on one thread, left from any."""

    known: Acquainted | None = None

    def __init__(self, *values: Any, **named: Any) -> None:
        super().__init__(*values, **named)
        self._open = Counter[str]()
        self._change = threading.Lock()

    def opened(self) -> int:
        with self._change:
            return self._open.total()

    def left(self, who: str) -> None:
        with self._change:
            self._open[who] -= 1
            if self._open[who] <= 0:
                del self._open[who]

    def accept(self) -> tuple[socket.socket, Any]:
        """The next line that may stay. Raises TimeoutError where none came, BlockingIOError where enough were turned away for now."""
        for _ in range(TURNED_AWAY_AT_ONCE):
            number, address = cast(Any, self)._accept()
            line = _Line(self.family, self.type, self.proto, fileno=number)
            if self._stays(str(address[0])):
                line.gate, line.who = self, str(address[0])
                return line, address
            line.close()
        raise BlockingIOError

    def _stays(self, who: str) -> bool:
        """Whether one more of this address has room; then it is counted."""
        room = MAX_LINES if self.known is not None and who in self.known else MAX_LINES - FOR_KNOWN
        with self._change:
            if self._open.total() >= room or self._open[who] >= MAX_EACH:
                return False
            self._open[who] += 1
            return True
