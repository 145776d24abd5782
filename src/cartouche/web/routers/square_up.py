"""Square up: the chain of one device. What the running picture says of it: square_up_views."""

import time
from collections.abc import Iterator
from typing import Annotated, Literal

import numpy as np
from fastapi import Depends
from fastapi.responses import Response

from cartouche.core.pictures import Corners, Frame, Size
from cartouche.core.reading.upright import set_upright
from cartouche.core.straighten.card import NoCard, chain_from, read_card
from cartouche.core.straighten.chain import Chain, UnbendLink
from cartouche.core.straighten.finder import NotFound
from cartouche.core.straighten.framing import Framing
from cartouche.core.straighten.gate import is_drawable
from cartouche.core.straighten.geometry import Keystone, nearest_keystone
from cartouche.core.straighten.glide import FRAME_S
from cartouche.core.straighten.rigs import rig_named
from cartouche.core.straighten.square_up import named, squared_up
from cartouche.core.straighten.way_up import seen
from cartouche.live.errors import DistortionUnknown, NoCardFound, NoPageFound, NoPictureYet, NothingKept
from cartouche.printed import card_pdf, card_png
from cartouche.store import chains, settings
from cartouche.web.errors import AtTheEnd, NothingToStep
from cartouche.web.routers.square_up_views import BOARD, advices, card_view, framing_of, square_up_view
from cartouche.web.routing import screen_router
from cartouche.web.schemas import CardPaperName, Id
from cartouche.web.square_up_schemas import (
    AdviceTaken,
    BoardChange,
    ChainChange,
    FrameChange,
    KeystoneChange,
    LinkChange,
    PaperChange,
    SquareUpView,
    WayUpChange,
)
from cartouche.web.state import AppState, app_state
from cartouche.web.validation import validated

router = screen_router("square up", "/api/square-up/{device_id}")
cards = screen_router("square up", "/api/card")
State = Annotated[AppState, Depends(app_state)]
_STANDS: dict[Framing, str] = {
    "whole": "the whole page",
    "upper": "the upper half",
    "lower": "the lower half",
    "band": "the band",
    "next": "the end of the page",
    "previous": "the start of the page",
}
FIND_AGAIN_S = 0.25  # a writing hand has moved on by then
DISTORTION_FRAMES, DISTORTION_PAUSE_S = 8, 0.05  # noise of one frame's edges is averaged away by eight


@router.get("")
def square_up(device_id: Id, state: State) -> SquareUpView:
    return square_up_view(state, device_id)


@router.put("/chain")
def change_chain(device_id: Id, change: ChainChange, state: State) -> SquareUpView:
    return _apply(state, device_id, change.chain, change.settled)


@router.patch("/chain")
def change_link(device_id: Id, change: LinkChange, state: State) -> SquareUpView:
    """One link of the chain in force; a press is never lost to another that was on its way."""
    with state.lock:
        chain = _running_chain(state, device_id)
        link = getattr(chain, change.link)
        changed = validated(type(link), {**link.model_dump(), **change.values})
        return _apply(state, device_id, chain.model_copy(update={change.link: changed}), change.settled)


@router.put("/keystone")
def change_keystone(device_id: Id, change: KeystoneChange, state: State) -> SquareUpView:
    """Set keystone by its two numbers; the corners follow, as far as they make a page."""
    chain = _running_chain(state, device_id)
    size = _newest(state, device_id).size

    def squared(corners: Corners) -> Chain:
        changed = {"on": True, "follow": False, "corners": (corners / size).tolist()}
        square = chain.square.model_validate({**chain.square.model_dump(), **changed})
        return chain.model_copy(update={"square": square})

    def allowed(corners: Corners) -> bool:
        inside = bool((np.abs(corners / size - 0.5) < 2.4).all())
        return inside and is_drawable(squared(corners), size)

    wanted = Keystone(change.vertical, change.horizontal)
    return _apply(state, device_id, squared(nearest_keystone(chain.square.corners_px(size), wanted, allowed)), change.settled)


@router.put("/paper")
def name_paper(device_id: Id, change: PaperChange, state: State) -> SquareUpView:
    chain = _running_chain(state, device_id)
    square = named(chain.square, change.paper, change.lying)
    return _apply(state, device_id, chain.model_copy(update={"square": square}), settled=True)


@router.post("/find")
def find(device_id: Id, state: State) -> SquareUpView:
    """Find the page in the newest picture, or the next ones, set the chain by it, and turn and flip it as its own print says."""
    device = state.device(device_id)
    frames: list[Frame] = []
    found = state.running.watcher.find_steady(_coming(state, device_id, frames))
    frame = frames[-1]
    if isinstance(found, NotFound):
        raise NoPageFound(device.name, found.reason)
    chain = squared_up(found, _running_chain(state, device_id), frame.size, rig_named(device.rig))
    upright = set_upright(chain, state.running.watcher.way_of(chain, frame))
    state.remember_found(device_id, chain, found.confidence)
    view = _apply(state, device_id, upright.chain, settled=True)
    return view.model_copy(update={"way_told": upright.told, "way_says": upright.says})


@router.put("/way-up")
def set_way_up(device_id: Id, change: WayUpChange, state: State) -> SquareUpView:
    """Flip or turn the page as it is seen."""
    with state.lock:
        return _apply(state, device_id, seen(_running_chain(state, device_id), change.quarters, change.flip), settled=True)


