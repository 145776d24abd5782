"""WebRTC in by WHIP (RFC 9725): one offer, one answer, one feed. H.264 constrained baseline, else VP8; no other server is ever asked."""

import asyncio
from collections.abc import Awaitable, Callable

import av
import numpy as np
from aiortc import RTCConfiguration, RTCPeerConnection, RTCRtpReceiver, RTCSessionDescription, rtcrtpreceiver
from aiortc.codecs.base import Decoder
from aiortc.mediastreams import MediaStreamError, MediaStreamTrack
from aiortc.rtcrtpparameters import RTCRtpCodecParameters
from numpy.typing import NDArray

from cartouche.core.sound.loudness import RATE
from cartouche.live.camera_feed import CameraFeed
from cartouche.live.errors import UnusableOffer
from cartouche.live.hang_up import describe, hang_up
from cartouche.live.marked import take_marked
from cartouche.live.planes import MAX_PIXELS

MAX_OFFER_BYTES = 64 * 1024  # a browser's offer is under 8 kB
MAX_PARTS, MAX_CANDIDATES = 3, 32  # picture, sound, and data that some browsers add; a phone has a few addresses
MAX_KBIT_S, START_KBIT_S, MIN_KBIT_S = (
    8000,
    4000,
    1000,
)  # without them a picture begins at a quarter of its size and takes ten seconds to grow
TAKEN = ("video/h264", "video/vp8")  # not every browser has the first
OPEN = ("new", "connecting", "connected")
CONNECTS_WITHIN_S = 20.0  # a browser gives up sooner; the library looks for a way for ever, fifty times a second


class WhipSession:
    """One phone's connection. `close` is repeatable."""

    def __init__(
        self,
        feed: CameraFeed,
        on_sound: Callable[[int, NDArray[np.int16]], None],
        is_near: Callable[[str], bool] = lambda address: True,
        may_show: Callable[[], Awaitable[bool]] | None = None,
    ) -> None:
        """on_sound: given each piece of sound, if sound comes: number of its first sample, and (n,) mono at RATE.

        is_near: whether the phone may be answered at this address; others that it names are not tried.
        may_show: asked before each picture; once it says no, none is shown any more."""
        self._feed, self._on_sound, self._is_near, self._may_show = feed, on_sound, is_near, may_show
        self._connection = RTCPeerConnection(RTCConfiguration(iceServers=[]))
        self._closed = False
        self._readers: set[asyncio.Task[None]] = set()
        self._limit: asyncio.TimerHandle | None = None
        self._giving_up: asyncio.Task[None] | None = None
        self._connection.on("track", self._on_track)

    @property
    def is_open(self) -> bool:
        return self._connection.connectionState in OPEN

    async def answer(self, offer: str) -> str:
        """The answer to an offer, both SDP (RFC 8866). Raises UnusableOffer."""
        try:
            await self._connection.setRemoteDescription(RTCSessionDescription(without_far(bounded(offer), self._is_near), "offer"))
            self._prefer()
            await describe(self._connection, await self._connection.createAnswer())
            if not any(transceiver.kind == "video" for transceiver in self._connection.getTransceivers()):
                raise ValueError("no picture is offered")
        except Exception as exc:  # aiortc raises whatever its parsers meet
            await self.close()
            raise UnusableOffer(self._feed.id, str(exc) if type(exc) is ValueError else type(exc).__name__) from exc
        self._limit = asyncio.get_running_loop().call_later(CONNECTS_WITHIN_S, self._give_up)
        return with_bit_rates(self._connection.localDescription.sdp)

    def _give_up(self) -> None:
        if self._connection.connectionState != "connected":
            self._giving_up = asyncio.ensure_future(self.close())

    def _prefer(self) -> None:
        capabilities = RTCRtpReceiver.getCapabilities("video")
        known = capabilities.codecs if capabilities else []
        wanted = [codec for kind in TAKEN for codec in known if codec.mimeType.lower() == kind]
        for transceiver in self._connection.getTransceivers():
            if transceiver.kind == "video":
                transceiver.setCodecPreferences(wanted)

    def _on_track(self, track: MediaStreamTrack) -> None:
        read = self._read_pictures if track.kind == "video" else self._read_sound
        task = asyncio.ensure_future(read(track))
        self._readers.add(task)
        task.add_done_callback(self._readers.discard)

    async def _read_pictures(self, track: MediaStreamTrack) -> None:
        """Read on whatever comes: the track queues without limit. Only the newest is worked on."""
        try:
            while True:
                picture = await track.recv()
                if self._may_show is not None and not await self._may_show():
                    return
                if isinstance(picture, av.VideoFrame):
                    with self._feed.guard("decode"):
                        self._feed.show(picture)
        except MediaStreamError:
            return

    async def _read_sound(self, track: MediaStreamTrack) -> None:
        mono = av.AudioResampler("s16", "mono", RATE)
        try:
            while True:
                sound = await track.recv()
                if not isinstance(sound, av.AudioFrame):
                    continue
                with self._feed.guard("mix"):
                    for piece in mono.resample(sound):
                        self._on_sound(int(piece.pts or 0), np.asarray(piece.to_ndarray(), np.int16).reshape(-1))
        except MediaStreamError:
            return

    async def close(self) -> None:
        for reader in tuple(self._readers):
            reader.cancel()
        if self._limit is not None:
            self._limit.cancel()
        if not self._closed:
            self._closed = True
            await hang_up(self._connection)


