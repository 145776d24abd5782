"""The set-up card: what stands where on it, and everything that one look at it tells.

Eight square marks lie round its edge, so that any two of them, seen right way round or mirrored, give the whole sheet.
"""

from functools import cache
from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Corners, Frame, Matrix, Plane, Size
from cartouche.core.straighten.chain import Chain, ColourLink, MirrorLink, SquareLink, TurnLink, UnbendLink
from cartouche.core.straighten.geometry import rectangle, transform
from cartouche.core.straighten.lens import MAX_DISTORTION, MIN_DISTORTION, distort, undistort
from cartouche.core.straighten.paper import PAPERS_MM, USUAL_FOCAL

CardPaper = Literal["A4", "Letter"]
MARKS = cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_5X5_100)  # 25 bits: no two of these are each other's mirror image
MARK_MM, INSET_MM = 26.0, 11.0
FIRST_ID: dict[CardPaper, int] = {"A4": 0, "Letter": 10}
SPOTS = ("upper left", "top", "upper right", "right", "lower right", "bottom", "lower left", "left")
MIN_MARKS = 2  # eight points: the sheet's plane; for the lens it takes four
LENS_MARKS = 5
PATCH_GREYS = (0.0, 0.2, 0.4, 0.6, 0.8, 1.0)  # of the paper's white, as printed
SAMPLE_POINTS = (16, 14, 12, 11, 10, 9, 8, 7, 6, 5, 4)
SHARP_RISE_PX = 3.2  # from 10 to 90 % of an edge: a lens in focus and a usual sensor stay below
TOO_BRIGHT, TOO_DARK = 250.0, 130.0  # luma of white paper
TILT_TELLS_FOCAL_DEG = 9.0


class CardBox(NamedTuple):
    x: float
    y: float
    width: float
    height: float


class Layout(NamedTuple):
    """All in mm from the paper's top-left. marks: id -> its four corners, its own top-left first."""

    paper: CardPaper
    size: Size
    marks: dict[int, Corners]
    code: CardBox
    star: tuple[float, float, float]  # middle and radius
    patches: tuple[CardBox, ...]
    samples: CardBox


@cache
def layout(paper: CardPaper) -> Layout:
    width, height = PAPERS_MM[paper]
    near, across, down = INSET_MM, width - INSET_MM - MARK_MM, height - INSET_MM - MARK_MM
    middle_x, middle_y = (width - MARK_MM) / 2, (height - MARK_MM) / 2
    spots = (
        (near, near),
        (middle_x, near),
        (across, near),
        (across, middle_y),
        (across, down),
        (middle_x, down),
        (near, down),
        (near, middle_y),
    )
    marks = {FIRST_ID[paper] + i: rectangle(Size(MARK_MM, MARK_MM)) + np.array(spot) for i, spot in enumerate(spots)}
    left = near + MARK_MM + 10
    wide = width - 2 * left
    top = near + MARK_MM + 26
    step = wide / len(PATCH_GREYS)
    patches = tuple(CardBox(left + i * step, top + 66, step, 16) for i in range(len(PATCH_GREYS)))
    star = (left + 30.0, top + 30.0, 29.0)
    return Layout(
        paper, Size(width, height), marks, CardBox(left + wide - 40, top + 8, 38, 38), star, patches, CardBox(left, top + 92, wide, 70)
    )


class CardReading(NamedTuple):
    """Everything measured from one picture of the card.

    corners: the sheet's own, top-left first, px in the picture as it comes.  to_px: mm -> undistorted px, (3, 3).
    quarters: clockwise turns that set it upright once squared, before the mirror link.  off_px: how far marks lie from where
    they should, root mean square.  focal: in picture widths, None when seen too straight.  rise_px: 10 to 90 % of an edge.
    white, black: luma.  chroma: u and v of its greys over their luma.  covered: spots whose mark is not seen.
    """

    paper: CardPaper
    corners: Corners
    to_px: Matrix
    mirrored: bool
    distortion: float
    off_px: float
    focal: float | None
    tilt_deg: float
    px_per_mm: tuple[float, float]
    rise_px: float
    white: float
    black: float
    chroma: tuple[float, float]
    covered: tuple[str, ...]

    def __bool__(self) -> bool:
        return True

    @property
    def in_focus(self) -> bool:
        return self.rise_px <= SHARP_RISE_PX

    @property
    def exposure(self) -> Literal["good", "too bright", "too dark"]:
        return "too bright" if self.white >= TOO_BRIGHT else "too dark" if self.white < TOO_DARK else "good"


class NoCard(NamedTuple):
    """Falsy. reason: words for a teacher."""

    reason: str

    def __bool__(self) -> bool:
        return False


def _detector() -> cv2.aruco.ArucoDetector:
    how = cv2.aruco.DetectorParameters()
    how.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_SUBPIX
    how.adaptiveThreshWinSizeMin, how.adaptiveThreshWinSizeMax, how.adaptiveThreshWinSizeStep = 7, 47, 20
    return cv2.aruco.ArucoDetector(MARKS, how)


