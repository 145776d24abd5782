"""What is held outlives a killed process: its picture in the data folder, the rest with the lesson."""

import json
from pathlib import Path

import cv2
import numpy as np
from pydantic import BaseModel, ConfigDict, ValidationError

from cartouche.core.pictures import bgr_from_frame, frame_from_bgr
from cartouche.core.straighten.chain import Chain, FrameLink
from cartouche.live.setup import Held, HeldBy
from cartouche.store import teaching
from cartouche.store.database import Database, cannot_save


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid")
    device_id: str
    chain: Chain
    since_s: float
    by: HeldBy
    sheet_id: str = ""
    before: FrameLink | None = None


def _path(database: Database, lesson_id: str) -> Path:
    return database.path.parent / "held" / f"{lesson_id}.png"


def keep(database: Database, lesson_id: str, device_id: str, held: Held) -> None:
    """Raises CannotSave; it is held all the same."""
    path = _path(database, lesson_id)
    try:
        path.parent.mkdir(exist_ok=True)
        written = path.with_suffix(".part.png")
        if not cv2.imwrite(str(written), bgr_from_frame(held.frame), [cv2.IMWRITE_PNG_COMPRESSION, 1]):
            raise OSError("the picture could not be written")
        written.replace(path)
    except OSError as exc:
        raise cannot_save(exc) from exc
    row = _Row(device_id=device_id, chain=held.chain, since_s=held.since_s, by=held.by, sheet_id=held.sheet_id, before=held.before)
    teaching.keep_hold(database, lesson_id, row.model_dump_json())


def forget(database: Database, lesson_id: str) -> None:
    teaching.keep_hold(database, lesson_id, None)
    _path(database, lesson_id).unlink(missing_ok=True)


def kept(database: Database, lesson_id: str) -> tuple[str, Held] | None:
    """(device, what is held of it), or None: nothing, or what cannot be read any more."""
    text = teaching.kept(database, lesson_id).hold
    picture = cv2.imread(str(_path(database, lesson_id))) if text else None
    if text is None or picture is None:
        return None
    try:
        row = _Row.model_validate(json.loads(text))
    except (ValueError, ValidationError):
        return None
    return row.device_id, Held(
        frame_from_bgr(np.asarray(picture, np.uint8)), row.chain, row.since_s, row.by, row.sheet_id, before=row.before
    )
