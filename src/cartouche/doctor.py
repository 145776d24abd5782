"""What this computer can do, in ten lines; what can be mended is, and said.

Each line is found out here and now: a port is opened, a picture encoded, a file written.
"""

import os
import platform
import shutil
import socket
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from cartouche.core.errors import CartoucheError
from cartouche.ports import alone

BROWSERS = ("chromium", "chromium-browser", "google-chrome", "google-chrome-stable", "microsoft-edge", "brave-browser", "firefox", "chrome")
ELSEWHERE = {  # where installers put them without a word on the PATH
    "darwin": ("/Applications/Google Chrome.app", "/Applications/Chromium.app", "/Applications/Firefox.app", "/Applications/Safari.app"),
    "win32": (
        r"%ProgramFiles%\Google\Chrome\Application\chrome.exe",
        r"%ProgramFiles(x86)%\Microsoft\Edge\Application\msedge.exe",
        r"%ProgramFiles%\Mozilla Firefox\firefox.exe",
    ),
}
LITTLE_BYTES = 1_000_000_000  # an hour's recording and a few sheets
PICTURE_MS = 1000 / 30  # what one outgoing picture may take


class Line(NamedTuple):
    """good: True, False where something must be done first, None where it may be missing."""

    what: str
    good: bool | None
    says: str

    def __str__(self) -> str:
        mark = {True: "good", False: "MEND", None: "look"}[self.good]
        return f"{mark}  {self.what}: {self.says}"


def examine(folder: Path, port: int) -> list[Line]:
    """Everything that can be told without a browser. A line that cannot be told says so, and is never good."""
    looks: list[tuple[str, Callable[[], Line]]] = [
        ("Python", _python),
        ("Pages", _pages),
        ("Data folder", lambda: _data(folder)),
        ("Disk", lambda: _disk(folder)),
        ("Port", lambda: _port("Port", port, "the pages")),
        ("Port for phones", lambda: _port("Port for phones", port + 1, "phones and tablets")),
        ("Network", _network),
        ("Codecs", _codecs),
        ("Speed", _speed),
        ("Browser", _browser),
        ("Camera device", _camera_device),
    ]
    return [_told(what, look) for what, look in looks]


def _told(what: str, look: Callable[[], Line]) -> Line:
    try:
        return look()
    except Exception as exc:  # one that fails is told like the others
        return Line(what, None, f"could not be told ({type(exc).__name__}: {exc})")


def _python() -> Line:
    version = platform.python_version()
    good = sys.version_info >= (3, 11)
    return Line(
        "Python", good, f"{version}, {platform.system()} {platform.machine()}" + ("" if good else ": Cartouche needs 3.11 or newer")
    )


def _pages() -> Line:
    from cartouche.web.app import STATIC

    there = [name for name in ("index.html", "guest.html", "watch.html", "remote.html", "extension") if (STATIC / name).exists()]
    good = len(there) == 5
    return Line("Pages", good, "built, with the extension" if good else "not built: start with ./run, or install the package again")


def _data(folder: Path) -> Line:
    from cartouche.store.database import Database

    try:
        database = Database(folder)  # puts a damaged file aside, brings an older one up to date
    except CartoucheError as exc:
        return Line("Data folder", False, str(exc))
    said = database.says
    database.close()
    return Line("Data folder", True, f"{folder.absolute()}, can be written. {said}".strip())


def _disk(folder: Path) -> Line:
    free = shutil.disk_usage(folder if folder.exists() else folder.absolute().anchor).free
    return Line(
        "Disk", free > LITTLE_BYTES or None, f"{free / 1e9:.0f} GB free" + ("" if free > LITTLE_BYTES else ", little for a recording")
    )


def _port(what: str, port: int, for_whom: str) -> Line:
    with socket.socket() as probe:
        alone(probe)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as exc:
            why = f"{port} is taken or refused ({exc.strerror}): stop the other program, or start with another by --port"
            return Line(what, False, why)
    return Line(what, True, f"{port} is free, for {for_whom}")


def _network() -> Line:
    from cartouche.web.guests.door import networks_here

    found = networks_here()
    if not found:
        return Line("Network", None, "none: a phone cannot come in; all else works")
    where = ", ".join(f"{one.address} ({one.words.split(':')[0]})" for one in found[:3])
    return Line("Network", None, f"{where}. Whether a firewall lets phones in is seen when one comes: allow Cartouche, if it asks")


def _codecs() -> Line:
    import av
    from PIL import features

    missing = [name for name in ("libx264", "libvpx", "aac", "libopus") if name not in av.codecs_available]
    shaped = "" if features.check("raqm") else "; captions from right to left cannot be drawn here"
    if missing:
        return Line("Codecs", False, f"{', '.join(missing)} missing: install the package again")
    return Line("Codecs", True, f"H.264, VP8, AAC, Opus{shaped}")


def _speed() -> Line:
    """One 720p picture composed and encoded, the median of thirty."""
    import numpy as np

    from cartouche.core.pictures import Size, YuvColour, blank_frame
    from cartouche.live.demand import Demand
    from cartouche.live.out.encoder import Encodings
    from cartouche.live.troubles import Troubles

    size, took, done = Size(1280, 720), list[float](), list[int]()
    encodings = Encodings(Demand(), Troubles())
    taking = encodings.join(size, lambda packet: done.append(len(packet.data)))
    frame = blank_frame(size, YuvColour(120, 128, 128))
    frame.y[:] = np.random.default_rng(1).integers(90, 150, frame.y.shape, np.uint8)
    for number in range(30):
        begun_s, wanted = time.monotonic(), len(done) + 1
        encodings.take(frame, begun_s + number)
        while len(done) < wanted and time.monotonic() - begun_s < 1.0:
            time.sleep(0.0005)
        took.append(1000 * (time.monotonic() - begun_s))
        time.sleep(0.03)
    taking.release()
    encodings.close()
    ms = sorted(took)[15]
    cores = os.cpu_count() or 1
    enough = ms < PICTURE_MS and cores > 1
    return Line(
        "Speed", enough or None, f"{cores} cores, {ms:.0f} ms to encode a picture at 720p" + ("" if enough else ": start with --fps 15")
    )


def _browser() -> Line:
    found = next((shutil.which(name) for name in BROWSERS if shutil.which(name)), None)
    found = found or next((path for path in map(os.path.expandvars, ELSEWHERE.get(sys.platform, ())) if os.path.exists(path)), None)
    return Line("Browser", True if found else None, found or "none was found where browsers usually are: any current one will do")


def _camera_device() -> Line:
    from cartouche.live.out.loopback import loopback_devices

    found = loopback_devices()
    if found:
        return Line("Camera device", True, ", ".join(f"{one.name} ({one.path})" for one in found))
    return Line("Camera device", None, "none: the browser extension or the outgoing window is the way into a call")
