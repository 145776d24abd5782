"""Sound that a browser sends over a socket: a microphone of this computer, a shared window, or a phone without WebRTC."""

import asyncio
import struct
from collections.abc import Callable

import numpy as np
from fastapi import WebSocket
from numpy.typing import NDArray

from cartouche.live.sound.microphones import MAX_BLOCK
from cartouche.web.pictures_in import MALFORMED

HEADER = struct.Struct("<Q")  # number of the block's first sample, by the device's own count
COUNTED = (1 << 48) - 1  # a number beyond is nobody's clock


async def take_sound(socket: WebSocket, take: Callable[[int, NDArray[np.int16]], None]) -> None:
    """Until the sender hangs up or sends what is no sound. Blocks: HEADER, then little-endian 16-bit samples, mono, 48 kHz, at most
    200 ms each."""
    while True:
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            return
        content = message.get("bytes") or b""
        size = len(content) - HEADER.size
        if size <= 0 or size % 2 or size > 2 * MAX_BLOCK:
            await socket.close(MALFORMED, "This is not sound that Cartouche can use.")
            return
        (first,) = HEADER.unpack_from(content)
        take(first & COUNTED, np.frombuffer(content, "<i2", offset=HEADER.size).astype(np.int16, copy=False))
        await asyncio.sleep(0)  # a flood of blocks leaves room for everybody else
