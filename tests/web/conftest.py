from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from cartouche.bench.call import CallCodec
from cartouche.bench.devices import DEVICES
from cartouche.demo import lesson as demo
from cartouche.live.running import RunningLesson
from cartouche.store.database import Database
from cartouche.web.app import create_app
from cartouche.web.state import AppState

HERE = "http://127.0.0.1:8427"
SOCKETS = "ws://127.0.0.1:8427"
OURS = {"origin": HERE}


@pytest.fixture
def state(tmp_path: Path) -> AppState:
    database = Database(tmp_path)
    demo.fill(database)
    return AppState(database, RunningLesson(CallCodec), DEVICES)


@pytest.fixture
def web(state: AppState) -> Iterator[TestClient]:
    with TestClient(create_app(state), base_url=HERE) as client:
        yield client
