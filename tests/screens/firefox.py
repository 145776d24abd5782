"""Debian's Firefox, driven by its own protocol (Marionette): no monitor, its fake camera, nothing reached but this computer."""

import json
import os
import subprocess
import time
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from tests.helpers import SLOWEST_S, eventually, free_port

with warnings.catch_warnings():
    warnings.simplefilter("ignore")  # its own packages use what is deprecated
    from marionette_driver.errors import MarionetteException
    from marionette_driver.marionette import Marionette

FIREFOX = os.environ.get("CARTOUCHE_FIREFOX", "/usr/bin/firefox-esr")
PREFERENCES: dict[str, Any] = {
    "media.navigator.streams.fake": True,
    "media.navigator.permission.disabled": True,
    "app.update.enabled": False,
    "browser.shell.checkDefaultBrowser": False,
    "browser.safebrowsing.downloads.remote.enabled": False,
    "datareporting.policy.dataSubmissionEnabled": False,
    "dom.disable_open_during_load": False,  # windows are opened by presses that the protocol makes
    "extensions.update.enabled": False,
    "media.gmp-manager.updateEnabled": False,
    "network.captive-portal-service.enabled": False,
    "network.connectivity-service.enabled": False,
    "services.settings.server": "data:,#remote-settings-dummy/v1",
    "toolkit.telemetry.enabled": False,
}


class Firefox:
    def __init__(self, driver: Marionette) -> None:
        self.driver = driver

    def goto(self, address: str) -> None:
        self.driver.navigate(address)

    def js(self, script: str, *values: Any) -> Any:
        """What a page's own script gives; promises are waited for."""
        whole = (
            "const done = arguments[arguments.length - 1];"
            f"(async (...given) => {{ {script} }})(...arguments).then(done, (error) => done(String(error)))"
        )
        return self.driver.execute_async_script(whole, list(values), sandbox=None)

    def sees(self, selector: str, text: str = "") -> bool:
        """Whether something of this kind is in sight, with this text in it."""
        look = (
            "const [selector, text] = given; return [...document.querySelectorAll(selector)]"
            ".some((one) => one.offsetParent !== null && one.textContent.includes(text))"
        )
        try:
            return bool(self.js(look, selector, text) is True)
        except MarionetteException:  # between two pages
            return False

    def expect(self, selector: str, text: str = "", seconds: float = SLOWEST_S) -> None:
        eventually(lambda: self.sees(selector, text), seconds)

    def press(self, selector: str, text: str = "") -> None:
        self.expect(selector, text)
        found = self.js(
            "const [selector, text] = given; const one = [...document.querySelectorAll(selector)]"
            ".find((one) => one.offsetParent !== null && one.textContent.includes(text)); one.click(); return true",
            selector,
            text,
        )
        assert found is True, found


@contextmanager
def firefox(folder: Path) -> Iterator[Firefox]:
    port = free_port()
    written = {**PREFERENCES, "marionette.port": port}
    lines = [f'user_pref("{name}", {json.dumps(value)});' for name, value in written.items()]
    (folder / "user.js").write_text("\n".join(lines))
    environment = {**os.environ, "MOZ_HEADLESS": "1", "MOZ_HEADLESS_WIDTH": "1280", "MOZ_HEADLESS_HEIGHT": "900", "HOME": str(folder)}
    command = [FIREFOX, "--headless", "--marionette", "--no-remote", "--profile", str(folder)]
    process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        driver = Marionette("127.0.0.1", port=port)
        driver.start_session({"acceptInsecureCerts": True}, timeout=120)
        driver.timeout.script = driver.timeout.page_load = SLOWEST_S
        yield Firefox(driver)
        driver.delete_session()
    finally:
        process.terminate()
        until = time.monotonic() + 20
        while process.poll() is None and time.monotonic() < until:
            time.sleep(0.05)
        process.kill()
        process.wait()
