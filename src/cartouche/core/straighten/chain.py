"""The correction chain: ordered links, composed into one matrix from feed pixels to canvas units.

Links act in the order unbend, square, turn, mirror, frame, light, colour. A link that is switched off keeps its values
and does nothing.
"""

import math
from functools import lru_cache
from typing import Annotated, Literal, NamedTuple

import numpy as np
from pydantic import AliasChoices, BaseModel, ConfigDict, Field, field_validator

from cartouche.core.errors import CartoucheError
from cartouche.core.pictures import Corners, Matrix, Size, scaling, translation
from cartouche.core.straighten.geometry import as_corners, check_quadrilateral, rectangle, solve_homography
from cartouche.core.straighten.lens import MAX_DISTORTION, MIN_DISTORTION, undistort
from cartouche.core.straighten.paper import PAPERS_MM

ZOOM_MAX = 8.0  # one word of a page across the picture
FINE_MAX_DEG = 20.0  # beyond this a quarter turn is meant

Share = Annotated[float, Field(ge=-2.0, le=3.0)]  # of the picture's width or height; a corner may lie outside it


class Link(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    on: bool = True


Setting = Literal["auto", "hand"]  # left to find itself, or set by hand


class UnbendLink(Link):
    """The lens's bulge. distortion: of the division model, see `lens`; below 0 for a wide lens.  set: whether the product may refine it.

    "bend" is what files written before 2026-12 call it.
    """

    on: bool = False
    distortion: float = Field(0.0, ge=-MAX_DISTORTION, le=MAX_DISTORTION, validation_alias=AliasChoices("distortion", "bend"))
    set: Setting = "auto"


class SquareLink(Link):
    """Keystone out: four corners become a rectangle of the paper's proportions.

    follow: keep the page squared when it or the stand moves.

    corners: shares of the feed's width and height, top-left as seen first, then clockwise as seen.
    aspect: width / height of the rectangle as it then stands.  paper: its name, where known.  lying: paper on its side.
    """

    corners: tuple[tuple[Share, Share], tuple[Share, Share], tuple[Share, Share], tuple[Share, Share]] = (
        (0.0, 0.0),
        (1.0, 0.0),
        (1.0, 1.0),
        (0.0, 1.0),
    )
    aspect: float = Field(16 / 9, ge=0.1, le=10)
    paper: str | None = None
    lying: bool = False
    follow: bool = False

    @field_validator("corners")
    @classmethod
    def _span_a_page(cls, value: tuple[tuple[float, float], ...]) -> tuple[tuple[float, float], ...]:
        check_quadrilateral(as_corners(value))
        return value

    @field_validator("paper")
    @classmethod
    def _known_paper(cls, value: str | None) -> str | None:
        if value is not None and value not in PAPERS_MM:
            raise ValueError(f"paper is one of {', '.join(PAPERS_MM)}")
        return value

    def corners_px(self, feed: Size) -> Corners:
        return as_corners(self.corners) * np.array(feed, np.float64)


class TurnLink(Link):
    """Quarter turns and a fine angle, both clockwise."""

    quarters: int = Field(0, ge=0, le=3)
    fine_deg: float = Field(0.0, ge=-FINE_MAX_DEG, le=FINE_MAX_DEG)


class MirrorLink(Link):
    left_right: bool = False
    top_bottom: bool = False


class FrameLink(Link):
    """Which part is shown: zoom 1 is the whole; x, y are the middle of the part, as shares of the canvas."""

    zoom: float = Field(1.0, ge=1.0, le=ZOOM_MAX)
    x: float = Field(0.5, ge=0.0, le=1.0)
    y: float = Field(0.5, ge=0.0, le=1.0)


class LightLink(Link):
    """Paper to white and even: the light on the page is measured and divided out. lift: how much of it, 1 all."""

    on: bool = False
    lift: float = Field(1.0, ge=0.0, le=1.0)


class ColourLink(Link):
    """White balance. set: from the paper, or by hand with warmth and tint, each -1..1."""

    on: bool = False
    set: Setting = "auto"
    warmth: float = Field(0.0, ge=-1.0, le=1.0)
    tint: float = Field(0.0, ge=-1.0, le=1.0)


class Chain(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")
    unbend: UnbendLink = UnbendLink()
    square: SquareLink = SquareLink(on=False)
    turn: TurnLink = TurnLink()
    mirror: MirrorLink = MirrorLink()
    frame: FrameLink = FrameLink()
    light: LightLink = LightLink()
    colour: ColourLink = ColourLink()

    @property
    def distortion(self) -> float:
        """The distortion in force; 0 where unbending would move nothing."""
        return self.unbend.distortion if self.unbend.on and abs(self.unbend.distortion) >= MIN_DISTORTION else 0.0

    @property
    def flips(self) -> int:
        """How many reflections the chain itself adds."""
        return int(self.mirror.left_right) + int(self.mirror.top_bottom) if self.mirror.on else 0


class Straightened(NamedTuple):
    """matrix: feed px -> canvas units, (3, 3), from undistorted feed px where distortion is not 0.  canvas: its size, straightened.

    mm_per_unit: None if no paper is named.  distortion: of the lens, see `lens`.
    """

    matrix: Matrix
    canvas: Size
    mm_per_unit: float | None
    distortion: float = 0.0


@lru_cache(maxsize=256)  # asked for each picture, and for each zoom that an advice tries; corners change seldom
def square_matrix(link: SquareLink, feed: Size, distortion: float = 0.0) -> tuple[Matrix, Size]:
    """Unbent feed px to a rectangle of the link's aspect and of the quadrilateral's own area; the matrix is read-only.

    Raises DegenerateCorners.
    """
    corners = link.corners_px(feed)
    if distortion:
        corners = undistort(corners, distortion, feed)
    across, down = corners[2] - corners[0], corners[3] - corners[1]
    area = abs(across[0] * down[1] - across[1] * down[0]) / 2
    canvas = Size(math.sqrt(area * link.aspect), math.sqrt(area / link.aspect))
    matrix = solve_homography(corners, rectangle(canvas))
    matrix.flags.writeable = False
    return matrix, canvas


def turn_matrix(link: TurnLink, canvas: Size) -> tuple[Matrix, Size]:
    """Turn about the middle; odd quarter turns swap width and height."""
    turned = Size(canvas.height, canvas.width) if link.quarters % 2 else canvas
    angle = math.radians(90 * link.quarters + link.fine_deg)
    cos, sin = math.cos(angle), math.sin(angle)
    rotate = np.array([[cos, -sin, 0], [sin, cos, 0], [0, 0, 1.0]])
    away, back = translation(-canvas.width / 2, -canvas.height / 2), translation(turned.width / 2, turned.height / 2)
    return back @ rotate @ away, turned


def mirror_matrix(link: MirrorLink, canvas: Size) -> Matrix:
    x, y = (-1.0 if link.left_right else 1.0), (-1.0 if link.top_bottom else 1.0)
    return translation(canvas.width if x < 0 else 0, canvas.height if y < 0 else 0) @ scaling(x, y)


def straighten(chain: Chain, feed: Size) -> Straightened:
    """All geometric links but the frame as one map. The frame is applied when a place is filled (`plates.placing`).

    feed: px of the picture as it comes.  Raises DegenerateCorners, and CartoucheError for an empty feed.
    """
    if feed.width < 2 or feed.height < 2:
        raise CartoucheError
    matrix, canvas, mm = np.eye(3), feed, None
    if chain.square.on:
        matrix, canvas = square_matrix(chain.square, feed, chain.distortion)
        mm = millimetres_across(chain.square) / canvas.width if chain.square.paper else None
    if chain.turn.on:
        turn, canvas = turn_matrix(chain.turn, canvas)
        matrix = turn @ matrix
    if chain.mirror.on:
        matrix = mirror_matrix(chain.mirror, canvas) @ matrix
    return Straightened(matrix, canvas, mm, chain.distortion)


def millimetres_across(link: SquareLink) -> float:
    """Width of the squared rectangle, mm, from the named paper (its area is trusted, its aspect may be by hand)."""
    width, height = PAPERS_MM[link.paper or "A4"]
    return math.sqrt(width * height * link.aspect)
