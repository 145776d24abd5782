"""A phone, as a second real browser: invited, in over TLS, zoomed by the teacher, cut off, and back by itself."""

import re
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, Playwright, expect

from tests.helpers import FEW, Application, eventually, settled
from tests.screens.access import accessible
from tests.screens.conftest import SHELL, watched
from tests.screens.layout import layout_faults
from tests.screens.player import FAKE_CAMERA

ARRIVED = "Your page is at the teacher’s computer"
SECONDS = 30.0
START = "serve"


@pytest.fixture(scope="module")
def phone_browser(playwright: Playwright) -> Iterator[Browser]:
    """A browser whose three fake lenses can zoom."""
    flags = [FAKE_CAMERA[0], FAKE_CAMERA[1] + "=device-count=3"]
    launched = playwright.chromium.launch(executable_path=SHELL, headless=True, args=flags)
    yield launched
    launched.close()


@pytest.fixture
def phone(phone_browser: Browser, troubles: list[str]) -> Iterator[Page]:
    context = phone_browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, ignore_https_errors=True, permissions=["camera", "microphone"]
    )
    yield watched(context, troubles)
    context.close()
    assert not troubles


def invite(app: Application, **asked: Any) -> dict[str, Any]:
    made = app.ask("POST", "/api/guests/invitation", {"name": "Old phone", "serves": "page", **asked})
    assert isinstance(made, dict)
    return made


def guest(app: Application) -> dict[str, Any]:
    """The phone as a device of the kit, with its feed and what it tells."""
    kit, live = app.get("/api/kit"), app.get("/api/live")
    device = next((one for one in kit["devices"] if one["kind"] == "guest"), None)
    if device is None:
        return {}
    feed = next((one for one in live["feeds"] if one["id"] == device["id"]), None)
    if feed is None:  # it came in between
        return {}
    return {**device, "feed": feed, "told": kit["guests"].get(device["id"])}


def arrives(app: Application) -> bool:
    """Its picture comes while somebody looks."""
    found = guest(app)
    return bool(found) and len(app.pictures(f"raw:{found['id']}", 2, 320, SECONDS)) == 2


def let_it_zoom(phone: Page, address: str) -> None:
    """A phone's browser lets a page zoom with the camera's permission; this one wants to be told."""
    context_id = phone.context.new_cdp_session(phone).send("Target.getTargetInfo")["targetInfo"]["browserContextId"]
    allowed = {"permission": {"name": "camera", "panTiltZoom": True}, "setting": "granted", "origin": address}
    phone.context.browser.new_browser_cdp_session().send("Browser.setPermission", {**allowed, "browserContextId": context_id})  # type: ignore[union-attr]


def test_from_the_invitation_to_the_picture_and_the_teachers_zoom(page: Page, phone: Page, app: Application) -> None:
    page.goto("/kit")
    page.get_by_role("button", name="Invite a phone or tablet").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Your name for it").fill("Shelf phone")
    dialog.get_by_label("How it is held").select_option(label="Shelf with a hole")
    expect(dialog.get_by_role("img", name="QR code of the address")).to_be_visible()
    code = dialog.get_by_label("The code").inner_text()
    address = dialog.locator(".address").inner_text()
    assert re.fullmatch(r"https://[\d.]+:\d+", address)
    let_it_zoom(phone, address)

    phone.goto(address)
    phone.get_by_label("The six characters").fill(code.lower())
    phone.get_by_role("button", name="Bring it in").click()
    expect(dialog.get_by_text("Shelf phone is connected.")).to_be_visible()
    dialog.get_by_role("button", name="Done").click()
    card = page.get_by_role("article", name="Shelf phone")
    expect(card.locator("canvas[data-shown=true]")).to_be_visible()
    expect(card.get_by_text("Live", exact=True)).to_be_visible(timeout=SECONDS * 1000)
    expect(phone.get_by_role("heading", name=ARRIVED)).to_be_visible()
    expect(card.get_by_text("Battery 100%, charging")).to_be_visible()
    expect(card.get_by_text("Microphone: Phone’s own, off")).to_be_visible()
    assert guest(app)["rig"] == "shelf"

    card.get_by_text("Picture and controls").click()
    zoom = card.get_by_role("slider", name="Zoom")
    zoom.focus()
    zoom.press("End")
    eventually(lambda: guest(app)["told"]["settings"].get("zoom") == 400, SECONDS)
    assert phone.evaluate("document.querySelector('video').srcObject.getVideoTracks()[0].getSettings().zoom") == 400
    expect(phone.get_by_text("4.0×")).to_be_visible()


