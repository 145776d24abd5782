"""Straight to a call server: to the stand-in, by a real connection over this computer's own address."""

import asyncio
import time
from collections.abc import Awaitable, Callable
from datetime import datetime
from http.client import BadStatusLine
from typing import Any

import numpy as np
import pytest

from cartouche.bench.whip_server import WhipServer
from cartouche.core.pictures import Frame, Size
from cartouche.live.demand import Demand
from cartouche.live.out import whip_out
from cartouche.live.out.encoder import Encodings
from cartouche.live.out.peer import OutgoingPeer
from cartouche.live.out.takers import Takers
from cartouche.live.out.whip_out import AddressUnsafe, Heard, WhipAddress, WhipSender
from cartouche.live.sound.mixer import Mixer
from cartouche.live.troubles import Troubles
from cartouche.web.guests.door import networks_here
from tests.helpers import ran

SIZE = Size(640, 360)
pytestmark = pytest.mark.skipif(not networks_here(), reason="WebRTC needs an address besides loopback")


class Tone:
    def read(self, from_s: float, count: int) -> np.ndarray:
        return (8000 * np.sin(2 * np.pi * 440 * (from_s + np.arange(count) / 48000))).astype(np.int16)


class Desk:
    """Gives pictures and sound as the desk and the mixer do."""

    def __init__(self) -> None:
        troubles = Troubles()
        self.encodings, self.takers = Encodings(Demand(), troubles), Takers(lambda: None)
        self.mixer = Mixer(lambda: (Tone(),), lambda _: None, troubles)
        self.mixer.start()
        self.frame = Frame.of((np.full((360, 640), 180, np.uint8), *(np.full((180, 320), 128, np.uint8) for _ in range(2))), 0.0)

    async def pictures(self) -> None:
        while True:
            now_s = time.monotonic()
            if self.encodings.ready(now_s):
                self.encodings.take(Frame.of(self.frame.planes, now_s), now_s)
            await asyncio.sleep(0.033)

    def says(self) -> str | None:
        return next((facts.says for facts in self.takers.all()), None)


def with_server(work: Callable[[WhipServer, Desk, WhipSender], Awaitable[None]], token: str = "let-me-in") -> None:
    async def run() -> None:
        server, desk = WhipServer(), Desk()
        await server.start()
        sender = WhipSender(WhipAddress(server.address, token), desk.encodings, desk.mixer, desk.takers, SIZE)
        going = asyncio.ensure_future(desk.pictures())
        sender.start()
        try:
            await work(server, desk, sender)
        finally:
            going.cancel()
            await sender.stop()
            await sender.stop()
            await server.stop()
            desk.encodings.close()
            desk.mixer.stop()

    ran(run())


async def until(look: Callable[[], object], seconds: float = 20.0) -> None:
    end = time.monotonic() + seconds
    while not look():
        assert time.monotonic() < end
        await asyncio.sleep(0.05)


def test_picture_and_sound_arrive_and_the_end_is_told() -> None:
    async def work(server: WhipServer, desk: Desk, sender: WhipSender) -> None:
        await until(lambda: sender.state == "sending")
        _, arrived = next(iter(server.sessions.values()))
        await until(lambda: arrived.pictures > 20 and arrived.blocks > 20 and arrived.energy > 4000)
        assert arrived.newest is not None
        assert float(arrived.newest.to_ndarray()[:360].mean()) == pytest.approx(180 * 219 / 255 + 16, abs=3)
        assert desk.says() is None
        await sender.stop()
        assert server.deleted
        assert desk.takers.all() == []
        assert desk.encodings.encoders == ()

    with_server(work)


