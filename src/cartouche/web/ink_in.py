"""Hands that draw: one socket each, from this computer's screens or from a tablet at the guests' door."""

import asyncio
import json
import time
from collections.abc import Callable
from typing import Annotated, Literal

from fastapi import WebSocket
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from cartouche.core.ink.strokes import Ink
from cartouche.store import ink
from cartouche.store.errors import StoreError
from cartouche.web.errors import NoPageServes, NothingToStep
from cartouche.web.state import AppState, new_id

Share = Annotated[float, Field(ge=-0.5, le=1.5)]
KEPT_EVERY_S = 0.5  # a stroke under a hand: no more of it is lost with a killed process
Hex = Annotated[str, Field(pattern=r"^#[0-9A-Fa-f]{6}$")]


class _Said(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Begin(_Said):
    """x, y: shares of the outgoing picture.  p: pressure.  t: seconds of the hand's own clock."""

    do: Literal["begin"]
    tool: Literal["pen", "marker", "line", "arrow", "pointer", "eraser", "rubber"]
    colour: Hex = "#23459B"
    width: Annotated[float, Field(gt=0.05, le=30.0)] = 0.8
    x: Share
    y: Share
    p: Annotated[float, Field(ge=0.0, le=1.0)] = 1.0
    t: float = 0.0


class Move(_Said):
    do: Literal["move"]
    points: Annotated[list[tuple[Share, Share, Annotated[float, Field(ge=0.0, le=1.0)], float]], Field(max_length=400)]


class End(_Said):
    do: Literal["end"]


_SAID: TypeAdapter[Begin | Move | End] = TypeAdapter(Annotated[Begin | Move | End, Field(discriminator="do")])


async def take_ink(socket: WebSocket, state: AppState, may: Callable[[], bool] = lambda: True) -> None:
    """Until it goes. What it does not understand is passed over; a stroke whose hand vanished is kept as far as it came.

    may: whether this hand may draw; once it may not, its socket ends.
    """
    room, hand = state.running.ink, new_id("hand")
    kept_s = 0.0
    try:
        while True:
            try:
                said = _SAID.validate_json(await socket.receive_text())
            except (ValidationError, json.JSONDecodeError, KeyError):
                continue
            if isinstance(said, Begin):
                if not await asyncio.to_thread(may):
                    return
                if not room.begin(hand, said.tool, said.colour, said.width, (said.x, said.y, said.p), said.t):
                    await socket.send_text(json.dumps({"says": "No page is shown on this plate: there is nothing to draw on."}))
            elif isinstance(said, Move):
                room.move(hand, said.points)
                if time.monotonic() - kept_s > KEPT_EVERY_S:
                    kept_s = time.monotonic()
                    await asyncio.to_thread(_keep_unfinished, state)
                    if not await asyncio.to_thread(may):  # a stroke need not end by itself
                        return
            else:
                ground = room.end(hand)
                if ground is not None:
                    await asyncio.to_thread(keep, state, ground)
    finally:
        ground = room.end(hand)
        if ground is not None:
            await asyncio.shield(asyncio.to_thread(keep, state, ground))  # though Cartouche itself ends meanwhile


Change = Literal["undo", "redo", "clear", "hide", "show"]


def shown_ground(state: AppState) -> str:
    """The page or sheet that is shown. Raises NoPageServes."""
    ground = state.running.ink.ground
    if ground is None:
        raise NoPageServes
    return ground.id


def change(state: AppState, do: Change) -> None:
    """Of the page that is shown: a step back or forth, all of it away, hidden or seen again. Raises NoPageServes, NothingToStep."""
    room = state.running.ink
    if do in ("hide", "show"):
        room.hide(do == "hide")
        return
    ground = shown_ground(state)
    before = room.ink(ground)
    works: dict[str, Callable[[Ink], Ink]] = {"undo": Ink.undone, "redo": Ink.redone, "clear": lambda one: one.settled(())}
    after = room.change(ground, works[do])
    if after is before and do != "clear":
        raise NothingToStep(do)
    keep(state, ground)


def keep(state: AppState, ground: str) -> None:
    """On a full disk the ink stays where it is drawn, and is kept with the next stroke."""
    lesson = state.lesson()
    if lesson is not None:
        with state.running.troubles.guard("care"):
            ink.keep(state.database, lesson.id, ground, state.running.ink.ink(ground).strokes)


def _keep_unfinished(state: AppState) -> None:
    lesson = state.lesson()
    if lesson is None:
        return
    for ground, strokes in state.running.ink.unfinished().items():
        try:
            ink.keep(state.database, lesson.id, ground, strokes)
        except StoreError:
            return
