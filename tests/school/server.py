"""A school's server for trial as `./run school` starts it, with accounts, and what runs for each teacher."""

import contextlib
import os
import shutil
import signal
import socket
import subprocess
import sys
import urllib.error
import urllib.parse
import urllib.request
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any

import psutil
from playwright.sync_api import BrowserContext, Page

from cartouche.school.accounts import Accounts
from tests.helpers import ROOT, eventually, free_port

PROXY = ROOT / ".setup" / "school" / "node_modules" / "configurable-http-proxy" / "bin" / "configurable-http-proxy"
STARTS_S, ENDS_S = 120.0, 25.0  # the hub alone waits for half a minute where one of its processes is deaf
FETCHED = """async ([path, init]) => {
    const response = await fetch(path, { headers: { 'Content-Type': 'application/json' }, ...init })
    return [response.status, await response.json().catch(() => null)]
}"""
OPENED = """(path) => new Promise((done) => {
    const socket = new WebSocket(location.origin.replace('http', 'ws') + path)
    socket.onmessage = () => { done('heard'); socket.close() }
    socket.onclose = () => done('refused')
})"""


class School:
    def __init__(self, folder: Path, fps: int = 6) -> None:
        self.folder, self.fps = folder, fps
        self.address = f"http://127.0.0.1:{self._three_ports()}"
        self._passwords: dict[str, str] = {}
        self._process: subprocess.Popen[bytes] | None = None

    def _three_ports(self) -> int:
        """The first of three in a row that are free."""
        while True:
            self.port = free_port()
            with contextlib.suppress(OSError), socket.socket() as one, socket.socket() as two:
                one.bind(("127.0.0.1", self.port + 1))
                two.bind(("127.0.0.1", self.port + 2))
                return self.port

    def start(self) -> "School":
        node = shutil.which("node") or str(ROOT / ".setup" / "node" / "node")
        command = [sys.executable, str(ROOT / "packaging" / "school" / "start.py"), "--port", str(self.port), "--data", str(self.folder)]
        command += ["--fps", str(self.fps), "--node", node, "--proxy", str(PROXY)]
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        self._log = open(self.folder.with_suffix(".log"), "wb")  # noqa: SIM115 - open for as long as the server runs
        self._process = subprocess.Popen(
            command,
            env=environment,
            stdout=self._log,
            stderr=subprocess.STDOUT,
            start_new_session=True,
            preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_IGN),  # as a shell does in the background
        )
        eventually(self._answers, STARTS_S)
        return self

    def _answers(self) -> bool:
        try:
            with urllib.request.urlopen(self.address + "/hub/login", timeout=5) as answer:
                return bool(answer.status == 200)
        except (urllib.error.URLError, TimeoutError):
            return False

    def stop(self) -> None:
        assert self._process is not None
        everyone = psutil.Process(self._process.pid).children(recursive=True)
        self._process.send_signal(signal.SIGTERM)
        try:
            self._process.wait(ENDS_S)
        finally:
            for one in everyone:
                with contextlib.suppress(psutil.Error):
                    one.kill()
            self._process.kill()
            self._process.wait()
            self._log.close()

    def teacher(self, name: str) -> str:
        """A password; the account is made with the first."""
        if name not in self._passwords:
            self.folder.mkdir(parents=True, exist_ok=True)
            self._passwords[name] = Accounts(self.folder / "accounts.json").add(name)
        return self._passwords[name]

    def cookies(self, name: str) -> str:
        """Signed in without a browser: what its requests carry."""
        password, jar = self.teacher(name), CookieJar()
        browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
        browser.addheaders = [("Accept", "text/html")]
        browser.open(self.address + "/hub/login", timeout=30).read()
        xsrf = next(one.value for one in jar if one.name == "_xsrf")
        form = urllib.parse.urlencode({"username": name, "password": password, "_xsrf": xsrf or ""}).encode()
        browser.open(self.address + "/hub/login", form, timeout=60).read()

        def there() -> bool:
            with contextlib.suppress(urllib.error.URLError):
                browser.open(f"{self.address}/user/{name}/", timeout=60).read()
            return any(one.name == f"jupyterhub-user-{name}" for one in jar)

        eventually(there, STARTS_S)
        return f"jupyterhub-user-{name}=" + str(next(one.value for one in jar if one.name == f"jupyterhub-user-{name}"))

    def sign_in(self, context: BrowserContext, name: str) -> Page:
        """Until this teacher's Cartouche is in sight."""
        password, page = self.teacher(name), context.new_page()
        page.goto(self.address + "/hub/login")
        page.fill("input[name=username]", name)
        page.fill("input[name=password]", password)
        page.click("#login_submit")

        def there() -> bool:
            page.wait_for_timeout(100)
            return page.url.startswith(f"{self.address}/user/{name}/") and page.locator("header").count() > 0

        eventually(there, STARTS_S)
        return page

    def lesson_process(self, name: str) -> psutil.Process | None:
        """The one that does the work, not the one that keeps it."""
        home = str(self.folder / "teachers" / name)
        assert self._process is not None
        ours = dict[int, psutil.Process]()
        for one in psutil.Process(self._process.pid).children(recursive=True):
            with contextlib.suppress(psutil.Error):
                if one.cwd() == home and "hub" in one.cmdline() and one.status() != psutil.STATUS_ZOMBIE:
                    ours[one.pid] = one
        return next((one for one in ours.values() if one.ppid() in ours), None)


def ask(page: Page, path: str, **init: Any) -> tuple[int, Any]:
    """What this browser gets from a path of the server, signed in as it is."""
    status, body = page.evaluate(FETCHED, [path, init])
    return int(status), body


def hears(page: Page, path: str) -> bool:
    """Whether a socket there says anything to this browser."""
    return bool(page.evaluate(OPENED, path) == "heard")
