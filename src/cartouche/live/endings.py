"""Work that is not left half done, whoever is cancelled meanwhile."""

import asyncio
from collections.abc import Awaitable

import anyio


async def to_its_end(work: Awaitable[None]) -> None:
    """Whoever is cancelled meanwhile stays until it is done: a thread cannot be ended, and must not find what it uses closed.

    A task cancels once, a scope of anyio at every wait."""
    task = asyncio.ensure_future(work)
    with anyio.CancelScope(shield=True):
        try:
            await asyncio.shield(task)
        except asyncio.CancelledError:
            await asyncio.wait({task})
            raise
