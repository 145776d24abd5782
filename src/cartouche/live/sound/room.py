"""All sound of the running lesson: microphones, clips, the mixer that makes the outgoing sound, and what learners hear of it."""

import time
from collections.abc import Callable, Sequence
from contextlib import ExitStack

from cartouche.core.sound.stations import SoundKit
from cartouche.live.files.clip import ClipSource
from cartouche.live.sound.call_sound import CallSound, Voice
from cartouche.live.sound.clap_test import ClapTest
from cartouche.live.sound.clip_sound import ClipSound
from cartouche.live.sound.incoming import SpeechNet
from cartouche.live.sound.measured import Measured
from cartouche.live.sound.microphones import Microphones
from cartouche.live.sound.mixer import Mixer, SoundSource
from cartouche.live.sound.simulated import Simulated, SoundDevice
from cartouche.live.troubles import Troubles


class SoundRoom:
    """Kept apart from the pictures: it asks for nothing but how long they take."""

    def __init__(
        self,
        speech: Callable[[], SpeechNet],
        make_voice: Callable[[], Voice],
        picture_s: Callable[[float], float | None],
        learners_s: Callable[[], float | None],
        troubles: Troubles,
    ) -> None:
        """picture_s: from capture to the outgoing picture.  learners_s: from capture to the learners of the practice call."""
        self.microphones = Microphones(speech)
        self.measured = Measured(self.microphones)
        self.mixer = Mixer(self._sources, picture_s, troubles)
        self.learners = CallSound(self.mixer, make_voice, speech, learners_s, troubles)
        self.clapper = ClapTest(self.mixer)
        self.simulated = Simulated(self.microphones, (), troubles)
        self._troubles = troubles
        self._clips: dict[str, ClipSound] = {}
        self.others: list[SoundSource] = []
        self.mixer.start()

    def declare(self, kit: SoundKit) -> None:
        """What the teacher says of the sound, in force from now on."""
        self.microphones.closes_howls = kit.closes_howls
        self.mixer.trim_s = kit.trim_ms / 1000

    def simulate(self, devices: Sequence[SoundDevice]) -> None:
        """Simulated microphones stand among the others from now on."""
        self.simulated.close()
        self.simulated = Simulated(self.microphones, devices, self._troubles)

    def _sources(self) -> Sequence[SoundSource]:
        return [*self.microphones.tracks(), *self._clips.values(), *self.others]

    def sound_clip(self, device_id: str, clip: ClipSource | None, *, ducks: bool = False) -> None:
        """A clip's sound goes out from now on; None: no longer."""
        before = self._clips.get(device_id)
        clips = {known: sound for known, sound in self._clips.items() if known != device_id}
        if clip is not None:
            sound = before or ClipSound(clip.path, clip.position_at)
            sound.ducks = self.speaks if ducks else lambda: False
            clips[device_id] = sound
        self._clips = clips
        if before is not None and clip is None:
            before.close()

    @property
    def sounding(self) -> frozenset[str]:
        """Clips whose sound goes out."""
        return frozenset(self._clips)

    def speaks(self) -> bool:
        now_s = time.monotonic()
        return any(one.speaks(now_s) for one in self.microphones.tracks())

    def close(self) -> None:
        """Repeatable."""
        with ExitStack() as stack:
            for clip in self._clips.values():
                stack.callback(clip.close)
            stack.callback(self.mixer.stop)
            stack.callback(self.simulated.close)
            stack.callback(self.learners.close)