def test_the_teacher_chooses_the_lens_and_opens_the_microphone(phone: Page, app: Application) -> None:
    phone.goto(invite(app)["link"])
    told = eventually(lambda: (one := guest(app).get("told")) and len(one["lenses"]) == 3 and one["lens"] and one, SECONDS)
    other = told["lenses"][-1]["id"]  # the one between sends depth, which no encoder takes
    assert other != told["lens"]
    path = f"/api/guests/{guest(app)['id']}/controls"
    app.ask("PUT", path, {"lens": other})
    eventually(lambda: guest(app)["told"]["lens"] == other, SECONDS)
    assert arrives(app)
    app.ask("PUT", path, {"microphone": True})
    eventually(lambda: guest(app)["told"]["microphone"] == "on" and guest(app)["feed"]["sound_db"] is not None, SECONDS)
    app.ask("PUT", path, {"microphone": False})
    eventually(lambda: guest(app)["told"]["microphone"] == "off" and guest(app)["feed"]["sound_db"] is None, SECONDS)
    assert arrives(app)


# over ten seconds at best; beside other work it may have taken the socket, where nothing is lost
LINE = re.compile(r"\d+ ms, (\d+\.\d% lost, )?\d+\.\d Mbit/s")


def network(app: Application) -> dict[str, Any]:
    return next((one for one in app.get("/api/ready")["checks"] if one["id"] == "page-network"), {})


def test_its_line_is_measured_and_told_before_the_lesson(page: Page, phone: Page, app: Application) -> None:
    phone.goto(invite(app)["link"])

    eventually(lambda: LINE.fullmatch(network(app).get("value", "")), 2 * SECONDS)
    page.goto("/ready")
    expect(page.get_by_text("Network to Old phone")).to_be_visible()
    expect(page.get_by_text(re.compile(r"at most 250 ms and 3% lost"))).to_be_visible()


def test_its_microphone_stands_among_the_others_and_one_key_closes_it(page: Page, phone: Page, app: Application) -> None:
    phone.goto(invite(app)["link"])
    eventually(lambda: (guest(app).get("told") or {}).get("microphone") == "off", SECONDS)
    page.goto("/sound")
    mine = page.get_by_role("listitem").filter(has=page.get_by_label("Name of Old phone"))
    mine.get_by_role("button", name="Open this one").click()
    eventually(lambda: guest(app)["told"]["microphone"] == "on", SECONDS)
    expect(page.get_by_text("Mic open")).to_be_visible(timeout=SECONDS * 1000)
    expect(page.get_by_text("Old phone is open. All others are closed.")).to_be_visible()
    expect(mine.get_by_text("Listening").or_(mine.get_by_text("On the phone"))).to_have_count(0, timeout=SECONDS * 1000)  # it is judged
    page.get_by_role("link", name="Kit").click()
    page.keyboard.press("m")
    eventually(lambda: guest(app)["told"]["microphone"] == "off", SECONDS)
    expect(page.get_by_text("Mic open")).to_be_hidden()
    phone.get_by_role("button", name="Microphone on").click()  # on the phone itself: here too
    expect(page.get_by_text("Mic open")).to_be_visible(timeout=SECONDS * 1000)
    phone.get_by_role("button", name="Microphone off").click()
    expect(page.get_by_text("Mic open")).to_be_hidden(timeout=SECONDS * 1000)


def test_lenses_are_chosen_by_their_pictures_on_the_phone(phone: Page, app: Application) -> None:
    phone.goto(invite(app)["link"])
    phone.get_by_role("button", name="Another lens").click()
    lenses = phone.get_by_role("list", name="Choose a lens by its picture")
    expect(lenses.locator("img")).to_have_count(3, timeout=SECONDS * 1000)
    last = eventually(lambda: guest(app)["told"]["lenses"])[-1]["id"]
    lenses.get_by_role("button").last.click()
    eventually(lambda: guest(app)["told"]["lens"] == last, SECONDS)
    assert arrives(app)


