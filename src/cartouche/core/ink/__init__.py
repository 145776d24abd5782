"""Ink: strokes on a page, in units of the page itself, so that they stay on the printed spot."""
