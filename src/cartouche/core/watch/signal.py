"""What state a feed is in, found from its pictures and from when they came."""

from typing import Literal, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Plane

State = Literal["off", "starting", "waiting", "asleep", "live", "blurred", "black", "stuck", "lost"]
USABLE: frozenset[State] = frozenset({"live", "blurred"})  # its newest picture is worth showing
AWAY: frozenset[State] = frozenset({"asleep", "black", "stuck", "lost"})  # it should give a picture and does not

FEED_LOST_AFTER_S = 0.8  # two missed frames at the slowest feed we accept, plus a retry of a wireless link
PATIENT_AFTER_S = 3.0  # the same for a feed that has just come back by itself from a shorter gap: a slow link or a busy computer
PATIENT_FOR_S = 30.0
SETTLING_S = 3.0  # a camera that was just opened may pause once more while its size is set: it starts, it does not sleep
STARTING_FOR_S = 20.0  # a document camera may blink for this long before its first picture

LOOK_EVERY_S = 0.12  # eight times a second, at a hundredth of a core; only darkness is looked for in each picture
DARK_COLUMNS = 240  # of a picture are enough to see that it shows nothing: a fifth of a millisecond at 1080p
DARK_MEAN = 30.0  # of 255; a covered lens or a dead sensor stays below, with its own noise
DARK_DEVIATION = 7.0  # between blocks of the picture: even a dim room shows a window or a lamp, a covered lens shows nothing
BLACK_AFTER_S = 0.5  # a hand that passes close over the lens is not a black camera
STUCK_AFTER_S = 1.0  # every sensor has noise: not one changed value in thirty pictures does not happen
STUCK_AFTER_CODEC_S = 4.0  # an encoder may repeat a still picture exactly, but not across two key frames (one every 2 s)
SHARP_EVERY_S = 0.5  # focus changes slowly, and judging it costs ten times the rest
BLUR_LIMIT = 0.6  # of 1, see `blur`: bench cameras in focus stay below 0.5, defocused by 0.3 % of the width lie above 0.7
BLURRED_AFTER_S = 1.0  # autofocus hunts for a moment when a hand comes in, and as long it must be in focus to be well again
MIN_EDGES = 0.002  # share of pixels: an empty sheet has no edges to judge by
EDGE_SHARE, MIN_RISE, MAX_RISE = 0.05, 3.0, 7.0  # of the brightest, and grey values: above noise after smoothing, below print


class Look(NamedTuple):
    """One picture's own health. changed: any sampled value differs from the look before.  blur: 0-1, None without edges."""

    changed: bool
    blur: float | None


class Arrivals(NamedTuple):
    """When pictures came (monotonic seconds). wanted_since_s: None if nobody wants them.  last_s: the newest, or None.

    connected: the device still answers, with pictures or without.  waiting: somebody must allow it first.
    patience_s: how long its start may take, see `starting`.
    """

    wanted_since_s: float | None
    last_s: float | None
    connected: bool = True
    waiting: bool = False
    patience_s: float = STARTING_FOR_S


class Lasting:
    """A condition that counts once it has held for so long, and until it has not held for as long."""

    def __init__(self, after_s: float) -> None:
        self._after_s = after_s
        self._on, self._holds = False, False
        self._since_s = -np.inf

    def see(self, holds: bool, now_s: float) -> None:
        self.on(now_s)
        if holds != self._holds:
            self._holds, self._since_s = holds, now_s

    def on(self, now_s: float) -> bool:
        if self._holds != self._on and now_s - self._since_s >= self._after_s:
            self._on = self._holds
        return self._on


