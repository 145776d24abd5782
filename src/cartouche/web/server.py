"""The web server: our settings for uvicorn, in one place for the command line, the tests and the benchmarks."""

import uvicorn

from cartouche.web.app import DoorSettings, create_app
from cartouche.web.guests.door import MAX_MESSAGE_BYTES
from cartouche.web.state import AppState


def server(state: AppState, door: DoorSettings | None = None) -> uvicorn.Server:
    config = uvicorn.Config(
        create_app(state, door=door),
        ws="websockets-sansio",
        ws_per_message_deflate=False,  # pictures are compressed already: it doubled our cost
        ws_max_size=MAX_MESSAGE_BYTES,
        log_level="warning",
    )
    return uvicorn.Server(config)
