"""One encode per size and codec, for all who take it."""

import time
from collections.abc import Iterator

import av
import numpy as np
import pytest

from cartouche.core.pictures import Frame, Size
from cartouche.live.demand import OUTGOING, Demand
from cartouche.live.out import encoder
from cartouche.live.out.encoder import Codec, Encodings, Packet
from cartouche.live.troubles import Troubles
from tests.helpers import eventually

HD, SMALL = Size(1280, 720), Size(640, 360)


def picture(seed: int = 0) -> Frame:
    luma = np.tile(np.linspace(0, 255, 1280).astype(np.uint8), (720, 1))
    luma[:40] = np.random.default_rng(seed).integers(0, 255, (40, 1280), np.uint8)
    return Frame.of((luma, np.full((360, 640), 90, np.uint8), np.full((360, 640), 170, np.uint8)), float(seed))


@pytest.fixture
def encodings() -> Iterator[Encodings]:
    made = Encodings(Demand(), Troubles())
    yield made
    made.close()


def give(encodings: Encodings, count: int) -> None:
    for number in range(count):
        eventually(lambda: encodings.ready(time.monotonic()))
        encodings.take(picture(number), time.monotonic())


def decoded(packets: list[Packet], codec: Codec = "h264") -> list[av.VideoFrame]:
    decoder = av.CodecContext.create(codec, "r")
    return [frame for packet in packets for frame in decoder.decode(av.Packet(packet.data))]


def test_what_is_taken_is_the_picture_in_limited_range(encodings: Encodings) -> None:
    got: list[Packet] = []
    subscription = encodings.join(SMALL, got.append)
    give(encodings, 5)
    eventually(lambda: len(got) >= 5)
    frames = decoded(got)
    assert (frames[-1].width, frames[-1].height, frames[-1].color_range) == (640, 360, 1)
    luma = frames[-1].to_ndarray()[200, ::64].astype(float)
    assert luma == pytest.approx(np.linspace(16, 235, 1280)[::128], abs=4)
    assert [packet.captured_s for packet in got[:5]] == [0, 1, 2, 3, 4]
    assert got[0].data[:4] == b"\0\0\0\1"
    subscription.release()


def test_a_key_picture_comes_first_and_when_it_is_asked_for(encodings: Encodings, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(encoder, "KEY_GAP_S", 0.0)
    got: list[Packet] = []
    subscription = encodings.join(HD, got.append)
    give(encodings, 3)
    eventually(lambda: len(got) >= 3)
    assert [packet.key for packet in got[:3]] == [True, False, False]
    subscription.request_key()
    give(encodings, 2)
    eventually(lambda: len(got) >= 5)
    assert sum(packet.key for packet in got) == 2
    late: list[Packet] = []
    encodings.join(HD, late.append)
    give(encodings, 3)
    eventually(lambda: late)
    assert late[0].key
    assert decoded(late)


def test_who_has_no_h264_is_given_the_same_picture_in_vp8(encodings: Encodings, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(encoder, "KEY_GAP_S", 0.0)
    usual, got = [], []  # type: ignore[var-annotated]
    encodings.join(SMALL, usual.append)
    subscription = encodings.join(SMALL, got.append, "vp8")
    assert [(one.size, one.codec) for one in encodings.encoders] == [(SMALL, "h264"), (SMALL, "vp8")]
    eventually(lambda: give(encodings, 1) or (len(got) >= 4 and len(usual) >= 4))  # each takes what it is ready for
    assert [packet.key for packet in got[:4]] == [True, False, False, False]
    subscription.request_key()
    eventually(lambda: give(encodings, 1) or sum(packet.key for packet in got) == 2)
    lumas = [frame.to_ndarray()[200, ::64].astype(float) for frame in (*decoded(got, "vp8")[3:4], *decoded(usual)[3:4])]
    assert lumas[0] == pytest.approx(np.linspace(16, 235, 1280)[::128], abs=4)
    assert lumas[0] == pytest.approx(lumas[1], abs=4)
    subscription.release()
    assert [one.codec for one in encodings.encoders] == ["h264"]


def test_two_takers_of_one_size_share_one_encode(encodings: Encodings) -> None:
    first, second, other = [], [], []  # type: ignore[var-annotated]
    held = [encodings.join(HD, first.append), encodings.join(HD, second.append), encodings.join(SMALL, other.append)]
    assert [one.size for one in encodings.encoders] == [HD, SMALL]
    eventually(lambda: give(encodings, 1) or (len(first) >= 3 and len(second) >= 3 and len(other) >= 2))  # each takes what it is ready for
    assert first[0] is second[0]
    for subscription in held:
        subscription.release()
        subscription.release()
    assert encodings.encoders == ()
    assert not encodings.ready(time.monotonic())


def test_a_taker_that_fails_harms_no_other(encodings: Encodings) -> None:
    got: list[Packet] = []

    def fails(_: Packet) -> None:
        raise RuntimeError("broken")

    encodings.join(HD, fails)
    encodings.join(HD, got.append)
    give(encodings, 4)
    eventually(lambda: len(got) >= 4)


def test_after_a_codec_that_failed_another_begins_with_a_key_picture(encodings: Encodings, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(encoder, "KEY_GAP_S", 0.0)
    got: list[Packet] = []
    encodings.join(HD, got.append)
    give(encodings, 3)
    eventually(lambda: len(got) >= 3)

    class Broken:
        def encode(self, picture: object) -> list[av.Packet]:
            raise ValueError("broken for good")

    encodings.encoders[0]._context = Broken()  # type: ignore[assignment]
    give(encodings, 1)
    eventually(lambda: not isinstance(encodings.encoders[0]._context, Broken))
    give(encodings, 3)
    eventually(lambda: len(got) >= 6)
    assert got[3].key
    assert decoded(got[3:])


def test_who_takes_it_claims_the_outgoing_picture() -> None:
    demand = Demand()
    encodings = Encodings(demand, Troubles())
    subscription = encodings.join(HD, lambda _: None)
    assert OUTGOING in demand.surfaces
    subscription.release()
    assert OUTGOING not in demand.surfaces
    encodings.close()
    encodings.close()
