"""The recorder: its share of a core beside the encoder, bytes an hour, sound against picture, frames lost, and what a kill leaves.

`ratio_bare`: all that recording takes, over encoding the same pictures and sound alone, in one run.
"""

import json
import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import av
import numpy as np

from cartouche.bench.devices import DOCUMENT_CAMERA, sheet_view
from cartouche.bench.presenter import Presenter
from cartouche.core.pictures import Frame, Size, YuvColour
from cartouche.core.plates.compose import Composer, Layer
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.sound.loudness import RATE
from cartouche.live.out.encoder import Encoder, Packet
from cartouche.live.record.finish import Unreadable, cut_out, finish, length_of
from cartouche.live.record.piece_file import SOUND_BIT_S, SOUND_OPTIONS, PieceFile
from cartouche.live.troubles import Troubles
from tests.live.record.studio import Clicks, apart, is_flash, studio

SIZES = {"720p": Size(1280, 720), "1080p": Size(1920, 1080)}
FPS = 30


def pictures(size: Size, seconds: float, still: bool) -> list[Frame]:
    """A plate with page and face as it goes out; still: nobody moves."""
    page, face = sheet_view(DOCUMENT_CAMERA), Presenter(Size(1280, 720))
    composer, made = Composer(size, YuvColour(235, 128, 128)), []
    places = [place for place in FIRST_PLATES[0].places if place.has_picture]
    for number in range(int(seconds * FPS)):
        moment_s = 4.0 if still else 4.0 + number / FPS
        shown = (page.picture(moment_s, 0.0), face.picture(1.0 if still else moment_s, 0.0))
        frame = composer.compose([Layer(place, frame=one) for place, one in zip(places, shown, strict=True)], 0.0)
        made.append(Frame(frame.y.copy(), frame.u.copy(), frame.v.copy(), number / FPS))
    return made


def encoded(frames: list[Frame]) -> tuple[list[Packet], float]:
    """By the encoder's own codec, and the seconds that took."""
    packets: list[Packet] = []
    encoder = Encoder(frames[0].size, Troubles())
    encoder.stop()
    encoder.takers = (packets.append,)
    begun = time.process_time()
    for number, frame in enumerate(frames):
        encoder._fill(encoder._busy, frame)
        encoder._encode(encoder._busy, frame.captured_s, number / FPS)
    return packets, time.process_time() - begun


def written(packets: list[Packet], size: Size, folder: Path) -> tuple[float, int]:
    """Seconds of a core and bytes of the file, with sound."""
    path, clicks = folder / "bench.mp4", Clicks()
    begun = time.process_time()
    file = PieceFile(path, size)
    for number, packet in enumerate(packets):
        file.sound(clicks.read(number / FPS, RATE // FPS))
        file.picture(packet.data, packet.key, number / FPS)
    file.close()
    return time.process_time() - begun, path.stat().st_size


def sound_alone(seconds: float) -> float:
    """What the bare AAC encoder takes."""
    codec, clicks = av.CodecContext.create("aac", "w"), Clicks()
    assert isinstance(codec, av.AudioCodecContext)
    codec.rate, codec.layout, codec.bit_rate, codec.options = RATE, "mono", SOUND_BIT_S, SOUND_OPTIONS  # type: ignore[misc, assignment]
    codec.format = "fltp"  # type: ignore[assignment]
    begun = time.process_time()
    for number in range(int(seconds * FPS)):
        frame = av.AudioFrame.from_ndarray(clicks.read(number / FPS, RATE // FPS)[None], format="s16", layout="mono")
        frame.sample_rate, frame.pts = RATE, number * (RATE // FPS)
        codec.encode(frame)
    return time.process_time() - begun


def hour(folder: Path) -> dict[str, float]:
    """An hour of simulated time through the file: flash against click at its beginning and at its end."""
    size, clicks, path = Size(320, 180), Clicks(), folder / "hour.mp4"
    frames = [Frame(np.full((180, 320), value, np.uint8), *(np.full((90, 160), 128, np.uint8),) * 2, 0.0) for value in (30, 225)]
    codec_packets, file, fps = [], PieceFile(path, size), 10
    encoder = Encoder(size, Troubles())
    encoder.stop()
    encoder.takers = (codec_packets.append,)
    for number in range(3600 * fps):
        moment_s = number / fps
        encoder._fill(encoder._busy, frames[int(is_flash(moment_s))])
        encoder._encode(encoder._busy, moment_s, moment_s)
        file.sound(clicks.read(moment_s, RATE // fps))
        for packet in codec_packets:
            file.picture(packet.data, packet.key, packet.captured_s)
        codec_packets.clear()
    file.close()
    length_s = finish(path, [], "An hour")
    ends = {}
    for name, part in {"first": (0.0, 20.0), "last": (length_s - 20.0, length_s)}.items():
        out = folder / f"{name}.mp4"
        cut_out(path, [], name, out, *part)
        ends[f"{name}_apart_ms"] = round(1000 * float(np.median(apart(out))), 1)
    return {"hour_s": round(length_s, 2), **ends}


def kills(count: int) -> dict[str, float]:
    """Killed at random moments: what plays, and whether it is mended."""
    random, lost, unmended = np.random.default_rng(1), [], 0
    script = "import sys; from pathlib import Path; from tests.live.record.studio import Studio; made = Studio(Path(sys.argv[1]));"
    script += "made.start(); made.show(60)"
    for _ in range(count):
        with tempfile.TemporaryDirectory() as name:
            path = Path(name) / "piece-1.mp4"
            with subprocess.Popen([sys.executable, "-c", script, name], env={**os.environ, "PYTHONPATH": "src:."}) as process:
                while not path.exists():
                    time.sleep(0.01)
                begun_s, for_s = time.monotonic(), float(random.uniform(2.2, 6.0))
                time.sleep(for_s)
                lasted_s = time.monotonic() - begun_s
                os.kill(process.pid, signal.SIGKILL)
            try:
                lost.append(lasted_s - length_of(path))
                finish(path, [], "Mended")
            except Unreadable:
                unmended += 1
    return {"kills": count, "unplayable": unmended, "lost_median_s": round(float(np.median(lost)), 2), "lost_worst_s": round(max(lost), 2)}


def main(seconds: int = 20, count: int = 200) -> None:
    told: dict[str, float] = {}
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for size_name, size in SIZES.items():
            for still in (True, False):
                packets, encode_s = encoded(pictures(size, seconds, still))
                write_s, size_bytes = written(packets, size, folder)
                what = f"{size_name}_{'still' if still else 'writing'}"
                told[f"{what}_core_share"] = round(write_s / seconds, 4)
                told[f"{what}_mb_hour"] = round(size_bytes / seconds * 3600 / 1e6)
                told[f"{what}_ratio_bare"] = round((encode_s + write_s) / (encode_s + sound_alone(seconds)), 3)
        told |= hour(folder)
        with studio(folder) as made:
            made.start()
            made.show(10.0)
            made.recorder.stop()
            told["lost"] = made.recorder.facts.lost
    print(json.dumps(told | kills(count)))


if __name__ == "__main__":
    main(*(int(one) for one in sys.argv[1:3]))
