"""Our browser extension in a real browser: what a call page sees, what it can do, and what it cannot."""

from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, Playwright, expect

from tests.helpers import FEW, Application, eventually, likeness, settled
from tests.screens.extended import LISTED, Extended, call_site, extended, frames_a_second, settings, shown, taken

CAMERA, MICROPHONE = "videoinput Cartouche", "audioinput Cartouche"


@pytest.fixture(scope="module")
def browser_(playwright: Playwright, tmp_path_factory: pytest.TempPathFactory, warm_demo: Application) -> Iterator[Extended]:
    with extended(playwright, tmp_path_factory.mktemp("profile")) as made:
        made.pair(warm_demo)
        yield made
        warm_demo.ask("DELETE", "/api/ways/extension")  # with one, a lesson that is taught opens no window


@pytest.fixture
def site() -> Iterator[str]:
    with call_site() as address:
        yield address


@pytest.fixture
def ext(browser_: Extended, app: Application) -> Iterator[Extended]:
    yield browser_
    for page in browser_.context.pages[2:]:
        page.close()
    eventually(lambda: not app.get("/api/ways")["takers"])


@pytest.fixture
def chosen(ext: Extended, site: str) -> Page:
    """A call page that the teacher chose by the icon."""
    page = ext.open(site)
    ext.choose(page)
    return page


@pytest.fixture
def call(ext: Extended, chosen: Page) -> Page:
    """One that takes the picture."""
    assert ext.takes(chosen) == "taken"
    return chosen


def sees_the_lesson(page: Page, app: Application) -> bool:
    seen = shown(page)
    if seen is None:
        return False
    lesson = cv2.resize(app.picture("outgoing"), (seen.shape[1], seen.shape[0]), interpolation=cv2.INTER_AREA)
    return likeness(seen, lesson) > 0.9


def test_a_site_that_was_not_chosen_sees_nothing_and_reaches_nothing(ext: Extended, site: str, app: Application) -> None:
    page = ext.open(site)
    assert CAMERA not in page.evaluate(LISTED)
    assert page.evaluate("() => '__cartouche' in window") is False
    tries = """async ([address, id]) => {
        const got = []
        for (const path of ['/api/live', '/api/surfaces/outgoing', '/api/extension/outgoing']) {
            const socket = new WebSocket(address.replace('http', 'ws') + path)
            await new Promise((done) => (socket.onclose = socket.onerror = socket.onopen = done))
            socket.onmessage = ({ data }) => got.push(data)
            const hello = { key: 'guess'.repeat(9), site: location.origin, width: 640, height: 360 }
            if (socket.readyState === 1) socket.send(JSON.stringify(hello))
        }
        for (const path of ['/api/live', '/api/kit', '/api/sound/voice'])
            await fetch(address + path).then((answer) => answer.ok && got.push(path)).catch(() => {})
        const image = new Image()
        image.src = address + '/api/surfaces/outgoing'
        const frame = document.createElement('iframe')
        frame.src = `chrome-extension://${id}/frame.html`
        document.body.append(frame)
        await new Promise((done) => (frame.onload = done))
        const { port1, port2 } = new MessageChannel()
        port1.onmessage = ({ data }) => data.tell === 'picture' && got.push('picture')
        frame.contentWindow.postMessage('cartouche-extension', '*', [port2])
        port1.postMessage({ do: 'want', want: { width: 640, height: 360, sound: true } })
        await new Promise((done) => setTimeout(done, 1500))
        return got
    }"""
    assert page.evaluate(tries, [app.address, ext.id]) == []
    assert not app.get("/api/ways")["takers"]


