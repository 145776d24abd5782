import numpy as np
import pytest

from cartouche.bench.devices import DEVICES, DOCUMENT_CAMERA, settled
from cartouche.core.straighten.chain import Chain, MirrorLink, TurnLink
from cartouche.core.straighten.finder import Found, find_page
from cartouche.core.straighten.rigs import RIGS, first_guess, rig_named
from cartouche.core.straighten.square_up import named, squared_up
from cartouche.models import page_nets


@pytest.fixture(scope="module")
def found() -> Found:
    page = find_page(settled(DEVICES["document-camera"](), 30.0), page_nets())
    assert isinstance(page, Found)
    return page


SIZE = DOCUMENT_CAMERA.size
FAR = rig_named("arm-far-side")


def test_a_first_squaring_starts_from_the_rig(found: Found) -> None:
    chain = squared_up(found, Chain(), SIZE, FAR)
    assert (chain.square.on, chain.square.paper, chain.turn.quarters, chain.flips) == (True, "A4", 2, 0)


def test_the_same_page_moved_keeps_turn_flips_and_frame(found: Found) -> None:
    chain = squared_up(found, Chain(), SIZE, FAR)
    chain = chain.model_copy(update={"turn": TurnLink(quarters=1, fine_deg=2), "mirror": MirrorLink(top_bottom=True)})
    moved = found._replace(corners=found.corners + np.array([40, -20]))
    again = squared_up(moved, chain, SIZE, FAR)
    assert (again.turn, again.mirror) == (chain.turn, chain.mirror)
    assert np.allclose(again.square.corners_px(SIZE) - chain.square.corners_px(SIZE), (40, -20))


def test_the_corner_order_of_the_former_page_is_kept(found: Found) -> None:
    """The finder starts at the corner that looks upper-left; a page whose top lies elsewhere must not turn round."""
    chain = squared_up(found, Chain(), SIZE, FAR)
    rolled = found._replace(corners=np.roll(found.corners, 2, axis=0))
    assert np.allclose(squared_up(rolled, chain, SIZE, FAR).square.corners, chain.square.corners)


def test_a_paper_that_the_teacher_named_stays_named(found: Found) -> None:
    chain = squared_up(found, Chain(), SIZE, FAR)
    chain = chain.model_copy(update={"square": named(chain.square, "A5", False)})
    assert squared_up(found, chain, SIZE, FAR).square.paper == "A5"


def test_naming_a_paper_sets_its_proportions() -> None:
    square = Chain().square
    assert named(square, "Letter", True).aspect == pytest.approx(279.4 / 215.9)
    assert named(square, None, False).aspect == square.aspect


@pytest.mark.parametrize("rig", RIGS, ids=lambda rig: rig.id)
def test_a_rigs_first_guess_undoes_its_mirrors(rig) -> None:  # type: ignore[no-untyped-def]
    chain = first_guess(rig, Chain())
    assert (rig.mirrors + chain.flips) % 2 == 0
    assert rig.price.endswith(".")


def test_an_unknown_rig_is_an_error() -> None:
    with pytest.raises(KeyError):
        rig_named("on-a-kite")
