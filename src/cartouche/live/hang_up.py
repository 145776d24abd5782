"""Ending a WebRTC connection in whatever state: after half an offer the library fails to, and waits for ever when it is asked again."""

import asyncio
import contextlib

from aiortc import RTCPeerConnection

WITHIN_S = 5.0


async def hang_up(connection: RTCPeerConnection) -> None:
    """Its transports are stopped. Never raises, and not to be called twice."""
    try:
        await asyncio.wait_for(connection.close(), WITHIN_S)
    except Exception:  # it raises whatever it meets; what holds sockets and threads is stopped one by one
        for transport in tuple(getattr(connection, "_RTCPeerConnection__iceTransports", ())):
            with contextlib.suppress(Exception):
                await asyncio.wait_for(transport.stop(), WITHIN_S)
        connection.remove_all_listeners()
