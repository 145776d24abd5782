"""Files as a teacher may bring them: right ones, and wrong ones of each kind."""

import struct
import zlib
from pathlib import Path

import av
import numpy as np
import pypdfium2
from PIL import Image

CLIP_S, CLIP_FRAMES_S, CLIP_WIDTH, CLIP_HEIGHT = 2.0, 25, 320, 180
BAR_PX = 6  # a clip's bar moves so far each frame


def pdf(path: Path, pages: int = 3, size: tuple[float, float] = (595, 842)) -> Path:
    """Blank pages of a size in points."""
    document = pypdfium2.PdfDocument.new()
    for _ in range(pages):
        document.new_page(*size)
    document.save(path)
    document.close()
    return path


def picture_pdf(path: Path, greys: tuple[int, ...]) -> Path:
    """Pages of one grey each, to tell them apart."""
    sheets = [Image.new("L", (420, 594), grey) for grey in greys]
    sheets[0].save(path, "PDF", save_all=True, append_images=sheets[1:])
    return path


def locked_pdf(path: Path) -> Path:
    """Encrypted by the standard handler (ISO 32000-1, 7.6.3) with a password that nobody knows."""
    parts = [
        b"1 0 obj\n<< /Type /Catalog /Pages 2 0 R >>\nendobj\n",
        b"2 0 obj\n<< /Type /Pages /Kids [3 0 R] /Count 1 >>\nendobj\n",
        b"3 0 obj\n<< /Type /Page /Parent 2 0 R /MediaBox [0 0 200 200] >>\nendobj\n",
        b"4 0 obj\n<< /Filter /Standard /V 1 /R 2 /O <" + b"41" * 32 + b"> /U <" + b"42" * 32 + b"> /P -4 >>\nendobj\n",
    ]
    body = b"%PDF-1.4\n"
    starts = []
    for part in parts:
        starts.append(len(body))
        body += part
    table = b"xref\n0 5\n0000000000 65535 f \n" + b"".join(b"%010d 00000 n \n" % start for start in starts)
    trailer = b"trailer\n<< /Size 5 /Root 1 0 R /Encrypt 4 0 R /ID [<0102> <0102>] >>\nstartxref\n%d\n%%%%EOF\n" % len(body)
    path.write_bytes(body + table + trailer)
    return path


def huge_png(path: Path, side: int = 20_000) -> Path:
    """A real picture of side x side, a few hundred kilobytes on disk and 400 MB decoded."""
    packer = zlib.compressobj(9)
    row = bytes(side + 1)
    data = b"".join(packer.compress(row) for _ in range(side)) + packer.flush()

    def chunk(kind: bytes, content: bytes) -> bytes:
        return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", zlib.crc32(kind + content))

    header = struct.pack(">IIBBBBB", side, side, 8, 0, 0, 0, 0)
    path.write_bytes(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", data) + chunk(b"IEND", b""))
    return path


def clip(path: Path, *, sound: bool = True, seconds: float = CLIP_S) -> Path:
    """A bright bar that moves BAR_PX a frame to the right over grey; MP4 or WebM by the name."""
    webm = path.suffix == ".webm"
    with av.open(str(path), "w") as out:
        video = out.add_stream("libvpx" if webm else "libx264", rate=CLIP_FRAMES_S)
        video.width, video.height, video.pix_fmt = CLIP_WIDTH, CLIP_HEIGHT, "yuv420p"
        audio = out.add_stream("libopus" if webm else "aac", rate=48_000) if sound else None
        for number in range(round(seconds * CLIP_FRAMES_S)):
            picture = np.full((CLIP_HEIGHT, CLIP_WIDTH, 3), 90, np.uint8)
            picture[:, BAR_PX * number : BAR_PX * number + 12] = 250
            for packet in video.encode(av.VideoFrame.from_ndarray(picture, "rgb24")):
                out.mux(packet)
        if audio is not None:
            _sing(out, audio, seconds)
        for packet in video.encode():
            out.mux(packet)
    return path


def _sing(out: av.container.OutputContainer, audio: av.AudioStream, seconds: float) -> None:
    for start in range(0, round(seconds * 48_000) - 1024, 1024):
        tone = 0.3 * np.sin(2 * np.pi * 440 * (np.arange(1024) + start) / 48_000)
        piece = av.AudioFrame.from_ndarray(tone.astype(np.float32)[None], format="fltp", layout="mono")
        piece.sample_rate, piece.pts = 48_000, start
        for packet in audio.encode(piece):
            out.mux(packet)
    for packet in audio.encode():
        out.mux(packet)


def bar_at(luma: np.ndarray) -> int:
    """Which picture of `clip` this is, by where its bar stands."""
    row = luma[luma.shape[0] // 2].astype(int)
    return round(float(np.flatnonzero(row > 180).min()) / BAR_PX)