def test_a_reload_and_a_lost_network_bring_back_the_same_device(phone: Page, app: Application) -> None:
    phone.goto(invite(app)["link"])
    assert eventually(lambda: bool(guest(app)), SECONDS)
    assert arrives(app)
    device_id = guest(app)["id"]
    app.ask("PATCH", f"/api/kit/devices/{device_id}", {"name": "Named by hand"})
    phone.reload()
    assert phone.url.endswith("/")  # the used code is not in the address any more
    assert arrives(app)
    phone.context.set_offline(True)
    expect(phone.get_by_role("heading", name="Looking for the teacher’s computer")).to_be_visible(timeout=SECONDS * 1000)
    phone.context.set_offline(False)
    expect(phone.get_by_role("heading", name=re.compile("Your page is"))).to_be_visible(timeout=SECONDS * 1000)
    assert arrives(app)
    assert guest(app)["id"] == device_id
    assert guest(app)["name"] == "Named by hand"


def test_after_a_locked_screen_the_camera_is_opened_again(phone: Page, app: Application) -> None:
    phone.goto(invite(app)["link"])
    assert eventually(lambda: bool(guest(app)), SECONDS)
    assert arrives(app)
    phone.evaluate("document.querySelector('video').srcObject.getVideoTracks()[0].stop()")  # as phones do to a hidden page
    phone.evaluate("document.dispatchEvent(new Event('visibilitychange'))")
    expect(phone.get_by_role("heading", name=re.compile("Your page is"))).to_be_visible(timeout=SECONDS * 1000)
    how_it_is = "document.querySelector('video').srcObject.getVideoTracks()[0].readyState"
    eventually(lambda: phone.evaluate(how_it_is) == "live", SECONDS)
    assert arrives(app)


def test_where_webrtc_does_not_come_through_the_socket_does(phone: Page, app: Application) -> None:
    phone.add_init_script("window.RTCPeerConnection = class { constructor() { throw new Error('blocked') } }")
    phone.goto(invite(app)["link"])
    eventually(lambda: (guest(app).get("told") or {}).get("transport") == "websocket", SECONDS)
    assert arrives(app)
    told = eventually(lambda: LINE.fullmatch(network(app).get("value", "")), 2 * SECONDS)
    assert told[1] is None, "a socket loses nothing"
    app.ask("PUT", "/api/sound/open", {"id": guest(app)["id"]})
    eventually(lambda: guest(app)["feed"]["sound_db"] is not None, SECONDS)
    assert eventually(lambda: [one for one in app.get("/api/sound")["microphones"] if one["level_db"] > -60], SECONDS)[0]["open"]
    app.ask("PUT", "/api/sound/open", {"id": None})
    eventually(lambda: guest(app)["told"]["microphone"] == "off", SECONDS)


ENCODES = """window.RTCPeerConnection = class { constructor() { throw new Error('blocked') } }
window.cannot = ['avc1', 'vp8'] // though it says that it can
const configure = VideoEncoder.prototype.configure
VideoEncoder.prototype.configure = function (config) {
  if (window.cannot.some((codec) => config.codec.startsWith(codec))) throw new DOMException('', 'NotSupportedError')
  return configure.call(this, config)
}"""


def test_a_browser_that_cannot_encode_says_so_on_both_ends(page: Page, phone: Page, app: Application) -> None:
    phone.add_init_script(ENCODES)
    phone.goto(invite(app)["link"])
    page.goto("/kit")
    expect(phone.get_by_text("This browser cannot send its picture")).to_be_visible(timeout=SECONDS * 1000)
    expect(page.get_by_text("The phone’s browser cannot send its picture")).to_be_visible(timeout=SECONDS * 1000)
    expect(page.locator(f"[data-device={guest(app)['id']}] .picture")).to_contain_text("No picture")
    phone.evaluate("window.cannot = ['avc1']")
    phone.get_by_role("button", name="Try again").click()
    assert arrives(app), "by the other way that it has"
    expect(page.get_by_text("The phone’s browser cannot send its picture")).not_to_be_visible()


