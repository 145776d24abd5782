"""Between the threads that make pictures and sound and one loop that sends them."""

import asyncio
from collections.abc import Callable

import numpy as np

from cartouche.core.pictures import Size
from cartouche.live.demand import Demand
from cartouche.live.out.encoder import Encodings, Packet
from cartouche.live.out.queue import MAX_BLOCKS, MAX_PACKETS, OutgoingQueue, SoundBlock
from cartouche.live.sound.mixer import BLOCK, Mixer
from cartouche.live.troubles import Troubles
from tests.helpers import ran


def queue() -> OutgoingQueue:
    troubles = Troubles()
    return OutgoingQueue(Encodings(Demand(), troubles), Mixer(lambda: (), lambda _: None, troubles))


def packet(number: int, key: bool = False) -> Packet:
    return Packet(bytes([number % 256]), key, float(number), number)


def within(work: Callable[[OutgoingQueue], object]) -> None:
    async def run() -> None:
        made = queue()
        made.join(Size(640, 360), sound=True)
        try:
            result = work(made)
            if asyncio.iscoroutine(result):
                await result
        finally:
            made.leave()
            made.leave()

    ran(run())


def test_pictures_and_sound_come_in_their_order() -> None:
    async def work(made: OutgoingQueue) -> None:
        made._packet_made(packet(1, key=True))
        made._block_made(np.ones(BLOCK, np.int16), 7.0)
        first, second = await made.next(), await made.next()
        assert isinstance(first, Packet)
        assert first.pts == 1
        assert isinstance(second, SoundBlock)
        assert np.frombuffer(second.samples, "<i2").tolist() == [1] * BLOCK

    within(work)


def test_a_stall_is_bounded_and_goes_on_from_a_key_picture() -> None:
    async def work(made: OutgoingQueue) -> None:
        for number in range(5 * MAX_PACKETS):
            made._packet_made(packet(number, key=number == 0))
        await asyncio.sleep(0.01)
        came = [await made.next() for _ in range(MAX_PACKETS)]
        assert [one.pts for one in came if isinstance(one, Packet)] == list(range(MAX_PACKETS))
        assert made.skipped == 4 * MAX_PACKETS
        made._packet_made(packet(200))  # of no use without what was skipped
        made._packet_made(packet(201, key=True))
        made._packet_made(packet(202))
        after = [await made.next(), await made.next()]
        assert [one.pts for one in after if isinstance(one, Packet)] == [201, 202]

    within(work)


def test_sound_is_bounded_too() -> None:
    async def work(made: OutgoingQueue) -> None:
        for _ in range(3 * MAX_BLOCKS):
            made._block_made(np.zeros(BLOCK, np.int16), 0.0)
        await asyncio.sleep(0.01)
        assert len(made._items) == MAX_BLOCKS

    within(work)


def test_what_is_not_wanted_is_not_taken() -> None:
    async def run() -> None:
        made = queue()
        made.join(None, sound=False)
        assert (made.size, made.sound) == (None, False)
        made.join(Size(640, 360), sound=True)
        assert (made.size, made.sound) == (Size(640, 360), True)
        made.join(Size(1280, 720), sound=False)
        assert [one.size for one in made._encodings.encoders] == [Size(1280, 720)]
        made.leave()
        assert made._encodings.encoders == ()
        assert not made._mixer.claimed

    ran(run())


def test_a_wish_that_comes_after_the_end_begins_nothing() -> None:
    async def run() -> None:
        made = queue()
        made.leave()
        made.join(Size(640, 360), sound=True)
        assert made._encodings.encoders == ()
        assert not made._mixer.claimed

    ran(run())
