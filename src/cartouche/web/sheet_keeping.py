"""Sheets: kept at a press or by themselves, shown in place of the page, written under a temporary name and renamed."""

import contextlib
import time
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.ink.strokes import Ink, Stroke, quarter_turned, sheet_ground
from cartouche.core.kit.naming import numbered
from cartouche.core.pictures import Size, frame_from_bgr
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.live.clock import steady_s
from cartouche.live.ink_room import inked
from cartouche.live.page_keeper import Clean
from cartouche.live.setup import Held
from cartouche.store import ink, sheets
from cartouche.store.database import cannot_save
from cartouche.store.errors import CannotSave, NotKept
from cartouche.store.sheets import Sheet
from cartouche.web.errors import NoPageServes, NothingToKeep
from cartouche.web.state import AppState, new_id
from cartouche.web.teaching import awake, page_device, release, stand_in

WAITS_S = 2.0  # for a camera that was at rest
INKED = "-ink.png"  # after a sheet's id: the same with ink on it
HAND_SEEN = 0.004  # share of the page


def path_of(state: AppState, sheet: Sheet) -> Path:
    return sheets.folder(state.database) / sheet.file


def keep_now(state: AppState) -> str:
    """A sheet of the page as it lies there; what is to be said. Raises NoPageServes, NothingToKeep."""
    device_id = page_device(state)
    with awake(state, device_id, WAITS_S) as feed:
        made = state.running.watcher.keeper.sheet(feed, state.chain(device_id)) if feed is not None else None
    if made is None:
        raise NothingToKeep
    try:
        kept = keep(state, made, by_itself=False, drawn=_ink_on(state, device_id, made))
    except CannotSave as exc:
        return str(exc)
    hidden = " The hand is still on it: take it away once, then keep another." if made.unseen > HAND_SEEN else ""
    return f"Kept as “{kept.name}”.{hidden}"


