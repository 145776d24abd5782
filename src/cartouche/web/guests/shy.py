"""A socket at the guests' door takes a short first message, the token; only then one as large as a picture."""

from typing import Any

from uvicorn.protocols.websockets.websockets_sansio_impl import WebSocketsSansIOProtocol
from websockets.frames import Frame, Opcode
from websockets.server import ServerProtocol

FIRST_BYTES = 4096
DATA = (Opcode.TEXT, Opcode.BINARY, Opcode.CONT)


class _Shy(ServerProtocol):
    """then: bytes of the largest message after the first."""

    def __init__(self, then: int) -> None:
        super().__init__(max_size=FIRST_BYTES)
        self._then = then

    def recv_frame(self, frame: Frame) -> None:
        super().recv_frame(frame)
        if frame.fin and frame.opcode in DATA:  # while it is read: a picture may stand behind the token already
            self.max_message_size = self._then


class ShyProtocol(WebSocketsSansIOProtocol):
    """WebSocket (RFC 6455), without compression."""

    def __init__(self, config: Any, *values: Any, **named: Any) -> None:
        super().__init__(config, *values, **named)
        self.conn = _Shy(config.ws_max_size)
