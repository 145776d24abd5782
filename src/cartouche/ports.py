"""Listening sockets, the same on every system."""

import socket
from typing import TypeVar

Kind = TypeVar("Kind", bound=socket.socket)


def for_lines(kind: type[Kind]) -> Kind:
    """One that takes TCP lines. The protocol is named because lines inherit it: without it asyncio lets small messages wait (Nagle)."""
    made = kind(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    alone(made)
    return made


def alone(listening: socket.socket) -> None:
    """Nobody else may listen there; a port that was left a moment ago is free. What says so differs: on Windows REUSEADDR shares a port."""
    exclusive: int | None = getattr(socket, "SO_EXCLUSIVEADDRUSE", None)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR if exclusive is None else exclusive, 1)
