"""Beginning and ending a WebRTC connection in whatever state: the library loses sockets that it was about to open, and after half an
offer it fails to close and waits for ever when it is asked again."""

import asyncio
import contextlib

from aiortc import RTCIceTransport, RTCPeerConnection, RTCSessionDescription

from cartouche.live.endings import to_its_end

WITHIN_S = 5.0
LOOK_EVERY_S = 0.02


async def describe(connection: RTCPeerConnection, ours: RTCSessionDescription) -> None:
    """Sets what we offer or answer. Whoever is cancelled meanwhile leaves it to `hang_up`: it goes on until its sockets are known."""
    await asyncio.shield(connection.setLocalDescription(ours))


async def hang_up(connection: RTCPeerConnection) -> None:
    """Its transports are stopped, whoever is cancelled meanwhile. Not to be called twice."""
    await to_its_end(_hang_up(connection))


async def _hang_up(connection: RTCPeerConnection) -> None:
    transports: tuple[RTCIceTransport, ...] = tuple(getattr(connection, "_RTCPeerConnection__iceTransports", ()))
    with contextlib.suppress(TimeoutError):
        async with asyncio.timeout(WITHIN_S):
            while any(transport.iceGatherer.state == "gathering" for transport in transports):
                await asyncio.sleep(LOOK_EVERY_S)
    try:
        async with asyncio.timeout(WITHIN_S):
            await connection.close()
    except Exception:  # it raises whatever it meets; what holds sockets and threads is stopped one by one
        for transport in transports:
            with contextlib.suppress(Exception):
                async with asyncio.timeout(WITHIN_S):
                    await transport.stop()
        connection.remove_all_listeners()
