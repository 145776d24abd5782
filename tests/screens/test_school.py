"""A school's server: two teachers signed in by two browsers, each with page and face going out, and neither in the other's way."""

import os
import signal
import stat
import time
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, expect

from tests.helpers import eventually
from tests.school.server import School, ask, hears
from tests.screens.conftest import SHELL
from tests.screens.player import FAKE_CAMERA, write_film
from tests.screens.two_cameras import drawn_page, page_film, two_cameras

START = None
pytestmark = pytest.mark.timeout(300)  # a hub, two processes and two browsers begin in the first of them
COMES_BACK_S = 30.0  # on a machine with other work


class Teacher(NamedTuple):
    name: str
    page: Page
    context: BrowserContext

    def get(self, path: str) -> dict:  # type: ignore[type-arg]
        status, body = ask(self.page, f"/user/{self.name}{path}")
        return dict(body) if status == 200 else {}

    def goes_out(self) -> bool:
        live = self.get("/api/live")
        return bool(live) and bool(live["going_out"]) and [feed["state"] for feed in live["feeds"]] == ["live", "live"]


@pytest.fixture(scope="module")
def school(tmp_path_factory: pytest.TempPathFactory) -> Iterator[School]:
    server = School(tmp_path_factory.mktemp("school") / "data")
    server.teacher("anna")
    server.teacher("bert")
    server.start()
    yield server
    server.stop()


@pytest.fixture(scope="module")
def teachers(playwright: Playwright, school: School, tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Teacher, Teacher]]:
    film = write_film(tmp_path_factory.mktemp("film") / "page.y4m", page_film(drawn_page()))
    with two_cameras(playwright, school.address, film) as first, two_cameras(playwright, school.address, film) as second:
        both = Teacher("anna", school.sign_in(first, "anna"), first), Teacher("bert", school.sign_in(second, "bert"), second)
        for teacher in both:
            teacher.page.get_by_role("button", name="Show my page").click()
            expect(teacher.page.get_by_text("One shows a page, one shows you.")).to_be_visible(timeout=60_000)
            teacher.page.get_by_role("button", name="Yes, use these").click()
            with teacher.page.expect_popup():
                teacher.page.get_by_role("button", name="Go out").click()
        yield both


def test_both_go_out_at_once(teachers: tuple[Teacher, Teacher]) -> None:
    for teacher in teachers:
        eventually(teacher.goes_out)
        assert hears(teacher.page, f"/user/{teacher.name}/api/surfaces/outgoing?width=320")
    anna, bert = (eventually(lambda of=teacher: {device["id"] for device in of.get("/api/kit")["devices"]}) for teacher in teachers)
    assert len(anna) == len(bert) == 2
    assert not anna & bert


def test_nobody_sees_reaches_or_names_what_is_anothers(teachers: tuple[Teacher, Teacher], school: School) -> None:
    anna, bert = teachers
    for path in ("/api/live", "/api/kit", "/api/privacy", "/api/privacy/export.zip", "/assets/mark.svg"):
        assert ask(anna.page, f"/user/bert{path}")[0] == 403
    assert ask(anna.page, "/user/bert/api/teach/actions", method="POST", body='{"action": "hold"}')[0] == 403
    for path in ("/api/live", "/api/surfaces/outgoing"):
        assert not hears(anna.page, f"/user/bert{path}")
    looks = anna.context.new_page()
    answer = looks.goto(f"{school.address}/user/bert/")
    assert answer is not None
    assert answer.status == 403
    assert looks.locator("canvas").count() == 0
    looks.close()
    mine, theirs = (str(teacher.get("/api/kit")) for teacher in teachers)
    assert "bert" not in mine
    assert "anna" not in theirs
    for name in ("anna", "bert"):
        folder = school.folder / "teachers" / name / "cartouche"
        assert stat.S_IMODE(folder.stat().st_mode) == 0o700
    eventually(bert.goes_out)  # a busy machine may have held one picture up just now


def test_each_process_is_bounded(teachers: tuple[Teacher, Teacher], school: School) -> None:
    process = school.lesson_process("anna")
    assert process is not None
    limits = Path(f"/proc/{process.pid}/limits").read_text().splitlines()
    assert next(line.split() for line in limits if line.startswith("Max open files"))[3] == "2048"
    assert next(line.split() for line in limits if line.startswith("Max data size"))[3] == str(3 * 1024**3)


def test_a_process_that_dies_takes_one_lesson_and_comes_back_by_itself(teachers: tuple[Teacher, Teacher], school: School) -> None:
    anna, bert = teachers
    before = [device["id"] for device in anna.get("/api/kit")["devices"]]
    other, killed = school.lesson_process("bert"), school.lesson_process("anna")
    assert other is not None
    assert killed is not None
    os.kill(killed.pid, signal.SIGKILL)
    begun = time.monotonic()
    eventually(lambda: (now := school.lesson_process("anna")) and now.pid != killed.pid)
    assert ask(anna.page, "/user/anna/api/live")[0] == 200  # the question waits for the answer, it is not refused
    assert time.monotonic() - begun < COMES_BACK_S
    eventually(anna.goes_out)  # cameras, roles and the outgoing window, with nothing pressed
    assert [device["id"] for device in anna.get("/api/kit")["devices"]] == before
    eventually(bert.goes_out)
    again = school.lesson_process("bert")
    assert again is not None
    assert again.pid == other.pid


@pytest.fixture
def phone_browser(playwright: Playwright) -> Iterator[Browser]:
    launched = playwright.chromium.launch(executable_path=SHELL, headless=True, args=list(FAKE_CAMERA))
    yield launched
    launched.close()


def test_a_phone_comes_by_the_same_address_to_one_teacher_alone(
    teachers: tuple[Teacher, Teacher], school: School, phone_browser: Browser
) -> None:
    anna, bert = teachers
    status, invited = ask(anna.page, "/user/anna/api/guests/invitation", method="POST", body='{"name": "Old phone"}')
    assert status == 201
    assert invited["link"].startswith(f"{school.address}/user/anna/door/#")
    phone = phone_browser.new_context(viewport={"width": 390, "height": 844}, permissions=["camera"]).new_page()
    phone.goto(invited["link"])
    eventually(lambda: any(device["kind"] == "guest" for device in anna.get("/api/kit")["devices"]))
    guest = next(device["id"] for device in anna.get("/api/kit")["devices"] if device["kind"] == "guest")

    def arrives() -> bool:
        phone.wait_for_timeout(50)
        return hears(anna.page, f"/user/anna/api/surfaces/raw:{guest}?width=320")

    eventually(arrives)
    assert not any(device["kind"] == "guest" for device in bert.get("/api/kit")["devices"])
    assert ask(phone, "/user/bert/door/api/guest/report", method="POST", body="{}")[0] in (401, 404)
    assert ask(phone, "/user/anna/api/kit")[0] == 403
    assert ask(phone, "/user/anna/door/api/kit")[0] == 404
    phone.context.close()