def _ink_on(state: AppState, device_id: str, made: Clean) -> NDArray[np.uint8] | None:
    """The same with what is drawn over the page; None where nothing is."""
    feed, room = state.running.feeds.get(device_id), state.running.ink
    if feed is None or feed.latest is None:
        return None
    even = made.picture[: made.picture.shape[0] // 2 * 2, : made.picture.shape[1] // 2 * 2]
    return inked(np.ascontiguousarray(even), room.ink(room.ground_of(device_id)).strokes, state.chain(device_id), feed.latest.size)


def with_ink(state: AppState, sheet: Sheet) -> NDArray[np.uint8] | None:
    """A kept sheet with what was drawn over the page, and over the sheet itself when it was shown; None where it cannot be read."""
    own = path_of(state, sheet).with_name(f"{sheet.id}{INKED}")
    picture = cv2.imread(str(own if own.is_file() else path_of(state, sheet)))
    if picture is None:
        return None
    even = np.ascontiguousarray(picture[: picture.shape[0] // 2 * 2, : picture.shape[1] // 2 * 2], np.uint8)
    made = inked(even, _ink_of(state, sheet), Chain(), Size(even.shape[1], even.shape[0]))
    return even if made is None else made


def has_ink(state: AppState, sheet: Sheet) -> bool:
    return path_of(state, sheet).with_name(f"{sheet.id}{INKED}").is_file() or bool(_ink_of(state, sheet))


def keep(state: AppState, made: Clean, *, by_itself: bool, drawn: NDArray[np.uint8] | None = None) -> Sheet:
    """Raises CannotSave; the sheet then waits in memory, and is written once there is room. drawn: the same with ink on it."""
    lesson = state.open_lesson()
    names = {one.name for one in (*sheets.sheets(state.database, lesson.id), *(sheet for sheet, _ in state.unwritten))}
    number = len(names) + 1
    high, wide = made.picture.shape[:2]
    sheet = Sheet(
        id=new_id("sheet"), lesson_id=lesson.id, name=numbered(f"Sheet {number}", names), file="", made_at=time.time(), width=wide,
        height=high, width_mm=made.width_mm, by_itself=by_itself,
    )  # fmt: skip
    sheet = sheet.model_copy(update={"file": f"{sheet.id}.png"})
    try:
        _write(state, sheet, made.picture)
        if drawn is not None:
            _write_picture(path_of(state, sheet).with_name(f"{sheet.id}{INKED}"), drawn)
    except CannotSave:
        state.unwritten.append((sheet, made.picture))
        raise
    finally:
        state.running.stage.versions.touch("sheets")
    state.recording.mark("sheet", sheet.name, sheet.id)
    return sheet


def _write(state: AppState, sheet: Sheet, picture: NDArray[np.uint8]) -> None:
    _write_picture(path_of(state, sheet), picture)
    sheets.add(state.database, sheet)


def _write_picture(path: Path, picture: NDArray[np.uint8]) -> None:
    _part_of(path, picture).replace(path)


def _part_of(path: Path, picture: NDArray[np.uint8]) -> Path:
    """Written beside it under a temporary name. Raises CannotSave."""
    part = path.with_name(f"arriving-{path.name}")
    try:
        path.parent.mkdir(exist_ok=True)
        done, content = cv2.imencode(".png", picture, [cv2.IMWRITE_PNG_COMPRESSION, 3])
        if not done:
            raise OSError("the picture could not be written")
        part.write_bytes(content.tobytes())
        return part
    except OSError as exc:
        part.unlink(missing_ok=True)
        raise cannot_save(exc) from exc


def write_waiting(state: AppState) -> None:
    """Sheets that found no room on the disk are tried again."""
    with state.lock:
        for waiting in tuple(state.unwritten):
            with contextlib.suppress(CannotSave):
                _write(state, *waiting)
                state.unwritten.remove(waiting)
                state.running.stage.versions.touch("sheets")


def sheet_of(state: AppState, sheet_id: str) -> Sheet:
    """A sheet of the open lesson. Raises NotKept."""
    found = sheets.sheet(state.database, sheet_id)
    if found.lesson_id != state.lesson_id:
        raise NotKept("sheet", sheet_id)
    return found


def show(state: AppState, sheet_id: str) -> str:
    """In place of the page, whole, until *live*. Raises NotKept, NoPageServes."""
    with state.lock:
        sheet, device_id = sheet_of(state, sheet_id), page_device(state)
        picture = cv2.imread(str(path_of(state, sheet)))
        if picture is None:
            raise NotKept("sheet", sheet_id)
        picture = picture[: picture.shape[0] // 2 * 2, : picture.shape[1] // 2 * 2]
        known = state.running.setup.holds.get(device_id)
        chain = state.chain(device_id)
        before = known.before if known is not None and known.by == "sheet" else chain.frame
        held = Held(frame_from_bgr(np.ascontiguousarray(picture)), Chain(), steady_s(), "sheet", sheet.id, before=before)
        if chain.frame != FrameLink():
            state.frame(device_id, FrameLink(), 0.0)
        return stand_in(state, device_id, held)


def put_away(state: AppState, sheet_id: str, *, away: bool = True) -> None:
    """Out of the lesson's strip, until it is put back or deleted for good. Where it is shown, the page comes back. Raises NotKept."""
    with state.lock:
        sheet = sheets.sheet(state.database, sheet_id)
        for device_id, held in state.running.setup.holds.items():
            if held.sheet_id == sheet_id:
                release(state, device_id)
        sheets.change(state.database, sheet.id, away=int(away))
        state.running.stage.versions.touch("sheets")


def turn(state: AppState, sheet: Sheet) -> None:
    """A quarter clockwise, in its files, with the ink on it. Raises CannotSave, NotKept; then all is as it was."""
    with state.lock, contextlib.ExitStack() as parts:
        turned = list[tuple[Path, Path]]()
        for path in (path_of(state, sheet), path_of(state, sheet).with_name(f"{sheet.id}{INKED}")):
            picture = cv2.imread(str(path)) if path.is_file() else None
            if picture is not None:
                part = _part_of(path, np.asarray(cv2.rotate(picture, cv2.ROTATE_90_CLOCKWISE), np.uint8))
                parts.callback(part.unlink, missing_ok=True)
                turned.append((part, path))
        strokes = quarter_turned(_ink_of(state, sheet), sheet.height / max(sheet.width, sheet.height))
        sheets.turn(state.database, sheet, strokes)
        for part, path in turned:
            part.replace(path)
        _have_ink(state, sheet, strokes)
        if any(held.sheet_id == sheet.id for held in state.running.setup.holds.values()):
            with contextlib.suppress(NoPageServes, NotKept, CannotSave):  # it is turned, whatever becomes of what is shown
                show(state, sheet.id)
        state.running.stage.versions.touch("sheets")


def _ink_of(state: AppState, sheet: Sheet) -> tuple[Stroke, ...]:
    ground = sheet_ground(sheet.id)
    if sheet.lesson_id == state.lesson_id:  # what a full disk has not taken yet as well
        return state.running.ink.ink(ground).strokes
    return ink.inks(state.database, sheet.lesson_id).get(ground, ())


def _have_ink(state: AppState, sheet: Sheet, strokes: tuple[Stroke, ...]) -> None:
    """In the running lesson too, where the sheet is of it."""
    if sheet.lesson_id == state.lesson_id:
        state.running.ink.change(sheet_ground(sheet.id), lambda _: Ink(strokes))


def forget(state: AppState, sheet: Sheet) -> None:
    """For good, with its files."""
    put_away(state, sheet.id)
    sheets.forget(state.database, sheet.id)
    _have_ink(state, sheet, ())
    for path in (path_of(state, sheet), path_of(state, sheet).with_name(f"{sheet.id}{INKED}")):
        path.unlink(missing_ok=True)
