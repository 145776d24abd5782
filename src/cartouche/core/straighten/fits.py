"""Lines and parabolas through many rows of points at once, by weighted least squares in closed form.

All rows have their points at the same shares s of their way, 0-1; y(s) = a + b s + c s^2.
"""

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float64]


def powers(shares: Values) -> Values:
    """s^0 to s^4 of each share, (m, 5)."""
    return np.vander(shares, 5, increasing=True)


def sums(of: Values, y: Values, weight: Values) -> tuple[Values, Values]:
    """Of each row: (n, 5) of weight s^k, and (n, 3) of weight y s^k. of: see `powers`.  y, weight: (n, m)."""
    return weight @ of, (weight * y) @ of[:, :3]


def straight(held: Values, moments: Values) -> Values:
    """a, b and c = 0 of each row, (n, 3); all 0 where nothing weighs. held, moments: see `sums`."""
    (n, x, xx, _, _), (y, xy, _) = held.T, moments.T
    lines = np.zeros((len(held), 3))
    lines[:, 1] = (n * xy - x * y) / np.maximum(n * xx - x * x, 1e-9)
    lines[:, 0] = (y - lines[:, 1] * x) / np.maximum(n, 1e-9)
    return lines


def parabolas(held: Values, moments: Values) -> Values:
    """a, b, c of each row, (n, 3); all 0 where nothing weighs. held, moments: see `sums`."""
    squares = held[:, _HANKEL] + _A_TRIFLE
    return np.asarray(np.linalg.solve(squares, moments[..., None])[..., 0])


_HANKEL, _A_TRIFLE = np.arange(3)[:, None] + np.arange(3), 1e-9 * np.eye(3)  # the latter keeps what nothing weighs solvable
