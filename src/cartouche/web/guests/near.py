"""Where a guest may be answered."""

import asyncio
from collections.abc import Callable

from starlette.requests import HTTPConnection

from cartouche.core.guests.networks import is_near
from cartouche.web.guests.door import addresses_here

Near = Callable[[str], bool]


async def near(request: HTTPConnection) -> Near:
    """By the address that this request comes from."""
    client, own = request.client.host if request.client else "", await asyncio.to_thread(addresses_here)
    return lambda address: is_near(address, client, own)
