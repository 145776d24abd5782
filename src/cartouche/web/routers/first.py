"""The first minute: which camera seems to see a page and which a face, before any of them is in the kit."""

import asyncio
import time
from typing import Annotated

import cv2
import numpy as np
import simplejpeg
from fastapi import Depends, Path, Request
from pydantic import BaseModel

from cartouche.core.kit.propose import look
from cartouche.core.pictures import Frame, frame_from_bgr
from cartouche.live.errors import UndecodablePicture
from cartouche.live.planes import MAX_PIXELS
from cartouche.models import person_net
from cartouche.web.kit_schemas import RigId
from cartouche.web.routing import screen_router
from cartouche.web.state import AppState, app_state

router = screen_router("first minute", "/api/first")
State = Annotated[AppState, Depends(app_state)]
MAX_CAMERAS = 12


class ProposedView(BaseModel):
    """camera: its number.  sure: 0-1."""

    camera: int
    sure: float


class ProposalView(BaseModel):
    """None where no camera shows it. rig: how the page's camera seems to be held."""

    page: ProposedView | None
    face: ProposedView | None
    rig: RigId
    says: str


@router.post("/{tab}/cameras/{camera}", openapi_extra={"requestBody": {"content": {"image/jpeg": {}}, "required": True}})
async def saw(
    request: Request,
    state: State,
    tab: Annotated[str, Path(pattern=r"^[a-z0-9]{8}$")],
    camera: Annotated[int, Path(ge=0, lt=MAX_CAMERAS)],
) -> ProposalView:
    """One JPEG of one camera that is offered. It is looked at and forgotten."""
    picture = await request.body()
    return await asyncio.to_thread(_saw, state, tab, camera, picture)


def _saw(state: AppState, tab: str, camera: int, picture: bytes) -> ProposalView:
    watcher = state.running.watcher
    sight = look(_frame(picture), watcher.page_nets, person_net(), watcher.way_of)
    found = state.sights.saw(tab, camera, sight, time.monotonic())
    page, face = (ProposedView(camera=int(one.id), sure=one.sure) if one is not None else None for one in (found.page, found.face))
    return ProposalView(page=page, face=face, rig=found.rig, says=found.says)  # type: ignore[arg-type]


def _frame(picture: bytes) -> Frame:
    """Raises UndecodablePicture. The size is read before anything is decoded."""
    try:
        height, width, _, _ = simplejpeg.decode_jpeg_header(picture)
    except ValueError as exc:
        raise UndecodablePicture("camera", "not a JPEG") from exc
    if min(height, width) < 64 or height * width > MAX_PIXELS:
        raise UndecodablePicture("camera", "of another size")
    decoded = cv2.imdecode(np.frombuffer(picture, np.uint8), cv2.IMREAD_COLOR)
    if decoded is None:
        raise UndecodablePicture("camera", "not a JPEG")
    return frame_from_bgr(np.asarray(decoded, np.uint8))
