"""The straightened page against the page as it was drawn: likeness, and lines that are straight."""

import cv2
import numpy as np
import pytest
from skimage.metrics import structural_similarity

from cartouche.bench.camera import Camera, Lying, Pose, photograph, true_corners
from cartouche.bench.desks import desk
from cartouche.bench.papers import A4_MM, MAP, contour_sheet
from cartouche.core.pictures import Frame, Size, YuvColour
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.plates.model import Place
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.finder import find_page
from cartouche.core.straighten.rigs import Rig
from cartouche.core.straighten.square_up import squared_up
from cartouche.models import page_nets

LYING = Lying(4, -6, 3)
WHOLE = Place.model_validate(
    {"content": {"kind": "role", "role": "page"}, "rect": {"x": 0, "y": 0, "width": 1, "height": 1}, "fit": "fill"}
)
PX_PER_MM = 4
PAGE = Size(210 * PX_PER_MM, 297 * PX_PER_MM)
VIEWS = {
    "from the side": (Pose((-190, -90, -560)), 0, Rig("a", "", 0, 0, "page", "")),
    "half a turn round": (Pose((60, -150, -560), roll_deg=180), 0, Rig("b", "", 2, 0, "page", "")),
    "by a mirror": (Pose((0, -380, -420)), 1, Rig("c", "", 0, 1, "page", "")),
    "by a mirror, half a turn round": (Pose((0, -380, -420), roll_deg=180), 1, Rig("d", "", 2, 1, "page", "")),
}


def straightened(view: str) -> Frame:
    """Found by itself and squared up by the rig's first guess, from a camera without noise and with pixels enough."""
    pose, mirrors, rig = VIEWS[view]
    camera = Camera(Size(3840, 2160), pose, focal=0.9, mirrors=mirrors, noise=0)
    frame = photograph(camera, desk("wood"), contour_sheet(), LYING)
    found = find_page(frame, page_nets())
    assert found
    chain = squared_up(found, Chain(), frame.size, rig)
    assert chain.square.paper == "A4"
    composer = Composer(PAGE, YuvColour(255, 128, 128))
    return composer.compose([Layer(WHOLE, chain, frame)], 0.0)


def drawn() -> np.ndarray:
    grey = cv2.cvtColor(contour_sheet().picture, cv2.COLOR_BGR2GRAY)
    return cv2.resize(grey, (int(PAGE.width), int(PAGE.height)), interpolation=cv2.INTER_AREA)


def evened(grey: np.ndarray) -> np.ndarray:
    """Without the lamp's slow falling-off: what is left is what is drawn."""
    slow = cv2.GaussianBlur(grey.astype(np.float32), (0, 0), 60)
    return np.clip(grey * (245 / slow), 0, 255).astype(np.uint8)


@pytest.mark.parametrize("view", VIEWS)
def test_the_straightened_page_is_the_drawn_page(view: str) -> None:
    page, truth = evened(straightened(view).y), evened(drawn())
    assert structural_similarity(page, truth) >= 0.9
    assert structural_similarity(page[:, ::-1], truth) < 0.7


@pytest.mark.parametrize("view", VIEWS)
def test_printed_lines_are_straight_within_a_pixel(view: str) -> None:
    """The map's printed border: its darkest spot across, at many places along, lies on one line."""
    page = straightened(view).y.astype(np.float32)
    for edge_mm, along in ((MAP.x, "column"), (MAP.x + MAP.width, "column"), (MAP.y, "row"), (MAP.y + MAP.height, "row")):
        strip = page if along == "column" else page.T
        low = (MAP.y if along == "column" else MAP.x) + 4
        high = low + (MAP.height if along == "column" else MAP.width) - 8
        at = int(edge_mm * PX_PER_MM)
        rows = np.arange(int(low * PX_PER_MM), int(high * PX_PER_MM), 6)
        dark = 255 - strip[rows, at - 6 : at + 7]
        dark = np.maximum(dark - np.median(dark, axis=1, keepdims=True) - 8, 0)
        near = np.abs(np.arange(13) - dark.argmax(axis=1)[:, None]) <= 2  # a contour that meets the border is not part of it
        weight = dark * near
        clear = weight.sum(axis=1) > 20
        spots = (weight * np.arange(13)).sum(axis=1)[clear] / weight.sum(axis=1)[clear]
        assert clear.mean() > 0.8
        off = spots - np.polyval(np.polyfit(rows[clear], spots, 1), rows[clear])
        assert np.percentile(np.abs(off), 95) < 1.0, (view, edge_mm)
        slope = np.polyfit(rows[clear], spots, 1)[0] * (rows[-1] - rows[0])
        assert abs(slope) < 2.5, (view, edge_mm, slope)


def test_the_truth_knows_where_the_corners_are() -> None:
    camera = Camera(Size(1920, 1080), VIEWS["from the side"][0])
    corners = true_corners(camera, A4_MM, LYING)
    with_page = photograph(camera, desk("black"), contour_sheet(), LYING).y
    without = photograph(camera, desk("black"), None, LYING).y
    outline = np.zeros(with_page.shape, np.uint8)
    cv2.fillConvexPoly(outline, corners.round().astype(int), 255)
    inner, outer = cv2.erode(outline, np.ones((9, 9))), cv2.dilate(outline, np.ones((61, 61)))
    changed = cv2.absdiff(with_page, without) > 40
    assert changed[inner > 0].mean() > 0.97
    assert changed[outer == 0].mean() < 0.001
