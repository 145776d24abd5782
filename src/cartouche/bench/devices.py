"""The bench's devices: each gives pictures for any moment and knows the truth about them."""

import hashlib
import threading
from collections.abc import Callable
from functools import cache, cached_property
from typing import Literal, Protocol

import cv2
import numpy as np

from cartouche.bench.camera import Camera, Desk, Grain, Light, Lying, Pose, photograph
from cartouche.bench.desks import desk
from cartouche.bench.hand import painted
from cartouche.bench.keep import kept
from cartouche.bench.laid import StillView, Thing
from cartouche.bench.pages import PageView
from cartouche.bench.papers import Paper, contour_sheet
from cartouche.bench.presenter import Presenter
from cartouche.core.kit.health import Battery, Facing
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


Fault = Literal[
    "warming up",
    "asleep",
    "asleep in ten seconds",
    "black",
    "stuck",
    "out of focus",
    "pulled out",
    "half the frames",
    "two seconds late",
    "low battery",
    "wrong lens",
]
FPS = 30.0
LONG_WARM_UP_S = 60.0  # what slow document cameras take
SLEEPS_AFTER_S = 10.0
DRAWN_RING = 6
DEFOCUS = 0.004  # sigma, of the picture's width


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
        fps: float = FPS,
        mirrors: int = 0,
        long_warm_up_s: float = LONG_WARM_UP_S,
        camera: Camera | None = None,
    ) -> None:
        """camera: of a device that looks at a desk; other things can then be laid under it."""
        self._camera = camera
        self._thing: Thing = "sheet"
        self._things: dict[Thing, View] = {}
        self._long_warm_up_s = long_warm_up_s
        self.battery: Battery | None = None
        self.facing: Facing | None = None
        self._asked_size = size
        self._sized: list[Frame] = []
        self._other_lens: View | None = None
        self._broken_since_s: float | None = None
        self.size, self.fps, self.delay_s, self.warm_up_s, self.mirrors = size, fps, delay_s, warm_up_s, mirrors
        self._make_view = make_view
        self._view: View | None = None
        self._switched_on_s: float | None = None
        self._fault: Fault | None = None
        self._asked = self._made = 0
        self._switch_on = False  # asked for by another thread; done when the next picture is asked for
        self._last: Frame | None = None

    @property
    def fault(self) -> "Fault | None":
        return self._fault

    def provoke(self, fault: "Fault | None") -> None:
        """Break it in one way, or mend it: as if switched off and on again."""
        self._fault, self._last, self._broken_since_s = fault, None, None
        self.battery = Battery(0.08, charging=False) if fault == "low battery" else None
        self.facing = "front" if fault == "wrong lens" else None
        self._switch_on = self._switch_on or fault in (None, "warming up")

    def lay(self, thing: Thing) -> None:
        """Lay something else under it. Raises LookupError for a device that looks at no desk."""
        if self._camera is None:
            raise LookupError(thing)
        if thing != "sheet" and thing not in self._things:
            self._things[thing] = StillView(self._camera, SHEET_LIES, thing)
        self._thing = thing

    def _looks_at(self) -> View:
        if self._view is None:
            self._view = self._make_view()
        return self._things.get(self._thing, self._view)

    @property
    def offered(self) -> tuple[Size, ...]:
        """Its sizes, smallest first."""
        return (Size(self.size.width // 3 * 2 // 2 * 2, self.size.height // 3 * 2 // 2 * 2), self.size)

    def ask_size(self, size: Size) -> None:
        """From the next picture on it comes in this size, one of those offered."""
        self._asked_size = size

    def picture(self, now_s: float) -> Frame | None:
        """The picture that the device hands out at now_s (monotonic); None while it warms up."""
        if self._switched_on_s is None or self._switch_on:
            self._switched_on_s, self._switch_on = now_s, False
        self._looks_at()
        if now_s - self._switched_on_s < (self._long_warm_up_s if self._fault == "warming up" else self.warm_up_s):
            return None
        frame = self._broken(now_s) if self._fault else self._taken(now_s, self.delay_s)
        return frame if frame is None or frame.size == self._asked_size else self._in_size(frame)

    def _in_size(self, frame: Frame) -> Frame:
        if not self._sized or self._sized[0].size != self._asked_size:
            self._sized = [blank_frame(self._asked_size, YuvColour(0, 128, 128)) for _ in range(DRAWN_RING)]
        resized = self._sized[self._made % DRAWN_RING]
        self._made += 1
        for plane, target in zip(frame.planes, resized.planes, strict=True):
            cv2.resize(plane, target.shape[::-1], dst=target, interpolation=cv2.INTER_AREA)
        return Frame.of(resized.planes, frame.captured_s)

    def _taken(self, now_s: float, delay_s: float) -> Frame:
        assert self._switched_on_s is not None
        captured_s = now_s - delay_s
        return self._looks_at().picture(captured_s - self._switched_on_s, captured_s)

    def _broken(self, now_s: float) -> Frame | None:
        """What comes out of it while a fault is provoked. Raises ConnectionError once it is pulled out."""
        self._asked += 1
        match self._fault:
            case "pulled out":
                raise ConnectionError
            case "asleep":
                return None
            case "asleep in ten seconds":
                self._broken_since_s = self._broken_since_s or now_s
                return None if now_s - self._broken_since_s > SLEEPS_AFTER_S else self._taken(now_s, self.delay_s)
            case "black":
                return self._covered(now_s)
            case "stuck":
                self._last = self._last or _copied(self._taken(now_s, self.delay_s))
                return Frame.of(self._last.planes, now_s)
            case "out of focus":
                return _defocused(self._taken(now_s, self.delay_s))
            case "half the frames":
                return self._taken(now_s, self.delay_s) if self._asked % 2 else None
            case "two seconds late":
                return self._taken(now_s, self.delay_s + 2.0)
            case "wrong lens":
                self._other_lens = self._other_lens or Presenter(self.size)
                return self._other_lens.picture(now_s, now_s - self.delay_s)
        return self._taken(now_s, self.delay_s)

    def _covered(self, now_s: float) -> Frame:
        frame = blank_frame(self.size, YuvColour(17, 128, 128), now_s)
        self._cap_noise.add(frame.y, self._asked)
        return frame

    @cached_property
    def _cap_noise(self) -> Grain:
        return Grain(self.size, 1.5, seed=9)

    def corners(self) -> Corners | None:
        """The truth: the page's own corners in picture px, or None if it sees no page."""
        view = self._looks_at()
        return view.corners() if isinstance(view, PageView | StillView) else None


def _copied(frame: Frame) -> Frame:
    return Frame.of([plane.copy() for plane in frame.planes], frame.captured_s)


def _defocused(frame: Frame) -> Frame:
    soft = [cv2.GaussianBlur(plane, (0, 0), DEFOCUS * plane.shape[1]) for plane in frame.planes]
    return Frame.of(soft, frame.captured_s)  # type: ignore[arg-type]


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
    return Frame.of(planes, 0.0)  # type: ignore[arg-type]


def warm_up() -> None:
    """Draw what every start needs, before anybody looks."""
    _still(DOCUMENT_CAMERA)
    painted()


def document_camera(long_warm_up_s: float = LONG_WARM_UP_S, fps: float = FPS) -> BenchDevice:
    return BenchDevice(
        lambda: sheet_view(DOCUMENT_CAMERA),
        DOCUMENT_CAMERA.size,
        warm_up_s=0.4,
        delay_s=0.012,
        long_warm_up_s=long_warm_up_s,
        fps=fps,
        camera=DOCUMENT_CAMERA,
    )


def clip_mirror_webcam(long_warm_up_s: float = LONG_WARM_UP_S, fps: float = FPS) -> BenchDevice:
    return BenchDevice(
        lambda: sheet_view(CLIP_MIRROR),
        CLIP_MIRROR.size,
        delay_s=0.02,
        mirrors=CLIP_MIRROR.mirrors,
        long_warm_up_s=long_warm_up_s,
        fps=fps,
        camera=CLIP_MIRROR,
    )


def face_webcam(long_warm_up_s: float = LONG_WARM_UP_S, fps: float = FPS) -> BenchDevice:
    size = Size(1280, 720)
    return BenchDevice(lambda: Presenter(size), size, delay_s=0.02, long_warm_up_s=long_warm_up_s, fps=fps)


class MakesDevice(Protocol):
    def __call__(self, long_warm_up_s: float = ..., fps: float = ...) -> BenchDevice: ...


DEVICES: dict[str, MakesDevice] = {
    "document-camera": document_camera,
    "clip-mirror": clip_mirror_webcam,
    "face-webcam": face_webcam,
}


def settled(device: BenchDevice, moment_s: float = 0.0) -> Frame:
    """A picture of a warm device at a moment of its scene; for tests and benchmarks, which keep no clock."""
    device.picture(0.0)
    frame = device.picture(device.warm_up_s + device.delay_s + moment_s)
    assert frame is not None
    return Frame.of([np.array(plane) for plane in frame.planes], frame.captured_s)
