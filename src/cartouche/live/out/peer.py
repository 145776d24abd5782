"""Outgoing picture and sound over WebRTC: packets of our one encode as they are, sound as Opus."""

from datetime import datetime
from fractions import Fraction

import av
import numpy as np
from aiortc import MediaStreamTrack, RTCConfiguration, RTCPeerConnection, RTCRtpSender
from aiortc.rtcconfiguration import RTCIceServer
from aiortc.rtcrtpparameters import RTCRtpCodecCapability

from cartouche.core.pictures import Size
from cartouche.core.sound.loudness import RATE
from cartouche.live.hang_up import hang_up
from cartouche.live.out.encoder import CLOCK_HZ, Codec, Encodings, Packet
from cartouche.live.out.queue import OutgoingQueue, SoundBlock
from cartouche.live.sound.mixer import BLOCK, Mixer


class PictureTrack(MediaStreamTrack):
    """Gives encoded packets: the sender packetises them and encodes nothing."""

    kind = "video"

    def __init__(self, queue: OutgoingQueue) -> None:
        super().__init__()
        self.queue = queue

    async def recv(self) -> av.Packet:  # type: ignore[override]
        while not isinstance(item := await self.queue.next(), Packet):
            pass
        packet = av.Packet(item.data)
        packet.pts, packet.time_base = item.pts, Fraction(1, CLOCK_HZ)
        return packet


class SoundTrack(MediaStreamTrack):
    kind = "audio"

    def __init__(self, queue: OutgoingQueue) -> None:
        super().__init__()
        self.queue = queue
        self._sent = 0

    async def recv(self) -> av.AudioFrame:
        while not isinstance(item := await self.queue.next(), SoundBlock):
            pass
        frame = av.AudioFrame.from_ndarray(np.frombuffer(item.samples, np.int16).reshape(1, -1), "s16", "mono")
        frame.sample_rate, frame.pts, frame.time_base = RATE, self._sent, Fraction(1, RATE)
        self._sent += BLOCK
        return frame


class OutgoingPeer:
    """One connection that gives picture and, if wanted, sound. `close` is repeatable."""

    def __init__(self, encodings: Encodings, mixer: Mixer, ice: list[RTCIceServer]) -> None:
        """ice: servers that help through firewalls; none is ever asked that was not named."""
        self.connection = RTCPeerConnection(RTCConfiguration(iceServers=ice))
        self._closed = False
        self._queues = [OutgoingQueue(encodings, mixer), OutgoingQueue(encodings, mixer)]

    def send(self, size: Size, *, sound: bool, codec: Codec = "h264") -> None:
        """Before an offer or an answer is made. codec: see `taken_by`."""
        pictures, sounds = self._queues
        pictures.join(size, sound=False, codec=codec)
        sender = self.connection.addTrack(PictureTrack(pictures))
        sender._send_keyframe = pictures.request_key  # type: ignore[method-assign]  # asked for by the far end: aiortc has no public way
        if sound:
            sounds.join(None, sound=True)
            self.connection.addTrack(SoundTrack(sounds))
        wanted = _capabilities(codec)
        for transceiver in self.connection.getTransceivers():
            if transceiver.kind == "video":
                transceiver.setCodecPreferences(wanted)
            transceiver.direction = "sendonly"

    @property
    def state(self) -> str:
        return self.connection.connectionState

    async def newest_report(self) -> datetime | None:
        """When the far end last reported what it receives (RFC 3550, section 6.4); None while it has not."""
        known = [stats for sender in self.connection.getSenders() for stats in (await sender.getStats()).values()]
        return max((stats.timestamp for stats in known if stats.type == "remote-inbound-rtp"), default=None)

    async def close(self) -> None:
        """Repeatable."""
        for queue in self._queues:
            queue.leave()
        if not self._closed:
            self._closed = True
            await hang_up(self.connection)


def taken_by(offer: str) -> Codec | None:
    """In which codec an offer (SDP) takes pictures; H.264 first: one encode of it serves all. None for neither."""
    names = {line.split()[-1].split("/")[0].lower() for line in offer.splitlines() if line.startswith("a=rtpmap:")}
    return "h264" if "h264" in names else "vp8" if "vp8" in names else None


def _capabilities(codec: Codec) -> list[RTCRtpCodecCapability]:
    known = RTCRtpSender.getCapabilities("video")
    return [one for one in (known.codecs if known else []) if one.mimeType.lower() in (f"video/{codec}", "video/rtx")]
