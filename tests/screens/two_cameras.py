"""A browser with two cameras: one looks at a page that the test drew, the other at a face."""

import base64
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import cv2
import numpy as np
from playwright.sync_api import Browser, BrowserContext, Playwright

from cartouche.bench.presenter import Presenter
from cartouche.core.pictures import Frame, Size, bgr_from_frame, frame_from_bgr
from tests.screens.conftest import SHELL
from tests.screens.player import FAKE_CAMERA

# Beside the browser's own fake camera, which plays a film, there is one that gives a still face.
FACE_BESIDE = """(() => {
  const devices = navigator.mediaDevices
  const [get, list] = [devices.getUserMedia.bind(devices), devices.enumerateDevices.bind(devices)]
  const face = new Image()
  face.src = 'data:image/jpeg;base64,FACE'
  const beside = {
    kind: 'videoinput', deviceId: 'face-camera', groupId: 'face', label: 'Built-in camera',
    getCapabilities: () => ({ width: { max: 1280 }, height: { max: 720 } }),
  }
  devices.enumerateDevices = async () => {
    const all = (await list()).map((one) =>
      one.kind !== 'videoinput' ? one : {
        kind: one.kind, deviceId: one.deviceId, groupId: one.groupId, label: one.label && 'Document camera',
        getCapabilities: () => one.getCapabilities(),
      })
    return all.some((one) => one.label) ? [...all, beside] : all
  }
  devices.getUserMedia = async (wanted) => {
    if (wanted?.video?.deviceId?.exact !== 'face-camera') return get(wanted)
    await face.decode()
    const canvas = document.createElement('canvas')
    canvas.width = 1280
    canvas.height = 720
    const pen = canvas.getContext('2d')
    // a change of all its light comes through every encoder: a picture that never changes is a stuck camera
    const draw = () => {
      pen.drawImage(face, 0, 0, 1280, 720)
      pen.fillStyle = `rgba(0, 0, 0, ${0.06 * Math.random()})`
      pen.fillRect(0, 0, 1280, 720)
    }
    draw()
    setInterval(draw, 100)
    return canvas.captureStream(10)
  }
})()"""


SENTENCE = "Reading the ground: contour lines join points of equal height. Where they lie close the slope is steep."


def drawn_page(turned: int = 0, mirrored: bool = False) -> np.ndarray:
    """A page of large print on a wooden desk, seen aslant: (720, 1280, 3) BGR."""
    page = np.full((1188, 840, 3), 248, np.uint8)
    words = SENTENCE.split()
    for line in range(16):
        text = " ".join(words[(line * 3 + at) % len(words)] for at in range(5))
        cv2.putText(page, text, (60, 110 + line * 66), cv2.FONT_HERSHEY_COMPLEX, 0.92, (30, 30, 30), 2, cv2.LINE_AA)
    page = np.ascontiguousarray(np.rot90(page, -turned))
    if mirrored:
        page = np.ascontiguousarray(page[:, ::-1])
    height, width = page.shape[:2]
    tall = 620 if height > width else 440
    wide = tall * width / height
    left = (1280 - wide) / 2
    corners = np.float32([[left + 14, 52], [left + wide - 10, 44], [left + wide + 18, 44 + tall], [left - 16, 52 + tall]])
    source = np.float32([[0, 0], [width, 0], [width, height], [0, height]])
    random = np.random.default_rng(4)
    desk = np.full((720, 1280, 3), (62, 96, 138), np.uint8)
    grain = cv2.GaussianBlur(random.normal(0, 9, (720, 1280, 1)).astype(np.float32), (61, 1), 0)
    desk = np.clip(desk + grain.reshape(720, 1280, 1), 0, 255).astype(np.uint8)
    matrix = cv2.getPerspectiveTransform(source, corners)
    cv2.warpPerspective(page, matrix, (1280, 720), dst=desk, flags=cv2.INTER_AREA, borderMode=cv2.BORDER_TRANSPARENT)
    return desk


def page_film(picture: np.ndarray) -> list[Frame]:
    """With a little noise, as every sensor has."""
    random = np.random.default_rng(1)
    return [
        frame_from_bgr(np.clip(picture.astype(np.int16) + random.normal(0, 1.5, picture.shape), 0, 255).astype(np.uint8)) for _ in range(4)
    ]


@contextmanager
def two_cameras(playwright: Playwright, address: str, film: Path) -> Iterator[BrowserContext]:
    """film: what the first one shows, a file of YUV4MPEG2."""
    browser = playwright.chromium.launch(
        executable_path=SHELL, headless=True, args=[*FAKE_CAMERA, f"--use-file-for-fake-video-capture={film}"]
    )
    yield with_face_beside(browser, address)
    browser.close()


def with_face_beside(browser: Browser, address: str) -> BrowserContext:
    """Its own fake camera is over a page, the second at a face."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address, permissions=["camera", "microphone"])
    _, jpeg = cv2.imencode(".jpg", bgr_from_frame(Presenter(Size(1280, 720)).picture(1.0, 0.0)))
    context.add_init_script(FACE_BESIDE.replace("FACE", base64.b64encode(jpeg.tobytes()).decode(), 1))
    return context
