"""The door opens for guests and closes behind the last one; in one process, with its own clock where time matters."""

import asyncio
import socket
import threading
import time
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

import pytest

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.devices import DEVICES
from cartouche.core.guests.invitation import VALID_FOR_S
from cartouche.demo import lesson as demo
from cartouche.live.running import RunningLesson
from cartouche.store import guests, kits, lessons, watchers
from cartouche.store.database import Database
from cartouche.store.kits import Kit
from cartouche.web.guests.book import Guests
from cartouche.web.guests.door import Doors
from cartouche.web.guests.doorkeeper import LOOPBACK
from cartouche.web.guests.errors import DoorBlocked, ExpiredCode, NotAGuest, NotNow
from cartouche.web.guests.reports import Report
from cartouche.web.kit_schemas import NewInvitation
from cartouche.web.state import AppState
from tests.helpers import free_port, ran

ASKED = NewInvitation(address=LOOPBACK, name="Phone", serves="page")


async def _nothing(scope, receive, send) -> None:  # type: ignore[no-untyped-def]
    await send({"type": "http.response.start", "status": 204, "headers": []})
    await send({"type": "http.response.body", "body": b""})


@asynccontextmanager
async def opened(folder: Path, port: int = 0) -> AsyncIterator[Guests]:
    database = Database(folder)
    demo.fill(database)
    state = AppState(database, RunningLesson(CallCodec, CallVoice), DEVICES)
    made = Guests(state, Doors(lambda _: _nothing, folder, port, None))
    await made.start()
    try:
        yield made
    finally:
        await made.close()
        await made.close()
        state.close()


def within(folder: Path, work: Callable[[Guests], Awaitable[None]], port: int = 0) -> None:
    async def run() -> None:
        async with opened(folder, port) as made:
            await work(made)

    ran(run())


def is_open(book: Guests) -> bool:
    with socket.socket() as probe:
        probe.settimeout(1)
        return probe.connect_ex((LOOPBACK, book.keeper.doors.port)) == 0 if book.keeper.doors.port else False


def test_it_opens_with_the_invitation_and_closes_when_that_is_withdrawn(tmp_path: Path) -> None:
    async def work(book: Guests) -> None:
        assert not book.keeper.doors.addresses
        await book.inviting.invite(ASKED)
        assert is_open(book)
        await book.inviting.withdraw()
        assert not book.keeper.doors.addresses
        assert not is_open(book)

    within(tmp_path, work)


def test_settling_again_and_again_meanwhile_does_not_shut_an_invitation_out(tmp_path: Path) -> None:
    async def work(book: Guests) -> None:
        for _ in range(6):
            settling = [asyncio.create_task(book.keeper.settle()) for _ in range(4)]
            await book.inviting.invite(ASKED)
            await asyncio.gather(*settling)
            assert is_open(book)
            await book.inviting.withdraw()

    within(tmp_path, work)


def test_it_closes_when_the_code_runs_out(tmp_path: Path) -> None:
    async def work(book: Guests) -> None:
        invited = await book.inviting.invite(ASKED)
        invited.invitation.made_s -= VALID_FOR_S + 1
        await book.keeper.settle()
        assert not book.keeper.doors.addresses
        with pytest.raises(ExpiredCode):
            book.inviting.enter(invited.invitation.code, "phone", "Phone")

    within(tmp_path, work)


def test_it_stays_open_for_a_guest_who_has_come_and_closes_when_he_leaves(tmp_path: Path) -> None:
    async def work(book: Guests) -> None:
        invited = await book.inviting.invite(ASKED)
        device, token = await asyncio.to_thread(book.inviting.enter, invited.invitation.code, "phone", "Phone")
        await book.inviting.withdraw()
        assert is_open(book)
        visitor = book.visitors.by_token(token)
        await book.visitors.hear(visitor, Report(phase="sending"))
        assert visitor.is_here(time.monotonic())
        await book.visitors.leave(visitor)
        await book.look_after()
        assert not book.keeper.doors.addresses
        assert not visitor.is_here(time.monotonic())
        book.visitors.wait_for(device.id)
        await book.keeper.settle()
        assert not book.keeper.doors.addresses, "who has left comes back by a new code"

    within(tmp_path, work)


def test_a_new_start_opens_it_for_those_it_awaits_on_the_same_port(tmp_path: Path) -> None:
    port, kept = free_port(), []

    async def before(book: Guests) -> None:
        invited = await book.inviting.invite(ASKED)
        kept.extend(await asyncio.to_thread(book.inviting.enter, invited.invitation.code, "phone", "Phone"))

    async def after(book: Guests) -> None:
        assert is_open(book)
        assert book.visitors.by_token(kept[1]).device_id == kept[0].id
        guests.wait_for(book.state.database, kept[0].id, time.time() - 1)
        await book.keeper.settle()
        assert not book.keeper.doors.addresses

    within(tmp_path, before, port)
    within(tmp_path, after, port)


