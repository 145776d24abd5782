"""Several parts at work on one socket."""

import asyncio
from types import SimpleNamespace
from typing import Any, cast

import pytest
from fastapi import WebSocket
from starlette.websockets import WebSocketState

from cartouche.live.troubles import Troubles
from cartouche.web import tasks
from cartouche.web.tasks import first_to_end
from tests.helpers import ran


class Line:
    """A socket that takes a while to send, as those of servers do."""

    def __init__(self) -> None:
        self.client_state = self.application_state = WebSocketState.CONNECTED
        self.sent: list[str] = []

    async def send_text(self, text: str) -> None:
        if self.application_state is WebSocketState.DISCONNECTED:
            raise RuntimeError("closed")
        await self._on_its_way(text)

    async def close(self, why: str) -> None:
        self.application_state = WebSocketState.DISCONNECTED
        await self._on_its_way(why)

    async def _on_its_way(self, text: str) -> None:
        for _ in range(5):
            await asyncio.sleep(0)
        self.sent.append(text)


@pytest.fixture
def line(monkeypatch: pytest.MonkeyPatch) -> Line:
    troubles = Troubles()
    monkeypatch.setattr(tasks, "socket_state", lambda _socket: SimpleNamespace(running=SimpleNamespace(troubles=troubles)))
    return Line()


def test_the_reason_for_closing_arrives_though_a_picture_is_sent_meanwhile(line: Line) -> None:
    async def sends() -> None:
        while True:
            await line.send_text("picture")

    async def closes() -> None:
        await asyncio.sleep(0.01)
        await line.close("taken over")

    ran(asyncio.wait_for(first_to_end(cast(WebSocket, line), sends, closes), 10))
    assert line.sent[-1] == "taken over"


def test_a_part_that_fails_ends_the_others(line: Line) -> None:
    async def fails() -> None:
        raise ValueError("no picture")

    async def waits() -> Any:
        await asyncio.Event().wait()

    ran(asyncio.wait_for(first_to_end(cast(WebSocket, line), waits, fails), 10))
    assert not line.sent
