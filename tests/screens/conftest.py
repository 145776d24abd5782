"""The real interface in a headless browser, on a real process: with the demo lesson, or started for real with nothing kept.

A module that says `START = "serve"` begins with an empty store; with `FILLED = True` besides, with a lesson made of two files.
"""

from collections.abc import Generator, Iterator
from functools import cache
from pathlib import Path
from urllib.parse import quote

import cv2
import numpy as np
import pytest
from playwright.sync_api import Browser, BrowserContext, Error, Page, Playwright, expect, sync_playwright

from cartouche.bench.devices import CLIP_MIRROR, sheet_view
from cartouche.bench.papers import contour_sheet
from cartouche.bench.presenter import Presenter
from cartouche.core.call.audience import FIRST_VIEWERS
from cartouche.core.call.kinds import KINDS
from cartouche.core.pictures import Frame, Size, bgr_from_frame
from cartouche.demo.lesson import DEVICES, KIT, LESSONS, first_chain
from tests.helpers import FEW, SLOWEST_S, Application, eventually
from tests.screens.player import Player, player_with

CHROMIUM = "/usr/bin/chromium"  # with windows of its own and extensions
_SHELL = Path("/usr/bin/chromium-headless-shell")
SHELL = str(_SHELL) if _SHELL.exists() else CHROMIUM  # the same engine without them: a quarter less work
expect.set_options(timeout=1000 * SLOWEST_S)
# a process for each tab takes 1.1 s of a processor: they share the one of a tab that stays open
ONE_PROCESS = ("--process-per-site", "--disable-features=SpareRendererForSitePerProcess")
Contexts = dict[tuple[Browser, str], BrowserContext]
STAYS_OPEN = "/assets/mark.svg"
LONG = ("test_school", "test_after", "test_keys", "test_kit", "test_own_camera", "test_teach", "test_first_minute", "test_nothing_ends")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The longest files first: halves that run beside each other then end together."""
    if all(item.path.parent == Path(__file__).parent for item in items):
        items.sort(key=lambda item: LONG.index(item.path.stem) if item.path.stem in LONG else len(LONG))


def begun(item: pytest.Item) -> Path | None:
    """The mark of a test that runs beside others; what hangs leaves it behind with the process that it ended (see `./run`)."""
    if not hasattr(item.config, "workerinput"):
        return None
    return item.config.cache.mkdir("begun") / quote(item.nodeid, safe="")[-200:]


@pytest.hookimpl(tryfirst=True)
def pytest_runtest_setup(item: pytest.Item) -> None:
    """Who takes over the file of a process that ended does not run into the same again."""
    mark = begun(item)
    if mark is not None:
        if mark.exists():
            pytest.fail("It hung, and the process that ran it was ended: its stack stands above.", pytrace=False)
        mark.touch()


@pytest.hookimpl(wrapper=True, tryfirst=True)
def pytest_runtest_teardown(item: pytest.Item) -> Iterator[None]:
    yield
    mark = begun(item)
    if mark is not None:
        mark.unlink(missing_ok=True)


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: pytest.Item) -> Generator[None, pytest.TestReport, pytest.TestReport]:
    """What stood on the page of a test that failed is told with it."""
    report = yield
    page = getattr(item, "funcargs", {}).get("page")
    if report.failed and page is not None:
        try:
            report.sections.append((page.url, page.locator("body").inner_text(timeout=5000)))
        except Error as exc:
            report.sections.append(("no page", str(exc)))
    return report


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    with sync_playwright() as started:
        yield started


@pytest.fixture(scope="session")
def browser(playwright: Playwright) -> Iterator[Browser]:
    launched = playwright.chromium.launch(executable_path=SHELL, headless=True, args=[*ONE_PROCESS])
    yield launched
    launched.close()


@pytest.fixture(scope="session")
def warm_demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """One process for all tests: drawing the bench's scene anew for each would take most of the time."""
    application = Application(tmp_path_factory.mktemp("data"), more=("--warm-up", "9", *FEW))
    application.start()
    yield application
    application.stop()