def read_card(frame: Frame) -> CardReading | NoCard:
    """Find the card and measure everything from it: about 60 ms for 1080p."""
    plain = _seen(frame.y)
    turned = _seen(cv2.flip(frame.y, 1))  # type: ignore[arg-type]
    mirrored = len(turned) > len(plain)
    found = turned if mirrored else plain
    if not found:
        return NoCard("none of its eight marks is seen. Lay it flat under the camera, in good light, with nothing on it")
    paper: CardPaper = "Letter" if sum(number >= FIRST_ID["Letter"] for number in found) * 2 > len(found) else "A4"
    card = layout(paper)
    found = {number: corners for number, corners in found.items() if number in card.marks}
    if len(found) < MIN_MARKS:
        return NoCard("only one of its eight marks is seen. Move your hand, or the card, so that at least two are in the picture")
    if mirrored:
        for corners in found.values():
            corners[:, 0] = frame.size.width - corners[:, 0]
    return _measured(frame, card, found, mirrored)


def _seen(luma: Plane) -> dict[int, Corners]:
    """Marks by id, corners in continuous px."""
    corners, ids, _ = _detector().detectMarkers(luma)
    if ids is None:
        return {}
    known = {number for paper in FIRST_ID.values() for number in range(paper, paper + len(SPOTS))}
    return {int(n): c.reshape(4, 2).astype(np.float64) + 0.5 for n, c in zip(ids.ravel(), corners, strict=True) if int(n) in known}


def _measured(frame: Frame, card: Layout, found: dict[int, Corners], mirrored: bool) -> CardReading:
    order = sorted(found)
    on_card = np.concatenate([card.marks[number] for number in order])
    in_picture = np.concatenate([found[number] for number in order])
    distortion = _distortion(on_card, in_picture, frame.size) if len(found) >= LENS_MARKS else 0.0
    to_px, off = _plane(on_card, in_picture, distortion, frame.size)
    outline = distort(transform(to_px, rectangle(card.size)), distortion, frame.size)
    focal, tilt = _focal_and_tilt(to_px, frame.size)
    sides = np.linalg.norm(np.roll(outline, -1, axis=0) - outline, axis=1) / np.array([*card.size, *card.size])
    white, black, chroma = _greys(frame, card, to_px, distortion)
    covered = tuple(spot for i, spot in enumerate(SPOTS) if FIRST_ID[card.paper] + i not in found)
    rise = _rise(frame.y, list(found.values()), white - black)
    return CardReading(
        card.paper,
        outline,
        to_px,
        mirrored,
        distortion,
        off,
        focal,
        tilt,
        (float(sides.min()), float(sides.max())),
        rise,
        white,
        black,
        chroma,
        covered,
    )


def _plane(on_card: NDArray[np.float64], in_picture: NDArray[np.float64], distortion: float, picture: Size) -> tuple[Matrix, float]:
    """Card mm to undistorted px by least squares, and how far the marks then lie off, px. Source: Hartley & Zisserman, algorithm 4.2."""
    straight = undistort(in_picture, distortion, picture) if distortion else in_picture
    matrix = np.asarray(cv2.findHomography(on_card, straight, 0)[0], np.float64)
    again = distort(transform(matrix, on_card), distortion, picture) if distortion else transform(matrix, on_card)
    return matrix, float(np.sqrt(((again - in_picture) ** 2).sum(axis=1).mean()))


def _distortion(on_card: NDArray[np.float64], in_picture: NDArray[np.float64], picture: Size) -> float:
    """The distortion under which the marks fit best; 0 unless it fits clearly better than a straight lens."""

    def off(distortion: float) -> float:
        return _plane(on_card, in_picture, distortion, picture)[1]

    tried = np.linspace(-MAX_DISTORTION, MAX_DISTORTION, 25)
    at = int(np.argmin([off(float(distortion)) for distortion in tried]))
    low, high = float(tried[max(at - 1, 0)]), float(tried[min(at + 1, 24)])
    golden = (5**0.5 - 1) / 2
    while high - low > MIN_DISTORTION / 4:
        a, b = high - golden * (high - low), low + golden * (high - low)
        low, high = (low, b) if off(a) < off(b) else (a, high)
    best = (low + high) / 2
    return best if off(best) < 0.85 * off(0.0) else 0.0


