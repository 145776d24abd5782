"""What differs between systems, by substitution: the type checker reads the branches of Windows and macOS besides (`./run check`)."""

import asyncio
import gc
import socket
import sys
import weakref
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from cartouche import doctor
from cartouche.cli import listen
from cartouche.live.files import apart
from cartouche.live.out import loopback
from cartouche.ports import alone, for_lines
from cartouche.process import pass_over_before_a_lesson
from cartouche.web.guests.gate import Gate
from tests.helpers import eventually


class Asked:
    """A socket that remembers what was set."""

    def __init__(self) -> None:
        self.options: list[tuple[int, int, int]] = []

    def setsockopt(self, *option: int) -> None:
        self.options.append(option)  # type: ignore[arg-type]


def test_a_port_is_nobody_elses_on_windows_too(monkeypatch: pytest.MonkeyPatch) -> None:
    here, there = Asked(), Asked()
    alone(here)  # type: ignore[arg-type]
    monkeypatch.setattr(socket, "SO_EXCLUSIVEADDRUSE", -5, raising=False)
    alone(there)  # type: ignore[arg-type]
    assert here.options == [(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)]
    assert there.options == [(socket.SOL_SOCKET, -5, 1)]


def test_two_programs_never_share_a_port() -> None:
    with socket.socket() as first, socket.socket() as second:
        for one in (first, second):
            alone(one)
        first.bind(("127.0.0.1", 0))
        first.listen()
        with pytest.raises(OSError):
            second.bind(first.getsockname())


@pytest.mark.parametrize("make", [lambda: listen(0), lambda: for_lines(Gate)])
def test_small_messages_leave_at_once(make: Callable[[], socket.socket]) -> None:
    """Pictures and sound of a live line must not wait until what went before is answered for: two came at a time."""

    async def no_delay() -> int:
        with make() as listening, socket.socket() as there:
            if listening.getsockname()[1] == 0:
                listening.bind(("127.0.0.1", 0))
                listening.listen()
            there.connect(listening.getsockname())
            line, _ = listening.accept()
            transport, _ = await asyncio.get_running_loop().connect_accepted_socket(asyncio.Protocol, line)
            said = int(line.getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY))
            transport.close()
            return said

    assert asyncio.run(no_delay())


def test_camera_devices_are_a_matter_of_linux(monkeypatch: pytest.MonkeyPatch) -> None:
    for system in ("win32", "darwin"):
        monkeypatch.setattr(sys, "platform", system)
        assert loopback.loopback_devices() == []
    monkeypatch.setattr(sys, "platform", "win32")
    with pytest.raises(OSError, match="no such devices"):
        loopback._capability(0)
    apart._bound_memory()  # there is nothing to bound it with


@pytest.mark.parametrize("system", ["win32", "darwin"])
def test_a_browser_is_found_where_its_installer_puts_it(monkeypatch: pytest.MonkeyPatch, tmp_path: Path, system: str) -> None:
    there = tmp_path / "browser"
    there.touch()
    monkeypatch.setattr(sys, "platform", system)
    monkeypatch.setattr("shutil.which", lambda _: None)
    monkeypatch.setattr(doctor, "ELSEWHERE", {system: (str(tmp_path / "none"), str(there))})
    assert doctor._browser().says == str(there)
    monkeypatch.setattr(doctor, "ELSEWHERE", {})
    assert doctor._browser().good is None


class Knot:
    """Only the collector frees it."""

    def __init__(self) -> None:
        self.itself = self


@pytest.fixture
def collector() -> Iterator[None]:
    yield
    gc.unfreeze()


@pytest.mark.usefixtures("collector")
def test_the_collector_passes_over_what_is_loaded_at_the_start_and_as_a_lesson_begins() -> None:
    begun = False
    pass_over_before_a_lesson(lambda: begun)
    loaded = gc.get_freeze_count()
    assert loaded > 10_000
    assert len(gc.get_objects()) < loaded / 10
    more = [[] for _ in range(20_000)]  # type: ignore[var-annotated]
    assert gc.get_freeze_count() <= loaded
    begun = True
    eventually(lambda: gc.get_freeze_count() > loaded + 0.9 * len(more))
    knot = weakref.ref(Knot())
    gc.collect()
    assert knot() is None  # what comes later is freed as before
