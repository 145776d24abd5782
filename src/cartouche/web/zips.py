"""ZIP files that are put together for one answer and gone with it."""

import os
import tempfile
from collections.abc import Callable
from pathlib import Path

from fastapi import BackgroundTasks
from fastapi.responses import FileResponse

_PREFIX = "arriving-"


def zip_answer(folder: Path, write: Callable[[Path], None], name: str, tasks: BackgroundTasks) -> FileResponse:
    """folder: where there is room for it.  write: fills it; what it raises is raised."""
    handle, made = tempfile.mkstemp(".zip", _PREFIX, folder)
    os.close(handle)
    out = Path(made)
    tasks.add_task(out.unlink, missing_ok=True)
    try:
        write(out)
    except BaseException:
        out.unlink(missing_ok=True)
        raise
    return FileResponse(out, media_type="application/zip", filename=name, background=tasks)


def sweep(folder: Path) -> None:
    """Of answers that were cut off by an end of this program."""
    for left in folder.glob(f"{_PREFIX}*.zip"):
        left.unlink(missing_ok=True)
