"""The same product in another browser, by what it offers: no frames of tracks, no H.264, no extension; pictures come by WebRTC."""

from collections.abc import Iterator
from pathlib import Path

import pytest

from cartouche.web.guests.door import networks_here
from tests.helpers import Application, eventually
from tests.screens.firefox import FIREFOX, Firefox, firefox

START = "serve"
pytestmark = [
    pytest.mark.filterwarnings("ignore::pytest.PytestUnraisableExceptionWarning"),  # sockets that the driver leaves open
    pytest.mark.timeout(300),
]
SHOWN = "canvas[data-shown=true]"
needs_network = pytest.mark.skipif(not networks_here(), reason="WebRTC needs an address besides loopback")


@pytest.fixture(scope="module")
def browser(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Firefox]:
    assert Path(FIREFOX).exists(), "./run test installs Debian's firefox-esr"
    with firefox(tmp_path_factory.mktemp("firefox")) as started:
        yield started


def with_camera(browser: Firefox, app: Application, serves: str = "page") -> str:
    """Its camera stands in the kit, as if added by the dialog; the pages bring it by themselves from then on."""
    browser.goto(app.address + "/kit")
    source = browser.js(
        "const stream = await navigator.mediaDevices.getUserMedia({ video: true });"
        "const id = stream.getVideoTracks()[0].getSettings().deviceId; stream.getTracks().forEach((one) => one.stop()); return id"
    )
    body = {"source": source, "name": "Shelf camera", "rig": "shelf", "serves": serves}
    return str(app.ask("POST", "/api/kit/devices", body)["id"])


def feed(app: Application, device_id: str) -> dict:  # type: ignore[type-arg]
    return next((one for one in app.get("/api/live")["feeds"] if one["id"] == device_id), {})


def test_a_camera_comes_in_and_goes_out(browser: Firefox, app: Application) -> None:
    device_id = with_camera(browser, app)
    browser.expect('article[aria-label="Shelf camera"]')
    browser.expect(f"article {SHOWN}")
    eventually(lambda: feed(app, device_id)["state"] == "live")
    assert app.picture(f"raw:{device_id}", 320).shape[1] >= 320  # as large as for who looks closest
    browser.goto(app.address + f"/square-up/{device_id}")
    browser.expect(SHOWN)
    browser.press("button", "Square it up")
    browser.expect("[role=alert], [role=status]", ".")  # a sentence: its fake camera shows no page
    browser.goto(app.address + "/teach")
    browser.expect(SHOWN)
    eventually(lambda: feed(app, device_id)["state"] == "live")
    here = browser.driver.current_window_handle
    browser.press("button", "outgoing window")
    eventually(lambda: len(browser.driver.window_handles) == 2)
    browser.driver.switch_to_window(next(one for one in browser.driver.window_handles if one != here))
    browser.expect(SHOWN)
    eventually(lambda: app.get("/api/live")["going_out"])
    browser.driver.close()
    browser.driver.switch_to_window(here)
    eventually(lambda: not app.get("/api/live")["going_out"])


@needs_network
def test_a_camera_comes_by_webrtc_though_this_browser_hides_its_addresses(browser: Firefox, app: Application) -> None:
    """And goes on behind another tab: a video element, the last resort, would stop there."""
    device_id = with_camera(browser, app)
    browser.goto(app.address + "/kit")
    browser.js("HTMLVideoElement.prototype.requestVideoFrameCallback = () => 0; return true")
    eventually(lambda: feed(app, device_id).get("state") == "live")
    here = browser.driver.current_window_handle
    browser.driver.switch_to_window(browser.driver.open(type="tab", focus=True)["handle"])
    browser.goto(app.address + "/assets/mark.svg")
    assert len(app.pictures(f"raw:{device_id}", 10, 320)) == 10
    browser.driver.close()
    browser.driver.switch_to_window(here)


def test_where_webrtc_does_not_come_through_the_socket_does(browser: Firefox, app: Application) -> None:
    device_id = with_camera(browser, app)
    browser.goto(app.address + "/kit")
    without = "RTCPeerConnection.prototype.setLocalDescription = async () => { throw new Error('none') }; return true"
    browser.js(without)
    app.ask("PATCH", f"/api/kit/devices/{device_id}", {"serves": "face"})
    eventually(lambda: feed(app, device_id).get("state") == "live")


@pytest.mark.parametrize("path", ["/", "/first", "/kit", "/plates", "/sound", "/way-in", "/ready", "/teach", "/after", "/manual"])
def test_each_screen_stands(browser: Firefox, app: Application, path: str) -> None:
    browser.goto(app.address + path)
    browser.expect("h1, h2, header")
    assert browser.js("return document.querySelector('#app').textContent.length > 60") is True
    wide = browser.js("return document.documentElement.scrollWidth - window.innerWidth")
    assert wide <= 1


def test_what_this_browser_cannot_do_is_said_with_the_way_round(browser: Firefox, app: Application) -> None:
    browser.goto(app.address + "/way-in")
    browser.press("button", "As your webcam")  # which way stands first depends on how busy this computer is
    browser.expect("main", "Chromium")


@needs_network
def test_a_phone_with_this_browser(browser: Firefox, app: Application) -> None:
    link = app.ask("POST", "/api/guests/invitation", {"name": "Phone", "serves": "page"})["link"]
    browser.goto(link)
    browser.expect("h1", "Your page is")

    def arrives() -> bool:
        guest = phone(app)
        return guest is not None and len(app.pictures(f"raw:{guest}", 2, 320)) == 2

    eventually(arrives)
    eventually(lambda: app.get("/api/kit")["guests"][phone(app)]["transport"] == "webrtc")


def phone(app: Application) -> str | None:
    return next((one["id"] for one in app.get("/api/kit")["devices"] if one["kind"] == "guest"), None)


@needs_network
def test_a_board_watches_with_this_browser(browser: Firefox, app: Application) -> None:
    with_camera(browser, app)
    here = browser.driver.current_window_handle
    board = browser.driver.open(type="window", focus=True)["handle"]  # the camera comes from the first one
    browser.driver.switch_to_window(board)
    browser.goto(app.ask("POST", "/api/ways/invitation", {})["link"])
    browser.press("button", "Watch")
    eventually(lambda: browser.js("return document.querySelector('video').mozPaintedFrames") > 10)
    assert browser.js("return [...document.querySelectorAll('[role=status]')].map((one) => one.textContent)") == []
    browser.driver.close()
    browser.driver.switch_to_window(here)
    eventually(lambda: not app.get("/api/ways")["takers"])