class Signal:
    """Watches one feed's pictures; time is passed in. `see` each picture, then ask `state`."""

    def __init__(self, *, encoded: bool, judged: bool = True) -> None:
        """encoded: the pictures came through a codec, which may repeat them exactly.

        judged: False for pages, clips and windows, which may stand still, be dark or soft and are well.
        """
        self._judged = judged
        self._stuck_after_s = STUCK_AFTER_CODEC_S if encoded else STUCK_AFTER_S
        self._sample: NDArray[np.uint8] | None = None
        self._looked_s = self._sharp_s = -np.inf
        self._dark_since_s: float | None = None
        self._still_since_s: float | None = None
        self._blurred = Lasting(BLURRED_AFTER_S)
        self._came_s: float | None = None
        self._patient_until_s = -np.inf

    @property
    def dark(self) -> bool:
        """The newest look saw nothing: hold what was there before."""
        return self._dark_since_s is not None

    def see(self, luma: Plane, now_s: float) -> bool:
        """Look at a picture, or only whether it is dark because the last look was a moment ago; says which. luma: (h, w) uint8."""
        if self._came_s is not None and FEED_LOST_AFTER_S < now_s - self._came_s < PATIENT_AFTER_S:
            self._patient_until_s = now_s + PATIENT_FOR_S
        self._came_s = now_s
        if not self._judged:
            return False
        dark = is_dark(luma)
        self._dark_since_s = _since(self._dark_since_s, dark, now_s)
        if now_s - self._looked_s < LOOK_EVERY_S:
            return False
        self._looked_s = now_s
        with_blur = now_s - self._sharp_s >= SHARP_EVERY_S
        found = self._look(luma, with_blur and not dark)
        self._still_since_s = _since(self._still_since_s, not found.changed, now_s)
        if with_blur:
            self._sharp_s = now_s
            self._blurred.see(found.blur is not None and found.blur > BLUR_LIMIT, now_s)
        return True

    def _look(self, luma: Plane, with_blur: bool) -> Look:
        sample = luma[::23, ::5].copy()
        before, self._sample = self._sample, sample
        changed = before is None or before.shape != sample.shape or not np.array_equal(before, sample)
        return Look(changed, blur(luma) if with_blur else None)

    def state(self, arrivals: Arrivals, now_s: float) -> State:
        """The feed's state at now_s: first whether pictures come at all, then what is wrong with them."""
        if arrivals.wanted_since_s is None:
            return "off"
        if arrivals.waiting:
            return "waiting"
        missing: State = "asleep" if arrivals.connected else "lost"
        if not self._judged and arrivals.last_s is not None:
            return "live" if arrivals.connected else "lost"
        if arrivals.last_s is None or arrivals.last_s < arrivals.wanted_since_s:
            return "starting" if arrivals.connected and now_s - arrivals.wanted_since_s < arrivals.patience_s else missing
        if now_s - arrivals.last_s < (PATIENT_AFTER_S if arrivals.last_s < self._patient_until_s else FEED_LOST_AFTER_S):
            return self._seen(now_s)
        settles = arrivals.connected and now_s - arrivals.wanted_since_s < SETTLING_S
        return "starting" if settles else missing

    def _seen(self, now_s: float) -> State:
        if _lasts(self._still_since_s, self._stuck_after_s, now_s):
            return "stuck"
        if _lasts(self._dark_since_s, BLACK_AFTER_S, now_s):
            return "black"
        return "blurred" if self._blurred.on(now_s) else "live"

    def forget(self) -> None:
        """A new start: what was seen before says nothing of it."""
        self._sample = self._dark_since_s = self._still_since_s = self._came_s = None
        self._blurred = Lasting(BLURRED_AFTER_S)
        self._looked_s = self._sharp_s = -np.inf


def is_dark(luma: Plane) -> bool:
    """Whether a picture shows nothing. luma: (h, w) uint8.

    Averaged over blocks, so that sensor noise in a dim room counts neither for nor against.
    """
    step = max(1, luma.shape[1] // DARK_COLUMNS)
    blocks = cv2.resize(luma[step // 2 :: step, step // 2 :: step], (32, 18), interpolation=cv2.INTER_AREA)
    return bool(blocks.mean() < DARK_MEAN and np.ptp(np.sort(blocks, axis=None)[6:-6]) < DARK_DEVIATION)


def in_focus(sharpness: float) -> bool:
    """sharpness: 1 less `blur`, 0-1."""
    return 1 - sharpness <= BLUR_LIMIT


def blur(luma: Plane) -> float | None:
    """How much of the steepness of a picture's edges survives another blur: 0 sharp - 1 blurred; None without edges enough.

    luma: (h, w) uint8.  Judged at about half size where edges are, after smoothing, so that noise does not pass for
    sharpness. Edges that show only in a picture a quarter as wide are blurred altogether.
    Source: Crete, Dolmiere, Ladret & Nicolas, The blur effect, SPIE 6492 (2007), with a floor on the edges.
    """
    step = max(1, round(luma.shape[1] / 960))
    grey: Plane = cv2.GaussianBlur(luma[::step, ::step] if step > 1 else luma, (3, 3), 0)  # type: ignore[assignment]
    coarse: Plane = cv2.resize(grey, None, fx=0.25, fy=0.25, interpolation=cv2.INTER_AREA)  # type: ignore[assignment]
    rise = min(MAX_RISE, max(MIN_RISE, EDGE_SHARE * float(coarse.max())))
    kept, whole, edges = 0.0, 0.0, 0
    for axis, kernel in ((1, (9, 1)), (0, (1, 9))):
        soft: Plane = cv2.blur(grey, kernel)  # type: ignore[assignment]
        there, after = _steps(grey, axis), _steps(soft, axis)
        strong = there > rise
        edges += int(strong.sum())
        whole += float(there[strong].sum())
        kept += float(np.minimum(after, there)[strong].sum())
    if edges >= MIN_EDGES * grey.size:
        return kept / whole
    shows = sum(int((_steps(coarse, axis) > rise).sum()) for axis in (0, 1))
    return 1.0 if shows >= 4 * MIN_EDGES * coarse.size else None


def _steps(grey: Plane, axis: int) -> Plane:
    """Difference of each value to the next one along an axis, one shorter."""
    return cv2.absdiff(grey[:, 1:], grey[:, :-1]) if axis else cv2.absdiff(grey[1:], grey[:-1])  # type: ignore[return-value]


def _since(before_s: float | None, holds: bool, now_s: float) -> float | None:
    return (now_s if before_s is None else before_s) if holds else None


def _lasts(since_s: float | None, at_least_s: float, now_s: float) -> bool:
    return since_s is not None and now_s - since_s >= at_least_s
