"""The one interface through which simulated devices and a simulated call come in."""

from typing import Protocol, runtime_checkable

from cartouche.core.call.audience import SimulcastLayer
from cartouche.core.kit.health import Battery, Facing
from cartouche.core.pictures import Frame


class PictureSource(Protocol):
    """A device asked for a picture at a moment (monotonic seconds); None while it has none.

    ConnectionError once it is gone, with a sentence for the teacher where the source knows better words.
    """

    fps: float

    def picture(self, now_s: float) -> Frame | None: ...


@runtime_checkable
class Reports(Protocol):
    """A source that also tells of its battery and of the lens it looks through."""

    battery: Battery | None
    facing: Facing | None


class Codec(Protocol):
    """A call's way of sending one layer: encoded at its bit rate and decoded again, as its viewers get it."""

    def transcode(self, frame: Frame) -> Frame | None: ...


class CodecMaker(Protocol):
    def __call__(self, layer: SimulcastLayer) -> Codec: ...
