"""Arranging feeds on the outgoing picture: what a plate is, where a place lies, drawing it."""