def without_far(sdp: str, is_near: Callable[[str], bool]) -> str:
    """Without candidates that are not near. Those by `.local` names (mDNS) need a look-up that we cannot do; the phone reaches us
    without them. Else anybody let in could have this computer knock at others.

    That there are no more of them is not passed on: where none is left, the library would look for no address of ours either."""
    kept = []
    for line in sdp.splitlines(keepends=True):
        parts = line.split()
        if line.startswith("a=candidate:") and not (len(parts) > 4 and is_near(parts[4])):
            continue
        if not line.startswith("a=end-of-candidates"):
            kept.append(line)
    return "".join(kept)


def bounded(sdp: str) -> str:
    """The same; raises ValueError for more than any phone offers: each part costs the one loop time."""
    for begins, most, what in (("m=", MAX_PARTS, "parts"), ("a=candidate:", MAX_CANDIDATES, "candidates")):
        if sum(line.startswith(begins) for line in sdp.splitlines()) > most:
            raise ValueError(f"more than {most} {what}")
    return sdp


def with_bit_rates(sdp: str) -> str:
    """The answer with the bit rates between which the sender adapts to the network (b=AS, RFC 8866; x-google-*: common use)."""
    lines: list[str] = []
    in_video = False
    for line in sdp.splitlines():
        if line.startswith("m="):
            in_video = line.startswith("m=video")
        if in_video and line.startswith("a=fmtp:") and "profile-level-id" in line:
            line += f";x-google-start-bitrate={START_KBIT_S};x-google-min-bitrate={MIN_KBIT_S};x-google-max-bitrate={MAX_KBIT_S}"
        lines.append(line)
        if in_video and line.startswith("c="):
            lines.append(f"b=AS:{MAX_KBIT_S}")
    return "\r\n".join(lines) + "\r\n"


def _bound_decoder() -> None:
    """aiortc's H.264 decoder takes pictures of any size that a guest claims; ours refuses them before their memory is taken."""
    make = rtcrtpreceiver.get_decoder  # type: ignore[attr-defined]

    def bounded(codec: RTCRtpCodecParameters) -> Decoder:
        decoder = make(codec)
        context = getattr(decoder, "codec", None)
        if isinstance(context, av.VideoCodecContext):
            context.options = {**context.options, "max_pixels": str(MAX_PIXELS)}
        return decoder

    rtcrtpreceiver.get_decoder = bounded  # type: ignore[attr-defined]


_bound_decoder()
take_marked()
