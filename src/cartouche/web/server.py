"""The web server: our settings for uvicorn, in one place for the command line, the tests and the benchmarks."""

import uvicorn

from cartouche.web.app import create_app
from cartouche.web.state import AppState

MOST_MESSAGE_BYTES = 4_100_000  # a key frame of a 4K camera and a little


def server(state: AppState) -> uvicorn.Server:
    config = uvicorn.Config(
        create_app(state),
        ws="websockets-sansio",
        ws_per_message_deflate=False,  # pictures are compressed already: it doubled our cost
        ws_max_size=MOST_MESSAGE_BYTES,
        log_level="warning",
    )
    return uvicorn.Server(config)
