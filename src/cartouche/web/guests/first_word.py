"""A line at the guests' door begins with its token, or ends."""

import asyncio

from fastapi import WebSocket

FIRST_WORD_S = 5.0
MAX_TOKEN = 200


async def first_word(socket: WebSocket) -> str:
    """The token, as text and soon; '' where it does not come: a line that says nothing is not held open."""
    try:
        async with asyncio.timeout(FIRST_WORD_S):
            return (await socket.receive_text())[:MAX_TOKEN].strip()
    except (TimeoutError, KeyError):  # nothing in time, or no text
        return ""
