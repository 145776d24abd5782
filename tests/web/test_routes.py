"""What each screen asks and sets, without a browser."""

from fastapi.testclient import TestClient

from cartouche.store import chains
from cartouche.web.state import AppState
from tests.helpers import eventually
from tests.live.conftest import viewer

DESK = "/api/square-up/desk-camera"


def seeing(state: AppState, device_id: str = "desk-camera") -> None:
    """Look at a device until its first picture has come."""
    state.running.hub.join(viewer(f"raw:{device_id}"))
    eventually(lambda: (feed := state.running.feeds.get(device_id)) and feed.latest)


def test_lessons(web: TestClient) -> None:
    seen = web.get("/api/lessons").json()
    assert [lesson["starts"] for lesson in seen["lessons"]] == ["08:55", "10:40", "13:15"]
    assert seen["open_id"] == "reading-the-ground-9b"
    made = web.post("/api/lessons", json={"title": "Slopes", "class_name": "8A", "starts": "14:30"})
    assert made.status_code == 201
    assert web.put("/api/lessons/open", json={"lesson_id": made.json()["id"]}).status_code == 200
    assert web.get("/api/teach").json()["lesson"]["title"] == "Slopes"
    assert len(web.get("/api/teach").json()["plates"]) == 6


def test_a_new_rig_brings_its_turn_and_flips(web: TestClient, state: AppState) -> None:
    assert web.patch("/api/kit/devices/desk-camera", json={"rig": "clip-mirror"}).status_code == 200
    chain = state.running.setup.chains["desk-camera"]
    assert (chain.turn.quarters, chain.mirror.left_right) == (2, True)
    assert web.get(DESK).json()["learners"]["reads_true"]


def test_serving_and_yielding(web: TestClient, state: AppState) -> None:
    web.patch("/api/kit/devices/clip-camera", json={"serves": "page"})
    assert state.running.setup.roles == {"page": "clip-camera", "face": "face-camera"}
    web.patch("/api/kit/devices/clip-camera", json={"serves": "nothing"})
    assert state.running.setup.roles == {"face": "face-camera"}


def test_a_camera_is_added_and_taken_out(web: TestClient, state: AppState) -> None:
    body = {"source": "abc", "label": "USB camera", "name": "Mine", "rig": "clip-mirror", "serves": "page"}
    device = web.post("/api/kit/devices", json=body).json()
    assert state.running.setup.roles["page"] == device["id"]
    assert state.running.setup.chains[device["id"]].mirror.left_right
    assert web.delete(f"/api/kit/devices/{device['id']}").status_code == 204
    assert web.delete(f"/api/kit/devices/{device['id']}").status_code == 404


def test_a_simulated_device_is_broken_and_brought_back_with_all_it_had(web: TestClient, state: AppState) -> None:
    seeing(state)
    before = web.get(DESK).json()["chain"]
    path = "/api/kit/devices/desk-camera/fault"
    assert web.put(path, json={"fault": "pulled out"}).status_code == 204
    assert web.get("/api/kit").json()["faults"] == {"desk-camera": "pulled out"}
    eventually(lambda: web.get("/api/live").json()["feeds"][0]["state"] == "lost")
    assert web.put(path, json={"fault": None}).status_code == 204
    assert web.get("/api/kit").json()["faults"] == {}
    eventually(lambda: web.get("/api/live").json()["feeds"][0]["state"] == "live")
    assert web.get(DESK).json()["chain"] == before
    assert state.running.setup.roles["page"] == "desk-camera"
    assert web.put(path, json={"fault": "melted"}).status_code == 422


def test_only_simulated_devices_can_be_broken(web: TestClient) -> None:
    body = {"source": "abc", "name": "Mine", "rig": "in-hand"}
    device_id = web.post("/api/kit/devices", json=body).json()["id"]
    assert web.put(f"/api/kit/devices/{device_id}/fault", json={"fault": "black"}).status_code == 404


def test_find_sets_the_chain_and_undo_takes_it_back(web: TestClient, state: AppState) -> None:
    seeing(state)
    before = web.get(DESK).json()
    web.put(f"{DESK}/chain", json={"chain": {"turn": {"quarters": 1}}})
    found = web.post(f"{DESK}/find").json()
    assert found["confidence"] > 0.8
    assert found["chain"]["square"]["paper"] == "A4"
    assert found["readings"]["tilt_deg"] > 5
    for _ in range(2):
        web.post(f"{DESK}/undo")
    assert web.get(DESK).json()["chain"] == before["chain"]
    assert web.post(f"{DESK}/redo").json()["chain"]["turn"]["quarters"] == 1


def test_finding_before_the_first_picture_says_so(web: TestClient) -> None:
    answer = web.post(f"{DESK}/find")
    assert answer.status_code == 409
    assert "no picture yet" in answer.json()["detail"]


