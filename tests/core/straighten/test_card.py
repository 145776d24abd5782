"""The set-up card, read from pictures whose truth is known."""

import cv2
import numpy as np
import pytest

from benchmarks.card import view
from cartouche.bench.devices import DEVICES, settled
from cartouche.bench.laid import card_paper
from cartouche.core.pictures import Frame, Size, YuvColour, blank_frame
from cartouche.core.reading.handedness import light_path
from cartouche.core.straighten.card import CardReading, NoCard, chain_from, layout, read_card
from cartouche.core.straighten.chain import Chain, straighten
from cartouche.core.straighten.geometry import rectangle, transform


def laid(name: str) -> tuple[Frame, np.ndarray, int]:
    device = DEVICES[name]()
    device.lay("card")
    truth = device.corners()
    assert truth is not None
    return settled(device), truth, device.mirrors


@pytest.mark.parametrize("name", ["document-camera", "clip-mirror"])
def test_everything_is_measured_from_one_picture(name: str) -> None:
    frame, truth, mirrors = laid(name)
    told = read_card(frame)
    assert isinstance(told, CardReading)
    assert told.mirrored == bool(mirrors)
    assert np.linalg.norm(told.corners - truth, axis=1).max() < 1.5
    assert told.paper == "A4"
    assert told.in_focus
    assert told.exposure == "good"
    assert told.covered == ()
    assert told.focal == pytest.approx({"document-camera": 0.93, "clip-mirror": 0.84}[name], rel=0.03)


@pytest.mark.parametrize("name", ["document-camera", "clip-mirror"])
def test_its_chain_sets_the_card_upright_and_true(name: str) -> None:
    frame, truth, mirrors = laid(name)
    told = read_card(frame)
    assert isinstance(told, CardReading)
    chain = chain_from(told, Chain(), frame.size)
    made = straighten(chain, frame.size)
    assert np.allclose(transform(made.matrix, truth), rectangle(made.canvas), atol=2.0)
    assert light_path(mirrors, 0, chain, 0).reads_true
    assert made.mm_per_unit == pytest.approx(210 / made.canvas.width, rel=0.01)


@pytest.mark.parametrize("number", range(6))
def test_any_view_gives_millimetres_and_lens(number: int) -> None:
    random = np.random.default_rng(100 + number)
    scene, camera, distortion, tilt = view(random, number)
    told = read_card(scene.frame)
    assert isinstance(told, CardReading)
    assert told.paper == ("A4" if number % 2 else "Letter")
    assert told.mirrored == bool(camera.mirrors)
    assert told.distortion == pytest.approx(distortion, abs=0.04)  # a flat optimum: corners, below, are what counts
    assert told.tilt_deg == pytest.approx(tilt, abs=2.5)
    assert np.linalg.norm(told.corners - scene.corners, axis=1).mean() < 2.0


def test_partly_covered_it_still_works_and_says_what_is_covered() -> None:
    frame, truth, _ = laid("document-camera")
    x, y = truth[0].astype(int)
    cv2.circle(frame.y, (int(x), int(y)), 170, 90, -1)
    told = read_card(frame)
    assert isinstance(told, CardReading)
    assert told.covered == ("upper left",)
    assert np.linalg.norm(told.corners - truth, axis=1).mean() < 2.0


def test_out_of_focus_is_told() -> None:
    frame, _, _ = laid("document-camera")
    soft = read_card(Frame(cv2.GaussianBlur(frame.y, (0, 0), 3.5), frame.u, frame.v, 0.0))  # type: ignore[arg-type]
    assert isinstance(soft, CardReading)
    assert not soft.in_focus
    assert soft.rise_px == pytest.approx(2.56 * 3.5, rel=0.25)


@pytest.mark.parametrize(("gain", "word"), [(0.45, "too dark"), (1.4, "too bright")])
def test_exposure_is_told(gain: float, word: str) -> None:
    frame, _, _ = laid("document-camera")
    told = read_card(Frame(cv2.convertScaleAbs(frame.y, alpha=gain), frame.u, frame.v, 0.0))  # type: ignore[arg-type]
    assert isinstance(told, CardReading)
    assert told.exposure == word


def test_no_card_and_one_mark_say_what_to_do() -> None:
    told = read_card(blank_frame(Size(1280, 720), YuvColour(120, 128, 128)))
    assert isinstance(told, NoCard)
    assert "none of its eight marks" in told.reason
    frame, _, _ = laid("document-camera")
    whole = read_card(frame)
    assert isinstance(whole, CardReading)
    keep = transform(whole.to_px, layout("A4").marks[0]).mean(axis=0)
    mask = np.zeros(frame.y.shape, np.uint8)
    cv2.circle(mask, (int(keep[0]), int(keep[1])), 80, 1, -1)
    frame.y[mask == 0] = 120
    told = read_card(frame)
    assert isinstance(told, NoCard)
    assert "only one" in told.reason


def test_the_layout_keeps_everything_on_the_paper_and_apart() -> None:
    for paper in ("A4", "Letter"):
        made = layout(paper)
        assert len(made.marks) == 8
        for corners in made.marks.values():
            assert (corners > 0).all()
            assert (corners < np.array(made.size)).all()
        assert made.samples.y + made.samples.height < made.size.height
        assert card_paper(paper).width_mm == made.size.width
    assert not set(layout("A4").marks) & set(layout("Letter").marks)
