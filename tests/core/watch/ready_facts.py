"""Facts of a lesson where all is well, to be spoilt one by one."""

from dataclasses import replace
from typing import Any

from cartouche.core.kit.health import Battery
from cartouche.core.reading.first_look import FirstLook
from cartouche.core.watch.facing import FaceLook
from cartouche.core.watch.facts import (
    AudienceFacts,
    ComputerFacts,
    Connection,
    DeviceFacts,
    Facts,
    LessonFacts,
    MicrophoneFacts,
    PageFacts,
    SoundFacts,
    WayFacts,
)

DESK = DeviceFacts("desk", "Desk camera", "page", "live", fps=30, delay_ms=30)
FACE = DeviceFacts("face", "Face", "face", "live", fps=30, delay_ms=40)
PHONE = replace(DESK, is_phone=True, battery=Battery(0.9, False), facing="rear", awake=True, connection=Connection(40.0, 0.001, 2100.0))
LAPEL = MicrophoneFacts("lapel", "Lapel", "well", "Your voice comes in well.", True, -20.0)
PAGE = PageFacts(FirstLook("holds", "Straight."), True, 0.0, 10.0, (AudienceFacts("Laptop, pinned", True, True, 8),), 0.02)
WELL = Facts(
    devices=(DESK, FACE),
    page=PAGE,
    face=FaceLook(0.25, 150.0, 160.0, 0.0),
    sound=SoundFacts((LAPEL,), 1, "lapel", (), 10),
    way=WayFacts(1, None, None, 30.0),
    computer=ComputerFacts(0.4, False, 50_000_000_000),
    lesson=LessonFacts("Reading the ground · 9B", 45, 5.0),
)


def with_device(**changes: Any) -> Facts:
    """The page's device is changed so."""
    return replace(WELL, devices=(replace(PHONE if PHONE_ONLY & changes.keys() else DESK, **changes), FACE))


PHONE_ONLY = {"battery", "facing", "awake", "connection"}


def with_part(part: str, **changes: Any) -> Facts:
    return replace(WELL, **{part: replace(getattr(WELL, part), **changes)})
