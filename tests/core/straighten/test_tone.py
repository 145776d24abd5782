"""Even light: paper to white, ink stays ink, a picture on the page keeps its darkness."""

import cv2
import numpy as np
import pytest

from benchmarks.light import CHAIN, Measure, lit
from cartouche.bench.more_papers import Look, sheet
from cartouche.bench.papers import contour_sheet
from cartouche.core.pictures import Frame, Size, frame_from_bgr
from cartouche.core.straighten.chain import Chain, ColourLink, LightLink
from cartouche.core.straighten.tone import Tone, apply_tone, correction, page_tone, white_table


def corrected(frame: Frame, chain: Chain = CHAIN) -> Frame:
    tone = page_tone(frame)
    assert tone is not None
    size = (int(frame.size.width), int(frame.size.height))
    shown = Frame.of([plane.copy() for plane in frame.planes], 0.0)
    apply_tone(shown.planes, correction(tone, chain, np.eye(3), frame.size, size))
    return shown


@pytest.mark.parametrize("seed", range(4))
def test_paper_becomes_even_and_ink_stays_dark(seed: int) -> None:
    flat, frame = lit(np.random.default_rng(seed), contour_sheet() if seed % 2 else sheet("A4", False, Look("text", 1)))
    truth = Measure(flat)
    before, after = truth.of(frame), truth.of(corrected(frame))
    assert after["evenness"] > 0.85
    assert after["evenness"] > before["evenness"]
    assert after["ink_contrast"] > before["ink_contrast"] - 0.02
    assert after["colour_off_lab"] < before["colour_off_lab"] or np.isnan(after["colour_off_lab"])


def test_a_picture_on_the_page_is_not_bleached() -> None:
    page = np.full((1000, 700, 3), 215, np.uint8)
    page[300:600, 150:550] = (70, 80, 90)
    page[320:580:8, 170:530] = (110, 100, 60)
    shown = corrected(frame_from_bgr(page))
    assert shown.y[450, 50] > 245
    assert shown.y[300:600, 150:550].mean() < 125


def test_a_shadow_is_told_where_it_lies() -> None:
    page = np.full((1000, 700, 3), 235, np.float32)
    xs, ys = np.meshgrid(np.linspace(0, 1, 700), np.linspace(0, 1, 1000))
    page *= (1 - 0.5 / (1 + np.exp(-(xs + ys - 1.5) / 0.06)))[:, :, None]
    tone = page_tone(frame_from_bgr(page.astype(np.uint8)))
    assert tone is not None
    assert tone.shadow is not None
    assert min(tone.shadow) > 0.6
    assert tone.evenness < 0.72


def test_a_highlight_is_told_with_its_place() -> None:
    page = np.full((1000, 700, 3), 190, np.uint8)
    cv2.circle(page, (500, 250), 60, (255, 255, 255), -1)
    tone = page_tone(frame_from_bgr(page))
    assert tone is not None
    assert tone.clipped_at is not None
    assert tone.clipped_at == pytest.approx((500 / 700, 0.25), abs=0.03)
    assert tone.clipped == pytest.approx(np.pi * 60**2 / 7e5, rel=0.2)


def test_a_glowing_screen_is_too_bright() -> None:
    page = np.full((1000, 700, 3), 90, np.uint8)
    page[200:800, 100:600] = 255
    tone = page_tone(frame_from_bgr(page))
    assert tone is not None
    assert tone.too_bright


def test_no_bare_paper_tells_nothing() -> None:
    noise = np.random.default_rng(0).integers(0, 255, (400, 300, 3)).astype(np.uint8)
    assert page_tone(frame_from_bgr(noise)) is None


def test_white_balance_by_hand_and_none() -> None:
    frame = frame_from_bgr(np.full((400, 300, 3), (180, 200, 225), np.uint8))
    neutral = corrected(frame, Chain(colour=ColourLink(on=True)))
    assert abs(int(neutral.u[50, 50]) - 128) <= 2
    assert abs(int(neutral.v[50, 50]) - 128) <= 2
    cooler = corrected(frame, Chain(colour=ColourLink(on=True, set="hand", warmth=-0.5)))
    assert cooler.u[50, 50] > frame.u[50, 50]
    left = corrected(frame, Chain())
    assert np.array_equal(left.u, frame.u)


def test_lift_of_nought_leaves_luma_alone() -> None:
    assert np.abs(white_table(0.0).astype(int) - np.arange(256)).max() <= 10
    frame = frame_from_bgr(np.full((400, 300, 3), 150, np.uint8))
    shown = corrected(frame, Chain(light=LightLink(on=True, lift=0.0)))
    assert abs(int(shown.y[9, 9]) - 150) <= 2


