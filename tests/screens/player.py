"""A browser whose camera and microphone play what a test gives them: it reads both files each time one of them starts."""

import wave
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from playwright.sync_api import Browser, Playwright

from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame
from cartouche.core.sound.loudness import RATE

FAKE_CAMERA = ("--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream")


class Player:
    """One for all tests of a process: to launch a browser takes three seconds of a processor."""

    def __init__(self, browser: Browser, film: Path, sound: Path) -> None:
        self.browser, self._film, self._sound = browser, film, sound

    def shows(self, frames: Sequence[Frame]) -> None:
        """Round and round; to whoever starts the camera from now on."""
        write_film(self._film, frames)

    def sounds(self, samples: np.ndarray) -> None:
        """int16, mono, at RATE; to whoever starts the microphone from now on."""
        write_sound(self._sound, samples)


@contextmanager
def player_with(playwright: Playwright, executable: str, folder: Path, *flags: str) -> Iterator[Player]:
    film, sound = folder / "camera.y4m", folder / "microphone.wav"
    files = (f"--use-file-for-fake-video-capture={film}", f"--use-file-for-fake-audio-capture={sound}")
    launched = playwright.chromium.launch(executable_path=executable, headless=True, args=[*FAKE_CAMERA, *files, *flags])
    player = Player(launched, film, sound)
    player.shows([blank_frame(Size(640, 480), YuvColour(120, 128, 128))])
    player.sounds(np.zeros(RATE, np.int16))
    yield player
    launched.close()


def write_film(path: Path, frames: Sequence[Frame]) -> Path:
    """Of YUV4MPEG2, in place of the one there."""
    width, height = (int(value) for value in frames[0].size)
    new = path.with_suffix(".new")
    with new.open("wb") as file:
        file.write(b"YUV4MPEG2 W%d H%d F15:1 Ip A1:1 C420jpeg\n" % (width, height))
        for frame in frames:
            file.write(b"FRAME\n" + b"".join(plane.tobytes() for plane in frame.planes))
    return new.replace(path)


def write_sound(path: Path, samples: np.ndarray) -> Path:
    """Of WAVE, in place of the one there."""
    new = path.with_suffix(".new")
    with wave.open(str(new), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes(samples.tobytes())
    return new.replace(path)
