"""What is recorded plays, in step, whatever happened on the way."""

import errno
import os
import shutil
import signal
import subprocess
import sys
import time
from itertools import pairwise
from pathlib import Path

import av
import numpy as np
import pytest

from cartouche.core.record.chapters import Chapter
from cartouche.live.record import recorder as recorder_module
from cartouche.live.record.finish import Unreadable, cut_out, finish, length_of
from tests.helpers import ROOT, eventually
from tests.live.record.studio import FLASH_EVERY_S, apart, flashes, frames_in, heard, studio


def test_picture_and_sound_are_in_step(tmp_path: Path) -> None:
    with studio(tmp_path) as made:
        made.start()
        made.show(4.2)
        made.recorder.stop()
        piece = made.recorder.facts.pieces[0]
    off = apart(piece.path)
    assert len(off) >= 3
    assert max(abs(one) for one in off) < 0.06, off  # a picture of 40 ms, and the click's own rise
    assert abs(float(np.median(off))) < 0.04
    assert frames_in(piece.path) == piece.frames > 60
    assert made.recorder.facts.lost == 0


def test_paused_and_gone_on_there_is_no_gap(tmp_path: Path) -> None:
    with studio(tmp_path) as made:
        made.start()
        made.show(2.0)
        made.recorder.pause()
        paused = made.recorder.facts
        assert paused.state == "paused"
        made.show(2.5)
        made.recorder.go_on()
        made.show(2.2)
        made.recorder.stop()
        facts = made.recorder.facts
    assert 3.2 < length_of(facts.pieces[0].path) < 5.2  # of 6.7 s
    assert abs(length_of(facts.pieces[0].path) - facts.length_s) < 1.0  # on a busy machine the last picture is older than the press
    off = apart(facts.pieces[0].path, paused.length_s)
    assert off
    assert abs(float(np.median(off))) < 0.06
    assert max(abs(one) for one in off) < 0.12, off  # a busy machine's pictures lie farther from each other


def test_pieces_lose_nothing_between_them(tmp_path: Path) -> None:
    with studio(tmp_path) as made:
        made.start(piece_s=1.5)
        for _ in range(3):
            made.show(1.7)
            made.recorder.cut()
        made.show(0.8)
        made.recorder.stop()
        pieces, length_s = made.recorder.facts.pieces, made.recorder.facts.length_s
    assert len(pieces) >= 3
    assert all(piece.done for piece in pieces)
    assert sum(frames_in(piece.path) for piece in pieces) == sum(piece.frames for piece in pieces)
    samples = sum(piece.samples for piece in pieces)
    assert abs(samples / 48_000 - length_s) < 0.25
    for before, piece in pairwise(pieces):
        assert abs(before.at_s + before.samples / 48_000 - piece.at_s) < 0.025, "sound goes on where the piece before ended"
        assert abs(heard(piece.path).size - piece.samples) < 2100  # whole frames of the codec


def test_what_was_recorded_is_made_whole_with_chapters(tmp_path: Path) -> None:
    with studio(tmp_path) as made:
        made.start()
        made.show(3.0)
        made.recorder.stop()
        path = made.recorder.facts.pieces[0].path
    before = flashes(path)
    length_s = finish(path, [Chapter(0.0, 1.0, "Beginning"), Chapter(1.0, 2.8, "Profile")], "Reading the ground")
    assert abs(length_s - length_of(path)) < 0.2  # sound may go on for a picture longer
    assert path.read_bytes()[4:8] == b"ftyp"
    assert path.read_bytes().find(b"moov") < path.read_bytes().find(b"mdat"), "the index is in front"
    assert [abs(a - b) < 0.01 for a, b in zip(before, flashes(path), strict=True)]
    import av

    with av.open(str(path)) as source:
        assert [one["metadata"]["title"] for one in source.chapters()] == ["Beginning", "Profile"]
        assert source.metadata["title"] == "Reading the ground"


def test_a_part_is_cut_out_without_encoding(tmp_path: Path) -> None:
    with studio(tmp_path) as made:
        made.start(piece_s=None)
        for _ in range(3):
            made.show(1.2)
            made.recorder._taking[0].request_key()  # type: ignore[index]
        made.show(1.2)
        made.recorder.stop()
        path = made.recorder.facts.pieces[0].path
    out = tmp_path / "part.mp4"
    whole = [Chapter(0.0, 3.0, "Beginning"), Chapter(3.0, 4.8, "Profile")]
    part = cut_out(path, whole, "Part", out, 1.6, 4.0)
    assert 0.8 < part.begins_s <= 1.6  # the key picture before
    assert part.length_s == pytest.approx(4.0 - part.begins_s, abs=0.2)
    with av.open(str(out)) as film:
        starts = [float(one["start"] * one["time_base"]) for one in film.chapters()]
    assert starts == pytest.approx([0.0, 3.0 - part.begins_s], abs=0.01)
    assert len(flashes(out)) >= 2
    assert max(abs(one) for one in apart(out)) < 0.06


