"""What the disk has room for: all that is free, or what is left of a share that a school gives each teacher."""

import os
import shutil
import time
from pathlib import Path

LOOKS_EVERY_S = 5.0


class Share:
    """So many bytes for all that lies in a folder; None for as many as there are."""

    def __init__(self) -> None:
        self.bytes: int | None = None
        self.folder: Path | None = None
        self._seen: tuple[float, int] = (float("-inf"), 0)

    def give(self, folder: Path, share: int | None) -> None:
        self.folder, self.bytes = folder, share

    def left(self, free: int) -> int:
        if self.bytes is None or self.folder is None:
            return free
        now_s = time.monotonic()
        if now_s - self._seen[0] > LOOKS_EVERY_S:
            self._seen = (now_s, _used(self.folder))
        return max(0, min(free, self.bytes - self._seen[1]))


SHARE = Share()


def free_bytes(folder: Path) -> int:
    """Raises OSError."""
    return SHARE.left(shutil.disk_usage(folder).free)


def _used(folder: Path) -> int:
    total = 0
    for where, _, names in os.walk(folder):
        for name in names:
            try:
                total += os.lstat(os.path.join(where, name)).st_size
            except OSError:  # gone meanwhile
                continue
    return total
