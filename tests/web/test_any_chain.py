"""A thousand chains over the network, half of them impossible: none is in force or kept that cannot be drawn, and pictures go on."""

import math
import random
import threading
from pathlib import Path
from typing import Any
from urllib.error import HTTPError

import pytest
from fastapi.testclient import TestClient

from cartouche.bench.call import CallCodec
from cartouche.bench.call_voice import CallVoice
from cartouche.bench.devices import DEVICES
from cartouche.core.straighten.gate import is_drawable
from cartouche.live.running import RunningLesson
from cartouche.store import chains
from cartouche.store.database import Database
from cartouche.web.app import create_app
from cartouche.web.state import AppState
from tests.helpers import FEW, Application, eventually
from tests.live.conftest import viewer
from tests.web.conftest import HERE

DESK = "/api/square-up/desk-camera"
WILD = [math.nan, math.inf, -1e308, 1e-320, 7, -3, "x", None, [], {}]


def possible(choice: random.Random) -> dict[str, Any]:
    base = [(0.2, 0.2), (0.8, 0.2), (0.8, 0.8), (0.2, 0.8)]
    corners = [[x + choice.uniform(-0.1, 0.1), y + choice.uniform(-0.1, 0.1)] for x, y in base]
    return {
        "square": {"corners": corners, "aspect": choice.uniform(0.5, 2), "paper": choice.choice([None, "A4"])},
        "turn": {"quarters": choice.randrange(4), "fine_deg": choice.uniform(-20, 20)},
        "frame": {"zoom": choice.uniform(1, 8), "x": choice.random(), "y": choice.random()},
    }


def impossible(choice: random.Random) -> dict[str, Any]:
    """In one of many ways: of the wrong kind, beyond its bounds, crossed, or drawable link by link and not as a whole."""
    chain = possible(choice)
    way = choice.randrange(4)
    if way == 0:
        chain[choice.choice(["square", "turn", "frame"])] = choice.choice([7, "x", None, []])
    elif way == 1:
        chain["square"]["corners"][choice.randrange(4)][choice.randrange(2)] = choice.choice([9, -7, "x", None])
    elif way == 2:
        corners = chain["square"]["corners"]
        corners[0], corners[1] = corners[1], corners[0]
    else:
        far = [[-1.9, -1.9], [2.9, -1.8], [2.8, 2.9], [-1.9, 2.8]]
        chain |= {"square": {"corners": far, "aspect": 1.4}, "unbend": {"on": True, "distortion": -choice.uniform(0.1, 0.3)}}
    return chain


def test_a_thousand_chains_half_of_them_impossible(web: TestClient, state: AppState) -> None:
    looking = viewer("outgoing")
    state.running.hub.join(looking)
    eventually(lambda: getattr(looking, "seen", 0) > 2)
    threads, choice, codes = {thread.name for thread in threading.enumerate()}, random.Random(3), []
    for number in range(1000):
        chain = possible(choice) if number % 2 else impossible(choice)
        codes.append(web.put(f"{DESK}/chain", json={"chain": chain, "settled": choice.random() < 0.5}).status_code)
        assert is_drawable(state.running.setup.chains["desk-camera"], None)
    assert set(codes[1::2]) == {200}
    assert set(codes[0::2]) == {422}
    assert is_drawable(chains.current(state.database, "desk-camera").chain, None)
    assert threads <= {thread.name for thread in threading.enumerate()}
    before = looking.seen  # type: ignore[attr-defined]
    eventually(lambda: looking.seen > before + 10)  # type: ignore[attr-defined]
    assert state.running.troubles.count("compose") == state.running.troubles.count("draw") == 0


@pytest.mark.parametrize("value", ["nan", "inf", "-1e400", "1e400"])
def test_numbers_that_are_none_are_refused_in_one_link_too(web: TestClient, state: AppState, value: str) -> None:
    before = state.running.setup.chains["desk-camera"]
    spelt = value.replace("inf", "Infinity").replace("nan", "NaN")
    body = f'{{"link": "turn", "values": {{"fine_deg": {spelt}}}}}'
    answer = web.patch(f"{DESK}/chain", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert state.running.setup.chains["desk-camera"] is before


def test_one_link_is_changed_and_the_others_stay(web: TestClient, state: AppState) -> None:
    web.put(f"{DESK}/frame", json={"framing": "whole"})
    before = state.running.setup.chains["desk-camera"]
    assert web.patch(f"{DESK}/chain", json={"link": "mirror", "values": {"left_right": True}}).status_code == 200
    after = state.running.setup.chains["desk-camera"]
    assert after.mirror.left_right
    assert after.model_copy(update={"mirror": before.mirror}) == before
    for values in ({"left_right": "perhaps"}, {"unknown": 1}, {"on": []}):
        refused = web.patch(f"{DESK}/chain", json={"link": "mirror", "values": values})
        assert refused.status_code == 422
        assert "mirror." not in refused.json()["detail"]
    crossed = [[0.8, 0.2], [0.2, 0.2], [0.8, 0.8], [0.2, 0.8]]
    refused = web.patch(f"{DESK}/chain", json={"link": "square", "values": {"corners": crossed}})
    assert refused.status_code == 422
    assert refused.json()["detail"].startswith("These four corners do not make a page")
    assert state.running.setup.chains["desk-camera"] == after


def test_a_kept_chain_that_no_longer_passes_is_opened_and_the_lesson_goes_on(tmp_path: Path) -> None:
    """As an older version may have kept it: a start goes on, the link at fault is off, and the device says so."""
    folded = (
        '{"unbend": {"on": true, "distortion": -0.3}, "square": {"corners": [[-1.9,-1.9],[2.9,-1.8],[2.8,2.9],[-1.9,2.8]], "aspect": 1.4}}'
    )
    for text in (folded, '{"square": {"corners": "spoilt"}}', "not JSON at all"):
        folder = tmp_path / str(len(text))
        database = Database(folder)
        from cartouche.demo import lesson as demo

        demo.fill(database)
        database.write(lambda c, text=text: c.execute("UPDATE chain_revision SET chain = ?", (text,)))  # type: ignore[misc]
        state = AppState(database, RunningLesson(CallCodec, CallVoice), DEVICES)
        with TestClient(create_app(state), base_url=HERE) as web:
            assert web.get(DESK).status_code == 200
            looking = viewer("outgoing")
            state.running.hub.join(looking)
            eventually(lambda looking=looking: getattr(looking, "seen", 0) > 2)  # type: ignore[misc]
            if text is folded:
                said = {feed["id"]: feed["sentence"] for feed in web.get("/api/live").json()["feeds"]}
                assert "lens correction" in said["desk-camera"]


def test_killed_among_chains_it_starts_and_goes_on(tmp_path: Path) -> None:
    application = Application(tmp_path, more=FEW).start()
    try:
        choice = random.Random(5)
        for _ in range(3):
            for number in range(40):
                chain = possible(choice) if number % 2 else impossible(choice)
                if number % 2:
                    application.ask("PUT", f"{DESK}/chain", {"chain": chain})
                    continue
                with pytest.raises(HTTPError, match="422"):
                    application.ask("PUT", f"{DESK}/chain", {"chain": chain})
            kept = application.get(DESK)["chain"]
            application.kill()
            application.start()
            assert application.get(DESK)["chain"] == kept
            assert len(application.pictures("outgoing", 3)) == 3
    finally:
        application.stop()
