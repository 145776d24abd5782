"""What was measured of a device at each size when it was last tried there."""

from pydantic import BaseModel

from cartouche.store.database import Database


class Tried(BaseModel):
    width: int
    height: int
    fps: float
    delay_ms: float


def tried(database: Database, device_id: str) -> list[Tried]:
    with database.reading() as reader:
        rows = reader.execute(
            "SELECT width, height, fps, delay_ms FROM tried WHERE device_id = ? ORDER BY width * height", (device_id,)
        ).fetchall()
    return [Tried(**dict(row)) for row in rows]


def keep(database: Database, device_id: str, measured: Tried) -> None:
    database.write(
        lambda c: c.execute(
            "INSERT INTO tried (device_id, width, height, fps, delay_ms) VALUES (:device_id, :width, :height, :fps, :delay_ms)"
            " ON CONFLICT DO UPDATE SET fps = excluded.fps, delay_ms = excluded.delay_ms",
            {"device_id": device_id, **measured.model_dump()},
        )
    )
