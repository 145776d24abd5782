"""How long a device takes to start, from how long it took before."""

from cartouche.core.watch.signal import STARTING_FOR_S

GRACE = 1.5  # times what it took before: starts vary, and a device in mid-start must not be called asleep
NEWEST_WEIGHT = 0.5
LONGEST_S = 180.0  # no camera takes longer


def patience_s(usual_s: float | None) -> float:
    """How long to call it starting. usual_s: seconds it took before, None if it never started here."""
    return max(STARTING_FOR_S, min(LONGEST_S, GRACE * (usual_s or 0.0)))


def usual_start_s(before_s: float | None, took_s: float) -> float:
    """The new usual time: half the newest start, half what was usual."""
    took_s = min(took_s, LONGEST_S)
    return took_s if before_s is None else (1 - NEWEST_WEIGHT) * before_s + NEWEST_WEIGHT * took_s


def share_started(since_s: float, usual_s: float | None) -> float | None:
    """How far along its start it is, 0-1, against its usual time; None if that is not known."""
    return None if not usual_s else min(1.0, max(0.0, since_s / usual_s))
