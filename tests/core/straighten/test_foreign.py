"""Pictures that another program rendered (benchmarks/traced), harder than the bench's."""

import numpy as np
import pytest

from benchmarks.finder import GOOD_OVERLAP, GOOD_SHARE, SURE, overlap
from benchmarks.foreign import Picture, off_share, pictures, straightened
from cartouche.core.pictures import frame_from_bgr
from cartouche.core.reading.proof import read_way
from cartouche.core.straighten.finder import find_page
from cartouche.models import page_nets, way_net

SHOWN = list(pictures())
MOSTLY = 0.8  # a floor against going backwards, under the 0.85 that was measured


def test_the_page_is_found_in_most() -> None:
    assert len(SHOWN) == 40
    founds = [find_page(frame_from_bgr(shown.bgr), page_nets()) for shown in SHOWN]
    shared = [overlap(found.corners, shown.corners) if found else 0.0 for found, shown in zip(founds, SHOWN, strict=True)]
    assert np.mean(np.array(shared) >= GOOD_OVERLAP) >= MOSTLY
    sure = [off_share(found, shown) for found, shown in zip(founds, SHOWN, strict=True) if found and found.confidence >= SURE]
    assert len(sure) > len(SHOWN) / 2
    assert max(sure) < GOOD_SHARE, "of 40, none that it calls sure may be off"


@pytest.mark.parametrize("shown", SHOWN, ids=lambda shown: shown.name)
def test_print_is_never_said_to_stand_the_wrong_way(shown: Picture) -> None:
    assert read_way(straightened(shown), way_net()).reads_true in (None, not shown.mirrored)
