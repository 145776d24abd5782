"""The web server: our settings for uvicorn, in one place for the command line, the tests and the benchmarks."""

import uvicorn
from starlette.types import ASGIApp

from cartouche.web.app import DoorSettings, create_app
from cartouche.web.guests.door import MAX_MESSAGE_BYTES
from cartouche.web.state import AppState


def server(state: AppState, door: DoorSettings | None = None) -> uvicorn.Server:
    return uvicorn.Server(config(create_app(state, door=door)))


def config(app: ASGIApp, forwarded_allow_ips: str | None = None) -> uvicorn.Config:
    """forwarded_allow_ips: of proxies that are believed what they say of browsers, as uvicorn takes it."""
    return uvicorn.Config(
        app,
        ws="websockets-sansio",
        ws_per_message_deflate=False,  # pictures are compressed already: it doubled our cost
        ws_max_size=MAX_MESSAGE_BYTES,
        log_level="warning",
        forwarded_allow_ips=forwarded_allow_ips,
    )
