"""Damage from outside at length: how each was answered. Whatever is not our own refusal, a lost thread or a hang ends the run.

`benchmarks/mutated.py [SHARE] [SEED] [KIND...]`: SHARE 1 is 10,000 streams, 10,000 pictures, 2,000 of each other kind.
"""

import asyncio
import json
import resource
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from tests import mutated


def main(share: float = 1.0, seed: int = 77, only: tuple[str, ...] = ()) -> dict[str, object]:
    found: dict[str, object] = {}
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        kinds: dict[str, tuple[int, Callable[[int], mutated.Told]]] = {
            "streams": (10_000, lambda count: mutated.streams(count, seed)),
            "pictures": (10_000, lambda count: mutated.pictures(count, seed, folder)),
            "pdfs": (2_000, lambda count: mutated.pdfs(count, seed, folder)),
            "clips": (2_000, lambda count: mutated.clips(count, seed, folder)),
            "offers": (2_000, lambda count: asyncio.run(mutated.offers(count, seed))),
            "texts": (6_000, lambda count: mutated.texts(count, seed, folder)),
        }
        for kind in only or tuple(kinds):
            most, work = kinds[kind]
            count, begun_s = max(1, round(share * most)), time.monotonic()
            told = dict(work(count))
            found[kind] = {"count": count, "s": round(time.monotonic() - begun_s, 1), **told}
            print(kind, found[kind], file=sys.stderr, flush=True)
    found["memory_mb"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
    return found


if __name__ == "__main__":
    given = sys.argv[1:]
    print(json.dumps(main(float(given[0]) if given else 1.0, int(given[1]) if given[1:] else 77, tuple(given[2:]))))
