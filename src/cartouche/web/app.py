"""The application: routers, sockets, the guard, the built pages."""

import asyncio
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from fastapi import FastAPI, Request
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
from cartouche.web.routing import routes_of, screen_router
from cartouche.web.schemas import LiveView
from cartouche.web.security import OUR_NAMES, Guard
from cartouche.web.server_outlet import ServerOutlet
from cartouche.web.sheet_reading import SheetReader
from cartouche.web.state import AppState

ENDS_WITHIN_S = 5.0  # what looks after things; nothing keeps a stop waiting for long
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
_live = screen_router("live")


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
    app = FastAPI(
        title="Cartouche",
        version=__version__,
        lifespan=_while_it_runs if state is not None else None,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        routes=routes_of((*(module.router for module in ROUTERS), square_up.cards, _live, sockets.router)),
    )
    if state is not None:
        _furnish(app, state, static, make_door or partial(_doors, state.database.path.parent, door or DoorSettings()))
    answer_errors(app)
    _serve_pages(app, static)
    app.add_middleware(Guard, names=OUR_NAMES if make_door is None else None)
    return app


def _furnish(app: FastAPI, state: AppState, static: Path, make_door: Callable[[MakeApp], Door]) -> None:
    """What routes and sockets ask for lies in `app.state`, each by its name."""
    guests: Guests = Guests(state, make_door(lambda address: create_guest_app(guests, static, (address,) if address else None)))
    now = ReadyNow(state, guests)
    news = LiveNews(lambda: now.live_view().model_dump_json(), state.running.troubles)
    state.running.stage.versions.on_change.append(news.changed)
    state.pages.on_finished = partial(sheet_keeping.keep, state, by_itself=True)
    app.state.cartouche, app.state.guests, app.state.now, app.state.news = state, guests, now, news
    app.state.extension, app.state.server_outlet = ExtensionKey(state.database), ServerOutlet(state.database)
    app.state.caretaker, app.state.sheet_reader = Caretaker(state, guests), SheetReader(state)


@asynccontextmanager
async def _while_it_runs(app: FastAPI) -> AsyncIterator[None]:
    kept = app.state
    await kept.guests.start()
    kept.sheet_reader.start()
    running = [asyncio.create_task(work) for work in (kept.caretaker.run(), kept.news.run())]
    try:
        yield
    finally:
        for task in running:
            task.cancel()
        await asyncio.wait(running, timeout=ENDS_WITHIN_S)
        await kept.server_outlet.stop()
        await kept.guests.close()
        kept.now.close()
        kept.sheet_reader.stop()
        kept.cartouche.close()


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
