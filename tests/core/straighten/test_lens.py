"""One number for a bulging lens: both directions, and found again from lines that should be straight."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from cartouche.core.pictures import Size
from cartouche.core.straighten.lens import Distortion, distort, edge_share, estimate_distortion, undistort

HD = Size(1920, 1080)
bends = st.floats(-0.3, 0.2)


@given(bends, st.lists(st.tuples(st.floats(0, 1920), st.floats(0, 1080)), min_size=1, max_size=20))
def test_bending_undoes_unbending(distortion: float, points: list[tuple[float, float]]) -> None:
    there = np.array(points)
    assert np.allclose(distort(undistort(there, distortion, HD), distortion, HD), there, atol=1e-6)


def test_the_middle_stays_and_barrel_draws_the_edge_in() -> None:
    middle = np.array([[960.0, 540.0]])
    assert np.allclose(undistort(middle, -0.2, HD), middle)
    assert edge_share(-0.1, HD) < 0 < edge_share(0.1, HD)
    assert undistort(np.array([[1900.0, 540.0]]), -0.1, HD)[0, 0] > 1900


def lines(distortion: float, noise: float) -> list[np.ndarray]:
    random = np.random.default_rng(3)
    ends = (((120, 90), (1800, 140)), ((1790, 130), (1700, 1000)), ((200, 940), (1720, 1010)))
    return [distort(np.linspace(a, b, 64), distortion, HD) + random.normal(0, noise, (64, 2)) for a, b in ends]


@pytest.mark.parametrize("distortion", [-0.2, -0.08, -0.02, 0.0, 0.05])
def test_the_bend_is_found_from_three_lines(distortion: float) -> None:
    found = estimate_distortion(lines(distortion, 0.4), HD)
    assert found
    assert found.value == pytest.approx(distortion, abs=0.003)
    assert abs(found.value - distortion) < 6 * found.deviation


def test_a_hand_across_one_line_does_not_pull_it() -> None:
    told = lines(-0.1, 0.3)
    told[0][20:32, 1] += 25
    assert estimate_distortion(told, HD).value == pytest.approx(-0.1, abs=0.012)


def test_too_little_to_tell_is_falsy() -> None:
    assert not estimate_distortion([], HD)
    assert not estimate_distortion([np.array([[100.0, 100], [120, 100], [140, 101], [150, 100]])], HD)
    assert not Distortion(0.1, 0.5, 3)