def test_it_is_listed_beside_the_others_and_asks_once(ext: Extended, chosen: Page, app: Application) -> None:
    query = "() => navigator.permissions.query({ name: 'camera' }).then((one) => one.state)"
    assert "videoinput" in " ".join(chosen.evaluate(LISTED))
    assert CAMERA not in chosen.evaluate(LISTED)  # names are told after permission only
    assert chosen.evaluate(query) == "prompt"
    chosen.evaluate("() => { window.changes = 0; navigator.mediaDevices.addEventListener('devicechange', () => changes++) }")
    assert ext.takes(chosen) == "taken"
    assert {CAMERA, MICROPHONE} <= set(chosen.evaluate(LISTED))
    assert chosen.evaluate(query) == "granted"
    assert chosen.evaluate("() => changes") == 1
    eventually(lambda: sees_the_lesson(chosen, app))
    assert taken(chosen, {"video": True}) == "taken"  # not asked again
    chosen.reload()
    assert taken(chosen, {"video": True}) == "taken"
    site = chosen.evaluate("location.origin")
    eventually(lambda: [one["name"] for one in app.get("/api/ways")["takers"]] == [site])


def test_no_means_no_until_the_icon_is_pressed_again(ext: Extended, chosen: Page, app: Application) -> None:
    assert ext.takes(chosen, yes=False) == "NotAllowedError"
    assert taken(chosen, {"video": True}) == "NotAllowedError"
    assert not app.get("/api/ways")["takers"]
    ext.choose(chosen)
    assert ext.takes(chosen) == "taken"


@pytest.mark.parametrize(
    ("wanted", "size"),
    [
        ({"width": 640, "height": 360}, (640, 360)),
        ({"width": {"exact": 640}, "height": {"exact": 480}}, (640, 480)),
        ({"width": {"ideal": 320}, "height": {"ideal": 180}, "frameRate": 10}, (320, 180)),
        ({"width": {"max": 800}}, (800, 450)),
    ],
)
def test_constraints_are_met(call: Page, wanted: dict, size: tuple[int, int]) -> None:  # type: ignore[type-arg]
    assert taken(call, {"video": wanted}) == "taken"
    assert (settings(call)["width"], settings(call)["height"]) == size
    eventually(lambda: (seen := shown(call)) is not None and seen.shape[1::-1] == size)
    if "frameRate" in wanted:
        assert settings(call)["frameRate"] == 10
        eventually(lambda: 3 < frames_a_second(call, 3) < 13)  # a busy computer gives fewer than the ten that were asked for


@pytest.mark.parametrize(
    ("wanted", "name"),
    [({"width": {"min": 5000}}, "width"), ({"frameRate": {"exact": 90}}, "frameRate"), ({"facingMode": {"exact": "environment"}}, "")],
)
def test_what_cannot_be_met_is_refused_as_any_camera_does(call: Page, wanted: dict, name: str) -> None:  # type: ignore[type-arg]
    device = call.evaluate("() => taken[0].getVideoTracks()[0].getSettings().deviceId")
    outcome = taken(call, {"video": {"deviceId": {"exact": device}, **wanted}})
    assert outcome.startswith("OverconstrainedError")
    assert name in outcome


def test_a_track_behaves_as_any_other(call: Page, app: Application) -> None:
    tried = call.evaluate("""async () => {
        const [track] = taken[0].getVideoTracks()
        await track.applyConstraints({ width: 640, height: 360 })
        const refused = await track.applyConstraints({ width: { min: 9000 } }).catch((error) => error.name)
        const copy = track.clone()
        copy.enabled = false
        const before = [track.label, track.kind, track.readyState, track.enabled, copy.label, copy.enabled]
        track.stop()
        return {
            before, refused, after: [track.readyState, copy.readyState, copy.getSettings().width],
            constraints: track.getConstraints(), max: track.getCapabilities().width.max, is: track instanceof MediaStreamTrack,
        }
    }""")
    assert tried["before"] == ["Cartouche", "video", "live", True, "Cartouche", False]
    assert tried["refused"] == "OverconstrainedError"
    assert tried["after"] == ["ended", "live", 640]
    assert tried["constraints"] == {"width": 640, "height": 360}
    assert tried["max"] == 1920
    assert tried["is"]
    eventually(lambda: app.get("/api/ways")["takers"])  # the copy still takes it


