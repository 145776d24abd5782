"""The application: routers, sockets, the guard, the built pages."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, Depends, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, Response
from fastapi.staticfiles import StaticFiles

from cartouche import __version__
from cartouche.core.errors import CartoucheError
from cartouche.live.errors import NoLessonOpen, NoPictureYet
from cartouche.store.errors import CannotSave, NotKept
from cartouche.web import sockets
from cartouche.web.routers import kit, lessons, square_up, teach
from cartouche.web.schemas import LiveView, Refusal
from cartouche.web.security import Guard
from cartouche.web.state import AppState, app_state
from cartouche.web.views import live_view

STATIC = Path(__file__).with_name("static")
STATUS: tuple[tuple[type[CartoucheError], int], ...] = (
    (NotKept, 404),
    (NoLessonOpen, 409),
    (NoPictureYet, 409),
    (CannotSave, 507),
    (CartoucheError, 422),
)
# Ant Design Vue writes its styles by script, so inline style elements are let in; scripts are not.
POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; script-src 'self'; "
    "connect-src 'self' ws: wss:; font-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)

_live = APIRouter(tags=["live"])


@_live.get("/api/live")
def state_now(state: Annotated[AppState, Depends(app_state)]) -> LiveView:
    """The same that the live socket pushes."""
    return live_view(state.running, state.running.version, state.lesson_id, state.windows)


def create_app(state: AppState | None, static: Path = STATIC) -> FastAPI:
    """state: None for the OpenAPI document alone."""

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        yield
        if state is not None:
            state.close()

    refusals: dict[int | str, dict[str, Any]] = {code: {"model": Refusal} for code in (400, 403, 404, 409, 413, 422, 507)}
    app = FastAPI(
        title="Cartouche",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        responses=refusals,
    )
    app.state.cartouche = state
    for router in (lessons.router, kit.router, square_up.router, teach.router, _live, sockets.router):
        app.include_router(router)
    app.add_exception_handler(CartoucheError, _refuse)
    app.add_exception_handler(RequestValidationError, _refuse_body)
    _serve_pages(app, static)
    app.add_middleware(Guard)
    return app


async def _refuse(_: Request, exc: Exception) -> Response:
    status = next(code for kind, code in STATUS if isinstance(exc, kind))
    return JSONResponse({"detail": str(exc)}, status)


async def _refuse_body(_: Request, exc: Exception) -> Response:
    """One sentence: which value, and what was wanted."""
    assert isinstance(exc, RequestValidationError)
    first = exc.errors()[0]
    where = ".".join(str(part) for part in first["loc"] if part not in ("body", "query", "path"))
    return JSONResponse({"detail": f"{where or 'The request'}: {first['msg']}."}, 422)


def _serve_pages(app: FastAPI, static: Path) -> None:
    if not static.is_dir():
        return
    app.mount("/assets", StaticFiles(directory=static / "assets"), name="assets")

    @app.get("/{page:path}", include_in_schema=False, response_model=None)
    def page(page: str) -> Response:
        if page.startswith("api/"):
            return JSONResponse({"detail": "There is nothing at this address."}, 404)
        return FileResponse(static / "index.html", headers={"Content-Security-Policy": POLICY, "Cache-Control": "no-cache"})
