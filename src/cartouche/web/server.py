"""The web server: our settings for uvicorn, in one place for the command line, the tests and the benchmarks."""

import asyncio
import logging

import uvicorn
from starlette.types import ASGIApp

from cartouche.web.app import DoorSettings, create_app
from cartouche.web.guests.door import LEAVE_WITHIN_S, MAX_MESSAGE_BYTES
from cartouche.web.state import AppState

ALONE_S, BEHIND_PROXY_S = 5, 24 * 3600  # how long an idle connection is left open


def server(state: AppState, door: DoorSettings | None = None) -> uvicorn.Server:
    return uvicorn.Server(config(create_app(state, door=door)))


def config(app: ASGIApp, forwarded_allow_ips: str | None = None) -> uvicorn.Config:
    """forwarded_allow_ips: of proxies that are believed what they say of browsers, as uvicorn takes it.

    A proxy sends the next request on a connection that it has kept: closed just then, a press would be lost (503)."""
    settings = uvicorn.Config(
        app,
        ws="websockets-sansio",
        ws_per_message_deflate=False,  # pictures are compressed already: it doubled our cost
        ws_max_size=MAX_MESSAGE_BYTES,
        timeout_graceful_shutdown=LEAVE_WITHIN_S,
        timeout_keep_alive=ALONE_S if forwarded_allow_ips is None else BEHIND_PROXY_S,
        log_level="warning",
        forwarded_allow_ips=forwarded_allow_ips,
    )
    logging.getLogger("uvicorn.error").addFilter(_is_a_fault)  # after the settings, which make it new
    return settings


def _is_a_fault(record: logging.LogRecord) -> bool:
    """A request that was cut off because it ends is none."""
    return record.exc_info is None or not isinstance(record.exc_info[1], asyncio.CancelledError)
