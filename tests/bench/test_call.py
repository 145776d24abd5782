import numpy as np
import pytest

from cartouche.bench.call import CallCodec
from cartouche.bench.devices import DEVICES
from cartouche.core.call.audience import LAYERS, SimulcastLayer
from cartouche.core.pictures import Frame, Size, YuvColour
from cartouche.core.plates.compose import Composer
from cartouche.core.plates.compose import Layer as Shown
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain


def sent(layer: SimulcastLayer, seconds: int) -> tuple[CallCodec, list[Frame], list[Frame | None]]:
    """What goes in and comes out of a codec while the presenter moves."""
    codec, device = CallCodec(layer), DEVICES["face-webcam"]()
    composer = Composer(Size(layer.width, layer.height), YuvColour(200, 128, 128))
    device.picture(0.0)
    before, after = [], []
    for number in range(seconds * layer.fps):
        face = device.picture(1 + number / layer.fps)
        assert face is not None
        frame = composer.compose([Shown(FIRST_PLATES[2].places[0], Chain(), face)], number)
        before.append(Frame.of([plane.copy() for plane in frame.planes], frame.captured_s))
        after.append(codec.transcode(frame))
    return codec, before, after


@pytest.mark.parametrize("layer", LAYERS, ids=lambda layer: layer.name)
def test_every_picture_comes_out_alike_but_squeezed(layer: SimulcastLayer) -> None:
    codec, before, after = sent(layer, 4)
    assert all(frame is not None for frame in after)
    for there, back in list(zip(before, after, strict=True))[-5:]:
        assert back is not None
        assert back.captured_s == there.captured_s
        error = np.abs(there.y.astype(int) - back.y).mean()
        assert 0.2 < error < 8, "a real codec changes something, and not much"
    assert codec.kbit_sent / 4 < 1.3 * layer.kbit_s
