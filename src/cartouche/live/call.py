"""The call stand-in at work: transcodes the outgoing picture per layer, and shrinks it to each audience's tile, for whoever looks."""

import threading
import time
from collections.abc import Callable, Sequence
from typing import Any

import cv2

from cartouche.core.call.audience import Audience, Layer
from cartouche.core.pictures import Frame, Plane
from cartouche.live.hub import Hub
from cartouche.live.source import Codec, CodecMaker


class CallRunner:
    """One thread per layer in use. `start` and `stop` are repeatable."""

    def __init__(
        self, hub: Hub, outgoing: Callable[[], Frame | None], make_codec: CodecMaker, layers: Sequence[Layer], audiences: Sequence[Audience]
    ) -> None:
        self._hub, self._outgoing, self._make_codec = hub, outgoing, make_codec
        self._layers, self._audiences = layers, audiences
        self._threads: list[threading.Thread] = []
        self._stopping = threading.Event()

    @property
    def running(self) -> bool:
        return bool(self._threads)

    def start(self) -> None:
        if self.running:
            return
        self._stopping.clear()
        for layer in self._layers:
            audiences = [a for a in self._audiences if a.layer == layer.name]
            thread = threading.Thread(target=self._run, args=(layer, audiences), name=f"call-{layer.name}", daemon=True)
            self._threads.append(thread)
            thread.start()

    def stop(self) -> None:
        self._stopping.set()
        while self._threads:
            self._threads.pop().join(timeout=5)

    def _run(self, layer: Layer, audiences: list[Audience]) -> None:
        codec: Codec | None = None
        fitters = {name: _Fitter() for name in ["layer", *(a.id for a in audiences)]}
        last: Frame | None = None
        while not self._stopping.wait(1 / layer.fps):
            now_s = time.monotonic()
            looked = [a for a in audiences if self._hub.ready(f"audience:{a.id}", now_s)]
            frame = self._outgoing()
            if not looked or frame is None or frame is last:
                continue
            last = frame
            sent = fitters["layer"].fit(frame, layer.width, layer.height)
            through: Frame | None = sent
            if any(not a.is_teacher for a in looked):
                codec = codec or self._make_codec(layer)
                through = codec.transcode(sent)
            for audience in looked:
                seen = sent if audience.is_teacher else through
                if seen is not None:
                    self._hub.publish(f"audience:{audience.id}", fitters[audience.id].shown(seen, audience), now_s)


class _Fitter:
    """Resizes into planes that it keeps."""

    def __init__(self) -> None:
        self._kept: tuple[Plane, ...] = ()

    def fit(self, frame: Frame, width: int, height: int) -> Frame:
        if not self._kept:
            self._kept = tuple(cv2.resize(p, (width // k, height // k)) for p, k in zip(frame.planes, (1, 2, 2), strict=True))  # type: ignore[assignment]
        grows = width > frame.size.width
        for plane, kept in zip(frame.planes, self._kept, strict=True):
            way: Any = cv2.INTER_LINEAR if grows else cv2.INTER_AREA
            cv2.resize(plane, (kept.shape[1], kept.shape[0]), dst=kept, interpolation=way)
        return Frame(*self._kept, frame.captured_s)

    def shown(self, frame: Frame, audience: Audience) -> Frame:
        """As it stands on the audience's screen: tile size, mirrored if the call does that."""
        tile = self.fit(frame, audience.tile_width_px // 2 * 2, audience.tile_height_px // 2 * 2)
        if not audience.mirrored:
            return tile
        return Frame(*(cv2.flip(plane, 1) for plane in tile.planes), tile.captured_s)  # type: ignore[arg-type]
