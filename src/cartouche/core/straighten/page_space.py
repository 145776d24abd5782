"""Page space: coordinates on the page itself, which stay on the printed spot when the page is followed or reframed.

Millimetres from the page's corner where a paper is named, else shares of its longer side. They stand before turn, mirror and
frame: what is kept in them (ink, sheets, bands, a held picture) moves with the paper and with nothing else.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Matrix, Size, scaling
from cartouche.core.straighten.chain import Chain, millimetres_across, square_matrix, straighten
from cartouche.core.straighten.geometry import transform
from cartouche.core.straighten.lens import distort, undistort

Points = NDArray[np.float64]  # (n, 2), (x, y)


@dataclass(frozen=True, slots=True, eq=False)
class PageSpace:
    """size: of the page, in `unit`.  from_feed: undistorted feed px -> page units, (3, 3).  to_canvas: page units -> canvas units."""

    size: Size
    unit: str  # 'mm' or 'share'
    from_feed: Matrix
    to_canvas: Matrix
    feed: Size
    distortion: float

    def on_page(self, points: Points) -> Points:
        """Feed px as they come to page units, (n, 2) -> (n, 2)."""
        straight = undistort(points, self.distortion, self.feed) if self.distortion else points
        return transform(self.from_feed, straight)

    def on_feed(self, points: Points) -> Points:
        """Page units to feed px as they come, (n, 2) -> (n, 2): the inverse of `on_page`."""
        straight = transform(np.linalg.inv(self.from_feed), points)
        return distort(straight, self.distortion, self.feed) if self.distortion else straight

    def on_canvas(self, points: Points) -> Points:
        """Page units to units of the straightened canvas, turned and flipped as the chain says, (n, 2) -> (n, 2)."""
        return transform(self.to_canvas, points)


def page_space(chain: Chain, feed: Size) -> PageSpace:
    """Of a feed of this size under this chain; without a squared page, the picture's own area stands for the page.

    feed: px.  Raises DegenerateCorners.
    """
    square = chain.square
    matrix, canvas = square_matrix(square, feed, chain.distortion) if square.on else (np.eye(3), feed)
    named = square.on and square.paper is not None
    per_canvas = millimetres_across(square) / canvas.width if named else 1 / max(canvas)
    size = Size(canvas.width * per_canvas, canvas.height * per_canvas)
    from_feed = scaling(per_canvas, per_canvas) @ matrix
    to_canvas = straighten(chain, feed).matrix @ np.linalg.inv(from_feed)
    return PageSpace(size, "mm" if named else "share", from_feed, to_canvas, feed, chain.distortion if square.on else 0.0)
