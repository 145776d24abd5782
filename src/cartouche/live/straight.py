"""The whole straightened page as a picture of its own, for whoever looks at the page itself."""

from cartouche.core.pictures import Frame, Size, yuv_of_hex
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.plates.model import Place
from cartouche.core.straighten.chain import Chain, FrameLink, LightLink, straighten
from cartouche.live.card import PAPER

BACKGROUND = yuv_of_hex(PAPER)
PAGE_FILLS = Place.model_validate(
    {"content": {"kind": "role", "role": "page"}, "rect": {"x": 0, "y": 0, "width": 1, "height": 1}, "fit": "fill"}
)


def straight(composer: Composer | None, chain: Chain, frame: Frame, longest: float) -> tuple[Composer, Frame]:
    """Without its tone, at most so long, px. composer: of the last time, used again where the size is the same."""
    canvas = canvas_of(chain, frame.size)
    scale = longest / max(canvas)
    size = Size(max(16, round(canvas.width * scale / 2) * 2), max(16, round(canvas.height * scale / 2) * 2))
    if composer is None or composer.size != size:
        composer = Composer(size, BACKGROUND)
    return composer, composer.compose([Layer(PAGE_FILLS, bare(chain), frame)], frame.captured_s)


def bare(chain: Chain) -> Chain:
    """All of the page, in its own light."""
    return chain.model_copy(update={"frame": FrameLink(on=False), "light": LightLink(on=False)})


def canvas_of(chain: Chain, feed: Size) -> Size:
    """Of the whole straightened page: one unit is about one px of the camera."""
    return straighten(bare(chain), feed).canvas
