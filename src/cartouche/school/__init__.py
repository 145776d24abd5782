"""Cartouche as one teacher's own process behind a school's server: JupyterHub signs people in, starts, stops and routes."""
