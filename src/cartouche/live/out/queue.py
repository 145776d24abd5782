"""From the threads that make pictures and sound to one loop that sends them: bounded, and a taker that stalls slows no other."""

import asyncio
import threading
from collections import deque
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cartouche.core.pictures import Size
from cartouche.live.out.encoder import Codec, Encodings, Packet, Subscription
from cartouche.live.sound.mixer import Mixer, SoundClaim

MAX_PACKETS = 20  # two thirds of a second: who is farther behind goes on from the next key picture
MAX_BLOCKS = 25  # of 20 ms


class SoundBlock(NamedTuple):
    """samples: int16, little-endian, mono, 48 kHz.  captured_s: monotonic, of the first."""

    samples: bytes
    captured_s: float


class OutgoingQueue:
    """Made and read on a loop; pictures come from the moment `join` is called."""

    def __init__(self, encodings: Encodings, mixer: Mixer) -> None:
        self._encodings, self._mixer = encodings, mixer
        self._loop = asyncio.get_running_loop()
        self._arrived = asyncio.Event()
        self._items: deque[Packet | SoundBlock] = deque()
        self._skipping = False
        self._packets = self._blocks = 0
        self.skipped = 0
        self._subscription: Subscription | None = None
        self._claim: SoundClaim | None = None
        self._change, self._ended = threading.Lock(), False

    def join(self, size: Size | None, *, sound: bool, codec: Codec = "h264") -> None:
        """Pictures of this size and sound from now on, each if wanted; what came before ends. Nothing once it was left."""
        with self._change:
            if not self._ended:
                self._join(size, sound, codec)

    def _join(self, size: Size | None, sound: bool, codec: Codec = "h264") -> None:
        if self._subscription is None or (self._subscription.encoder.size, self._subscription.encoder.codec) != (size, codec):
            before, self._subscription = self._subscription, None
            if size is not None:
                self._subscription = self._encodings.join(size, self._packet_made, codec)
            if before is not None:
                before.release()
        if sound and self._claim is None:
            self._claim = self._mixer.claim(self._block_made)
        elif not sound and self._claim is not None:
            self._claim.release()
            self._claim = None

    @property
    def size(self) -> Size | None:
        return self._subscription.encoder.size if self._subscription else None

    @property
    def sound(self) -> bool:
        return self._claim is not None

    def request_key(self) -> None:
        if self._subscription is not None:
            self._subscription.request_key()

    def leave(self) -> None:
        """For good; repeatable. A wish that is still on its way on another thread must not begin it anew."""
        with self._change:
            self._ended = True
            self._join(None, False)

    def _packet_made(self, packet: Packet) -> None:
        self._hand_over(packet)

    def _block_made(self, block: NDArray[np.int16], captured_s: float) -> None:
        self._hand_over(SoundBlock(block.astype("<i2").tobytes(), captured_s))

    def _hand_over(self, item: Packet | SoundBlock) -> None:
        try:
            self._loop.call_soon_threadsafe(self._put, item)
        except RuntimeError:  # its loop has closed: the process is stopping
            return

    def _put(self, item: Packet | SoundBlock) -> None:
        if isinstance(item, Packet):
            if not self._has_room_for(item):
                return
            self._packets += 1
        else:
            if self._blocks >= MAX_BLOCKS:
                self.skipped += 1
                return
            self._blocks += 1
        self._items.append(item)
        self._arrived.set()

    def _has_room_for(self, packet: Packet) -> bool:
        if packet.key and self._packets < MAX_PACKETS:
            self._skipping = False
        elif self._packets >= MAX_PACKETS:
            self._skipping = True
            self.request_key()
        self.skipped += int(self._skipping)
        return not self._skipping

    async def next(self) -> Packet | SoundBlock:
        while not self._items:
            self._arrived.clear()
            await self._arrived.wait()
        item = self._items.popleft()
        if isinstance(item, Packet):
            self._packets -= 1
            if self._skipping and self._packets == 0:
                self.request_key()
        else:
            self._blocks -= 1
        return item
