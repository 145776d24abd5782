"""What a lesson's tools are set to."""

from typing import NamedTuple

from pydantic import ValidationError

from cartouche.core.teach.timer import Timer
from cartouche.store.database import Database


class Kept(NamedTuple):
    """hold: as whoever held it wrote it, JSON; None where nothing is held.  step_id: the step that the lesson is at."""

    timer: Timer
    auto_hold: bool
    follow_pen: bool
    hold: str | None
    step_id: str | None


FIRST = Kept(Timer(), False, False, None, None)


def kept(database: Database, lesson_id: str) -> Kept:
    with database.reading() as reader:
        row = reader.execute(
            "SELECT timer, auto_hold, follow_pen, hold, step_id FROM teaching WHERE lesson_id = ?", (lesson_id,)
        ).fetchone()
    if row is None:
        return FIRST
    return Kept(_timer(row["timer"]), bool(row["auto_hold"]), bool(row["follow_pen"]), row["hold"], row["step_id"])


def _timer(text: str | None) -> Timer:
    try:
        return Timer.model_validate_json(text) if text else Timer()
    except ValidationError:  # of a version that nobody knows any more: the lesson goes on without
        return Timer()


def keep_timer(database: Database, lesson_id: str, timer: Timer) -> None:
    _keep(database, lesson_id, "timer", timer.model_dump_json())


def keep_auto_hold(database: Database, lesson_id: str, on: bool) -> None:
    _keep(database, lesson_id, "auto_hold", int(on))


def keep_follow_pen(database: Database, lesson_id: str, on: bool) -> None:
    _keep(database, lesson_id, "follow_pen", int(on))


def keep_hold(database: Database, lesson_id: str, hold: str | None) -> None:
    _keep(database, lesson_id, "hold", hold)


def keep_step(database: Database, lesson_id: str, step_id: str | None) -> None:
    _keep(database, lesson_id, "step_id", step_id)


def _keep(database: Database, lesson_id: str, column: str, value: str | int | None) -> None:
    statement = (
        f"INSERT INTO teaching (lesson_id, {column}) VALUES (?, ?) ON CONFLICT (lesson_id) DO UPDATE SET {column} = excluded.{column}"
    )
    database.keep(f"teaching:{lesson_id}:{column}", lambda c: c.execute(statement, (lesson_id, value)))