@pytest.mark.parametrize("seed", range(3))
def test_killed_in_mid_recording_what_was_written_plays_and_is_mended(seed: int, tmp_path: Path) -> None:
    """Over two hundred kills: benchmarks/recorder.py."""
    script = f"""
import sys, time
sys.path[:0] = [{str(ROOT)!r}, {str(ROOT / "src")!r}]
from pathlib import Path
from tests.live.record.studio import Studio
made = Studio(Path({str(tmp_path)!r}))
made.start()
print("begun", flush=True)
made.show(60)
"""
    path = tmp_path / "piece-1.mp4"
    with subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE) as process:
        assert process.stdout is not None
        assert process.stdout.readline() == b"begun\n"
        eventually(lambda: path.exists())
        begun_s = time.monotonic()
        time.sleep(2.4 + 0.37 * seed)
        lasted_s = time.monotonic() - begun_s
        os.kill(process.pid, signal.SIGKILL)
    assert length_of(path) > lasted_s - 2.0
    length_s = finish(path, [], "Mended")
    assert length_s > lasted_s - 2.0
    assert len(flashes(path)) >= int((length_s - 0.5) / FLASH_EVERY_S)


def test_a_disk_that_refuses_ends_the_recording_alone(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    with studio(tmp_path) as made:
        made.start()
        made.show(1.5)

        def refuses(*_: object) -> None:
            raise OSError(errno.ENOSPC, "no space")

        monkeypatch.setattr(recorder_module.PieceFile, "picture", refuses)
        made.show(1.0)
        eventually(lambda: made.recorder.facts.state == "failed")
        assert not made.encodings.encoders, "nobody is encoded for any more"
        assert [one.stage for one in made.troubles.now(time.monotonic())] == ["record"]
        monkeypatch.undo()
        assert length_of(made.recorder.facts.pieces[0].path) > 0.5
        made.start()
        made.show(1.0)
        made.recorder.stop()
        assert made.recorder.facts.pieces[0].frames > 5


@pytest.mark.parametrize("press", ["pause", "stop"])
def test_a_disk_that_refuses_the_last_of_it_stops_no_press(press: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    with studio(tmp_path) as made:
        made.start()
        made.show(1.5)

        def refuses(*_: object) -> None:
            raise OSError(errno.ENOSPC, "no space")

        close = recorder_module.PieceFile.close

        def refuses_at_the_end(file: recorder_module.PieceFile) -> None:
            close(file)
            refuses()

        with monkeypatch.context() as full:
            full.setattr(recorder_module.PieceFile, "sound", refuses)
            full.setattr(recorder_module.PieceFile, "close", refuses_at_the_end)
            getattr(made.recorder, press)()
            assert made.recorder.facts.state == {"pause": "failed", "stop": "off"}[press]
        assert not made.encodings.encoders
        assert [one.stage for one in made.troubles.now(time.monotonic())] == ["record"]
        made.start()
        made.show(1.0)
        made.recorder.stop()
        assert made.recorder.facts.pieces[0].frames > 5


def test_before_the_disk_is_full_it_stops_in_good_order(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    free = [60_000_000]
    usage = type(shutil.disk_usage(tmp_path))
    monkeypatch.setattr(shutil, "disk_usage", lambda folder: usage(10**9, 10**9 - free[0], free[0]))
    with studio(tmp_path) as made:
        made.start()
        made.show(2.5)
        eventually(lambda: (left := made.recorder.facts.room) is not None and left.verdict == "little")
        free[0] = 11_000_000
        made.show(3.0)
        eventually(lambda: made.recorder.facts.state == "full")
        path = made.recorder.facts.pieces[0].path
        assert finish(path, [], "Full") > 1.5
        made.start()
        assert made.recorder.facts.state == "full", "there is no room to begin with"


def test_nothing_that_can_be_played_is_said(tmp_path: Path) -> None:
    broken = tmp_path / "broken.mp4"
    broken.write_bytes(b"\0" * 400)
    for work in (lambda: length_of(broken), lambda: finish(broken, [], "x")):
        with pytest.raises(Unreadable):
            work()
    assert broken.read_bytes() == b"\0" * 400, "it is left as it was"
