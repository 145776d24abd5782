"""Fills an empty store with the demo's kit, lessons, chains and plates."""

import numpy as np

from cartouche.bench.camera import Camera, true_corners
from cartouche.bench.devices import CLIP_MIRROR, DOCUMENT_CAMERA, SHEET_LIES
from cartouche.bench.papers import A4_MM
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain, FrameLink, SquareLink
from cartouche.core.straighten.rigs import first_guess, rig_named
from cartouche.store import chains, kits, lessons, plates, settings
from cartouche.store.database import Database
from cartouche.store.kits import Device, Kit
from cartouche.store.lessons import Lesson

KIT = Kit(id="map-room", name="Map room kit", room="Map room")

DEVICES = tuple(
    Device(id=id_, kit_id=KIT.id, kind="bench", source=source, label=label, name=name, rig=rig, serves=serves)
    for id_, source, label, name, rig, serves in (
        ("desk-camera", "document-camera", "Simulated document camera", "Desk camera", "arm-far-side", "page"),
        ("clip-camera", "clip-mirror", "Simulated webcam, clip-on mirror", "Clip mirror", "clip-mirror", None),
        ("face-camera", "face-webcam", "Simulated webcam", "Face", "at-face", "face"),
    )
)

LESSONS = (
    Lesson(
        id="reading-the-ground-9b", kit_id=KIT.id, title="Reading the ground", class_name="9B", starts="08:55", plate_id="page-and-face"
    ),
    Lesson(
        id="reading-the-ground-9a", kit_id=KIT.id, title="Reading the ground", class_name="9A", starts="10:40", plate_id="page-and-face"
    ),
    Lesson(id="slopes-and-profiles-8c", kit_id=KIT.id, title="Slopes and profiles", class_name="8C", starts="13:15", plate_id="page"),
)

CLOSE_TO_THE_WORK = FrameLink(zoom=1.9, y=0.43)  # map and squares across the whole width


def fill(database: Database) -> None:
    """Do nothing where it was filled already: what the teacher changed stays. One that was killed at it is taken up again."""
    there = {lesson.id for lesson in lessons.lessons(database)}
    if settings.setting(database, "lesson") is not None or there >= {lesson.id for lesson in LESSONS}:
        return
    if KIT.id not in {kit.id for kit in kits.kits(database)}:
        kits.add_kit(database, KIT)
    known = {device.id for device in kits.devices(database, KIT.id)}
    for device in DEVICES:
        if device.id not in known:
            kits.add_device(database, device)
        chains.settle(database, device.id, first_chain(device))
    for lesson in LESSONS:
        if lesson.id not in there:
            lessons.add_lesson(database, lesson)
        plates.settle(database, lesson.id, FIRST_PLATES)
    settings.set_setting(database, "lesson", LESSONS[0].id)


def first_chain(device: Device) -> Chain:
    """The chain as the teacher left it yesterday: squared up by the sheet that lies there."""
    camera = {"document-camera": DOCUMENT_CAMERA, "clip-mirror": CLIP_MIRROR}.get(device.source)
    if camera is None:
        return Chain()
    return first_guess(rig_named(device.rig), Chain(square=_square(camera), frame=CLOSE_TO_THE_WORK))


def _square(camera: Camera) -> SquareLink:
    shares = true_corners(camera, A4_MM, SHEET_LIES) / np.array(camera.size)
    clockwise = shares if camera.mirrors % 2 == 0 else shares[::-1]
    start = int(np.argmin(clockwise.sum(axis=1)))
    corners = np.roll(clockwise, -start, axis=0).round(4).tolist()
    return SquareLink.model_validate({"corners": corners, "aspect": A4_MM.width_mm / A4_MM.height_mm, "paper": "A4"})
