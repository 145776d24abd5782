"""Outgoing picture and sound over WebRTC: packets of our one encode as they are, sound as Opus."""

from fractions import Fraction

import av
import numpy as np
from aiortc import MediaStreamTrack, RTCConfiguration, RTCPeerConnection, RTCRtpSender
from aiortc.rtcconfiguration import RTCIceServer
from aiortc.rtcrtpparameters import RTCRtpCodecCapability

from cartouche.core.pictures import Size
from cartouche.core.sound.loudness import RATE
from cartouche.live.hang_up import hang_up
from cartouche.live.out.encoder import CLOCK_HZ, Encodings, Packet
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

    def send(self, size: Size, *, sound: bool) -> None:
        """Before an offer or an answer is made."""
        pictures, sounds = self._queues
        pictures.join(size, sound=False)
        sender = self.connection.addTrack(PictureTrack(pictures))
        sender._send_keyframe = pictures.request_key  # type: ignore[method-assign]  # asked for by the far end: aiortc has no public way
        if sound:
            sounds.join(None, sound=True)
            self.connection.addTrack(SoundTrack(sounds))
        wanted = _h264()
        for transceiver in self.connection.getTransceivers():
            if transceiver.kind == "video":
                transceiver.setCodecPreferences(wanted)
            transceiver.direction = "sendonly"

    @property
    def state(self) -> str:
        return self.connection.connectionState

    async def close(self) -> None:
        """Repeatable."""
        for queue in self._queues:
            queue.leave()
        if not self._closed:
            self._closed = True
            await hang_up(self.connection)


def _h264() -> list[RTCRtpCodecCapability]:
    known = RTCRtpSender.getCapabilities("video")
    return [codec for codec in (known.codecs if known else []) if codec.mimeType.lower() in ("video/h264", "video/rtx")]
