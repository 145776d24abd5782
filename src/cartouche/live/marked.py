"""Pictures from WebRTC as soon as their last packet is here, which is marked (RFC 6184 5.1, RFC 7741 4.1).

aiortc's own buffer hands a picture on when the next one begins.
"""

from typing import Any

from aiortc import rtcrtpreceiver
from aiortc.jitterbuffer import JitterBuffer, JitterFrame
from aiortc.rtp import RtpPacket


class MarkedBuffer(JitterBuffer):
    """As the other, an interval sooner; a picture whose marked packet is lost comes with the next, as there."""

    def _remove_frame(self, sequence_number: int) -> JitterFrame | None:
        self._pass_over_padding()
        return super()._remove_frame(sequence_number) or self._marked()

    def _first(self, number: int) -> RtpPacket | None:
        assert self._origin is not None
        return self._packets[(self._origin + number) % self._capacity]

    def _pass_over_padding(self) -> None:
        """What a sender fills its line with comes behind a picture, too: left there, it would be taken for one, and an empty one."""
        while (packet := self._first(0)) is not None and not _content(packet):
            self.remove(1)

    def _marked(self) -> JitterFrame | None:
        parts = []
        for number in range(self._capacity):
            packet = self._first(number)
            if packet is None:
                return None
            parts.append(_content(packet))
            if packet.marker:
                self.remove(number + 1)
                return JitterFrame(b"".join(parts), packet.timestamp)
        return None


def _content(packet: RtpPacket) -> bytes:
    return packet._data  # type: ignore[attr-defined,no-any-return]


def take_marked() -> None:
    """For every receiver from now on."""

    def buffer(capacity: int, prefetch: int = 0, is_video: bool = False) -> Any:
        return (MarkedBuffer if is_video else JitterBuffer)(capacity, prefetch, is_video)

    rtcrtpreceiver.JitterBuffer = buffer  # type: ignore[attr-defined,misc,assignment]
