"""Kinds of call, by open facts alone: what a call sends of a webcam and of what is shared, and what its viewers can do with it.

Sources: W3C WebRTC 1.0 (simulcast), W3C Screen Capture and mst-content-hint (what is shared: sharp rather than quick), RFC 7742
(what every end must take), ITU-T G.114 (delay). The numbers are usual ones of calls in browsers; the teacher may change them, and
trying a way measures them.
"""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from cartouche.core.call.audience import LAYERS, WINDOW, SimulcastLayer


class CallKind(BaseModel):
    """webcam: the qualities it sends of a camera.  share: of a shared tab or window.  delay_ms: from sender to viewer, one way.

    pins: a viewer can give one participant the stage.  spotlights: the teacher can do so for all.  takes_second_camera: shows one more
    camera as shared content.  shares_sound: of a shared tab.  in_browser: the teacher joins in a browser, not in a program of its own.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,40}$")]
    name: Annotated[str, Field(min_length=1, max_length=60)]
    webcam: Annotated[tuple[SimulcastLayer, ...], Field(min_length=1, max_length=4)] = LAYERS
    share: SimulcastLayer = WINDOW
    delay_ms: Annotated[int, Field(ge=0, le=5000)] = 150
    pins: bool = True
    spotlights: bool = True
    takes_second_camera: bool = True
    shares_sound: bool = True
    in_browser: bool = True


def _scaled(width: int, height: int, kbit_s: int, fps: int) -> tuple[SimulcastLayer, ...]:
    """What is left of a webcam when a call sends no more than this."""
    top = SimulcastLayer(name="large", width=width, height=height, kbit_s=kbit_s, fps=fps)
    return (top, *(layer for layer in LAYERS if layer.width < width))


PRACTICE = "practice"
KINDS: tuple[CallKind, ...] = (
    CallKind(id="usual", name="A usual call in the browser"),
    CallKind(
        id="many",
        name="A call with many cameras on",
        webcam=_scaled(640, 360, 500, 15),
        share=WINDOW.model_copy(update={"fps": 5, "kbit_s": 1500}),
        delay_ms=250,
    ),
    CallKind(
        id="own-server",
        name="A call on the school’s own server",
        webcam=_scaled(1920, 1080, 3000, 30),
        share=WINDOW.model_copy(update={"fps": 15, "kbit_s": 3500}),
        delay_ms=80,
    ),
    CallKind(
        id=PRACTICE,
        name="The practice call on this computer",
        webcam=(LAYERS[0].model_copy(update={"fps": 30}), *LAYERS[1:]),
        share=WINDOW.model_copy(update={"fps": 30}),
        delay_ms=80,  # encoding, two participants on one machine, and the far end's buffer; a call that was tried here has its own
    ),
    CallKind(id="program", name="A call in a program of its own", in_browser=False, shares_sound=False),
)


def kind_named(id_: str) -> CallKind:
    """Raises KeyError."""
    return {kind.id: kind for kind in KINDS}[id_]