def _focal_and_tilt(to_px: Matrix, picture: Size) -> tuple[float | None, float]:
    """Focal length in picture widths and the angle between the camera's axis and the card's upright.

    Source: Zhang, A flexible new technique for camera calibration, PAMI 22 (2000), section 3.1, with square pixels and a
    centred axis: two equations for one unknown, weighed by how much each tells.
    """
    centred = np.array([[1, 0, -picture.width / 2], [0, 1, -picture.height / 2], [0, 0, 1.0]]) @ to_px
    (x1, x2), (y1, y2), (w1, w2) = centred[:, :2]
    flat, deep = np.array([x1 * x2 + y1 * y2, x1 * x1 + y1 * y1 - x2 * x2 - y2 * y2]), np.array([w1 * w2, w1 * w1 - w2 * w2])
    squared = -float(deep @ flat) / max(float(deep @ deep), 1e-30)
    focal_px = float(np.sqrt(squared)) if squared > 0 else USUAL_FOCAL * picture.width
    rays = np.diag([1 / focal_px, 1 / focal_px, 1.0]) @ centred
    normal = np.cross(rays[:, 0], rays[:, 1])
    tilt = float(np.degrees(np.arccos(min(1.0, abs(normal[2]) / float(np.linalg.norm(normal))))))
    return (focal_px / picture.width if squared > 0 and tilt > TILT_TELLS_FOCAL_DEG else None), tilt


def _greys(frame: Frame, card: Layout, to_px: Matrix, distortion: float) -> tuple[float, float, tuple[float, float]]:
    """Luma of white and black, chroma over luma of the greys between: from the middles of the patches."""
    luma, tints = [], []
    for patch in card.patches:
        inner = rectangle(Size(patch.width * 0.6, patch.height * 0.6)) + np.array(
            [patch.x + 0.2 * patch.width, patch.y + 0.2 * patch.height]
        )
        x, y = distort(transform(to_px, inner), distortion, frame.size).mean(axis=0)
        if not (4 < x < frame.size.width - 4 and 4 < y < frame.size.height - 4):
            continue
        part = frame.y[int(y) - 2 : int(y) + 3, int(x) - 2 : int(x) + 3]
        u, v = (
            float(np.median(plane[int(y) // 2 - 1 : int(y) // 2 + 2, int(x) // 2 - 1 : int(x) // 2 + 2])) - 128
            for plane in (frame.u, frame.v)
        )
        luma.append(float(np.median(part)))
        if luma[-1] > 60 and luma[-1] < TOO_BRIGHT:
            tints.append((u / luma[-1], v / luma[-1]))
    tint = np.median(np.array(tints), axis=0) if tints else np.zeros(2)
    return max(luma, default=0.0), min(luma, default=0.0), (float(tint[0]), float(tint[1]))


def _rise(luma: Plane, marks: list[Corners], contrast: float) -> float:
    """How many px an edge takes from 10 to 90 % of its height: median over the marks' outer edges. Source: ISO 12233, slanted edge."""
    reach = 8
    offsets = np.arange(-reach, reach + 0.01, 0.25)
    widths = []
    for corners in marks:
        for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
            along = (b - a) / max(float(np.linalg.norm(b - a)), 1e-6)
            normal = np.array([-along[1], along[0]])
            spots = a + np.linspace(0.25, 0.75, 24)[:, None] * (b - a)
            grid = (spots[:, None] + offsets[None, :, None] * normal - 0.5).astype(np.float32)
            profile = cv2.remap(luma, grid, None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(np.float32).mean(axis=0)  # type: ignore[call-overload]
            low, high = float(profile[-8:].mean()), float(profile[:8].mean())
            if abs(high - low) < max(12.0, 0.3 * contrast):
                continue
            share = (profile - low) / (high - low)
            widths.append(0.25 * float(((share > 0.1) & (share < 0.9)).sum()))
    return float(np.median(widths)) if widths else 99.0


def chain_from(reading: CardReading, chain: Chain, picture: Size) -> Chain:
    """The chain that shows the card upright and true; the frame, the light and what is set by hand stay."""
    own = reading.corners[::-1] if reading.mirrored else reading.corners  # clockwise as seen
    edges = np.roll(own, -1, axis=0) - own
    first = int((edges[:, 0] / np.linalg.norm(edges, axis=1)).argmax())
    clockwise = np.roll(own, -first, axis=0)
    at = next(k for k in range(4) if np.allclose(clockwise[k], reading.corners[0]))  # where the card's own top-left stands
    quarters = (1 - at) % 4 if reading.mirrored else -at % 4
    lying = quarters % 2 == 1
    short, long = PAPERS_MM[reading.paper]
    square = SquareLink.model_validate(
        {
            "corners": (clockwise / np.array(picture)).tolist(), "aspect": long / short if lying else short / long,
            "paper": reading.paper, "lying": lying, "follow": chain.square.follow,
        }
    )  # fmt: skip
    unbend = UnbendLink(on=abs(reading.distortion) >= MIN_DISTORTION, distortion=reading.distortion)
    colour = ColourLink(on=True) if max(abs(part) for part in reading.chroma) > 0.02 else chain.colour
    mirror = MirrorLink(left_right=reading.mirrored)
    return chain.model_copy(
        update={"unbend": unbend, "square": square, "turn": TurnLink(quarters=quarters), "mirror": mirror, "colour": colour}
    )
