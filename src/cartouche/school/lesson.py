"""One teacher's process: the lesson, behind the entrance, at the socket that was handed on."""

import argparse
import asyncio
import contextlib
import os
import signal
import socket
import sys
import threading
from pathlib import Path

import uvicorn
from jupyterhub.services.auth import HubOAuth

from cartouche.bench.keep import keep_in
from cartouche.disk import SHARE
from cartouche.prepared import prepared
from cartouche.process import pass_over_before_a_lesson, settle
from cartouche.school.entrance import Entrance
from cartouche.school.inner_door import InnerDoor
from cartouche.school.place import Place, place_of
from cartouche.school.reports import report
from cartouche.web.app import create_app
from cartouche.web.server import config

FILES = 2048  # a lesson has under a hundred


def serve(options: argparse.Namespace, listening: socket.socket, keeper: int) -> int:
    """keeper: a pipe that closes when the keeper ends.  Raises NotAtASchool and what `prepared` raises."""
    place, folder = place_of(), Path(options.data)
    threading.Thread(target=_end_with_the_keeper, args=(keeper,), daemon=True, name="keeper").start()
    bound(place, folder)
    settle()
    keep_in(folder / "bench")
    state = prepared(folder, demo=False, fps=options.fps, warm_up_s=60.0)

    def public() -> str:
        return place.public or entrance.origin + place.base

    app = create_app(state, make_door=lambda make_app: InnerDoor(make_app, public))
    entrance = Entrance(app, app.state.guests.keeper.doors, HubOAuth(), place)
    serving = uvicorn.Server(config(entrance, forwarded_allow_ips="*"))
    pass_over_before_a_lesson(lambda: state.running.going_out)
    with listening:
        asyncio.run(_served(serving, listening, entrance))
    return 0


async def _served(serving: uvicorn.Server, listening: socket.socket, entrance: Entrance) -> None:
    reporting = asyncio.create_task(report(lambda: entrance.asked))
    try:
        await serving.serve([listening])
    finally:
        reporting.cancel()
        with contextlib.suppress(asyncio.CancelledError):
            await reporting


def bound(place: Place, folder: Path) -> None:
    """What the school allows one teacher: memory, open files, disk. Of processors each gets an even share by the system itself."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    SHARE.give(folder, place.disk)
    if sys.platform == "win32":
        return
    import resource

    resource.setrlimit(resource.RLIMIT_NOFILE, (min(FILES, resource.getrlimit(resource.RLIMIT_NOFILE)[1]),) * 2)
    if place.memory is not None:
        resource.setrlimit(resource.RLIMIT_DATA, (place.memory, place.memory))


def _end_with_the_keeper(keeper: int) -> None:
    with contextlib.suppress(OSError):
        os.read(keeper, 1)
    os.kill(os.getpid(), signal.SIGTERM)
