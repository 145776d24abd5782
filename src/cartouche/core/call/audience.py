"""Groups of viewers with the same way of looking, and the picture that the call makes for each."""

from pydantic import BaseModel, ConfigDict, Field


class SimulcastLayer(BaseModel):
    """One quality at which a call sends a participant's webcam (simulcast)."""

    model_config = ConfigDict(frozen=True)
    name: str
    width: int = Field(ge=16, le=3840)
    height: int = Field(ge=16, le=2160)
    kbit_s: int = Field(ge=30)
    fps: int = Field(ge=1, le=60)


class Audience(BaseModel):
    """A screen, how the call shows the picture on it, and how far away the eye is."""

    model_config = ConfigDict(frozen=True)
    id: str
    name: str
    layer: str
    tile_width_px: int
    tile_height_px: int
    screen_px_per_mm: float
    distance_mm: float
    mirrored: bool = False
    is_teacher: bool = False


# What calls of today send of a webcam: three qualities, chosen by the size of the viewer's tile.
LAYERS: tuple[SimulcastLayer, ...] = (
    SimulcastLayer(name="large", width=1280, height=720, kbit_s=1500, fps=15),
    SimulcastLayer(name="middle", width=640, height=360, kbit_s=500, fps=15),
    SimulcastLayer(name="small", width=320, height=180, kbit_s=150, fps=10),
)

WINDOW = SimulcastLayer(name="window", width=1920, height=1080, kbit_s=2500, fps=10)  # a shared window: sharp rather than quick

STAGE_PX = (1200, 675)  # what a laptop gives to what is shared
AT_A_DESK_MM = 400  # a screen farther away than this is no phone

# Screens in logical px (what a call lays its tiles out in); distances of Bababekova et al., Optometry and Vision
# Science 88 (2011) for phones and of ISO 9241-303 for desk screens.
AUDIENCES: tuple[Audience, ...] = (
    Audience(
        id="pinned", name="Laptop, pinned", layer="large", tile_width_px=1200, tile_height_px=675,
        screen_px_per_mm=1366 / 309, distance_mm=550,
    ),
    Audience(
        id="grid", name="Laptop, grid of nine", layer="middle", tile_width_px=426, tile_height_px=240,
        screen_px_per_mm=1366 / 309, distance_mm=550,
    ),
    Audience(
        id="phone", name="Phone, landscape", layer="middle", tile_width_px=740, tile_height_px=416,
        screen_px_per_mm=844 / 141, distance_mm=320,
    ),
    Audience(
        id="self", name="Your own view", layer="small", tile_width_px=300, tile_height_px=169,
        screen_px_per_mm=1366 / 309, distance_mm=550, mirrored=True, is_teacher=True,
    ),
)  # fmt: skip


def layer_named(name: str) -> SimulcastLayer:
    """Raises KeyError for a layer no call sends."""
    return {layer.name: layer for layer in (*LAYERS, WINDOW)}[name]


def by_window(audience: Audience) -> Audience:
    """As it gets a shared window: sent larger than a webcam and given the stage; nobody sees it in a small tile."""
    stage = audience.tile_width_px < STAGE_PX[0] and audience.distance_mm > AT_A_DESK_MM
    width, height = STAGE_PX if stage else (audience.tile_width_px, audience.tile_height_px)
    return audience.model_copy(update={"layer": WINDOW.name, "tile_width_px": width, "tile_height_px": height})