def test_the_camera_is_not_allowed(phone_browser: Browser, app: Application) -> None:
    context = phone_browser.new_context(ignore_https_errors=True)
    page = context.new_page()
    page.add_init_script("navigator.mediaDevices.getUserMedia = async () => { throw new DOMException('', 'NotAllowedError') }")
    page.goto(invite(app)["link"])
    expect(page.get_by_role("heading", name="This page may not use the camera")).to_be_visible()
    eventually(lambda: "allow it in the browser" in (guest(app)["feed"]["sentence"] or ""))
    context.close()


def test_a_phone_that_leaves_closes_the_door_and_both_ends_tell_one_story(page: Page, phone: Page, app: Application) -> None:
    phone.goto(invite(app)["link"])
    eventually(lambda: guest(app).get("told"), SECONDS)
    eventually(lambda: app.get("/api/kit")["door"], SECONDS)
    phone.get_by_role("button", name="Leave the lesson").click()
    expect(phone.get_by_text("ask the teacher to invite you again")).to_be_visible()
    eventually(lambda: not app.get("/api/kit")["door"], SECONDS)
    page.goto("/kit")
    card = page.get_by_role("article", name="Old phone")
    expect(card.get_by_text("It has left the lesson.")).to_be_visible()
    expect(card.get_by_role("button", name="Wait for it again")).to_have_count(0)
    card.get_by_role("button", name="Invite again").click()
    code = page.get_by_role("dialog").get_by_label("The code").inner_text()
    phone.get_by_label("The six characters").fill(code)
    phone.get_by_role("button", name="Bring it in").click()
    expect(page.get_by_role("dialog").get_by_text("Old phone is connected.")).to_be_visible()


def test_a_wrong_code_is_told_on_the_phone(phone: Page, app: Application) -> None:
    phone.goto(invite(app)["address"])
    phone.get_by_label("The six characters").fill("222222")
    phone.get_by_role("button", name="Bring it in").click()
    expect(phone.get_by_text("This code is not right.")).to_be_visible()


def test_a_killed_server_finds_its_phone_again_with_its_corrections(tmp_path: Path, phone: Page) -> None:
    application = Application(tmp_path, more=FEW).start()
    try:
        made = invite(application)
        guest_port = int(made["address"].rpartition(":")[2])
        phone.goto(made["link"])
        assert eventually(lambda: bool(guest(application)), SECONDS)
        assert arrives(application)
        before = guest(application)
        path = f"/api/square-up/{before['id']}"
        chain = application.get(path)["chain"]
        chain["turn"]["quarters"] = 3
        application.ask("PUT", f"{path}/chain", {"chain": chain})
        application.kill()
        expect(phone.get_by_role("heading", name="Looking for the teacher’s computer")).to_be_visible(timeout=SECONDS * 1000)
        application.guest_port = guest_port
        application.start()
        assert arrives(application)
        after = guest(application)
        assert (after["id"], after["name"]) == (before["id"], before["name"])
        assert application.get(path)["chain"]["turn"]["quarters"] == 3
    finally:
        application.stop()


def test_nobody_is_served_where_nobody_is_invited(app: Application) -> None:
    address = invite(app)["address"]
    app.ask("DELETE", "/api/guests/invitation")
    eventually(lambda: not app.get("/api/kit")["door"])
    with pytest.raises(urllib.error.URLError):
        urllib.request.urlopen(address, timeout=3)


def test_the_phones_page_is_usable_by_everybody(phone: Page, app: Application) -> None:
    phone.goto(invite(app)["link"])
    expect(phone.get_by_role("heading", name=re.compile("Your page is"))).to_be_visible(timeout=SECONDS * 1000)
    accessible(phone)
    assert settled(lambda: layout_faults(phone)) == []
    small = phone.evaluate(
        "[...document.querySelectorAll('main button')].filter(e => e.getBoundingClientRect().height < 40).map(e => e.innerText)"
    )
    assert small in ([], ["Leave the lesson"])
