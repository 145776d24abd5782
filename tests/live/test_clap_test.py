"""The clapper through the running lesson: a device that flashes and a microphone that clicks at true moments, read as they come out."""

import threading
import time
from collections.abc import Iterator

import numpy as np
import pytest

from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.sound.loudness import RATE
from cartouche.core.straighten.chain import Chain
from cartouche.live.running import RunningLesson
from cartouche.live.sound.mixer import BLOCK
from tests.live.conftest import show

EVERY_S, FLASH_S = 1.1, 0.12
SIZE = Size(640, 360)


class Clapper:
    """A camera that sees the flash, and clicks for a microphone, by one clock."""

    battery = None
    facing = None
    fps = 30.0

    def __init__(self) -> None:
        self._dark, self._bright = blank_frame(SIZE, YuvColour(40, 128, 128)), blank_frame(SIZE, YuvColour(220, 128, 128))

    def picture(self, now_s: float) -> Frame:
        lit = now_s % EVERY_S < FLASH_S
        return Frame.of((self._bright if lit else self._dark).planes, now_s)

    def close(self) -> None:
        pass


@pytest.fixture
def clicking(lesson: RunningLesson) -> Iterator[None]:
    """A microphone whose blocks come as the clapper clicks."""
    room, ended = lesson.sound.microphones, threading.Event()
    room.join("lapel", "Lapel")
    room.open("lapel")

    def send() -> None:
        begun, number = time.monotonic(), 0
        while not ended.wait(max(0.0, begun + (number + 1) * BLOCK / RATE - time.monotonic())):
            moments = begun + (number * BLOCK + np.arange(BLOCK)) / RATE
            block = np.where(moments % EVERY_S < 0.008, 9000 * np.sin(moments * 9000), 0).astype(np.int16)
            room.take("lapel", number * BLOCK, block, time.monotonic())
            number += 1

    thread = threading.Thread(target=send)
    thread.start()
    yield
    ended.set()
    thread.join()


@pytest.mark.usefixtures("clicking")
def test_picture_and_sound_come_out_together(lesson: RunningLesson) -> None:
    lesson.open_source("camera", Clapper())
    show(lesson, FIRST_PLATES[1], {"page": "camera"}, {"camera": Chain()}, {"camera": 0})
    time.sleep(2.5)  # the sound has taken the picture's delay
    told = lesson.clap_test()
    assert told.pairs >= 4, told
    assert told.offset_s is not None
    assert -0.045 < told.offset_s < 0.125, told