def test_ten_starts_and_stops_leak_nothing(call: Page, app: Application) -> None:
    call.evaluate("() => taken[0].getTracks().forEach((track) => track.stop())")
    for _ in range(10):
        assert taken(call, {"video": {"width": 640, "height": 360}}) == "taken"
        call.evaluate("() => taken.at(-1).getTracks().forEach((track) => track.stop())")
    eventually(lambda: not app.get("/api/ways")["takers"])
    for _ in range(3):  # quickly again, and slowly
        assert taken(call, {"video": {"width": 640, "height": 360}}) == "taken"
        eventually(lambda: app.get("/api/ways")["takers"])
        call.evaluate("() => taken.at(-1).getTracks().forEach((track) => track.stop())")
        eventually(lambda: not app.get("/api/ways")["takers"])
    expect(call.locator("html > div")).to_have_count(0)  # our frames' only holders


def test_a_page_that_takes_our_frame_away_has_its_picture_again(call: Page, app: Application) -> None:
    ours = call.locator("html > div")
    eventually(lambda: app.get("/api/ways")["takers"])
    ours.evaluate("(host) => host.remove()")
    expect(ours).to_have_count(1)
    assert eventually(lambda: settled(lambda: len(app.get("/api/ways")["takers"]), 2.0)) == 1  # the one before is gone by then


@pytest.mark.parametrize("path", ["/strict", "/isolated"])
def test_strict_pages_get_the_picture_too(ext: Extended, call: Page, site: str, app: Application, path: str) -> None:
    page = ext.open(site + path)
    assert taken(page, {"video": {"width": 640, "height": 360}}) == "taken"
    eventually(lambda: sees_the_lesson(page, app))


def test_a_browser_without_h264_gets_pictures_one_by_one(ext: Extended, call: Page, site: str, app: Application) -> None:
    page = ext.open(site)
    page.evaluate("() => { VideoDecoder.isConfigSupported = () => Promise.resolve({ supported: false }) }")
    assert taken(page, {"video": {"width": 640, "height": 360}}) == "taken"
    eventually(lambda: sees_the_lesson(page, app))


def test_a_page_that_may_have_no_camera_gets_none(ext: Extended, call: Page, site: str) -> None:
    page = ext.open(f"{site}/forbidden")
    assert taken(page, {"video": True}) == "NotAllowedError"
    assert CAMERA not in page.evaluate(LISTED)


def test_frames_within_pages(ext: Extended, call: Page, site: str) -> None:
    """An empty frame of the page itself has it; one of another site has not, whatever the page allows."""
    call.evaluate("() => document.body.append(document.createElement('iframe'))")
    inner = "() => frames[frames.length - 1].navigator.mediaDevices.enumerateDevices().then((all) => all.map((one) => one.label))"
    eventually(lambda: "Cartouche" in call.evaluate(inner))
    with call_site() as other:
        page = ext.open(site)
        page.evaluate(
            "(address) => { const one = document.createElement('iframe'); one.allow = 'camera; microphone'; one.src = address; "
            "document.body.append(one); return new Promise((done) => (one.onload = done)) }",
            other,
        )
        frame = next(one for one in page.frames if one.url.startswith(other))
        assert CAMERA not in frame.evaluate(LISTED)


def test_two_tabs_take_it_at_once_and_a_hidden_one_goes_on(ext: Extended, call: Page, site: str, app: Application) -> None:
    second = ext.open(site)
    assert taken(second, {"video": True}) == "taken"
    eventually(lambda: len(app.get("/api/ways")["takers"]) == 2)
    for page in (second, call):
        eventually(lambda page=page: sees_the_lesson(page, app), 30)  # type: ignore[misc]
    arrives = eventually(lambda: [one["fps"] for one in app.get("/api/ways")["takers"] if one["fps"]])
    assert arrives


