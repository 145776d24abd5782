"""Planes of decoded pictures: how long they stay untouched, and what is too large to be decoded."""

import time
from collections.abc import Iterator
from fractions import Fraction

import av
import numpy as np
import pytest

from cartouche.core.pictures import Frame
from cartouche.live.camera_feed import KEY, PACKET_HEADER, CameraFeed
from cartouche.live.planes import DECODED_RING, PlaneRing
from cartouche.live.troubles import Troubles
from cartouche.live.whip import rtcrtpreceiver
from tests.helpers import eventually


def picture(value: int, width: int = 64, height: int = 48) -> av.VideoFrame:
    return av.VideoFrame.from_ndarray(np.full((height * 3 // 2, width), value, np.uint8), format="yuv420p")


def test_a_frame_stays_untouched_for_as_many_more_as_is_said() -> None:
    ring = PlaneRing()
    first = ring.frame(picture(50), 0.0)
    before = first.y.copy()
    for value in range(DECODED_RING - 1):
        ring.frame(picture(100 + value), 0.0)
        assert np.array_equal(first.y, before)
    ring.frame(picture(200), 0.0)
    assert not np.array_equal(first.y, before), "and for no longer: the memory is reused"


def test_a_copy_outlives_the_ring() -> None:
    ring = PlaneRing()
    held = [ring.frame(picture(30 + 20 * n), 0.0).copy() for n in range(DECODED_RING + 3)]
    assert len({int(frame.y[0, 0]) for frame in held}) == len(held)


def access_unit(width: int, height: int) -> bytes:
    encoder = av.CodecContext.create("libx264", "w")
    encoder.width, encoder.height, encoder.pix_fmt, encoder.time_base = width, height, "yuv420p", Fraction(1, 30)
    encoder.options = {"preset": "ultrafast", "tune": "zerolatency", "profile": "baseline"}
    return b"".join(bytes(packet) for packet in encoder.encode(picture(90, width, height)))


@pytest.fixture
def feed() -> Iterator[tuple[CameraFeed, list[Frame]]]:
    came: list[Frame] = []
    made = CameraFeed("camera", lambda _, frame: came.append(frame), Troubles())
    made.want(True, time.monotonic())
    yield made, came
    made.close()


def test_a_picture_of_too_many_pixels_is_refused_before_it_is_decoded(feed: tuple[CameraFeed, list[Frame]]) -> None:
    camera, came = feed
    camera.push(PACKET_HEADER.pack(KEY, 0) + access_unit(4096, 2304))
    eventually(lambda: camera.fault)
    assert not came
    camera.push(PACKET_HEADER.pack(KEY, 0) + access_unit(640, 360))
    eventually(lambda: came)


def test_the_decoder_of_phones_has_the_same_bound() -> None:
    from aiortc.rtcrtpparameters import RTCRtpCodecParameters

    decoder = rtcrtpreceiver.get_decoder(RTCRtpCodecParameters(mimeType="video/H264", clockRate=90000))  # type: ignore[attr-defined]
    with pytest.raises(av.FFmpegError):
        decoder.codec.decode(av.Packet(access_unit(4096, 2304)))
