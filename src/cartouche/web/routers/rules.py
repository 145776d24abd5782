"""Limits and lists of the core that screens lay out."""

from typing import cast

from cartouche.core.plates.model import MAX_PLACES
from cartouche.core.straighten.chain import FINE_MAX_DEG, ZOOM_MAX
from cartouche.core.straighten.lens import MAX_DISTORTION, MIN_DISTORTION
from cartouche.core.straighten.paper import PAPERS_MM
from cartouche.web.routing import screen_router
from cartouche.web.schemas import PaperName, RulesView
from cartouche.web.square_up_schemas import KEYSTONE_MAX

router = screen_router("rules", "/api/rules")


@router.get("")
def rules() -> RulesView:
    return RulesView(
        papers=cast(list[PaperName], list(PAPERS_MM)),
        zoom_max=ZOOM_MAX,
        fine_max_deg=FINE_MAX_DEG,
        distortion_max=MAX_DISTORTION,
        straight_below=MIN_DISTORTION,
        keystone_max=KEYSTONE_MAX,
        max_pictures=MAX_PLACES,
    )
