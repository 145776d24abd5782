"""Square up: the chain of one device."""

from typing import Annotated

from fastapi import APIRouter, Depends

from cartouche.core.pictures import Frame, Size
from cartouche.core.reading.handedness import light_path
from cartouche.core.reading.verdicts import readings
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.finder import NotFound, find_page
from cartouche.core.straighten.geometry import Keystone, with_keystone
from cartouche.core.straighten.rigs import rig_named
from cartouche.core.straighten.square_up import named, squared_up
from cartouche.live.errors import NoPageFound, NoPictureYet
from cartouche.store import chains
from cartouche.web.schemas import ChainChange, Id, KeystoneChange, PaperChange, SquareUpView
from cartouche.web.state import AppState, app_state
from cartouche.web.views import path_view, readings_view

router = APIRouter(prefix="/api/square-up/{device_id}", tags=["square up"])
State = Annotated[AppState, Depends(app_state)]


@router.get("")
def square_up(device_id: Id, state: State) -> SquareUpView:
    return _view(state, device_id)


@router.put("/chain")
def change_chain(device_id: Id, change: ChainChange, state: State) -> SquareUpView:
    return _apply(state, device_id, change.chain, change.settled)


@router.put("/keystone")
def change_keystone(device_id: Id, change: KeystoneChange, state: State) -> SquareUpView:
    """Set keystone by its two numbers; the corners follow."""
    chain = _running_chain(state, device_id)
    size = _size(state, device_id)
    corners = with_keystone(chain.square.corners_px(size), Keystone(change.vertical, change.horizontal))
    square = chain.square.model_validate({**chain.square.model_dump(), "on": True, "corners": (corners / size).tolist()})
    return _apply(state, device_id, chain.model_copy(update={"square": square}), change.settled)


@router.put("/paper")
def name_paper(device_id: Id, change: PaperChange, state: State) -> SquareUpView:
    chain = _running_chain(state, device_id)
    square = named(chain.square, change.paper, change.lying)
    return _apply(state, device_id, chain.model_copy(update={"square": square}), settled=True)


@router.post("/find")
def find(device_id: Id, state: State) -> SquareUpView:
    """Find the page in the newest picture and set the chain by it."""
    device = state.device(device_id)
    frame = _frame(state, device_id)
    if frame is None:
        raise NoPictureYet(device.name)
    found = find_page(frame)
    if isinstance(found, NotFound):
        raise NoPageFound(device.name, found.reason)
    chain = squared_up(found, _running_chain(state, device_id), frame.size, rig_named(device.rig))
    view = _apply(state, device_id, chain, settled=True)
    return view.model_copy(update={"confidence": found.confidence})


@router.post("/undo")
def undo(device_id: Id, state: State) -> SquareUpView:
    with state.lock:
        chains.undo(state.database, state.device(device_id).id)
        return _return_to_kept(state, device_id)


@router.post("/redo")
def redo(device_id: Id, state: State) -> SquareUpView:
    with state.lock:
        chains.redo(state.database, state.device(device_id).id)
        return _return_to_kept(state, device_id)


def _return_to_kept(state: AppState, device_id: str) -> SquareUpView:
    state.running.correct(device_id, chains.current(state.database, device_id).chain)
    return _view(state, device_id)


def _apply(state: AppState, device_id: str, chain: Chain, settled: bool) -> SquareUpView:
    device = state.device(device_id)
    with state.lock:
        if settled:
            state.settle_chain(device.id, chain)
        else:
            state.running.correct(device.id, chain)
    return _view(state, device_id)


def _view(state: AppState, device_id: str) -> SquareUpView:
    device = state.device(device_id)
    kept = chains.current(state.database, device_id)
    chain = _running_chain(state, device_id)
    frame = _frame(state, device_id)
    path = light_path(rig_named(device.rig).mirrors, 0, chain, 0)
    return SquareUpView(
        device=device,
        chain=chain,
        can_undo=kept.can_undo,
        can_redo=kept.can_redo,
        feed_width=int(frame.size.width) if frame else None,
        feed_height=int(frame.size.height) if frame else None,
        readings=readings_view(readings(chain, frame.size)) if frame else None,
        learners=path_view(path),
    )


def _running_chain(state: AppState, device_id: str) -> Chain:
    running = state.running.setup.chains.get(state.device(device_id).id)
    return running if running is not None else chains.current(state.database, device_id).chain


def _frame(state: AppState, device_id: str) -> Frame | None:
    feed = state.running.feeds.get(device_id)
    return feed.latest if feed else None


def _size(state: AppState, device_id: str) -> Size:
    frame = _frame(state, device_id)
    if frame is None:
        raise NoPictureYet(state.device(device_id).name)
    return frame.size
