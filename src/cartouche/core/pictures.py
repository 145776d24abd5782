"""What the rooms pass about: Size, Frame (three planes), Corners, Matrix.

Coordinates are continuous: (0, 0) is the outer corner of the first pixel and (width, height) that of the last,
so halving a picture halves every coordinate exactly. `index_matrix` turns a map between such coordinates into
one between pixel indices, whose centres lie half a pixel in.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.errors import BadPicture

Plane = NDArray[np.uint8]  # (h, w)
Colour = NDArray[np.uint8]  # (h, w, 3), blue green red
Corners = NDArray[np.float64]  # (4, 2), (x, y), clockwise as seen in the picture they lie in
Matrix = NDArray[np.float64]  # (3, 3), acts on column vectors (x, y, 1)

_CENTRE = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1.0]])
_UNCENTRE = np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1.0]])


class Size(NamedTuple):
    """Width and height in pixels (of a picture) or in any one unit (of a canvas)."""

    width: float
    height: float

    @property
    def aspect(self) -> float:
        return self.width / self.height


class YuvColour(NamedTuple):
    """One colour in full-range BT.601, each 0-255."""

    y: int
    u: int
    v: int


@dataclass(frozen=True, slots=True, eq=False)
class Frame:
    """One picture of a feed: full-range BT.601 planes, chroma at half size (4:2:0, centred siting as in JFIF).

    y: (h, w) uint8, h and w even.  u, v: (h/2, w/2) uint8.
    captured_s: monotonic moment of capture (bench) or receipt (real), seconds.
    Raises BadPicture when shapes or types do not fit together.
    """

    y: Plane
    u: Plane
    v: Plane
    captured_s: float

    def __post_init__(self) -> None:
        height, width = require_plane(self.y).shape
        if height % 2 or width % 2:
            raise BadPicture("even width and height", f"{width} x {height}")
        for chroma in (self.u, self.v):
            if require_plane(chroma).shape != (height // 2, width // 2):
                raise BadPicture(f"chroma {width // 2} x {height // 2}", str(chroma.shape[::-1]))

    @property
    def size(self) -> Size:
        return Size(self.y.shape[1], self.y.shape[0])

    @classmethod
    def of(cls, planes: Sequence[Plane], captured_s: float) -> "Frame":
        """planes: luma and the two chroma planes, in this order.

        planes: (h, w), (h/2, w/2), (h/2, w/2) uint8.
        """
        y, u, v = planes
        return cls(y, u, v, captured_s)

    @property
    def planes(self) -> tuple[Plane, Plane, Plane]:
        return self.y, self.u, self.v

    def copy(self) -> "Frame":
        """With planes of its own: they outlive the ring that this one's are taken from."""
        return Frame.of([plane.copy() for plane in self.planes], self.captured_s)


def require_plane(plane: Any) -> Plane:
    """The one gate for planes: a (h, w) uint8 array of at least 2 x 2, or BadPicture."""
    if not isinstance(plane, np.ndarray):
        raise BadPicture("(h, w) uint8", type(plane).__name__)
    if plane.ndim != 2 or plane.dtype != np.uint8 or min(plane.shape) < 1:
        raise BadPicture("(h, w) uint8", f"{plane.shape} {plane.dtype}")
    return plane


def blank_frame(size: Size, colour: YuvColour, captured_s: float = 0.0) -> Frame:
    """A new frame of one colour; its planes are the caller's to draw on."""
    width, height = int(size.width), int(size.height)
    return Frame(
        np.full((height, width), colour.y, np.uint8),
        np.full((height // 2, width // 2), colour.u, np.uint8),
        np.full((height // 2, width // 2), colour.v, np.uint8),
        captured_s,
    )


def frame_from_bgr(picture: Colour, captured_s: float = 0.0) -> Frame:
    """(h, w, 3) uint8 BGR to planes. Raises BadPicture. Source: ITU-T T.871 (JFIF) conversion."""
    if not isinstance(picture, np.ndarray) or picture.ndim != 3 or picture.shape[2] != 3 or picture.dtype != np.uint8:
        raise BadPicture("(h, w, 3) uint8", str(getattr(picture, "shape", type(picture).__name__)))
    height, width = picture.shape[0] // 2 * 2, picture.shape[1] // 2 * 2
    y, v, u = cv2.split(cv2.cvtColor(picture[:height, :width], cv2.COLOR_BGR2YCrCb))
    half = (width // 2, height // 2)
    return Frame(
        y,  # type: ignore[arg-type]
        cv2.resize(u, half, interpolation=cv2.INTER_AREA),  # type: ignore[arg-type]
        cv2.resize(v, half, interpolation=cv2.INTER_AREA),  # type: ignore[arg-type]
        captured_s,
    )


def bgr_from_frame(frame: Frame) -> Colour:
    """Planes to (h, w, 3) uint8 BGR, chroma doubled linearly. Source: ITU-T T.871."""
    full = (int(frame.size.width), int(frame.size.height))
    u = cv2.resize(frame.u, full, interpolation=cv2.INTER_LINEAR)
    v = cv2.resize(frame.v, full, interpolation=cv2.INTER_LINEAR)
    return cv2.cvtColor(cv2.merge([frame.y, v, u]), cv2.COLOR_YCrCb2BGR)  # type: ignore[return-value]


def yuv_of_hex(colour: str) -> YuvColour:
    """'#RRGGBB' to full-range BT.601."""
    red, green, blue = (int(colour[i : i + 2], 16) for i in (1, 3, 5))
    y, v, u = cv2.cvtColor(np.array([[[blue, green, red]]], np.uint8), cv2.COLOR_BGR2YCrCb)[0, 0]
    return YuvColour(int(y), int(u), int(v))


def half_size(plane: Plane) -> Plane:
    """(h, w) to (h//2, w//2) by area: what small print needs before it is shrunk further."""
    return cv2.resize(plane, (plane.shape[1] // 2, plane.shape[0] // 2), interpolation=cv2.INTER_AREA)  # type: ignore[return-value]


def index_matrix(matrix: Matrix) -> Matrix:
    """A map between continuous coordinates as one between pixel indices (centres half a pixel in)."""
    return np.asarray(_UNCENTRE @ matrix @ _CENTRE)


def scaling(x: float, y: float) -> Matrix:
    return np.array([[x, 0, 0], [0, y, 0], [0, 0, 1.0]])


def translation(x: float, y: float) -> Matrix:
    return np.array([[1, 0, x], [0, 1, y], [0, 0, 1.0]])
