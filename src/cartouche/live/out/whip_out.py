"""Straight to a call server by WHIP (RFC 9725): offer, answer, and again by itself until it is stopped."""

import asyncio
import re
import urllib.error
import urllib.request
from dataclasses import dataclass
from http.client import HTTPException
from typing import Any, Literal
from urllib.parse import urljoin, urlsplit

from aiortc import RTCSessionDescription
from aiortc.rtcconfiguration import RTCIceServer

from cartouche.core.errors import CartoucheError
from cartouche.core.pictures import Size
from cartouche.live.hang_up import describe
from cartouche.live.out.encoder import Encodings
from cartouche.live.out.peer import OutgoingPeer
from cartouche.live.out.takers import TakerFacts, Takers
from cartouche.live.sound.mixer import Mixer

FIRST_WAIT_S, LONGEST_WAIT_S = 1.0, 20.0
CONNECTS_WITHIN_S = 15.0
ANSWERS_WITHIN_S = 10.0
LOOK_EVERY_S = 0.5
SILENT_AFTER_S = 8.0  # longer than the longest pause between two reports: 7.5 s (RFC 3550, section 6.2)
MAX_ANSWER = 256 * 1024
MAX_REDIRECTS = 3
LOOPBACK = ("127.0.0.1", "localhost", "::1")
State = Literal["connecting", "sending", "waiting", "refused", "stopped"]
SILENT = "Nothing has come back from the server for some seconds: it or the network may be gone. Cartouche keeps sending."
_REFUSED = {
    401: "It does not take this token. Ask whoever runs it for a new one.",
    403: "It does not take this token. Ask whoever runs it for a new one.",
    404: "There is nothing at this address. Ask whoever runs it for the right one.",
    405: "Nothing there takes WHIP. Ask whoever runs it for the right address.",
    415: "Nothing there takes WHIP. Ask whoever runs it for the right address.",
}


class AddressUnsafe(CartoucheError, ValueError):
    sentence = "Type an address that begins with https:// so that picture and token cannot be read on the way."


class WhipRefused(CartoucheError, ConnectionError):
    """final: trying again is of no use."""

    sentence = "{why}"

    def __init__(self, why: str, *, final: bool) -> None:
        self.why, self.final = why, final
        super().__init__(why)


@dataclass(frozen=True)
class WhipAddress:
    """token, ice_*: '' for none. ice: a stun: or turn: address."""

    address: str
    token: str = ""
    ice: str = ""
    ice_user: str = ""
    ice_password: str = ""

    def check(self) -> None:
        """Raises AddressUnsafe: in clear it may go no farther than this computer."""
        parts = urlsplit(self.address)
        if parts.scheme == "https" and parts.hostname:
            return
        if parts.scheme != "http" or parts.hostname not in LOOPBACK:
            raise AddressUnsafe

    @property
    def host(self) -> str:
        return urlsplit(self.address).netloc


class Heard:
    """Whether the far end goes on reporting: a server that vanishes ends its connection only after half a minute."""

    def __init__(self) -> None:
        self._newest: object = None
        self._at_s = 0.0

    def silent_s(self, report: object, now_s: float) -> float:
        """How long ago the newest report came. report: what tells it from others, None before the first: some servers never report."""
        if report is None:
            return 0.0
        if report != self._newest:
            self._newest, self._at_s = report, now_s
        return now_s - self._at_s


