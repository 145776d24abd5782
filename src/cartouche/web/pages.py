"""The built pages, told where Cartouche stands: at the root of its address, or under a path of a school's server.

What they are made of is named by what is in it, so a browser that has it never asks again.
"""

import re
from functools import lru_cache
from html import escape
from pathlib import Path

from starlette.requests import HTTPConnection
from starlette.responses import FileResponse, HTMLResponse, Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

from cartouche.web.answers import POLICY

NAMED_BY_CONTENT = re.compile(r"-[\w-]{8}\.\w+$")  # as the build does
FOR_EVER, ASK_AGAIN = "public, max-age=31536000, immutable", "no-cache"  # RFC 9111, RFC 8246
BASE = "cartouche.base"  # in a scope: what stands before every path, '' or '/user/anna'


def base_of(connection: HTTPConnection) -> str:
    return str(connection.scope.get(BASE, ""))


def page(path: Path, connection: HTTPConnection) -> HTMLResponse:
    """One of the built pages, its own addresses put under the base."""
    content = _told(path, path.stat().st_mtime_ns, base_of(connection))
    return HTMLResponse(content, headers={"Content-Security-Policy": POLICY, "Cache-Control": ASK_AGAIN})


class Assets(StaticFiles):
    """A folder of what the pages are made of."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        answer = await super().get_response(path, scope)
        if answer.status_code < 400:
            answer.headers["Cache-Control"] = kept_for(path)
        return answer


def asset(path: Path) -> FileResponse:
    return FileResponse(path, headers={"Cache-Control": kept_for(path.name)})


def kept_for(name: str) -> str:
    return FOR_EVER if NAMED_BY_CONTENT.search(name) else ASK_AGAIN


@lru_cache(maxsize=16)
def _told(path: Path, _: int, base: str) -> str:
    there = escape(base, quote=True)
    return path.read_text("utf-8").replace('name="base" content=""', f'name="base" content="{there}"').replace('"./', f'"{there}/')


def under(scope: Scope, base: str, more: str = "") -> Scope | None:
    """The same request as if what stands under base (decoded, without a slash at its end) stood at the root; None where it does not.

    more: how base is written in addresses, where that differs.
    """
    path = scope["path"]
    if path != base and not path.startswith(base + "/"):
        return None
    inner = path[len(base) :] or "/"
    return {**scope, "path": inner, "raw_path": inner.encode(), BASE: scope.get(BASE, "") + (more or base)}
