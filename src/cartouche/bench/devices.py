"""The bench's devices: each gives pictures for any moment and knows the truth about them."""

import hashlib
import threading
from collections.abc import Callable
from functools import cache
from typing import Protocol

import numpy as np

from cartouche.bench.camera import Camera, Desk, Light, Lying, Pose, photograph
from cartouche.bench.desks import desk
from cartouche.bench.hand import painted
from cartouche.bench.keep import kept
from cartouche.bench.pages import PageView
from cartouche.bench.papers import Paper, contour_sheet
from cartouche.bench.presenter import Presenter
from cartouche.core.pictures import Corners, Frame, Size, YuvColour, blank_frame

SHEET_LIES = Lying(0, 0, 2)

DOCUMENT_CAMERA = Camera(
    Size(1920, 1080), Pose((-150, -60, -520), (-10, -2), roll_deg=183), focal=0.93, blur_px=0.7, light=Light(exposure=1.18)
)
CLIP_MIRROR = Camera(
    Size(1280, 720),
    Pose((0, -330, -285), (0, -14), roll_deg=178),
    focal=0.84,
    mirrors=1,
    blur_px=0.5,
    noise=2.6,
    light=Light(exposure=1.05),
)


class View(Protocol):
    def picture(self, moment_s: float, captured_s: float) -> Frame: ...


class BenchDevice:
    """A simulated device: warm-up, delay, frame rate.

    The view is made on the first picture, so a device that nobody looks at costs nothing.
    """

    def __init__(
        self,
        make_view: Callable[[], View],
        size: Size,
        *,
        warm_up_s: float = 0.0,
        delay_s: float = 0.0,
        frames_s: float = 30.0,
        mirrors: int = 0,
    ) -> None:
        self.size, self.frames_s, self.delay_s, self.warm_up_s, self.mirrors = size, frames_s, delay_s, warm_up_s, mirrors
        self._make_view = make_view
        self._view: View | None = None
        self._switched_on_s: float | None = None

    def picture(self, now_s: float) -> Frame | None:
        """The picture that the device hands out at now_s (monotonic); None while it warms up."""
        if self._switched_on_s is None:
            self._switched_on_s = now_s
        if self._view is None:
            self._view = self._make_view()
        if now_s - self._switched_on_s < self.warm_up_s:
            return None
        captured_s = now_s - self.delay_s
        return self._view.picture(captured_s - self._switched_on_s, captured_s)

    def corners(self) -> Corners | None:
        """The truth: the page's own corners in picture px, or None if it sees no page."""
        view = self._view or self._make_view()
        return view.corners() if isinstance(view, PageView) else None


class NoSignal:
    """A view of nothing: what a camera behind its lens cap gives."""

    def __init__(self, size: Size) -> None:
        self._frame = blank_frame(size, YuvColour(16, 128, 128))

    def picture(self, moment_s: float, captured_s: float) -> Frame:
        return Frame(*self._frame.planes, captured_s)


_drawing = threading.Lock()  # two cameras that start together wait for one sheet instead of drawing two


def draw_scene() -> tuple[Desk, Paper]:
    """The demo's desk and sheet; slow only the first time."""
    with _drawing:
        return desk("wood"), contour_sheet()


def sheet_view(camera: Camera) -> PageView:
    """The demo's sheet by one camera."""
    return PageView(camera, SHEET_LIES, _still(camera))


@cache
def _still(camera: Camera) -> Frame:
    """The still scene, drawn once for good, see `keep`."""
    name = f"sheet-{hashlib.sha256(repr(camera).encode()).hexdigest()[:8]}"
    planes = kept(name, lambda: photograph(camera, *draw_scene(), SHEET_LIES).planes)
    return Frame(*planes, 0.0)  # type: ignore[arg-type]


def warm_up() -> None:
    """Draw what every start needs, before anybody looks."""
    _still(DOCUMENT_CAMERA)
    painted()


def document_camera() -> BenchDevice:
    return BenchDevice(lambda: sheet_view(DOCUMENT_CAMERA), DOCUMENT_CAMERA.size, warm_up_s=0.4, delay_s=0.012)


def clip_mirror_webcam() -> BenchDevice:
    return BenchDevice(lambda: sheet_view(CLIP_MIRROR), CLIP_MIRROR.size, delay_s=0.02, mirrors=CLIP_MIRROR.mirrors)


def face_webcam() -> BenchDevice:
    size = Size(1280, 720)
    return BenchDevice(lambda: Presenter(size), size, delay_s=0.02)


DEVICES: dict[str, Callable[[], BenchDevice]] = {
    "document-camera": document_camera,
    "clip-mirror": clip_mirror_webcam,
    "face-webcam": face_webcam,
}


def settled(device: BenchDevice, moment_s: float = 0.0) -> Frame:
    """A picture of a warm device at a moment of its scene; for tests and benchmarks, which keep no clock."""
    device.picture(0.0)
    frame = device.picture(device.warm_up_s + device.delay_s + moment_s)
    assert frame is not None
    return Frame(*(np.array(plane) for plane in frame.planes), frame.captured_s)
