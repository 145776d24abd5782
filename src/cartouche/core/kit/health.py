"""What a device tells of itself besides its pictures: battery, lens, microphone; and what that asks of the teacher."""

from typing import Literal, NamedTuple

LOW_BATTERY = 0.2  # a phone that sends video loses a fifth in about half an hour: not enough for a lesson

Facing = Literal["rear", "front"]


class Battery(NamedTuple):
    """level: 0-1."""

    level: float
    charging: bool

    @property
    def is_low(self) -> bool:
        return self.level < LOW_BATTERY and not self.charging


class DeviceAdvice(NamedTuple):
    """One sentence, and the name of the press that mends it ('' for none)."""

    sentence: str
    press: Literal["", "other lens"] = ""


def advice(battery: Battery | None, facing: Facing | None, serves: str | None) -> DeviceAdvice | None:
    """What to do about a device that is live and yet not well; the most pressing first."""
    if facing == "front" and serves == "page":
        return DeviceAdvice("Front lens in use. The page needs the rear one.", "other lens")
    if battery is not None and battery.is_low:
        return DeviceAdvice(f"Its battery is at {round(100 * battery.level)}%. Plug it in.")
    return None
