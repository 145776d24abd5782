"""All that a served lesson needs, made in one place for this computer and for a school's server."""

from functools import partial
from pathlib import Path

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.devices import DEVICES
from cartouche.bench.sound_devices import bench_microphones
from cartouche.demo import lesson
from cartouche.errors import PagesNotBuilt
from cartouche.live.running import RunningLesson
from cartouche.store.database import Database
from cartouche.web.app import STATIC
from cartouche.web.state import AppState


def prepared(folder: Path, *, demo: bool, fps: float, warm_up_s: float, full: bool = False) -> AppState:
    """full: nothing is done with less where this computer cannot keep up.  Raises PagesNotBuilt and what the database raises."""
    if not (STATIC / "index.html").is_file():
        raise PagesNotBuilt
    database = Database(folder)
    if database.says:
        print(database.says, flush=True)
    if demo:
        lesson.fill(database)
    running = RunningLesson(CallCodec, CallVoice, fps=fps)
    if not full:
        running.thrift.start()
    if demo:
        running.sound.simulate(bench_microphones())
    return AppState(database, running, {name: partial(make, warm_up_s, fps) for name, make in DEVICES.items()})
