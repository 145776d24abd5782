"""The demo's store: filled once, and taken up again where a first start was killed."""

from pathlib import Path

from cartouche.demo.lesson import DEVICES, KIT, LESSONS, fill
from cartouche.store import kits, lessons, settings
from cartouche.store.database import Database


def test_a_fill_that_was_killed_is_taken_up_again(tmp_path: Path) -> None:
    database = Database(tmp_path)
    kits.add_kit(database, KIT)
    kits.add_device(database, DEVICES[0])
    lessons.add_lesson(database, LESSONS[0])
    for _ in range(2):  # and a second start changes nothing
        fill(database)
        assert [lesson.id for lesson in lessons.lessons(database)] == [lesson.id for lesson in LESSONS]
        assert {device.id for device in kits.devices(database, KIT.id)} == {device.id for device in DEVICES}
        assert settings.setting(database, "lesson") == LESSONS[0].id
    database.close()