def test_the_microphone_carries_the_lessons_sound(call: Page, app: Application) -> None:
    app.ask("PUT", "/api/sound/open", {"id": "bench-lapel"})
    loud = """async () => {
        const all = await navigator.mediaDevices.enumerateDevices()
        const { deviceId } = all.find((one) => one.kind === 'audioinput' && one.label === 'Cartouche')
        const stream = await navigator.mediaDevices.getUserMedia({ audio: { deviceId: { exact: deviceId } } })
        window.context = new AudioContext()
        window.analyser = new AnalyserNode(context, { fftSize: 8192 })
        context.createMediaStreamSource(stream).connect(analyser)
        await context.resume()
        return stream.getAudioTracks()[0].label
    }"""
    assert call.evaluate(loud) == "Cartouche"
    peak = "() => { const s = new Float32Array(8192); analyser.getFloatTimeDomainData(s); return Math.max(...s) }"
    eventually(lambda: call.evaluate(peak) > 0.02)
    assert any(one["sound"] for one in app.get("/api/ways")["takers"])
    app.ask("PUT", "/api/sound/open", {"id": None})
    eventually(lambda: call.evaluate(peak) < 0.005)


def test_stopped_on_this_site_it_gets_a_card_and_nothing_more(ext: Extended, call: Page, app: Application) -> None:
    eventually(lambda: sees_the_lesson(call, app))
    ext.popup.click("#leave")
    eventually(lambda: not app.get("/api/ways")["takers"])
    eventually(lambda: (seen := shown(call)) is not None and np.median(seen) > 225)  # the calm card
    assert not sees_the_lesson(call, app)


def test_unpaired_in_cartouche_it_gets_no_picture(ext: Extended, call: Page, app: Application) -> None:
    eventually(lambda: sees_the_lesson(call, app))
    app.ask("DELETE", "/api/ways/extension")
    call.reload()
    assert taken(call, {"video": True}) == "taken"
    eventually(lambda: (seen := shown(call)) is not None and np.median(seen) > 225)
    assert not app.get("/api/ways")["takers"]
    ext.pair(app)
    eventually(lambda: sees_the_lesson(call, app))


def test_cartouche_killed_and_back_in_mid_call(playwright: Playwright, tmp_path: Path) -> None:
    app = Application(tmp_path / "data", more=FEW).start()
    with extended(playwright, tmp_path / "profile") as ext, call_site() as site:
        ext.pair(app)
        page = ext.open(site)
        ext.choose(page)
        assert ext.takes(page) == "taken"
        eventually(lambda: sees_the_lesson(page, app))
        app.kill()
        eventually(lambda: (seen := shown(page)) is not None and np.median(seen) > 225)
        assert frames_a_second(page) > 2  # a card, and still a live camera
        app.start()
        eventually(lambda: sees_the_lesson(page, app))
        assert page.evaluate("() => taken[0].getVideoTracks()[0].readyState") == "live"
    app.stop()


def test_a_practice_call_takes_it_by_this_very_way(ext: Extended, app: Application) -> None:
    page = ext.in_call(app, "")  # our own page: a browser with nobody before it cannot be asked about another host
    expect(page.get_by_label("Camera", exact=True).locator("option:checked")).to_have_text("Cartouche")
    mirrored = page.evaluate("() => ['.self', '.teacher'].map((one) => getComputedStyle(document.querySelector(one)).transform)")
    assert mirrored == ["matrix(-1, 0, 0, 1, 0, 0)", "none"]  # the teacher sees it mirrored, learners do not
    tried = eventually(lambda: next(way for way in app.get("/api/ways")["ways"] if way["id"] == "extension")["tried"])
    assert tried["width"] > 0
    assert tried["fps"] > 0
    assert 0 < tried["delay_ms"] < 5000  # what both ends tell of this very call