@router.post("/card")
def use_card(device_id: Id, state: State) -> SquareUpView:
    """Measure everything from the set-up card in the newest picture, and set the chain by it."""
    frame, begun_s = _newest(state, device_id), time.monotonic()
    reading = read_card(frame)
    if isinstance(reading, NoCard):
        raise NoCardFound(state.device(device_id).name, reading.reason)
    chain = chain_from(reading, _running_chain(state, device_id), frame.size)
    took_s = time.monotonic() - begun_s
    view = _apply(state, device_id, chain, settled=True)
    return view.model_copy(update={"card": card_view(reading, chain, frame.size, took_s)})


@router.post("/unbend")
def measure_distortion(device_id: Id, state: State) -> SquareUpView:
    """Measure the lens from the page's edges in several pictures; kept with the device."""
    frames = [_newest(state, device_id).copy()]  # a feed draws over its own after a few more
    while len(frames) < DISTORTION_FRAMES:
        time.sleep(DISTORTION_PAUSE_S)
        frames.append(_newest(state, device_id).copy())
    distortion = state.running.watcher.distortion_of(frames)
    if not distortion:
        raise DistortionUnknown(state.device(device_id).name)
    chain = _running_chain(state, device_id)
    return _apply(state, device_id, chain.model_copy(update={"unbend": UnbendLink(on=True, distortion=distortion.value)}), settled=True)


@router.put("/frame")
def frame_page(device_id: Id, change: FrameChange, state: State) -> SquareUpView:
    """A named framing; the picture glides there."""
    chain = _running_chain(state, device_id)
    link = framing_of(state, device_id, chain, change.framing)
    if link == chain.frame:
        raise AtTheEnd(_STANDS[change.framing])
    return _apply(state, device_id, chain.model_copy(update={"frame": link}), settled=True, glide_s=FRAME_S)


@router.post("/advice")
def take_advice(device_id: Id, taken: AdviceTaken, state: State) -> SquareUpView:
    """Do what was advised, as it was computed."""
    advised = next((advice for advice in advices(state, device_id) if advice.way == taken.way), None)
    if advised is not None and taken.way == "sharp":
        with state.lock:
            state.running.resize(Size(1920, 1080))
            settings.set_setting(state.database, "outgoing_size", "1080p")
    elif advised is not None and advised.chain is not None:
        return _apply(state, device_id, advised.chain, settled=True, glide_s=FRAME_S)
    return square_up_view(state, device_id)


@router.put("/board")
def feed_board(device_id: Id, change: BoardChange, state: State) -> SquareUpView:
    """How the board in the room gets its picture: what mends it leaves all other audiences as they are."""
    settings.set_setting(state.database, BOARD, change.fed_by)
    state.running.stage.versions.touch("lesson")
    return square_up_view(state, device_id)


@router.post("/last-time")
def as_last_time(device_id: Id, state: State) -> SquareUpView:
    """The chain of an earlier day in this rig."""
    device = state.device(device_id)
    kept = chains.last_time(state.database, device_id, device.rig)
    if kept is None:
        raise NothingKept(device.name)
    return _apply(state, device_id, kept, settled=True)


@router.post("/undo")
def undo(device_id: Id, state: State) -> SquareUpView:
    return _step(state, device_id, "undo")


@router.post("/redo")
def redo(device_id: Id, state: State) -> SquareUpView:
    return _step(state, device_id, "redo")


def _step(state: AppState, device_id: str, way: Literal["undo", "redo"]) -> SquareUpView:
    with state.lock:
        kept = chains.current(state.database, state.device(device_id).id)
        moved = _running_chain(state, device_id) != kept.chain  # under a hand: undo takes that back
        if not (kept.can_redo if way == "redo" else kept.can_undo or moved):
            raise NothingToStep(way)
        state.step_chain(device_id, chains.redo if way == "redo" else chains.undo)
    return square_up_view(state, device_id)


@cards.get("/{paper}.pdf", response_class=Response)
def card_to_print(paper: CardPaperName) -> Response:
    """The set-up card, to print at its true size."""
    named_file = {"Content-Disposition": f'inline; filename="set-up-card-{paper}.pdf"'}
    return Response(card_pdf(paper), media_type="application/pdf", headers=named_file)


@cards.get("/{paper}.png", response_class=Response)
def card_to_show(paper: CardPaperName) -> Response:
    """The set-up card as a picture, to show full-screen."""
    return Response(card_png(paper), media_type="image/png")


def _apply(state: AppState, device_id: str, chain: Chain, settled: bool, glide_s: float = 0.0) -> SquareUpView:
    device = state.device(device_id)
    with state.lock:
        if settled:
            state.settle_chain(device.id, chain, glide_s)
        else:
            state.running.stage.correct(device.id, chain)
    return square_up_view(state, device_id)


def _running_chain(state: AppState, device_id: str) -> Chain:
    return state.chain(state.device(device_id).id)


def _coming(state: AppState, device_id: str, taken: list[Frame]) -> Iterator[Frame]:
    """The newest picture, and more, moments apart, for as long as they are asked for. taken: holds those that were."""
    while True:
        taken.append(_newest(state, device_id).copy())  # a feed draws over its own while it is read
        yield taken[-1]
        time.sleep(FIND_AGAIN_S)


def _newest(state: AppState, device_id: str) -> Frame:
    feed = state.running.feeds.get(state.device(device_id).id)
    if feed is None or feed.latest is None:
        raise NoPictureYet(state.device(device_id).name)
    return feed.latest
