"""From the kit's devices to running feeds: what stands behind each kind."""

from collections.abc import Callable, Mapping
from typing import TypeVar

from cartouche.bench.devices import BenchDevice, Fault
from cartouche.core.kit.sizes import usual_sizes
from cartouche.core.pictures import Size
from cartouche.live.feeds import PulledFeed
from cartouche.live.files.apart import ROOM
from cartouche.live.files.clip import ClipSource, look_into
from cartouche.live.files.errors import UnreadableFile
from cartouche.live.files.pages import PageFile, PagesSource
from cartouche.live.running import RunningLesson
from cartouche.live.setup import Setup
from cartouche.live.source import PictureSource
from cartouche.store import files
from cartouche.store.database import Database
from cartouche.store.errors import NotKept
from cartouche.store.kits import Device

T = TypeVar("T")

FROM_BROWSER = ("camera", "guest", "window")


class Sources:
    """One per device that this process itself asks for pictures; the others are sent in by a browser."""

    def __init__(self, database: Database, running: RunningLesson, bench: Mapping[str, Callable[[], PictureSource]]) -> None:
        self._database, self._running, self._bench = database, running, bench
        self._by_id: dict[str, PictureSource] = {}  # replaced whole: whoever walks through it meets no change
        self._shown: frozenset[str] = frozenset()
        running.stage.on_change.append(self._left)

    def _left(self, setup: Setup) -> None:
        """A clip that learners do not see any more waits where it is."""
        left, self._shown = self._shown - setup.shown_ids, setup.shown_ids
        for device_id in left:
            source = self._by_id.get(device_id)
            if isinstance(source, ClipSource):
                source.pause()

    def settle(self, devices: list[Device]) -> None:
        """Open what is new, let go of what is not in the kit any more."""
        wanted = {device.id for device in devices}
        for feed in self._running.feeds.all():
            if feed.id not in wanted:
                self.close(feed.id)
        for device in devices:
            if self._running.feeds.get(device.id) is None:
                self._open(device)
            opened = self._running.feeds.get(device.id)
            if opened is not None:
                opened.usual_start_s = device.usual_start_s
            self._size(device)

    def close(self, device_id: str) -> None:
        self._running.close_feed(device_id)
        source = self._by_id.get(device_id)
        self._by_id = {id_: other for id_, other in self._by_id.items() if id_ != device_id}
        if isinstance(source, ClipSource):
            source.close()

    def _open(self, device: Device) -> None:
        if device.kind in FROM_BROWSER:
            feed = self._running.open_camera(device.id, judged=device.kind != "window")
            feed.connected = device.kind == "camera"  # a tab brings it by itself; a phone and a window come when somebody brings them
        elif device.kind == "stream":
            self._running.open_stream(device.id, device.source)
        else:
            source = self._make(device)
            self._by_id = {**self._by_id, device.id: source}
            self._running.open_source(device.id, source, judged=device.kind == "bench")

    def _make(self, device: Device) -> PictureSource:
        if device.kind == "bench":
            return self._bench[device.source]()
        kept = files.of_device(self._database, device.id)
        if device.kind == "clip":
            try:
                path = files.path_of(self._database, kept[0])
                return ClipSource(path, look_into(path, kept[0].name))
            except (UnreadableFile, IndexError, OSError):
                return _Gone()
        return PagesSource([PageFile(files.path_of(self._database, file), file.kind, file.pages) for file in kept], device.page, ROOM.draw)

    def _size(self, device: Device) -> None:
        source = self._by_id.get(device.id)
        if isinstance(source, BenchDevice) and device.width and device.height:
            source.ask_size(Size(device.width, device.height))

    def offered(self, device: Device) -> list[tuple[int, int]]:
        """The sizes it can come in, smallest first; none where there is nothing to choose."""
        source = self._by_id.get(device.id)
        if isinstance(source, BenchDevice):
            return [(int(size.width), int(size.height)) for size in source.offered]
        return usual_sizes(device.max_size) if device.kind in ("camera", "guest") and device.max_size else []

    def bench(self, device_id: str) -> BenchDevice:
        """Raises NotKept for a real device."""
        return self._get(device_id, BenchDevice, "simulated device")

    def pages(self, device_id: str) -> PagesSource:
        return self._get(device_id, PagesSource, "row of pages")

    def clip(self, device_id: str) -> ClipSource:
        return self._get(device_id, ClipSource, "clip")

    def hurry(self, device_id: str) -> None:
        """It has something new to show."""
        feed = self._running.feeds.get(device_id)
        if isinstance(feed, PulledFeed):
            feed.hurry()

    def clips(self) -> dict[str, ClipSource]:
        return {id_: source for id_, source in self._by_id.items() if isinstance(source, ClipSource)}

    def faults(self) -> dict[str, Fault]:
        """What is provoked just now, by device."""
        return {id_: source.fault for id_, source in self._by_id.items() if isinstance(source, BenchDevice) and source.fault}

    def _get(self, device_id: str, kind: type[T], what: str) -> T:
        source = self._by_id.get(device_id)
        if not isinstance(source, kind):
            raise NotKept(what, device_id)
        return source


class _Gone:
    """Stands for a file that is not there any more."""

    fps = 1.0

    def picture(self, now_s: float) -> None:
        raise ConnectionError("The file of this clip is damaged or gone. Remove it and add it again.")
