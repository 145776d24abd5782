"""Listening sockets, the same on every system."""

import socket


def alone(listening: socket.socket) -> None:
    """Nobody else may listen there; a port that was left a moment ago is free. What says so differs: on Windows REUSEADDR shares a port."""
    exclusive: int | None = getattr(socket, "SO_EXCLUSIVEADDRUSE", None)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR if exclusive is None else exclusive, 1)
