import asyncio
import threading
import traceback
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.devices import DEVICES
from cartouche.demo import lesson as demo
from cartouche.live.demand import OUTGOING
from cartouche.live.running import RunningLesson
from cartouche.live.sound import clap_test
from cartouche.store.database import Database
from cartouche.web import sheet_reading
from cartouche.web.app import create_app
from cartouche.web.routers import sound
from cartouche.web.state import AppState
from tests.helpers import eventually
from tests.web.taught import PAGE

HERE = "http://127.0.0.1:8427"
SOCKETS = "ws://127.0.0.1:8427"
OURS = {"origin": HERE}
FEW_FPS = 5.0  # what is answered is the same, in half of the time


@pytest.fixture(autouse=True)
def nothing_blocks_the_loop(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """The store is never asked on the event loop: everybody else's picture would wait for the disk."""
    blocked: list[str] = []

    def guarded(name: str) -> Callable[..., Any]:
        original = getattr(Database, name)

        def asked(self: Database, *values: Any) -> Any:
            on_loop = asyncio._get_running_loop() is not None and threading.current_thread() is not threading.main_thread()
            if on_loop and not allowed():
                blocked.append("".join(traceback.format_stack(limit=6)))
            return original(self, *values)

        return asked

    for name in ("write", "reading"):
        monkeypatch.setattr(Database, name, guarded(name))
    yield
    assert not blocked, blocked[0]


def allowed() -> bool:
    """A test's own coroutine may look into the store; the application's may not."""
    return any("/tests/web/test_" in frame.filename for frame in traceback.extract_stack(limit=14))


@pytest.fixture
def state(tmp_path: Path) -> Iterator[AppState]:
    """Closed in any case: threads that still draw while the interpreter ends bring it down."""
    made = demo_state(tmp_path)
    yield made
    made.close()


def demo_state(folder: Path) -> AppState:
    database = Database(folder)
    demo.fill(database)
    return AppState(database, RunningLesson(CallCodec, CallVoice, fps=FEW_FPS), DEVICES)


@pytest.fixture(scope="module")
def shared(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    """One for a whole module, where it does not matter what was asked before: a start takes half a second."""
    with TestClient(create_app(demo_state(tmp_path_factory.mktemp("shared"))), base_url=HERE) as client:
        yield client


@pytest.fixture
def web(state: AppState) -> Iterator[TestClient]:
    with TestClient(create_app(state), base_url=HERE, client=("127.0.0.1", 50000)) as client:
        yield client


@pytest.fixture(autouse=True)
def short_tests(monkeypatch: pytest.MonkeyPatch) -> None:
    """Echo and clapper take no time here; how they measure is tested in their own rooms."""
    monkeypatch.setattr(clap_test, "LASTS_S", 0.02)
    monkeypatch.setattr(sound, "ECHO_S", 0.02)


@pytest.fixture(autouse=True)
def no_sheet_is_read(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """A second of work for each that is kept, and only one module asks what stands on them."""
    if not request.node.path.stem.startswith("test_sheet_reading"):
        monkeypatch.setattr(sheet_reading, "print_reader", lambda: None)


@pytest.fixture
def running(state: AppState) -> Iterator[AppState]:
    """Somebody takes the outgoing picture, and the page has come."""
    claim = state.running.demand.claim(OUTGOING)
    eventually(lambda: (feed := state.running.feeds.get(PAGE)) is not None and feed.latest is not None)
    yield state
    claim.release()
