"""Loaded once by the process that `forked` forks from."""

import importlib
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "src"))
for name in ("cli", "prepared", "web.server", "web.guests.certificate", "bench.devices"):
    importlib.import_module(f"cartouche.{name}")
