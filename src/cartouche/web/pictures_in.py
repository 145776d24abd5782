"""Pictures that a browser sends over a socket: for a camera of this computer, a window, or a phone whose WebRTC does not come through."""

from collections.abc import Callable

from fastapi import WebSocket

from cartouche.live.camera_feed import CameraFeed
from cartouche.live.errors import UndecodablePicture

MALFORMED, UNKNOWN, TAKEN_OVER = 1003, 4404, 4409


async def take_pictures(socket: WebSocket, feed: CameraFeed, mine: Callable[[], bool]) -> None:
    """Until the sender hangs up, sends what is no picture, or a newer one has taken over."""
    while True:
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            if mine():
                feed.gone()
            return
        if not mine():
            await socket.close(TAKEN_OVER, "This camera now comes in through another tab.")
            return
        try:
            feed.push(message.get("bytes") or b"")
        except UndecodablePicture as exc:
            await socket.close(MALFORMED, str(exc)[:110])
            return