def test_the_place_decides_which_light_a_pixel_gets() -> None:
    page = np.full((800, 600, 3), 220, np.uint8)
    page[:, 300:] = np.linspace(220, 120, 300)[None, :, None].astype(np.uint8)
    tone = page_tone(frame_from_bgr(page))
    assert tone is not None
    right_half = correction(tone, CHAIN, np.array([[1, 0, 300], [0, 1, 0], [0, 0, 1.0]]), Size(600, 800), (300, 800))
    assert right_half.gain is not None
    assert right_half.gain[400, 290] > 1.5 > right_half.gain[400, 5]


def test_a_lamp_on_one_side_and_a_window_on_the_other_leave_white_paper_everywhere() -> None:
    share = np.linspace(0, 1, 700)[None, :, None]
    page = np.tile((1 - share) * (205, 220, 235) + share * (232, 222, 208), (1000, 1, 1))
    page[200:800:25, 60:640] = (40, 40, 40)
    shown = corrected(frame_from_bgr(page.astype(np.uint8)))
    paper = shown.y[::2, ::2] > 200
    for plane in (shown.u, shown.v):
        assert np.abs(plane[paper].astype(int) - 128).max() <= 5


def test_skin_on_the_page_keeps_its_colour() -> None:
    page = np.full((1000, 700, 3), 225, np.uint8)
    cv2.ellipse(page, (350, 900), (170, 260), 0, 0, 360, (150, 175, 215), -1)
    frame = frame_from_bgr(page)
    shown = corrected(frame)
    assert abs(int(shown.v[470, 175]) - int(frame.v[470, 175])) <= 4


def test_where_too_much_light_took_the_tint_nothing_turns_blue() -> None:
    page = np.full((1000, 700, 3), (190, 210, 228), np.uint8)
    cv2.circle(page, (350, 500), 220, (255, 255, 255), -1)
    shown = corrected(frame_from_bgr(cv2.GaussianBlur(page, (0, 0), 25)))
    assert abs(int(shown.u[250, 175]) - 128) <= 4
    assert abs(int(shown.u[20, 20]) - 128) <= 4


def test_pale_print_on_smooth_paper_stays() -> None:
    page = np.full((1000, 700, 3), 205, np.uint8)
    page[200:800:20, 60:640] = 184  # a tenth darker: small print that blur has left grey
    noise = np.random.default_rng(1).normal(0, 1.5, page.shape)
    shown = corrected(frame_from_bgr(np.clip(page + noise, 0, 255).astype(np.uint8)))
    assert np.median(shown.y[210:790, 100:600]) >= 254
    assert np.median(shown.y[200:800:20, 100:600]) < 238


def test_grainy_paper_is_white_too() -> None:
    page = np.full((1000, 700, 3), 200, np.uint8)
    noise = np.random.default_rng(2).normal(0, 7, page.shape[:2])[:, :, None]
    shown = corrected(frame_from_bgr(np.clip(page + noise, 0, 255).astype(np.uint8)))
    assert np.percentile(shown.y, 10) > 244


@pytest.mark.parametrize("seed", range(12))
def test_no_picture_divides_by_nothing(seed: int) -> None:
    """Black, white, flat, noise, stripes, tiny: a phone sends any of them."""
    random = np.random.default_rng(seed)
    height, width = int(random.integers(8, 120)) * 2, int(random.integers(8, 160)) * 2
    kinds = [
        lambda: np.zeros((height, width), np.uint8),
        lambda: np.full((height, width), 255, np.uint8),
        lambda: random.integers(0, 256, (height, width)).astype(np.uint8),
        lambda: (random.random((height, width)) < 0.02).astype(np.uint8) * 255,
        lambda: np.repeat((np.arange(width) % 16 < 8)[None].astype(np.uint8) * 255, height, axis=0),
        lambda: np.where(np.arange(width)[None] < width // 2, 0, 250).astype(np.uint8) * np.ones((height, 1), np.uint8),
    ]
    for make in kinds:
        luma = np.ascontiguousarray(make())
        chroma = random.integers(100, 156, (2, height // 2, width // 2)).astype(np.uint8)
        tone = page_tone(Frame.of([luma, chroma[0], chroma[1]], 0.0))
        assert tone is None or np.isfinite(tone.light).all()
        assert tone is None or tone.verdict


def test_two_looks_at_one_light_say_the_same_and_another_light_does_not() -> None:
    random = np.random.default_rng(5)
    paper = np.full((1000, 700, 3), 215, np.uint8)

    def look(dark: float = 0.9, spot: int = 0) -> Tone:
        lit = paper * np.linspace(1, dark, 700)[:, None] + random.normal(0, 2, paper.shape)
        lit[700 : 700 + spot, 100 : 100 + spot] = 255
        tone = page_tone(frame_from_bgr(np.clip(lit, 0, 255).astype(np.uint8)))
        assert tone is not None
        return tone

    first = look()
    assert first.evenness != look().evenness, "no two looks measure the same"
    assert all(first.says_as(look()) for _ in range(5))
    assert not any(first.says_as(other) for other in (look(0.6), look(0.8), look(spot=120)))