@pytest.fixture(scope="session")
def warm_serve(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    application = Application(tmp_path_factory.mktemp("real"), command="serve", more=FEW)
    application.start()
    yield application
    application.stop()


@pytest.fixture
def app(request: pytest.FixtureRequest) -> Application:
    """The warm application as the module wants to find it."""
    if getattr(request.module, "START", "demo") == "demo":
        application: Application = request.getfixturevalue("warm_demo")
        as_demo(application)
        return application
    application = request.getfixturevalue("warm_serve")
    as_new(application)
    if getattr(request.module, "FILLED", False):
        fill(application)
    return application


def as_demo(app: Application) -> None:
    """Everything as the demo lesson has it."""
    app.ask("POST", "/api/teach/call/stop")
    app.ask("PUT", "/api/lessons/open", {"lesson_id": LESSONS[0].id})
    while app.get("/api/plates")["can_undo"]:
        app.ask("POST", "/api/plates/undo")
    app.ask("PUT", "/api/plates/adorned", {"on": True})
    app.ask("PUT", "/api/teach/plate", {"plate_id": LESSONS[0].plate_id})
    app.ask("PUT", "/api/teach/outgoing", {"size": "720p"})
    app.ask("PUT", "/api/kits/open", {"kit_id": KIT.id})
    app.ask("PUT", "/api/sound/kit", {})
    as_first_ways(app)
    as_first_tools(app)
    app.ask("PUT", "/api/sound/open", {"id": None})
    app.ask("PUT", f"/api/square-up/{DEVICES[0].id}/board", {"fed_by": "nothing"})
    app.ask("DELETE", "/api/guests/invitation")
    for device in app.get("/api/kit")["devices"]:
        if device["kind"] != "bench":
            app.ask("DELETE", f"/api/kit/devices/{device['id']}")
    for device in DEVICES:
        wanted = {"name": device.name, "rig": device.rig, "serves": device.serves or "nothing"}
        app.ask("PATCH", f"/api/kit/devices/{device.id}", wanted)
        app.ask("PUT", f"/api/kit/devices/{device.id}/fault", {"fault": None})
        app.ask("PUT", f"/api/square-up/{device.id}/chain", {"chain": first_chain(device).model_dump()})


def as_first_tools(app: Application) -> None:
    """Nothing held, prepared or kept, the timer as it was set first."""
    tools = app.get("/api/teach/tools")
    if tools["recording"]["state"] != "off":
        app.ask("POST", "/api/teach/actions", {"action": "stop"})
    for one in tools["actions"]:
        if one["own"]:
            app.ask("PUT", "/api/teach/keys", {"action": one["name"], "key": None})
    if tools["held"]:
        app.ask("POST", "/api/teach/actions", {"action": "live"})
    if app.get("/api/teach/ink")["count"]:
        app.ask("POST", "/api/teach/ink", {"do": "clear"})
    for one in tools["steps"]:
        app.ask("DELETE", f"/api/teach/steps/{one['step']['id']}")
    for sheet in tools["sheets"]:
        app.ask("DELETE", f"/api/after/sheets/{sheet['id']}")
    if tools["auto_hold"]:
        app.ask("PUT", "/api/teach/auto-hold", {"on": False})
    if tools["follow_pen"]:
        app.ask("POST", "/api/teach/actions", {"action": "whole"})
    if tools["timer"]["shown"] or tools["timer"]["counted_s"] or tools["timer"]["total_s"] != 300:
        app.ask("PUT", "/api/teach/timer", {"shown": False, "way": "down", "total_s": 300})


def as_first_ways(app: Application) -> None:
    """The first audiences and kind of call, and nobody who takes or watches."""
    view, viewers, call = app.get("/api/ways"), [one.model_dump() for one in FIRST_VIEWERS], KINDS[0].model_dump()
    if view["viewers"] != viewers:
        app.ask("PUT", "/api/ways/viewers", {"viewers": viewers})
    if view["call"] != call:
        app.ask("PUT", "/api/ways/call", call)
    app.ask("DELETE", "/api/ways/server")
    app.ask("DELETE", "/api/ways/pairing")
    app.ask("DELETE", "/api/ways/invitation")
    for one in view["watchers"]:
        app.ask("DELETE", f"/api/ways/watchers/{one['id']}")


def as_new(app: Application) -> None:
    """Nothing kept: every lesson and kit deleted, to the last one."""
    app.ask("POST", "/api/teach/call/stop")
    app.ask("DELETE", "/api/guests/invitation")
    for kit in app.get("/api/kits")["kits"]:
        app.ask("DELETE", f"/api/kits/{kit['id']}")
    for lesson in app.get("/api/lessons")["lessons"]:
        app.ask("DELETE", f"/api/lessons/{lesson['id']}")
    app.ask("PUT", "/api/teach/outgoing", {"size": "720p"})
    as_first_ways(app)


def fill(app: Application) -> None:
    """A lesson whose page and face are two pictures, put in as a teacher would."""
    app.ask("POST", "/api/lessons", {"title": "Reading the ground", "class_name": "9B", "starts": "08:55"})
    put_in(app, page_png(), "page", "Contour sheet")
    add_face(app)


def add_face(app: Application) -> None:
    """A still picture of a face serves as face."""
    put_in(app, face_png(), "face", "Face")


@cache  # drawing it takes longer than many a test
def page_png() -> bytes:
    return png(cv2.resize(contour_sheet().picture, (840, 1188), interpolation=cv2.INTER_AREA))


@cache
def face_png() -> bytes:
    return png(bgr_from_frame(Presenter(Size(1280, 720)).picture(1.0, 0.0)))


def png(picture: np.ndarray) -> bytes:
    return cv2.imencode(".png", picture)[1].tobytes()


def put_in(app: Application, picture: bytes, role: str, name: str) -> None:
    app.send(f"/api/kit/files?name={quote(name)}.png&kind=pages&serves={role}", picture)


@pytest.fixture
def troubles() -> list[str]:
    """What the browser complained of; the page fixture fails on any."""
    return []


@pytest.fixture(scope="session")
def contexts() -> Contexts:
    """By browser and an application's address: one for all tests, whose scripts are fetched and compiled once."""
    return {}


@pytest.fixture
def page(browser: Browser, contexts: Contexts, app: Application, troubles: list[str]) -> Iterator[Page]:
    yield from in_shared_context(browser, contexts, app, troubles)


@pytest.fixture
def playing_page(player: Player, contexts: Contexts, app: Application, troubles: list[str]) -> Iterator[Page]:
    """Of a browser that is allowed its camera and its microphone: they play what `player` is given."""
    yield from in_shared_context(player.browser, contexts, app, troubles, "camera", "microphone")


def in_shared_context(browser: Browser, contexts: Contexts, app: Application, troubles: list[str], *permissions: str) -> Iterator[Page]:
    """A page with nothing kept from the test before."""
    key = (browser, app.address)
    if key not in contexts:
        context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=app.address, permissions=[*permissions])
        contexts[key] = context
        context.new_page().goto(STAYS_OPEN)
    context = contexts[key]
    close_windows(context)  # one that opened late, after the test before: by its name it would be taken again, and no other would come
    eventually(lambda: not app.get("/api/live")["outgoing"]["windows"])  # heard of as closed: else a lesson is taught by that window still
    page = watched(context, troubles)
    session = context.new_cdp_session(page)
    session.send("Storage.clearDataForOrigin", {"origin": app.address, "storageTypes": "local_storage,indexeddb,cookies"})
    session.detach()
    yield page
    close_windows(context)
    assert not troubles