def test_in_another_lessons_kit_the_phone_waits_and_is_not_forgotten(tmp_path: Path) -> None:
    async def work(book: Guests) -> None:
        invited = await book.inviting.invite(ASKED)
        _, token = await asyncio.to_thread(book.inviting.enter, invited.invitation.code, "phone", "Phone")
        state = book.state
        kits.add_kit(state.database, Kit(id="other", name="Other", room="Tower"))
        lessons.use_kit(state.database, state.open_lesson().id, "other")
        state.reopen()
        visitor = book.visitors.by_token(token)
        said = await book.visitors.hear(visitor, Report(phase="sending"))
        assert (said.state, said.wanted) == ("off", False)
        with pytest.raises(NotNow):
            await book.visitors.answer_offer(visitor, "v=0", lambda address: True)
        await book.inviting.withdraw()
        assert not book.keeper.doors.addresses
        lessons.use_kit(state.database, state.open_lesson().id, "map-room")
        state.reopen()
        await book.keeper.settle()
        assert is_open(book)

    within(tmp_path, work)


def test_a_phone_that_falls_silent_is_lost(tmp_path: Path) -> None:
    async def work(book: Guests) -> None:
        invited = await book.inviting.invite(ASKED)
        device, token = await asyncio.to_thread(book.inviting.enter, invited.invitation.code, "phone", "Phone")
        visitor = book.visitors.by_token(token)
        await book.visitors.hear(visitor, Report(phase="sending"))
        feed = book.visitors.feed(visitor)
        assert feed is not None
        feed.restart(time.monotonic())
        feed.want(True, time.monotonic())
        assert feed.state(time.monotonic()) == "starting"
        visitor.seen_s -= 60
        await book.look_after()
        assert feed.state(time.monotonic()) == "lost"
        await book.visitors.hear(visitor, Report(phase="asking"))
        assert feed.state(time.monotonic()) == "waiting"
        kits.remove_device(book.state.database, device.id)
        with pytest.raises(NotAGuest):
            book.visitors.by_token(token)

    within(tmp_path, work)


def test_orders_reach_the_phone_at_once_and_grow_in_number(tmp_path: Path) -> None:
    async def work(book: Guests) -> None:
        invited = await book.inviting.invite(ASKED)
        device, token = await asyncio.to_thread(book.inviting.enter, invited.invitation.code, "phone", "Phone")
        visitor = book.visitors.by_token(token)
        await book.visitors.hear(visitor, Report(phase="sending"))
        asked = asyncio.create_task(book.visitors.hear(visitor, Report(phase="sending")))
        await asyncio.sleep(0.1)
        begun = time.monotonic()
        await asyncio.to_thread(book.visitors.order, device.id, lambda orders: orders.model_copy(update={"settings": {"zoom": 2.0}}))
        said = await asked
        assert time.monotonic() - begun < 0.6
        assert (said.orders.number, said.orders.settings) == (1, {"zoom": 2.0})
        again = await book.visitors.hear(visitor, Report(phase="sending", done=0))  # not done yet: told again without waiting
        assert again.orders.number == 1

    within(tmp_path, work)


def test_a_port_that_is_taken_is_told_and_the_invitation_does_not_stand(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind((LOOPBACK, 0))
        taken.listen()

        async def work(book: Guests) -> None:
            with pytest.raises(DoorBlocked, match="--guest-port"):
                await book.inviting.invite(ASKED)
            assert book.inviting.shown is None

        within(tmp_path, work, taken.getsockname()[1])


def test_a_door_that_cannot_open_by_itself_is_told_on_kit(tmp_path: Path) -> None:
    port = free_port()

    async def before(book: Guests) -> None:
        invited = await book.inviting.invite(ASKED)
        await asyncio.to_thread(book.inviting.enter, invited.invitation.code, "phone", "Phone")

    async def after(book: Guests) -> None:
        assert "could not be opened" in (book.keeper.trouble or "")

    within(tmp_path, before, port)
    with socket.socket() as taken:
        taken.bind((LOOPBACK, port))
        taken.listen()
        within(tmp_path, after, port)


@pytest.mark.parametrize("way", ["guest", "watcher"])
def test_it_stays_open_while_somebody_is_let_in(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, way: str) -> None:
    """The code is used before its guest is kept: the look once a second may come in between."""
    reached, goes_on = threading.Event(), threading.Event()
    store = guests if way == "guest" else watchers
    keep = store.add

    def slowly(*values: Any) -> None:
        reached.set()
        assert goes_on.wait(20)
        keep(*values)

    monkeypatch.setattr(store, "add", slowly)

    async def work(made: Guests) -> None:
        if way == "guest":
            code = (await made.inviting.invite(ASKED)).invitation.code
            entering = asyncio.create_task(asyncio.to_thread(made.inviting.enter, code, "192.0.2.7", "Phone"))
        else:
            code = (await made.watching.invite(LOOPBACK)).invitation.code
            entering = asyncio.create_task(asyncio.to_thread(made.watching.enter, code, "192.0.2.7", "Screen"))
        assert await asyncio.to_thread(reached.wait, 20)
        await made.keeper.settle()
        assert made.keeper.doors.addresses == [LOOPBACK]
        goes_on.set()
        await entering
        await made.keeper.settle()
        assert made.keeper.doors.addresses == [LOOPBACK]

    within(tmp_path, work)
