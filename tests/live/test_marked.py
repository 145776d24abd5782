"""A picture is handed on with its own last packet, whatever is lost, exchanged, sent again or filled up on the way."""

import random

from aiortc.jitterbuffer import JitterBuffer
from aiortc.rtp import RtpPacket
from hypothesis import given
from hypothesis import strategies as st

from cartouche.live.marked import MarkedBuffer

CAPACITY = 512
FIRST = 65_520  # numbers begin again at 65,536


def packet(number: int, stamp: int, data: bytes, *, last: bool) -> RtpPacket:
    made = RtpPacket(sequence_number=number % 65_536, timestamp=stamp, marker=int(last))
    made._data = data  # type: ignore[attr-defined]
    return made


def sent(pictures: list[tuple[int, int]]) -> tuple[list[RtpPacket], list[bytes]]:
    """Of pictures by their packets and the padding behind them: all packets, and what each picture is."""
    packets: list[RtpPacket] = []
    whole = []
    for stamp, (parts, padding) in enumerate(pictures):
        names = [f"{stamp}.{part} ".encode() for part in range(parts)]
        whole.append(b"".join(names))
        for part, name in enumerate(names):
            packets.append(packet(FIRST + len(packets), 3000 * stamp, name, last=part == parts - 1))
        for _ in range(padding):
            packets.append(packet(FIRST + len(packets), 3000 * stamp, b"", last=False))
    return packets, whole


def taken(buffer: JitterBuffer, packets: list[RtpPacket]) -> list[bytes]:
    return [frame.data for one in packets if (frame := buffer.add(one)[1]) is not None]


def test_the_newest_is_here_with_its_last_packet() -> None:
    packets, whole = sent([(3, 0), (1, 2), (5, 0)])
    assert taken(MarkedBuffer(CAPACITY, is_video=True), packets) == whole
    assert taken(JitterBuffer(CAPACITY, is_video=True), packets) == whole[:-1]  # what is better here


def test_without_its_mark_it_comes_with_the_next() -> None:
    packets, whole = sent([(2, 0), (2, 0), (2, 0)])
    packets[1].marker = 0
    buffer = MarkedBuffer(CAPACITY, is_video=True)
    assert [taken(buffer, [one]) for one in packets] == [[], [], whole[:1], whole[1:2], [], whole[2:]]


@given(pictures=st.lists(st.tuples(st.integers(1, 6), st.integers(0, 2)), min_size=2, max_size=20), seed=st.integers(0, 1000))
def test_each_comes_once_whole_and_in_order_however_its_packets_come(pictures: list[tuple[int, int]], seed: int) -> None:
    choice = random.Random(seed)
    packets, whole = sent(pictures)
    first, rest = packets[:1], packets[1:]  # where a line begins is the number that comes first
    late = sorted(range(len(rest)), key=lambda place: place + 8 * choice.random())
    come = first + [rest[place] for place in late]
    again = choice.sample(come[-40:], min(len(come), 40) // 4)  # what is a hundred numbers behind would begin a new line
    after, others = sent([(1, 0)] * len(packets))
    for number, one in enumerate(after):
        one.sequence_number, one.timestamp = (FIRST + len(packets) + number) % 65_536, 10_000_000 + 3000 * number
    got = taken(MarkedBuffer(CAPACITY, is_video=True), [*come, *again, *after])
    assert got == [*whole, *others][: len(got)]
    assert len(got) > len(whole)