def test_finding_no_page_says_what_to_do(web: TestClient, state: AppState) -> None:
    web.put("/api/kit/devices/face-camera/fault", json={"fault": "black"})
    seeing(state, "face-camera")
    answer = web.post("/api/square-up/face-camera/find")
    assert answer.status_code == 422
    assert "by hand" in answer.json()["detail"]


def test_a_hand_that_still_drags_is_shown_but_not_kept(web: TestClient, state: AppState) -> None:
    web.put(f"{DESK}/chain", json={"chain": {"frame": {"zoom": 5}}, "settled": False})
    assert state.running.setup.chains["desk-camera"].frame.zoom == 5
    assert not web.get(DESK).json()["can_undo"]
    state.reopen()
    assert web.get(DESK).json()["chain"]["frame"]["zoom"] == 5, "what the hand holds is not taken from it"
    assert chains.current(state.database, "desk-camera").chain.frame.zoom == 1.9


def test_keystone_is_set_by_its_numbers(web: TestClient, state: AppState) -> None:
    seeing(state)
    seen = web.put(f"{DESK}/keystone", json={"vertical": 12, "horizontal": -5}).json()
    assert round(seen["readings"]["keystone_vertical"], 6) == 12
    assert round(seen["readings"]["keystone_horizontal"], 6) == -5


def test_naming_a_paper_changes_proportions_and_millimetres(web: TestClient, state: AppState) -> None:
    seeing(state)
    a4 = web.put(f"{DESK}/paper", json={"paper": "A4"}).json()
    a3 = web.put(f"{DESK}/paper", json={"paper": "A3"}).json()
    assert a3["readings"]["px_per_mm_min"] < 0.75 * a4["readings"]["px_per_mm_min"]
    free = web.put(f"{DESK}/paper", json={"paper": None}).json()
    assert free["readings"]["px_per_mm_min"] is None


def test_corners_that_cross_are_refused_in_one_sentence(web: TestClient, state: AppState) -> None:
    before = state.running.setup.chains["desk-camera"]
    answer = web.put(f"{DESK}/chain", json={"chain": {"square": {"corners": [[0, 0], [1, 1], [1, 0], [0, 1]]}}})
    assert answer.status_code == 422
    assert "sides cross" in answer.json()["detail"]
    assert state.running.setup.chains["desk-camera"] == before


def test_plates_and_sizes_are_kept(web: TestClient, state: AppState) -> None:
    assert web.put("/api/teach/plate", json={"plate_id": "side-by-side"}).json()["plate_on"] == "side-by-side"
    assert web.put("/api/teach/outgoing", json={"size": "1080p"}).json()["outgoing_size"] == "1080p"
    assert state.running.desk.size == (1920, 1080)
    assert web.put("/api/teach/plate", json={"plate_id": "nope"}).status_code == 404
    again = AppState(state.database, state.running, {})
    assert again.running.setup.plate is not None
    assert again.running.setup.plate.id == "side-by-side"


def test_the_call_starts_and_stops_twice(web: TestClient) -> None:
    for way, runs in (("start", True), ("start", True), ("stop", False), ("stop", False)):
        assert web.post(f"/api/teach/call/{way}").json() == {"running": runs}
        assert web.get("/api/live").json()["going_out"] is runs


def test_live_tells_each_audiences_verdict(web: TestClient, state: AppState) -> None:
    seeing(state)
    audiences = web.get("/api/live").json()["audiences"]
    assert [one["path"]["reads_true"] for one in audiences] == [True, True, True, False]
    assert audiences[0]["smallest_print_pt"] <= 12 < audiences[1]["smallest_print_pt"]


def test_a_full_disk_keeps_the_change_running_says_so_and_keeps_it_later(web: TestClient, state: AppState) -> None:
    def room(c, pages: int) -> None:  # type: ignore[no-untyped-def]
        c.execute(f"PRAGMA max_page_count = {c.execute('PRAGMA page_count').fetchone()[0] + pages}")

    state.database._writer.submit(lambda: room(state.database._connection, 0)).result()
    codes = {web.put(f"{DESK}/chain", json={"chain": {"frame": {"zoom": 2 + n / 100}}}).status_code for n in range(60)}
    assert codes == {200}
    assert state.running.setup.chains["desk-camera"].frame.zoom == 2.59
    assert "the disk is full" in web.get("/api/live").json()["kept_says"]
    assert chains.current(state.database, "desk-camera").chain.frame.zoom != 2.59
    state.database._writer.submit(lambda: room(state.database._connection, 1000)).result()
    eventually(lambda: chains.current(state.database, "desk-camera").chain.frame.zoom == 2.59)
    assert web.get("/api/live").json()["kept_says"] == ""


def test_without_any_lesson_every_screen_opens_empty(web: TestClient, state: AppState) -> None:
    state.database.write(lambda c: c.execute("DELETE FROM setting"))
    state.reopen()
    assert web.get("/api/kit").json()["devices"] == []
    assert web.get("/api/teach").json()["lesson"] is None
    assert web.get(DESK).status_code == 404
    assert web.get("/api/live").json()["lesson_id"] is None
