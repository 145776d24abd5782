"""The second listener: TLS, on one address of the local network, open only while guests are invited or awaited."""

import asyncio
import contextlib
import socket
import ssl
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Protocol

import ifaddr
import uvicorn
from starlette.types import ASGIApp

from cartouche.core.guests.networks import Network, networks
from cartouche.ports import for_lines
from cartouche.web.guests.certificate import tls_context
from cartouche.web.guests.errors import DoorBlocked
from cartouche.web.guests.gate import MAX_LINES, Acquainted, Gate
from cartouche.web.guests.porter import Porter
from cartouche.web.guests.shy import ShyProtocol
from cartouche.web.guests.soon import Acquaint, SoonProtocol

MAX_MESSAGE_BYTES = 4_100_000  # a key frame of a 4K camera and a little
QUEUE = 256  # lines that the system holds until the porter comes
LEAVE_WITHIN_S = 3  # whoever holds a line open, with half a request or a film that is not read on, does not hold up the end


class _Listener(uvicorn.Server):
    """A second server on the same loop: signals stay with the first, and a porter brings its lines."""

    def __init__(self, config: uvicorn.Config, gate: Gate, context: ssl.SSLContext) -> None:
        super().__init__(config)
        self._gate, self._context = gate, context

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        config: Any = self.config
        state = {"server_state": self.server_state, "app_state": self.lifespan.state}
        self.servers = [Porter(self._gate, lambda: config.http_protocol_class(config=config, **state), self._context)]  # type: ignore[list-item]
        self.started = True

    @contextlib.contextmanager
    def capture_signals(self) -> Iterator[None]:
        yield


class Door(Protocol):
    """The way in for guests, open for exactly the addresses that are kept."""

    @property
    def addresses(self) -> list[str]: ...

    async def keep(self, wanted: set[str]) -> None: ...

    async def close(self) -> None: ...

    def networks(self) -> list[Network]:
        """By which guests may come, the likeliest first."""
        ...

    def link(self, address: str) -> str:
        """What a guest opens who comes by this address, without a slash at its end."""
        ...


class Doors:
    """One listener for each address that a guest comes by; all serve the same small application."""

    def __init__(self, make_app: Callable[[str], ASGIApp], folder: Path, port: int, own: tuple[Path, Path] | None) -> None:
        """own: certificate chain and key of the school, instead of those made here."""
        self.port = port
        self._make_app, self._folder, self._own = make_app, folder, own
        self._open: dict[str, tuple[_Listener, asyncio.Task[None]]] = {}
        self._change = asyncio.Lock()
        self._known = Acquainted()

    @property
    def addresses(self) -> list[str]:
        return list(self._open)

    def networks(self) -> list[Network]:
        return networks_here()

    def link(self, address: str) -> str:
        return f"https://{address}:{self.port}"

    async def keep(self, wanted: set[str]) -> None:
        """Open and close until exactly these addresses are served. Raises DoorBlocked, CertificateUnusable, CannotSave."""
        async with self._change:
            for address in [known for known in self._open if known not in wanted]:
                await self._close(address)
            for address in wanted - set(self._open):
                await self._open_one(address)

    async def close(self) -> None:
        """Repeatable."""
        await self.keep(set())

    async def _open_one(self, address: str) -> None:
        context = await asyncio.to_thread(tls_context, self._folder, _certified(address), self._own)
        listening = _listen(address, self.port)
        listening.known = self._known
        self.port = listening.getsockname()[1]
        server = _Listener(_config(Acquaint(self._make_app(address), self._known), context), listening, context)
        task = asyncio.create_task(server.serve(sockets=[listening]), name=f"guests-{address}")
        self._open[address] = (server, task)
        while not (server.started or task.done()):
            await asyncio.sleep(0.01)

    async def _close(self, address: str) -> None:
        server, task = self._open.pop(address)
        server.should_exit = True
        await task


def _config(app: ASGIApp, context: ssl.SSLContext) -> uvicorn.Config:
    return uvicorn.Config(
        app,
        ssl_context_factory=lambda *_: context,
        http=SoonProtocol,
        ws=ShyProtocol,
        ws_per_message_deflate=False,
        ws_max_size=MAX_MESSAGE_BYTES,
        timeout_graceful_shutdown=LEAVE_WITHIN_S,
        lifespan="off",
        proxy_headers=False,  # who asks is told by the line itself: guesses are counted by it
        server_header=False,
        limit_concurrency=MAX_LINES,
        log_level="critical",  # a phone that has not accepted the certificate yet is no error of ours
    )


def _certified(address: str) -> list[str]:
    """All addresses of this computer, so that another network tomorrow does not need another certificate."""
    return sorted({address, "127.0.0.1", *(network.address for network in networks_here())})


def _listen(address: str, port: int) -> Gate:
    """Raises DoorBlocked."""
    listening = for_lines(Gate)
    try:
        listening.bind((address, port))
        listening.listen(QUEUE)
    except OSError as exc:
        listening.close()
        raise DoorBlocked(f"{address}:{port}", (exc.strerror or str(exc)).lower()) from exc
    return listening


def networks_here() -> list[Network]:
    """This computer's networks, the likeliest for a phone first."""
    found = [(adapter.nice_name, str(address.ip), address.network_prefix) for adapter, address in _here()]
    return networks(found, _usual_address())


def addresses_here() -> list[tuple[str, int]]:
    """This computer's IPv4 addresses, each with the length of its network's prefix."""
    return [(str(address.ip), address.network_prefix) for _, address in _here()]


def _here() -> list[tuple[ifaddr.Adapter, ifaddr.IP]]:
    return [(adapter, address) for adapter in ifaddr.get_adapters() for address in adapter.ips if address.is_IPv4]


def _usual_address() -> str | None:
    """The address that traffic to elsewhere leaves by. Nothing is sent: connecting a datagram socket only asks the routing table."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("203.0.113.1", 9))  # an address for documents (RFC 5737)
        except OSError:
            return None
        return str(probe.getsockname()[0])
