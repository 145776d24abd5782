"""What is kept of the ways into a call: who watches each class, the kind of call, and what trying a way measured."""

from pydantic import BaseModel, ConfigDict, TypeAdapter, ValidationError

from cartouche.core.call.audience import FIRST_VIEWERS, Viewers
from cartouche.core.call.kinds import KINDS, CallKind
from cartouche.store.database import Database
from cartouche.store.settings import set_setting, setting

_VIEWERS: TypeAdapter[tuple[Viewers, ...]] = TypeAdapter(tuple[Viewers, ...])
_KEEP = "INSERT INTO viewers (class_name, declared) VALUES (?, ?) ON CONFLICT (class_name) DO UPDATE SET declared = excluded.declared"


class Tried(BaseModel):
    """What arrived at the far end when a way was tried.  delay_ms: what the call itself added."""

    model_config = ConfigDict(frozen=True)
    width: int
    height: int
    fps: float
    delay_ms: float | None = None
    codec: str = ""
    sound: bool = False


_TRIED: TypeAdapter[dict[str, Tried]] = TypeAdapter(dict[str, Tried])


def viewers_of(database: Database, class_name: str) -> tuple[Viewers, ...]:
    """The first ones where none are kept, or ones that cannot be read any more."""
    with database.reading() as reader:
        row = reader.execute("SELECT declared FROM viewers WHERE class_name = ?", (class_name,)).fetchone()
    try:
        return _VIEWERS.validate_json(row["declared"]) if row else FIRST_VIEWERS
    except ValidationError:
        return FIRST_VIEWERS


def keep_viewers(database: Database, class_name: str, viewers: tuple[Viewers, ...]) -> None:
    database.write(lambda c: c.execute(_KEEP, (class_name, _VIEWERS.dump_json(viewers).decode())))


def call_kind(database: Database) -> CallKind:
    """The kind of call that the teacher takes part in, with the facts that they changed."""
    try:
        return CallKind.model_validate_json(setting(database, "call_kind") or "")
    except ValidationError:
        return KINDS[0]


def keep_call_kind(database: Database, kind: CallKind) -> None:
    set_setting(database, "call_kind", kind.model_dump_json())


def tried(database: Database) -> dict[str, Tried]:
    """By way."""
    try:
        return _TRIED.validate_json(setting(database, "ways_tried") or "{}")
    except ValidationError:
        return {}


def keep_tried(database: Database, way: str, found: Tried) -> None:
    set_setting(database, "ways_tried", _TRIED.dump_json({**tried(database), way: found}).decode())
