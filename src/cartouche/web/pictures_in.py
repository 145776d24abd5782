"""Pictures that a browser sends over a socket: for a camera of this computer, a window, or a phone whose WebRTC does not come through."""

import asyncio
import contextlib
import re
from collections.abc import Awaitable, Callable

from fastapi import WebSocket

from cartouche.live.camera_feed import CameraFeed
from cartouche.live.errors import UndecodablePicture, UnusableOffer
from cartouche.live.whip import MAX_OFFER_BYTES, WhipSession
from cartouche.web.guests.near import near

MALFORMED, UNKNOWN, TAKEN_OVER = 1003, 4404, 4409
ELSEWHERE = "This camera now comes in through another tab."
OFFER, OFFER_EVERY_S = "offer:", 1.0
PATH = re.compile(r"path [0-9]{1,4}")  # ms from taken to here, as the browser measures it
CLOCK, MAX_CLOCK = "clock ", 40  # characters: a sender measures its way by when its own text comes back


async def take_offered(socket: WebSocket, feed: CameraFeed, mine: Callable[[], bool]) -> None:
    """As `take_pictures`, and a browser that gives no frames of its cameras may offer WebRTC instead, over the same socket."""
    session: WhipSession | None = None
    feed.path_s = 0.0
    near_it = await near(socket)

    async def may_show() -> bool:
        """Pictures by WebRTC pass the socket by: it is told here that a newer one has taken over."""
        if mine():
            return True
        with contextlib.suppress(RuntimeError):  # closed already
            await socket.close(TAKEN_OVER, ELSEWHERE)
        return False

    async def answer(offer: str) -> str:
        nonlocal session
        if session is not None:
            await session.close()
            await asyncio.sleep(OFFER_EVERY_S)  # each is read on the one loop
        session = WhipSession(feed, lambda first, block: None, near_it, may_show)
        return await session.answer(offer)

    try:
        await take_pictures(socket, feed, mine, answer)
    finally:
        if session is not None:
            await session.close()


async def take_pictures(
    socket: WebSocket, feed: CameraFeed, mine: Callable[[], bool], answer: Callable[[str], Awaitable[str]] | None = None
) -> None:
    """Until the sender hangs up, sends what is no picture, or a newer one has taken over."""
    while True:
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            if mine():
                feed.gone()
            return
        if not mine():
            await socket.close(TAKEN_OVER, ELSEWHERE)
            return
        text = message.get("text") or ""
        try:
            if answer is not None and text.startswith(OFFER) and len(text) <= MAX_OFFER_BYTES:
                with contextlib.suppress(UnusableOffer):  # it sends otherwise then
                    await socket.send_text("answer:" + await answer(text.removeprefix(OFFER)))
                    continue
                await socket.send_text("answer:")
            elif answer is not None and PATH.fullmatch(text):
                feed.path_s = int(text.removeprefix("path ")) / 1000
            elif text.startswith(CLOCK) and len(text) <= MAX_CLOCK:
                await socket.send_text(text)
            else:
                feed.push(message.get("bytes") or b"")
        except UndecodablePicture as exc:
            await socket.close(MALFORMED, str(exc)[:110])
            return
