"""Network cameras as servers that can be cut off and brought back: MJPEG over HTTP, and H.264 over RTSP (RFC 2326) in one TCP line."""

import contextlib
import http.server
import socketserver
import struct
import threading
import time
from fractions import Fraction

import av
import numpy as np
import simplejpeg

from tests.helpers import free_port

WIDTH, HEIGHT, FRAMES_S = 320, 180, 25


def picture(number: int) -> np.ndarray:
    """(h, w, 3) RGB: noise and a bar that moves."""
    made = np.random.default_rng(number).integers(80, 110, (HEIGHT, WIDTH, 3), np.uint8)
    made[:, 4 * (number % 70) : 4 * (number % 70) + 20] = 240
    return made


class NetworkCamera:
    """Starts and stops on one port; `lines` are those open now."""

    scheme = "http"

    def __init__(self) -> None:
        self.port, self.open = free_port(), 0
        self._server: socketserver.ThreadingTCPServer | None = None
        self._stopping = threading.Event()

    @property
    def address(self) -> str:
        return f"{self.scheme}://127.0.0.1:{self.port}/stream"

    def start(self) -> "NetworkCamera":
        self._stopping = threading.Event()
        socketserver.ThreadingTCPServer.allow_reuse_address = True
        self._server = socketserver.ThreadingTCPServer(("127.0.0.1", self.port), self.handler())
        self._server.daemon_threads = True
        threading.Thread(target=self._server.serve_forever, args=(0.05,), daemon=True).start()
        return self

    def stop(self) -> None:
        self._stopping.set()
        if self._server is not None:
            self._server.shutdown()
            self._server.server_close()
            self._server = None

    def handler(self) -> type[socketserver.BaseRequestHandler]:
        camera, stopping = self, self._stopping

        class Handler(http.server.BaseHTTPRequestHandler):
            def do_GET(self) -> None:
                self.send_response(200)
                self.send_header("Content-Type", "multipart/x-mixed-replace; boundary=frame")
                self.end_headers()
                camera.open += 1
                with contextlib.suppress(OSError):
                    number = 0
                    while not stopping.is_set():
                        jpeg = simplejpeg.encode_jpeg(picture(number), 80)
                        self.wfile.write(b"--frame\r\nContent-Type: image/jpeg\r\nContent-Length: %d\r\n\r\n" % len(jpeg) + jpeg + b"\r\n")
                        number += 1
                        time.sleep(1 / FRAMES_S)
                camera.open -= 1

            def log_message(self, *_: object) -> None:
                pass

        return Handler


class RtspCamera(NetworkCamera):
    scheme = "rtsp"

    def handler(self) -> type[socketserver.BaseRequestHandler]:
        camera, stopping = self, self._stopping

        class Handler(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                camera.open += 1
                with contextlib.suppress(OSError, ValueError):
                    while self._answer():
                        pass
                    camera.play(self.wfile, stopping)
                camera.open -= 1

            def _answer(self) -> bool:
                """One request; False once it wants to see."""
                first = self.rfile.readline().split()
                number = b"0"
                while (line := self.rfile.readline().strip()) != b"":
                    if line.lower().startswith(b"cseq"):
                        number = line.split(b":")[1].strip()
                if len(first) < 3:
                    raise ValueError("no request")
                body, more = b"", b""
                match first[0]:
                    case b"OPTIONS":
                        more = b"Public: OPTIONS, DESCRIBE, SETUP, PLAY, TEARDOWN\r\n"
                    case b"DESCRIBE":
                        body = b"v=0\r\no=- 1 1 IN IP4 127.0.0.1\r\ns=camera\r\nt=0 0\r\nm=video 0 RTP/AVP 96\r\na=rtpmap:96 H264/90000\r\n"
                        body += b"a=fmtp:96 packetization-mode=1\r\na=control:track1\r\n"
                        more = b"Content-Type: application/sdp\r\nContent-Length: %d\r\n" % len(body)
                    case b"SETUP":
                        more = b"Transport: RTP/AVP/TCP;unicast;interleaved=0-1\r\nSession: 7\r\n"
                    case b"PLAY":
                        more = b"Session: 7\r\n"
                self.wfile.write(b"RTSP/1.0 200 OK\r\nCSeq: " + number + b"\r\n" + more + b"\r\n" + body)
                return first[0] != b"PLAY"

        return Handler

    def play(self, out, stopping: threading.Event) -> None:  # type: ignore[no-untyped-def]
        """RTP (RFC 6184, one unit a packet), framed as RFC 2326, 10.12."""
        encoder = av.CodecContext.create("libx264", "w")
        encoder.width, encoder.height, encoder.pix_fmt, encoder.time_base = WIDTH, HEIGHT, "yuv420p", Fraction(1, FRAMES_S)
        encoder.options = {"preset": "ultrafast", "tune": "zerolatency", "g": "25"}
        sequence = 0
        for number in range(1_000_000):
            if stopping.is_set():
                return
            frame = av.VideoFrame.from_ndarray(picture(number), "rgb24")
            frame.pts = number
            for packet in encoder.encode(frame):
                units = [one for one in bytes(packet).replace(b"\x00\x00\x00\x01", b"\x00\x00\x01").split(b"\x00\x00\x01") if one]
                for place, unit in enumerate(units):
                    last = 0x80 if place == len(units) - 1 else 0
                    rtp = struct.pack(">BBHII", 0x80, last | 96, sequence & 0xFFFF, number * 90_000 // FRAMES_S, 1) + unit
                    out.write(b"$\x00" + struct.pack(">H", len(rtp)) + rtp)
                    sequence += 1
            time.sleep(1 / FRAMES_S)
