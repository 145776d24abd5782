"""What is kept of a kit's sound."""

from pydantic import ValidationError

from cartouche.core.sound.stations import SoundKit
from cartouche.store.database import Database

_KEEP = "INSERT INTO sound_kit (kit_id, declared) VALUES (?, ?) ON CONFLICT (kit_id) DO UPDATE SET declared = excluded.declared"


def sound_kit(database: Database, kit_id: str) -> SoundKit:
    """The first one where none is kept, or one that cannot be read any more."""
    with database.reading() as reader:
        row = reader.execute("SELECT declared FROM sound_kit WHERE kit_id = ?", (kit_id,)).fetchone()
    try:
        return SoundKit.model_validate_json(row["declared"]) if row else SoundKit()
    except ValidationError:
        return SoundKit()


def keep_sound_kit(database: Database, kit_id: str, declared: SoundKit) -> None:
    database.write(lambda c: c.execute(_KEEP, (kit_id, declared.model_dump_json())))