def close_windows(context: BrowserContext) -> None:
    for shown in windows(context):
        shown.close()


def windows(context: BrowserContext) -> list[Page]:
    """Without the one that stays open."""
    return [one for one in context.pages if not one.url.endswith(STAYS_OPEN)]


def watched(context: BrowserContext, troubles: list[str]) -> Page:
    """A page whose script errors and refused policies are noted, with all of Square up open."""
    page = context.new_page()
    page.add_init_script("localStorage.getItem('square-up-more') ?? localStorage.setItem('square-up-more', 'true')")
    page.set_default_timeout(1000 * SLOWEST_S)
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on("console", lambda message: troubles.append(message.text) if "Content Security Policy" in message.text else None)
    return page


@pytest.fixture
def fresh_page(browser: Browser, app: Application, troubles: list[str]) -> Iterator[Page]:
    """In a context of its own, for what opens windows."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=app.address)
    yield watched(context, troubles)
    context.close()
    assert not troubles


@pytest.fixture(scope="session")
def player(playwright: Playwright, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Player]:
    with player_with(playwright, SHELL, tmp_path_factory.mktemp("played"), *ONE_PROCESS) as launched:
        yield launched


@cache
def clip_mirror_film() -> list[Frame]:
    """The sheet by way of the clip-on mirror, so mirrored, turned and keystoned."""
    view = sheet_view(CLIP_MIRROR)  # 30 s in the hand rests: the whole page is seen
    return [view.picture(30.0 + number / 30, 0.0).copy() for number in range(12)]


@pytest.fixture
def camera_page(player: Player, playing_page: Page) -> Page:
    player.shows(clip_mirror_film())
    return playing_page
