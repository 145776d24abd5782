"""Loaded once by the process that `forked` forks from."""

import importlib
import sys

from tests.forked import LOADED
from tests.helpers import ROOT

sys.path.insert(0, str(ROOT / "src"))
for name in LOADED:
    importlib.import_module(name)
