"""Which of several cameras sees a page and which a face: a proposal, with how sure it is. Nothing is chosen here."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from cartouche.core.kit.health import Facing
from cartouche.core.pictures import Frame
from cartouche.core.plates.behind import Net as PersonNet
from cartouche.core.plates.behind import PersonMask
from cartouche.core.reading.proof import Proof
from cartouche.core.straighten.chain import Chain
from cartouche.core.straighten.finder import Nets, NotFound, find_page
from cartouche.core.straighten.rough_quads import picture_share
from cartouche.core.straighten.square_up import square_of
from cartouche.core.watch.facing import MIN_PERSON
from cartouche.core.watch.signal import is_dark

USUAL_RIG = "arm-own-side"
SURE = 0.8  # from here on a proposal is said without "perhaps"
LEAST = 0.7  # below it nothing is proposed
PAGE_FIRST = 0.1  # where one camera shows both, the page is what the teacher came for
BLANK = 0.75  # without print a white rectangle may be a window, a screen or a board
SOME_PRINT = 1.5  # windows of it
MUCH_PRINT = 10.0  # windows that stand one way: a page, however unsure its edges are
PRINTED = 0.85  # how sure a page is then
GUESS = 0.02  # a quadrilateral less sure than this is not read
SMALL_PAGE = 0.04  # of the picture: a sheet on a wall or a far desk
WHOLE_PERSON = 0.12  # of the picture: from here on somebody sits before it
HAND_ONLY = 0.6  # how sure a person may be where a page fills the picture: arms over a page look like somebody


class Sight(NamedTuple):
    """What one camera sees. page: how sure a page is there, 0-1; page_share: of the picture.  person: share of the picture.

    way: which way round its print stands as it comes, None without a page or where it cannot tell.  dark: nothing is seen.
    """

    page: float
    page_share: float
    person: float
    way: Proof | None = None
    dark: bool = False


class Seen(NamedTuple):
    """One camera. id: whose it is.  facing: the lens, where the device tells."""

    id: str
    sight: Sight
    facing: Facing | None = None


class Proposed(NamedTuple):
    """sure: 0-1."""

    id: str
    sure: float


class Proposal(NamedTuple):
    """None where no camera shows it. rig: how the page's camera seems to be held.  says: one sentence for a teacher."""

    page: Proposed | None
    face: Proposed | None
    rig: str
    says: str


def look(frame: Frame, nets: Nets, person: PersonNet, read: Callable[[Chain, Frame], Proof]) -> Sight:
    """One picture of a camera examined. read: which way round the page that a chain straightens stands."""
    if is_dark(frame.y):
        return Sight(0.0, 0.0, 0.0, dark=True)
    found = find_page(frame, nets)
    share = float((PersonMask(person).see(frame) > 0.5).mean())
    if isinstance(found, NotFound):
        return Sight(0.0, 0.0, share)
    way = read(Chain(square=square_of(found.corners, frame.size)), frame) if found.confidence >= GUESS else None
    return Sight(found.confidence, picture_share(found.corners, frame.size), share, way)


def propose(cameras: Sequence[Seen]) -> Proposal:
    """The likeliest camera for each; no camera serves as both while there are two."""
    printed = [camera.id for camera in cameras if is_printed(camera.sight) and page_chance(camera) >= LEAST]
    pages = {
        camera.id: page_chance(camera) for camera in cameras if not printed or camera.id in printed
    }  # beside print a blank one is a window
    faces = {camera.id: face_chance(camera) for camera in cameras}
    best, page, face = -1.0, None, None
    for page_id in (None, *pages):
        for face_id in (None, *faces):
            if page_id is not None and page_id == face_id:
                continue
            a, b = pages.get(page_id or "", 0.0), faces.get(face_id or "", 0.0)
            if (page_id is not None and a < LEAST) or (face_id is not None and b < LEAST):
                continue
            worth = a + b + (PAGE_FIRST if page_id is not None else 0.0)
            if worth > best + 1e-9:
                best = worth
                page = Proposed(page_id, a) if page_id is not None else None
                face = Proposed(face_id, b) if face_id is not None else None
    way = next((camera.sight.way for camera in cameras if page is not None and camera.id == page.id), None)
    return Proposal(page, face, rig_of(way), _says(cameras, page, face))


def rig_of(way: Proof | None) -> str:
    """How a camera seems to be held whose page comes so: reversed is by a mirror, on its side is from the side."""
    if way is None or way.reads_true is None:
        return USUAL_RIG
    if not way.reads_true:
        return "clip-mirror"
    return {0: USUAL_RIG, 2: "arm-far-side"}.get(way.quarters, "gooseneck")


def page_chance(camera: Seen) -> float:
    sight = camera.sight
    certain = max(sight.page, PRINTED) if is_printed(sight) and sight.way is not None and sight.way.windows >= MUCH_PRINT else sight.page
    chance = certain * float(np.clip(sight.page_share / SMALL_PAGE, 0.0, 1.0))
    if not is_printed(sight):
        chance *= BLANK
    return chance * (0.6 if camera.facing == "front" else 1.0)


def is_printed(sight: Sight) -> bool:
    """Print that stands one way: blurred furniture looks like print that stands none."""
    return sight.way is not None and sight.way.windows >= SOME_PRINT and sight.way.reads_true is not None


def face_chance(camera: Seen) -> float:
    sight = camera.sight
    if sight.person < MIN_PERSON:
        return 0.0
    chance = float(np.interp(sight.person, (MIN_PERSON, WHOLE_PERSON), (0.3, 0.97)))
    if sight.page >= SURE and sight.page_share > sight.person:
        chance = min(chance, HAND_ONLY) * 0.4
    return chance * (0.6 if camera.facing == "rear" else 1.0)


def _says(cameras: Sequence[Seen], page: Proposed | None, face: Proposed | None) -> str:
    if not cameras:
        return "No camera gives a picture yet."
    if all(camera.sight.dark for camera in cameras):
        return "Every picture is dark: take off the lens cover, or switch a light on."
    if page is None and face is None:
        return "No page and no face is seen yet. Lay a page under one camera."
    if page is None:
        return "No page is seen yet. Lay one under a camera, all four corners in view."
    if face is None:
        return "A page is seen, and no face. You can go on with the page alone."
    unsure = min(page.sure, face.sure) < SURE
    return "Perhaps these two: look before you say yes." if unsure else "One shows a page, one shows you."
