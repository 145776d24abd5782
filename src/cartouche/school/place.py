"""Where this process stands in the school: what JupyterHub tells every server that it starts, by the environment."""

import os
from collections.abc import Mapping
from dataclasses import dataclass
from urllib.parse import unquote, urlsplit

from cartouche.core.errors import CartoucheError


class NotAtASchool(CartoucheError, RuntimeError):
    sentence = "JupyterHub starts this command for each teacher (missing: {name}). To start Cartouche here: cartouche serve."

    def __init__(self, name: str) -> None:
        self.name = name
        super().__init__(name)


@dataclass(frozen=True)
class Place:
    """owner: the one user who is let in.  base: what stands before every path, as written in addresses.  address, port: to listen at.

    public: where browsers and phones reach it, None where the school has not said so.  memory, disk: bytes, None for no bound.
    """

    owner: str
    base: str
    address: str
    port: int
    public: str | None = None
    memory: int | None = None
    disk: int | None = None

    @property
    def path(self) -> str:
        """The base as paths come in."""
        return unquote(self.base)


def place_of(environment: Mapping[str, str] = os.environ) -> Place:
    """Raises NotAtASchool."""
    for name in ("JUPYTERHUB_USER", "JUPYTERHUB_SERVICE_PREFIX", "JUPYTERHUB_SERVICE_URL", "JUPYTERHUB_API_TOKEN"):
        if not environment.get(name):
            raise NotAtASchool(name)
    base = environment["JUPYTERHUB_SERVICE_PREFIX"].rstrip("/")
    here = urlsplit(environment["JUPYTERHUB_SERVICE_URL"])
    public = environment.get("JUPYTERHUB_PUBLIC_URL", "").rstrip("/") or None
    bound = [int(float(environment[name])) if environment.get(name) else None for name in ("MEM_LIMIT", "CARTOUCHE_DISK_LIMIT")]
    return Place(environment["JUPYTERHUB_USER"], base, here.hostname or "127.0.0.1", here.port or 8888, public, *bound)
