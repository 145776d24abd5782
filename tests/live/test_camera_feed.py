"""H.264 from a browser, as bytes: whole, broken, late, too large."""

import time
from collections.abc import Iterator
from fractions import Fraction
from types import SimpleNamespace

import av
import numpy as np
import pytest

from cartouche.bench.devices import DEVICES, settled
from cartouche.core.pictures import Frame, Size
from cartouche.live import camera_feed
from cartouche.live.camera_feed import KEY, MAX_BYTES, PACKET_HEADER, VP8, CameraFeed
from cartouche.live.errors import UndecodablePicture
from cartouche.live.troubles import Troubles
from tests.helpers import eventually

FACE = settled(DEVICES["face-webcam"](), 2.0)


def access_units(count: int = 12, colour_range: int = 1) -> list[tuple[bool, bytes]]:
    """What a browser sends: constrained baseline, Annex B, the first a key picture."""
    encoder = av.CodecContext.create("libx264", "w")
    encoder.width, encoder.height, encoder.pix_fmt = 1280, 720, "yuv420p"
    encoder.time_base = Fraction(1, 30)
    encoder.options = {"preset": "ultrafast", "tune": "zerolatency", "profile": "baseline"}
    encoder.color_range = colour_range
    units = []
    for number in range(count):
        limited = np.concatenate([FACE.y.reshape(-1), FACE.u.reshape(-1), FACE.v.reshape(-1)]).reshape(1080, 1280)
        if colour_range == 1:
            limited = (16 + limited.astype(np.float32) * 219 / 255).round().astype(np.uint8)
        picture = av.VideoFrame.from_ndarray(np.ascontiguousarray(limited), format="yuv420p")
        picture.pts = number
        units += [(packet.is_keyframe, bytes(packet)) for packet in encoder.encode(picture)]
    return units


UNITS = access_units()


def message(unit: tuple[bool, bytes]) -> bytes:
    return PACKET_HEADER.pack(KEY * unit[0], 0) + unit[1]


def vp8_frames(count: int = 4) -> list[bytes]:
    """What a browser without H.264 sends, whole messages."""
    encoder = av.CodecContext.create("libvpx", "w")
    encoder.width, encoder.height, encoder.pix_fmt, encoder.time_base = 640, 360, "yuv420p", Fraction(1, 30)
    encoder.bit_rate = 2_000_000
    encoder.options = {"deadline": "realtime", "cpu-used": "8", "lag-in-frames": "0"}
    made = []
    for number in range(count):
        picture = av.VideoFrame.from_ndarray(np.full((540, 640), 40, np.uint8), format="yuv420p")
        picture.pts = number
        made += [PACKET_HEADER.pack(VP8 | KEY * packet.is_keyframe, 0) + bytes(packet) for packet in encoder.encode(picture)]
    return made


@pytest.fixture
def came() -> list[Frame]:
    return []


@pytest.fixture
def feed(came: list[Frame]) -> Iterator[CameraFeed]:
    made = CameraFeed("camera", lambda _, frame: came.append(frame), Troubles())
    made.want(True, time.monotonic())
    yield made
    made.close()
    made.close()


def test_pictures_arrive_in_full_range(feed: CameraFeed, came: list[Frame]) -> None:
    for unit in UNITS:
        feed.push(message(unit))
        time.sleep(0.02)
    eventually(lambda: len(came) >= 10)
    assert came[-1].size == (1280, 720)
    assert np.abs(came[-1].y.astype(int) - FACE.y).mean() < 4
    assert feed.state(time.monotonic()) == "live"


def test_nothing_is_decoded_before_a_key_picture(feed: CameraFeed, came: list[Frame]) -> None:
    for unit in UNITS[1:4]:
        feed.push(message(unit))
    feed.push(message(UNITS[0]))
    eventually(lambda: came)
    assert len(came) == 1


@pytest.mark.parametrize("wrong", [b"", b"\x01", b"\x07abc", bytes(MAX_BYTES + 1)])
def test_what_is_no_picture_is_refused_with_a_sentence(feed: CameraFeed, wrong: bytes) -> None:
    with pytest.raises(UndecodablePicture, match="cannot be decoded"):
        feed.push(wrong)


def test_a_broken_picture_is_a_fault_and_the_next_key_picture_mends_it(feed: CameraFeed, came: list[Frame]) -> None:
    rubbish = np.random.default_rng(1).bytes(4000)
    feed.push(PACKET_HEADER.pack(KEY, 0) + b"\x00\x00\x00\x01\x65" + rubbish)
    eventually(lambda: feed.fault or came)
    for unit in UNITS[:4]:
        feed.push(message(unit))
        time.sleep(0.02)
    eventually(lambda: came)
    assert feed.fault is None


def test_a_flood_waits_for_the_next_key_picture_instead_of_growing(feed: CameraFeed, came: list[Frame]) -> None:
    for _ in range(40):
        for unit in UNITS:
            feed.push(message(unit))
    assert feed._items.qsize() <= feed._items.maxsize
    eventually(lambda: came and feed._items.empty())


def test_another_size_is_taken_up(came: list[Frame], feed: CameraFeed) -> None:
    feed.push(message(UNITS[0]))
    eventually(lambda: came)
    encoder = av.CodecContext.create("libx264", "w")
    encoder.width, encoder.height, encoder.pix_fmt, encoder.time_base = 640, 360, "yuv420p", Fraction(1, 30)
    encoder.options = {"preset": "ultrafast", "tune": "zerolatency", "profile": "baseline"}
    for packet in encoder.encode(av.VideoFrame.from_ndarray(np.full((540, 640), 90, np.uint8), format="yuv420p")):
        feed.push(PACKET_HEADER.pack(KEY, 0) + bytes(packet))
    eventually(lambda: came[-1].size == (640, 360))


def test_a_browser_without_h264_sends_vp8_and_another_one_takes_over(feed: CameraFeed, came: list[Frame]) -> None:
    for sent in vp8_frames():
        feed.push(sent)
    eventually(lambda: len(came) == 4)
    assert came[-1].size == Size(640, 360)
    assert abs(float(came[-1].y.mean()) - (40 - 16) * 255 / 219) < 5  # limited range made full
    feed.restart(time.monotonic())
    for unit in UNITS[:3]:
        feed.push(message(unit))
    eventually(lambda: came[-1].size == Size(1280, 720))
    feed.restart(time.monotonic())
    feed.push(vp8_frames(1)[0])
    eventually(lambda: came[-1].size == Size(640, 360))
    assert feed.fault is None


def test_a_decoded_picture_is_as_old_as_its_way_also_after_a_rest(
    came: list[Frame], feed: CameraFeed, monkeypatch: pytest.MonkeyPatch
) -> None:
    now_s = [100.0]
    monkeypatch.setattr(camera_feed, "time", SimpleNamespace(monotonic=lambda: now_s[0]))
    picture = av.VideoFrame.from_ndarray(np.full((540, 640), 90, np.uint8), format="yuv420p")
    feed.path_s = 0.05
    for after_s in (0.1, 60.0, 0.1):
        now_s[0] += after_s
        before = len(came)
        feed.show(picture)
        eventually(lambda before=before: len(came) > before)  # type: ignore[misc]
        assert now_s[0] - came[-1].captured_s == pytest.approx(0.05, abs=0.005)
