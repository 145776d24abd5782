"""A small server that takes WHIP and says what arrives: a call server's stand-in, for trying and for tests."""

import asyncio
import time
from dataclasses import dataclass, field

import av
import numpy as np
from aiortc import RTCConfiguration, RTCPeerConnection, RTCRtpReceiver, RTCSessionDescription
from aiortc.mediastreams import MediaStreamError, MediaStreamTrack


@dataclass
class Arrived:
    """pictures, blocks: counts.  newest: of the pictures."""

    pictures: int = 0
    blocks: int = 0
    since_s: float = field(default_factory=time.monotonic)
    newest: av.VideoFrame | None = None
    energy: float = 0.0

    @property
    def fps(self) -> float:
        return self.pictures / max(time.monotonic() - self.since_s, 1e-3)


class WhipServer:
    """On a port of this computer alone. token: the only one it takes."""

    def __init__(self, token: str = "let-me-in") -> None:
        self.token = token
        self.sessions: dict[str, tuple[RTCPeerConnection, Arrived]] = {}
        self.deleted: list[str] = []
        self.refuses: int | None = None  # a status to answer with instead
        self._server: asyncio.Server | None = None
        self._tasks: set[asyncio.Task[None]] = set()
        self.port = 0

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}/whip"

    async def start(self, port: int = 0) -> None:
        self._server = await asyncio.start_server(self._serve, "127.0.0.1", port)
        self.port = self._server.sockets[0].getsockname()[1]

    async def stop(self) -> None:
        """As if it had crashed: nobody is told."""
        if self._server is not None:
            self._server.close()
        for connection, _ in tuple(self.sessions.values()):
            await connection.close()
        self.sessions.clear()

    def vanish(self) -> None:
        """As if its cable had been pulled: its sockets are closed, what it had opened is told nothing."""
        for connection, _ in self.sessions.values():
            for transport in vars(connection)["_RTCPeerConnection__iceTransports"]:
                for protocol in transport._connection._protocols:
                    protocol.transport.abort()

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        head = (await reader.readuntil(b"\r\n\r\n")).decode()
        line, *rest = head.split("\r\n")
        headers = {name.lower(): value.strip() for name, _, value in (one.partition(":") for one in rest if one)}
        body = await reader.readexactly(int(headers.get("content-length", "0")))
        method, path, _ = line.split(" ")
        status, more, text = await self._answer(method, path, headers, body.decode())
        extra = "".join(f"{name}: {value}\r\n" for name, value in more.items())
        writer.write(f"HTTP/1.1 {status} X\r\n{extra}Content-Length: {len(text)}\r\nConnection: close\r\n\r\n{text}".encode())
        await writer.drain()
        writer.close()

    async def _answer(self, method: str, path: str, headers: dict[str, str], body: str) -> tuple[int, dict[str, str], str]:
        if self.refuses is not None:
            return self.refuses, {}, ""
        if headers.get("authorization") != f"Bearer {self.token}":
            return 401, {}, ""
        if method == "DELETE" and path.removeprefix("/whip/") in self.sessions:
            connection, _ = self.sessions.pop(path.removeprefix("/whip/"))
            self.deleted.append(path)
            await connection.close()
            return 200, {}, ""
        if method != "POST" or path != "/whip":
            return 405, {}, ""
        id_, answer = await self._taken(body)
        return 201, {"Location": f"/whip/{id_}", "Content-Type": "application/sdp"}, answer

    async def _taken(self, offer: str) -> tuple[str, str]:
        connection, arrived = RTCPeerConnection(RTCConfiguration(iceServers=[])), Arrived()
        id_ = f"session-{len(self.sessions) + len(self.deleted)}"

        @connection.on("track")
        def on_track(track: MediaStreamTrack) -> None:
            task = asyncio.ensure_future(_read(track, arrived))
            self._tasks.add(task)
            task.add_done_callback(self._tasks.discard)

        await connection.setRemoteDescription(RTCSessionDescription(offer, "offer"))
        known = RTCRtpReceiver.getCapabilities("video")
        for transceiver in connection.getTransceivers():
            if transceiver.kind == "video" and known is not None:
                transceiver.setCodecPreferences([codec for codec in known.codecs if codec.mimeType.lower() == "video/h264"])
        await connection.setLocalDescription(await connection.createAnswer())
        self.sessions[id_] = (connection, arrived)
        return id_, connection.localDescription.sdp


async def _read(track: MediaStreamTrack, arrived: Arrived) -> None:
    try:
        while True:
            came = await track.recv()
            if isinstance(came, av.VideoFrame):
                if not arrived.pictures:
                    arrived.since_s = time.monotonic()
                arrived.pictures += 1
                arrived.newest = came
            elif isinstance(came, av.AudioFrame):
                arrived.blocks += 1
                arrived.energy = max(arrived.energy, float(np.abs(came.to_ndarray()).max()))
    except MediaStreamError:
        return
