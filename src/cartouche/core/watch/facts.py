"""All that the check before a lesson looks at: plain values, measured elsewhere. None: could not be measured."""

from dataclasses import dataclass
from typing import Literal

from cartouche.core.kit.health import Battery, Facing
from cartouche.core.reading.first_look import FirstLook
from cartouche.core.watch.facing import FaceLook
from cartouche.core.watch.signal import State

Role = Literal["page", "face"]


@dataclass(frozen=True)
class Connection:
    """A phone's line to this computer, as the phone measures it.

    path_ms: encoding, sending and half the round trip.  lost: share of packets, 0-1.  kbit_s: what it sends.  None: not told.
    starved: its encoder holds back because the network does not carry more.
    """

    path_ms: float | None = None
    lost: float | None = None
    kbit_s: float | None = None
    starved: bool = False


@dataclass(frozen=True)
class DeviceFacts:
    """One device that serves. sentence: what it says itself.  awake: whether a phone stays awake.  is_phone: a phone or tablet.

    paced: it should give so many pictures as it says; a page from a file does not.  out_fps: as many pictures a second should go out
    of Cartouche.
    """

    id: str
    name: str
    serves: Role
    state: State
    sentence: str | None = None
    fps: float = 0.0
    out_fps: float = 30.0
    delay_ms: float | None = None
    paced: bool = True
    is_phone: bool = False
    battery: Battery | None = None
    facing: Facing | None = None
    awake: bool | None = None
    connection: Connection = Connection()


@dataclass(frozen=True)
class AudienceFacts:
    """reads_true, reads: None where no page is on the plate, or its print was not measured."""

    name: str
    reads_true: bool | None
    reads: bool | None
    smallest_pt: int | None


@dataclass(frozen=True)
class PageFacts:
    """first: Square up's own verdict.  following: the page is followed.  covered: largest share of the writing that something on the
    plate covers.  shows_person: share of the page’s picture that is a person.  looked_at: whether its print was looked for yet."""

    first: FirstLook
    following: bool
    covered: float
    asks_pt: float | None
    audiences: tuple[AudienceFacts, ...]
    shows_person: float | None = None
    looked_at: bool = True


@dataclass(frozen=True)
class MicrophoneFacts:
    """verdict: the sound's own one word, '' where nothing was heard yet.  good: it is a voice that comes in well."""

    id: str
    name: str
    verdict: str
    says: str
    good: bool
    level_db: float | None


@dataclass(frozen=True)
class SoundFacts:
    """findings: what is wrong with who hears whom, with what ends it.  lips_ms: sound after picture; None where not measured."""

    open: tuple[MicrophoneFacts, ...]
    known: int
    last_open: str | None
    findings: tuple[tuple[str, str], ...] = ()
    lips_ms: int | None = None


@dataclass(frozen=True)
class WayFacts:
    """windows: outgoing windows open.  says: what is wrong with them or a taker.  taken_by: of other ways, in words.

    out_fps: as many pictures a second should go out.
    """

    windows: int
    taken_by: str | None
    says: str | None
    fps: float
    out_fps: float = 30.0

    @property
    def in_use(self) -> bool:
        return self.windows > 0 or self.taken_by is not None


@dataclass(frozen=True)
class ComputerFacts:
    """busy: share of all cores, 0-1.  throttled: the processor runs slower to stay cool.  free_bytes: of the disk it keeps on."""

    busy: float | None
    throttled: bool | None
    free_bytes: int | None
    clock_ok: bool = True


@dataclass(frozen=True)
class LessonFacts:
    """minutes: its length.  starts_in: minutes until it begins, negative once it has; None without a time."""

    title: str
    minutes: int
    starts_in: float | None


@dataclass(frozen=True)
class Facts:
    devices: tuple[DeviceFacts, ...]
    page: PageFacts | None
    face: FaceLook | None
    sound: SoundFacts
    way: WayFacts
    computer: ComputerFacts
    lesson: LessonFacts | None

    def serving(self, role: Role) -> DeviceFacts | None:
        return next((device for device in self.devices if device.serves == role), None)
