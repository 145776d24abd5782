"""Cartouche: face and paper, squared up, side by side, into the call."""

import os

os.environ.setdefault("ORT_DISABLE_TELEMETRY", "1")  # read when the model runtime is loaded: nothing is told to anybody, no folder made

__version__ = "0.1.0"
