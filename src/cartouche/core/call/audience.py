"""Groups of viewers with the same way of looking, and the picture that the call makes for each."""

import math
from collections.abc import Sequence
from typing import Annotated, Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field


class SimulcastLayer(BaseModel):
    """One quality at which a call sends a participant's webcam (simulcast)."""

    model_config = ConfigDict(frozen=True)
    name: str
    width: int = Field(ge=16, le=3840)
    height: int = Field(ge=16, le=2160)
    kbit_s: int = Field(ge=30, le=100_000)
    fps: int = Field(ge=1, le=60)


class Audience(BaseModel):
    """A screen, how the call shows the picture on it, and how far away the eye is."""

    model_config = ConfigDict(frozen=True)
    id: str
    name: str
    layer: SimulcastLayer
    tile_width_px: int
    tile_height_px: int
    screen_px_per_mm: float
    distance_mm: float
    mirrored: bool = False
    is_teacher: bool = False


ScreenName = Literal["laptop", "tablet", "phone", "monitor", "board"]
Shown = Literal["pinned", "grid", "full"]


class Screen(NamedTuple):
    """Logical px (what a call lays its tiles out in), diagonal, and how far away one looks."""

    width_px: int
    height_px: int
    inches: float
    distance_mm: int

    @property
    def px_per_mm(self) -> float:
        return math.hypot(self.width_px, self.height_px) / (self.inches * 25.4)


# Distances: of Bababekova et al., Optometry and Vision Science 88 (2011) for phones, of ISO 9241-303 for desk screens;
# for a board the last row of a usual classroom of 9 m (DIN 18041's "small rooms").
SCREENS: dict[ScreenName, Screen] = {
    "laptop": Screen(1366, 768, 14.0, 550),
    "tablet": Screen(1180, 820, 10.9, 400),
    "phone": Screen(844, 390, 6.1, 320),
    "monitor": Screen(1920, 1080, 24.0, 650),
    "board": Screen(1920, 1080, 75.0, 7000),
}


class Viewers(BaseModel):
    """An audience as the teacher says it. inches, distance_mm: None for what is usual with such a screen.

    shown: `pinned` (the call gives it the stage), `grid` (one tile of many), `full` (nothing else on the screen).
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,40}$")]
    name: Annotated[str, Field(min_length=1, max_length=60)]
    count: Annotated[int, Field(ge=1, le=500)] = 1
    screen: ScreenName = "laptop"
    inches: Annotated[float, Field(ge=3, le=200)] | None = None
    distance_mm: Annotated[int, Field(ge=150, le=20_000)] | None = None
    shown: Shown = "pinned"
    tiles: Annotated[int, Field(ge=2, le=49)] = 9
    is_teacher: bool = False

    @property
    def display(self) -> Screen:
        usual = SCREENS[self.screen]
        return usual._replace(inches=self.inches or usual.inches, distance_mm=self.distance_mm or usual.distance_mm)


MAX_VIEWERS = 8
STAGE_SHARE, GRID_SHARE = 0.8785, 0.937  # of a screen's width: the rest holds names, buttons and other people
SELF_VIEW_PX = 300
ENOUGH = 0.85  # of a tile's width: a call does not send more for the rest


# What calls of today send of a webcam: three qualities, chosen by the size of the viewer's tile (W3C WebRTC, simulcast; RFC 8853).
LAYERS: tuple[SimulcastLayer, ...] = (
    SimulcastLayer(name="large", width=1280, height=720, kbit_s=1500, fps=15),
    SimulcastLayer(name="middle", width=640, height=360, kbit_s=500, fps=15),
    SimulcastLayer(name="small", width=320, height=180, kbit_s=150, fps=10),
)

WINDOW = SimulcastLayer(name="window", width=1920, height=1080, kbit_s=2500, fps=10)  # a shared window: sharp rather than quick


def tile_px(viewers: Viewers, *, staged: bool = False) -> tuple[int, int]:
    """Width and height of the 16:9 picture on their screen. staged: the call gives it the stage for all, as it does with what is shared."""
    screen = viewers.display
    if viewers.is_teacher:
        width = float(SELF_VIEW_PX)
    elif viewers.shown == "full":
        width = min(screen.width_px, screen.height_px * 16 / 9)
    elif viewers.shown == "grid" and not staged:
        width = screen.width_px * GRID_SHARE / math.ceil(math.sqrt(viewers.tiles))
    else:
        width = screen.width_px * STAGE_SHARE
    return round(width), round(width * 9 / 16)


def layer_for(tile_width_px: int, layers: Sequence[SimulcastLayer]) -> SimulcastLayer:
    """The smallest quality that is enough for a tile."""
    ordered = sorted(layers, key=lambda layer: layer.width)
    return next((layer for layer in ordered if layer.width >= ENOUGH * tile_width_px), ordered[-1])


def audience_of(viewers: Viewers, layers: Sequence[SimulcastLayer], *, staged: bool = False) -> Audience:
    """As they get the picture: by a webcam's qualities, or by the one of what is shared."""
    width, height = tile_px(viewers, staged=staged)
    screen = viewers.display
    return Audience(
        id=viewers.id,
        name=viewers.name,
        layer=layer_for(width, layers),
        tile_width_px=width,
        tile_height_px=height,
        screen_px_per_mm=screen.px_per_mm,
        distance_mm=screen.distance_mm,
        mirrored=viewers.is_teacher and not staged,
        is_teacher=viewers.is_teacher,
    )


FIRST_VIEWERS: tuple[Viewers, ...] = (
    Viewers(id="pinned", name="Laptop, pinned", count=12),
    Viewers(id="grid", name="Laptop, grid of nine", count=8, shown="grid"),
    Viewers(id="phone", name="Phone, landscape", count=4, screen="phone"),
    Viewers(id="self", name="Your own view", is_teacher=True),
)
AUDIENCES: tuple[Audience, ...] = tuple(audience_of(viewers, LAYERS) for viewers in FIRST_VIEWERS)

STAGED: tuple[Audience, ...] = tuple(audience_of(viewers, (WINDOW,), staged=True) for viewers in FIRST_VIEWERS)
