"""The application: routers, sockets, the guard, the built pages."""

import asyncio
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

from fastapi import APIRouter, FastAPI, Request
from fastapi.responses import JSONResponse, Response
from starlette.types import ASGIApp

from cartouche import __version__
from cartouche.web import sheet_keeping, sockets
from cartouche.web.answers import answer_errors
from cartouche.web.caretaker import Caretaker
from cartouche.web.extension_key import ExtensionKey
from cartouche.web.guests.app import create_guest_app
from cartouche.web.guests.book import Guests
from cartouche.web.guests.door import Door, Doors
from cartouche.web.news import LiveNews
from cartouche.web.pages import Assets, page
from cartouche.web.ready_view import ReadyNow
from cartouche.web.routers import (
    after,
    extension,
    files,
    first,
    ink,
    kit,
    kits,
    lessons,
    plates,
    privacy,
    ready,
    rules,
    sound,
    square_up,
    steps,
    teach,
    tools,
    ways,
)
from cartouche.web.routers import guests as guest_routes
from cartouche.web.schemas import LiveView, Refusal
from cartouche.web.security import OUR_NAMES, Guard
from cartouche.web.server_outlet import ServerOutlet
from cartouche.web.sheet_reading import SheetReader
from cartouche.web.state import AppState

STATIC = Path(__file__).with_name("static")
ROUTERS = (
    rules,
    lessons,
    first,
    kit,
    kits,
    files,
    guest_routes,
    square_up,
    plates,
    sound,
    ways,
    extension,
    ready,
    teach,
    tools,
    steps,
    after,
    ink,
    privacy,
)
_live = APIRouter(tags=["live"])


@_live.get("/api/live")
def state_now(request: Request) -> LiveView:
    """The same that the live socket pushes."""
    now: ReadyNow = request.app.state.now
    return now.live_view()


@dataclass(frozen=True)
class DoorSettings:
    """port: of the guests' door, 0 for any free one.  own: certificate chain and key of the school."""

    port: int = 0
    own: tuple[Path, Path] | None = None


MakeApp = Callable[[str], ASGIApp]  # the guests' application, by the address that it is served at; '' for any


def create_app(
    state: AppState | None,
    static: Path = STATIC,
    door: DoorSettings | None = None,
    make_door: Callable[[MakeApp], Door] | None = None,
) -> FastAPI:
    """state: None for the OpenAPI document alone.  make_door: another way in for guests; then any name is let in here as well."""
    guests: Guests | None = None
    news: LiveNews | None = None
    now: ReadyNow | None = None
    caretaker: Caretaker | None = None
    door = door or DoorSettings()
    if state is not None:
        guests = Guests(
            state,
            (make_door or partial(_doors, state.database.path.parent, door))(
                lambda address: create_guest_app(guests, static, (address,) if address else None)
            ),
        )
        now, caretaker = ReadyNow(state, guests), Caretaker(state, guests)
        news = LiveNews(lambda: now.live_view().model_dump_json(), state.running.troubles)
        state.running.stage.versions.on_change.append(news.changed)
        state.pages.on_finished = partial(sheet_keeping.keep, state, by_itself=True)

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        if state is None or guests is None or news is None or caretaker is None or now is None:
            yield
            return
        await guests.start()
        app.state.sheet_reader.start()
        running = [asyncio.create_task(work) for work in (caretaker.run(), news.run())]
        try:
            yield
        finally:
            for task in running:
                task.cancel()
            await app.state.server_outlet.stop()
            await guests.close()
            now.close()
            app.state.sheet_reader.stop()
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
    app.state.cartouche, app.state.guests, app.state.news, app.state.now = state, guests, news, now
    if state is not None:
        app.state.extension, app.state.server_outlet = ExtensionKey(state.database), ServerOutlet(state.database)
        app.state.sheet_reader = SheetReader(state)
    for router in (*(module.router for module in ROUTERS), square_up.cards, _live, sockets.router):
        app.include_router(router)
    answer_errors(app)
    _serve_pages(app, static)
    app.add_middleware(Guard, names=OUR_NAMES if make_door is None else None)
    return app


def _doors(folder: Path, door: DoorSettings, make_app: MakeApp) -> Door:
    return Doors(make_app, folder, door.port, door.own)


def _serve_pages(app: FastAPI, static: Path) -> None:
    if not static.is_dir():
        return
    app.mount("/assets", Assets(directory=static / "assets"), name="assets")

    @app.api_route("/{name:path}", methods=["GET", "HEAD"], include_in_schema=False, response_model=None)
    def any_page(request: Request, name: str) -> Response:
        if name.startswith("api/"):
            return JSONResponse({"detail": "There is nothing at this address."}, 404)
        return page(static / "index.html", request)
