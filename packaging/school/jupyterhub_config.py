"""A school's server for trial, on one machine: accounts kept here, one process a teacher. `./run school` starts it; docs/school.md has the
same for many machines. What is read from the environment is set by start.py."""

import asyncio
import os
import sys
from pathlib import Path

from jupyterhub.auth import Authenticator

from cartouche.school.accounts import NAME, Accounts

c = get_config()  # type: ignore[name-defined]  # noqa: F821 - JupyterHub brings it
here = Path(os.environ["CARTOUCHE_SCHOOL"])
address, port = os.environ["CARTOUCHE_SCHOOL_ADDRESS"], int(os.environ["CARTOUCHE_SCHOOL_PORT"])
certificate, key = os.environ.get("CARTOUCHE_SCHOOL_CERTIFICATE"), os.environ.get("CARTOUCHE_SCHOOL_KEY")
scheme = "https" if certificate else "http"

c.JupyterHub.bind_url = f"{scheme}://{address}:{port}/"
c.JupyterHub.public_url = os.environ.get("CARTOUCHE_SCHOOL_PUBLIC") or f"{scheme}://{address}:{port}/"
if certificate:
    c.JupyterHub.ssl_cert, c.JupyterHub.ssl_key = certificate, key
c.JupyterHub.hub_bind_url = f"http://127.0.0.1:{port + 1}/hub/"
c.JupyterHub.db_url = f"sqlite:///{here / 'hub.sqlite'}"
c.JupyterHub.cookie_secret_file = str(here / "cookie-secret")
c.JupyterHub.cleanup_servers = True

c.ConfigurableHTTPProxy.command = [os.environ["CARTOUCHE_SCHOOL_NODE"], os.environ["CARTOUCHE_SCHOOL_PROXY"]]
c.ConfigurableHTTPProxy.api_url = f"http://127.0.0.1:{port + 2}"
c.ConfigurableHTTPProxy.pid_file = str(here / "proxy.pid")


# Accounts of this machine's own, for trial (./run school --add NAME). A school puts its own sign-on here.
class OwnAccounts(Authenticator):
    accounts = Accounts(here / "accounts.json")

    async def authenticate(self, handler, data):  # type: ignore[no-untyped-def]
        fits = await asyncio.to_thread(self.accounts.fits, data["username"], data["password"])
        return data["username"] if fits else None


c.JupyterHub.authenticator_class = OwnAccounts
c.Authenticator.allow_all = True  # whoever has an account
c.Authenticator.username_pattern = NAME.pattern

c.JupyterHub.spawner_class = "simple"
c.SimpleLocalProcessSpawner.home_dir_template = str(here / "teachers" / "{username}")
c.Spawner.cmd = [sys.executable, "-m", "cartouche", "hub"]
c.Spawner.args = ["--data", "cartouche", "--fps", os.environ["CARTOUCHE_SCHOOL_FPS"]]
c.Spawner.default_url = "/"
c.Spawner.env_keep = ["PATH", "PYTHONPATH", "LANG", "LC_ALL"]
c.Spawner.mem_limit = "3G"
c.Spawner.environment = {"CARTOUCHE_DISK_LIMIT": str(20_000_000_000)}
c.Spawner.start_timeout = c.Spawner.http_timeout = 60
c.Spawner.poll_interval = 5

# Idle lessons are put away. (Nobody gets into another one's lesson, administrators of the server included: Cartouche lets in its owner alone.)
c.JupyterHub.load_roles = [
    {"name": "puts-away", "scopes": ["list:users", "read:users:activity", "read:servers", "delete:servers"], "services": ["idle"]},
]
c.JupyterHub.services = [
    {"name": "idle", "command": [sys.executable, "-m", "jupyterhub_idle_culler", "--timeout", "3600", "--cull-every", "300"]}
]
