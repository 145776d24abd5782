"""Cartouche: face and paper, squared up, side by side, into the call."""

__version__ = "0.1.0"