class WhipSender:
    """Runs on the web's one loop until `stop`."""

    def __init__(self, where: WhipAddress, encodings: Encodings, mixer: Mixer, takers: Takers, size: Size) -> None:
        where.check()
        self.where = where
        self.state: State = "connecting"
        self._encodings, self._mixer, self._takers, self._size = encodings, mixer, takers, size
        self._resource: str | None = None
        self._task: asyncio.Task[None] | None = None
        self._ending: asyncio.Task[None] | None = None

    def start(self) -> None:
        self._takers.put(self, TakerFacts("server", self.where.host, sound=True, says="Asking the server to take the picture…"))
        self._task = asyncio.get_running_loop().create_task(self._run(), name="whip-out")

    async def stop(self) -> None:
        """Repeatable. Tells the server, as far as it still answers."""
        task, self._task = self._task, None
        if task is not None:
            task.cancel()
            await asyncio.wait({task})
        if self._ending is not None:  # it may have been about to end by itself
            await asyncio.wait({self._ending})
        self.state = "stopped"
        self._takers.drop(self)

    def _say(self, state: State, sentence: str | None) -> None:
        self.state = state
        self._takers.tell(self, says=sentence)

    async def _run(self) -> None:
        wait_s = FIRST_WAIT_S
        while True:
            peer = OutgoingPeer(self._encodings, self._mixer, self._ice())
            try:
                await self._connect(peer)
                wait_s = FIRST_WAIT_S
                await self._while_connected(peer)
                self._say("waiting", "The server has gone. Cartouche tries again by itself.")
            except WhipRefused as exc:
                if exc.final:
                    self._say("refused", str(exc))
                    return
                self._say("waiting", f"{exc} Cartouche tries again by itself.")
            except Exception as exc:  # whatever a server and the libraries do: nothing ends a lesson
                self._say("waiting", f"The server does not answer ({exc or type(exc).__name__}). Cartouche tries again by itself.")
            finally:
                self._ending = asyncio.ensure_future(self._end(peer))
                await asyncio.shield(self._ending)
            await asyncio.sleep(wait_s)
            wait_s = min(2 * wait_s, LONGEST_WAIT_S)

    def _ice(self) -> list[RTCIceServer]:
        where = self.where
        return [RTCIceServer(where.ice, where.ice_user or None, where.ice_password or None)] if where.ice else []

    async def _connect(self, peer: OutgoingPeer) -> None:
        """Raises WhipRefused, and whatever else a server and the libraries do."""
        peer.send(self._size, sound=True)
        await describe(peer.connection, await peer.connection.createOffer())
        offer = peer.connection.localDescription.sdp
        answer, self._resource = await asyncio.to_thread(_post, self.where, offer)
        try:
            await peer.connection.setRemoteDescription(RTCSessionDescription(answer, "answer"))
        except Exception as exc:  # aiortc raises whatever its parsers meet
            raise WhipRefused("The server’s answer cannot be read.", final=False) from exc
        async with asyncio.timeout(CONNECTS_WITHIN_S):
            while peer.state not in ("connected", "failed", "closed"):
                await asyncio.sleep(0.05)
        if peer.state != "connected":
            raise WhipRefused("No connection to the server came about: a firewall may be in between.", final=False)

    async def _while_connected(self, peer: OutgoingPeer) -> None:
        heard, self.state = Heard(), "sending"
        while peer.state == "connected":
            now_s = asyncio.get_running_loop().time()
            silent_s = heard.silent_s(await peer.newest_report(), now_s)
            self._takers.tell(self, says=SILENT if silent_s > SILENT_AFTER_S else None, **self._arrives(now_s))
            await asyncio.sleep(LOOK_EVERY_S)

    def _arrives(self, now_s: float) -> dict[str, Any]:
        for encoder in self._encodings.encoders:
            if encoder.codec == "h264" and encoder.size == self._size:
                return {"size": self._size, "fps": round(encoder.rate.fps(now_s), 1)}
        return {}

    async def _end(self, peer: OutgoingPeer) -> None:
        resource, self._resource = self._resource, None
        await peer.close()
        if resource is not None:
            await asyncio.to_thread(_delete, self.where, resource)


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    """A redirect must keep the method (RFC 9725, section 4.6): we follow it ourselves."""

    def redirect_request(self, *_: object) -> None:  # type: ignore[override]
        return None


_opener = urllib.request.build_opener(_NoRedirect)


def _request(where: WhipAddress, address: str, method: str, body: bytes | None) -> urllib.request.Request:
    headers = {"Content-Type": "application/sdp", "Accept": "application/sdp"}
    if where.token and urlsplit(address).netloc == where.host:  # a token is for the server that it was given for
        headers["Authorization"] = f"Bearer {where.token}"
    return urllib.request.Request(address, body, headers, method=method)


def _post(where: WhipAddress, offer: str) -> tuple[str, str | None]:
    """The answer, and the address of what was made there. Raises WhipRefused, OSError."""
    address = where.address
    for _ in range(MAX_REDIRECTS + 1):
        try:
            with _opener.open(_request(where, address, "POST", offer.encode()), timeout=ANSWERS_WITHIN_S) as answer:
                if answer.status != 201:
                    raise WhipRefused("Nothing there takes WHIP. Ask whoever runs it for the right address.", final=True)
                made = answer.headers.get("Location")
                return answer.read(MAX_ANSWER).decode("utf-8", "replace"), urljoin(address, made) if made else None
        except urllib.error.HTTPError as exc:
            with exc:
                if exc.code not in (307, 308):
                    raise _refused(exc.code) from None
                address = urljoin(address, exc.headers.get("Location") or "")
            WhipAddress(address).check()
    raise WhipRefused("The server sends from one address to the next without end.", final=True)


def _refused(status: int) -> WhipRefused:
    if status in _REFUSED:
        return WhipRefused(_REFUSED[status], final=True)
    if 400 <= status < 500 and status not in (408, 409, 425, 429):
        return WhipRefused(f"The server refuses the picture ({status}).", final=True)
    return WhipRefused(f"The server cannot take the picture just now ({status}).", final=False)


def _delete(where: WhipAddress, resource: str) -> None:
    """As far as it still answers: it ends by itself where not."""
    if not re.match(r"https?://", resource):
        return
    try:
        with _opener.open(_request(where, resource, "DELETE", None), timeout=3):
            return
    except (OSError, HTTPException):
        return
