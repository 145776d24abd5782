"""Lines and parabolas through many rows at once, against such as are known."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from cartouche.core.straighten.fits import parabolas, powers, straight, sums

SHARES = np.linspace(0.03, 0.97, 24)
OF = powers(SHARES)
KNOWN = arrays(np.float64, (3, 3), elements=st.floats(-20, 20))
WEIGHT = np.random.default_rng(4).uniform(0.1, 1, (3, 24))


@settings(max_examples=40)
@given(KNOWN)
def test_parabolas_come_back_from_their_points_whatever_these_weigh(known: np.ndarray) -> None:
    assert np.allclose(parabolas(*sums(OF, known @ OF[:, :3].T, WEIGHT)), known, atol=1e-4)


@settings(max_examples=40)
@given(KNOWN)
def test_lines_come_back_and_are_those_of_least_squares(known: np.ndarray) -> None:
    y = known @ OF[:, :3].T
    made = straight(*sums(OF, y, WEIGHT))
    for row in range(3):
        slope, start = np.polyfit(SHARES, y[row], 1, w=np.sqrt(WEIGHT[row]))
        assert np.allclose(made[row], (start, slope, 0), atol=1e-6)


def test_where_nothing_weighs_it_is_no_line_and_no_error() -> None:
    nothing = sums(OF, np.ones((2, 24)), np.zeros((2, 24)))
    assert (straight(*nothing) == 0).all()
    assert (parabolas(*nothing) == 0).all()