def test_it_comes_back_by_itself_after_the_server_was_killed(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(whip_out, "FIRST_WAIT_S", 0.2)

    async def work(server: WhipServer, desk: Desk, sender: WhipSender) -> None:
        await until(lambda: any(arrived.pictures for _, arrived in server.sessions.values()))  # what it closes sooner is not told of it
        port = server.port
        await server.stop()
        await until(lambda: sender.state == "waiting" and "by itself" in (desk.says() or ""))
        await server.start(port)
        await until(lambda: sender.state == "sending", 30)
        _, arrived = next(iter(server.sessions.values()))
        await until(lambda: arrived.pictures > 5)

    with_server(work)


def test_a_server_that_vanishes_without_a_word_is_said_long_before_its_connection_ends(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(whip_out, "SILENT_AFTER_S", 2.5)  # the stand-in reports every half to one and a half seconds
    reports = list[object]()

    class Listening(OutgoingPeer):
        async def newest_report(self) -> datetime | None:
            reports.append(report := await super().newest_report())
            return report

    monkeypatch.setattr(whip_out, "OutgoingPeer", Listening)

    async def work(server: WhipServer, desk: Desk, sender: WhipSender) -> None:
        await until(lambda: any(reports))
        assert desk.says() is None
        server.vanish()
        await until(lambda: desk.says() == whip_out.SILENT)
        assert sender.state == "sending"

    with_server(work)


def test_silence_is_counted_from_the_newest_report_and_not_before_the_first() -> None:
    heard = Heard()
    assert [heard.silent_s(None, now_s) for now_s in (0.0, 90.0)] == [0.0, 0.0]
    assert [heard.silent_s("first", now_s) for now_s in (91.0, 92.0, 99.5)] == [0.0, 1.0, 8.5]
    assert [heard.silent_s("next", now_s) for now_s in (100.0, 101.0)] == [0.0, 1.0]


@pytest.mark.parametrize("odd", [BadStatusLine("hello"), RuntimeError("of a library")], ids=["no HTTP", "odd"])
def test_whatever_goes_wrong_it_is_tried_again(odd: Exception, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(whip_out, "FIRST_WAIT_S", 0.1)
    post, asked = whip_out._post, list[str]()

    def odd_at_first(where: WhipAddress, offer: str) -> tuple[str, str | None]:
        asked.append(offer)
        if len(asked) < 3:
            raise odd
        return post(where, offer)

    monkeypatch.setattr(whip_out, "_post", odd_at_first)

    async def work(server: WhipServer, desk: Desk, sender: WhipSender) -> None:
        await until(lambda: sender.state == "waiting")
        assert "by itself" in (desk.says() or "")
        await until(lambda: sender.state == "sending")

    with_server(work)


@pytest.mark.parametrize(("status", "state"), [(404, "refused"), (405, "refused"), (410, "refused"), (503, "waiting"), (429, "waiting")])
def test_a_server_that_refuses_is_asked_again_only_where_that_helps(status: int, state: str) -> None:
    async def work(server: WhipServer, desk: Desk, sender: WhipSender) -> None:
        server.refuses = status
        await until(lambda: sender.state == state)
        assert desk.says()

    with_server(work)


def test_who_stops_it_while_it_ends_by_itself_waits_for_that(monkeypatch: pytest.MonkeyPatch) -> None:
    ended: list[str] = []

    class Slow(OutgoingPeer):
        async def close(self) -> None:
            await asyncio.sleep(0.2)
            await super().close()
            ended.append(self.state)

    monkeypatch.setattr(whip_out, "OutgoingPeer", Slow)

    async def work(server: WhipServer, desk: Desk, sender: WhipSender) -> None:
        server.refuses = 404
        await until(lambda: sender.state == "refused")
        assert not ended
        await sender.stop()
        assert ended == ["closed"]

    with_server(work)


def test_what_was_being_opened_when_it_is_stopped_is_closed() -> None:
    opened: list[asyncio.BaseTransport] = []

    async def work(server: WhipServer, desk: Desk, sender: WhipSender) -> None:
        loop = asyncio.get_running_loop()
        opens = loop.create_datagram_endpoint

        async def slowly(*args: Any, **kwargs: Any) -> Any:
            made = await opens(*args, **kwargs)
            opened.append(made[0])
            await asyncio.sleep(0.2)
            return made

        loop.create_datagram_endpoint = slowly  # type: ignore[method-assign]
        await until(lambda: opened)
        await sender.stop()
        assert all(transport.is_closing() for transport in opened)

    with_server(work)


def test_a_wrong_token_is_said_as_that() -> None:
    async def work(server: WhipServer, desk: Desk, sender: WhipSender) -> None:
        await until(lambda: sender.state == "refused")
        assert desk.says() == "It does not take this token. Ask whoever runs it for a new one."
        assert not server.sessions

    with_server(work, "another")


@pytest.mark.parametrize("address", ["http://calls.example.org/whip", "ftp://127.0.0.1/x", "https://", "calls.example.org"])
def test_neither_picture_nor_token_leaves_in_clear(address: str) -> None:
    with pytest.raises(AddressUnsafe):
        WhipAddress(address).check()


def test_the_token_does_not_follow_a_redirect_to_another_host() -> None:
    where = WhipAddress("https://calls.example.org/whip", "secret")
    assert whip_out._request(where, "https://calls.example.org/other", "POST", b"").headers["Authorization"] == "Bearer secret"
    assert "Authorization" not in whip_out._request(where, "https://elsewhere.example.org/whip", "POST", b"").headers
