import numpy as np
import pytest

from cartouche.bench.camera import true_corners
from cartouche.bench.devices import DOCUMENT_CAMERA, SHEET_LIES
from cartouche.bench.papers import A4_MM
from cartouche.core.call.audience import AUDIENCES
from cartouche.core.pictures import Size
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.reading.verdicts import PagePicture, readings, verdict
from cartouche.core.straighten.chain import Chain, FrameLink, MirrorLink
from cartouche.core.straighten.square_up import square_of

FEED = DOCUMENT_CAMERA.size
SQUARED = Chain(square=square_of(true_corners(DOCUMENT_CAMERA, A4_MM, SHEET_LIES), FEED))
PLACE, OUT = FIRST_PLATES[1].places[0], Size(1280, 720)


def points(chain: Chain, outgoing: Size = OUT) -> list[float]:
    made = [verdict(audience, PagePicture(chain, FEED, 0), PLACE, outgoing) for audience in AUDIENCES]
    return [one.print.points for one in made if one.print]


def test_only_the_self_view_reads_reversed() -> None:
    made = [verdict(audience, PagePicture(SQUARED, FEED, 0), PLACE, OUT) for audience in AUDIENCES]
    assert [one.path.reads_true for one in made if one.path] == [True, True, True, False]


def test_going_closer_reads_smaller_print_until_the_camera_sets_the_limit() -> None:
    whole, closer = points(SQUARED), points(SQUARED.model_copy(update={"frame": FrameLink(zoom=1.8)}))
    assert all(a >= b for a, b in zip(whole, closer, strict=True))
    assert closer[1] < whole[1]


def test_a_plate_without_the_page_has_no_verdict() -> None:
    made = verdict(AUDIENCES[0], None, None, OUT)
    assert (made.path, made.print) == (None, None)


def test_without_a_paper_size_nothing_is_said_of_print() -> None:
    made = verdict(AUDIENCES[0], PagePicture(Chain(mirror=MirrorLink(left_right=True)), FEED, 1), PLACE, OUT)
    assert made.print is None
    assert made.path is not None
    assert made.path.reads_true


def test_readings_agree_with_the_bench() -> None:
    found = readings(SQUARED, FEED)
    eye = np.array(DOCUMENT_CAMERA.pose.position)
    look = np.array([*DOCUMENT_CAMERA.pose.target, 0]) - eye
    assert found.tilt_deg == pytest.approx(np.degrees(np.arccos(look[2] / np.linalg.norm(look))), abs=0.2)
    assert found.px_per_mm is not None
    corners = true_corners(DOCUMENT_CAMERA, A4_MM, SHEET_LIES)
    left = np.linalg.norm(corners[3] - corners[0]) / 297
    assert found.px_per_mm[0] < left < found.px_per_mm[1] * 1.2
    assert found.canvas.aspect == pytest.approx(210 / 297)


def test_unsquared_there_is_nothing_to_read() -> None:
    assert readings(Chain(), FEED)[:3] == (None, None, None)
