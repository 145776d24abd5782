"""A clip in real time: the picture that is due, at every moment that is asked for."""

import itertools
import threading
import time
from pathlib import Path

import av
import pytest

from cartouche.live.files.clip import ClipSource, look_into
from cartouche.live.files.errors import UnreadableFile
from tests import samples
from tests.samples import CLIP_FRAMES_S, CLIP_HEIGHT, CLIP_S, CLIP_WIDTH, bar_at


@pytest.fixture(scope="module", params=["lesson.mp4", "lesson.webm"])
def path(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Path:
    return samples.clip(tmp_path_factory.mktemp("clip") / request.param)


@pytest.fixture
def clip(path: Path) -> ClipSource:
    source = ClipSource(path, look_into(path, path.name))
    yield source
    source.close()
    source.close()


def shown(clip: ClipSource, now_s: float) -> int:
    frame = clip.picture(now_s)
    assert frame is not None
    return bar_at(frame.y)


def run(clip: ClipSource, since_s: float, seconds: float, step_s: float = 1 / 30) -> list[int]:
    return [shown(clip, since_s + n * step_s) for n in range(round(seconds / step_s) + 1)]


def test_its_facts_are_read(path: Path) -> None:
    facts = look_into(path, path.name)
    assert (facts.width, facts.height) == (CLIP_WIDTH, CLIP_HEIGHT)
    assert facts.duration_s == pytest.approx(CLIP_S, abs=0.1)
    assert facts.sound in ("aac", "opus")
    assert look_into(samples.clip(path.with_stem("silent"), sound=False), "silent").sound == ""


def test_it_waits_on_its_first_picture_until_it_is_played(clip: ClipSource) -> None:
    assert run(clip, 100.0, 1.0) == [0] * 31


def test_it_plays_in_real_time(clip: ClipSource) -> None:
    shown(clip, 100.0)
    clip.play()
    for now_s, number in zip(range(31), run(clip, 100.0, 1.0), strict=True):
        assert number == pytest.approx(now_s / 30 * CLIP_FRAMES_S, abs=1.1)


def test_pictures_that_come_late_are_left_out_rather_than_delayed(clip: ClipSource) -> None:
    clip.play()
    numbers = run(clip, 100.0, 1.2, step_s=0.4)
    assert numbers == pytest.approx([0, 10, 20, 30], abs=1.1)


def test_it_stands_still_while_paused_and_goes_on_from_there(clip: ClipSource) -> None:
    clip.play()
    run(clip, 100.0, 0.8)
    clip.pause()
    still = run(clip, 101.0, 2.0, step_s=0.2)
    assert len(set(still)) == 1
    clip.play()
    assert shown(clip, 200.0) == still[0]
    assert run(clip, 200.03, 0.4)[-1] == pytest.approx(still[0] + 10, abs=2)


def test_it_waits_while_nobody_looks(clip: ClipSource) -> None:
    clip.play()
    before = run(clip, 100.0, 0.4)[-1]
    assert shown(clip, 160.0) == pytest.approx(before, abs=1.1)


def test_once_it_ends_it_stays_on_its_last_picture_and_plays_again_from_the_start(clip: ClipSource) -> None:
    clip.play()
    assert run(clip, 100.0, 2.4)[-1] == 49
    assert not clip.playing
    assert clip.position_s == pytest.approx(CLIP_S, abs=0.1)
    clip.play()
    assert shown(clip, 110.0) == 0


def test_round_and_round(clip: ClipSource) -> None:
    clip.loops = True
    clip.play()
    numbers = run(clip, 100.0, 5.0)
    assert clip.playing
    assert sum(after < before for before, after in itertools.pairwise(numbers)) == 2


@pytest.mark.parametrize("position_s", [0.0, 0.44, 1.0, 1.9])
def test_it_goes_to_a_moment(clip: ClipSource, position_s: float) -> None:
    clip.seek(position_s)
    assert shown(clip, 1.0) == pytest.approx(position_s * CLIP_FRAMES_S, abs=1.1)


def test_beyond_its_end_it_shows_the_last_picture(clip: ClipSource) -> None:
    clip.seek(1e9)
    assert shown(clip, 1.0) >= 48


def test_a_file_that_goes_away_is_a_lost_device(tmp_path: Path) -> None:
    path = samples.clip(tmp_path / "a.mp4")
    source = ClipSource(path, look_into(path, "a"))
    path.unlink()
    with pytest.raises(ConnectionError, match="damaged or gone"):
        source.picture(0.0)


@pytest.mark.parametrize("content", [b"\x00\x00\x00\x18ftypmp42", b"\x1a\x45\xdf\xa3" + bytes(500), b"\x00\x00\x00\x18ftyp" + bytes(5000)])
def test_a_damaged_clip_is_told(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "broken"
    path.write_bytes(content)
    with pytest.raises(UnreadableFile, match=r"damaged|no picture"):
        look_into(path, "broken.mp4")


def test_sound_alone_is_no_clip(tmp_path: Path) -> None:
    with av.open(str(tmp_path / "song.mp4"), "w") as out:
        samples._sing(out, out.add_stream("aac", rate=48_000), 1.0)
    with pytest.raises(UnreadableFile, match="no picture"):
        look_into(tmp_path / "song.mp4", "song.mp4")


def test_of_many_moments_asked_for_at_once_the_newest_is_shown_and_nobody_waits(tmp_path: Path) -> None:
    """One key picture at its beginning: each way to a moment decodes all before it."""
    path = samples.clip(tmp_path / "one-key.mp4")
    source = ClipSource(path, look_into(path, path.name))
    shown(source, 0.0)
    turning = threading.Thread(target=lambda: [source.picture(step / 30) for step in range(30)])
    turning.start()
    begun_s = time.monotonic()
    for number in range(60):
        source.seek(number / 60 * CLIP_S)
    source.play()
    assert time.monotonic() - begun_s < 0.2
    turning.join()
    source.pause()
    source.seek(1.0)
    assert shown(source, 9.0) == pytest.approx(CLIP_FRAMES_S, abs=1.5)
    source.close()


def test_a_clip_too_small_to_see_is_told(tmp_path: Path) -> None:
    path = tmp_path / "dot.webm"
    with av.open(str(path), "w", format="webm") as made:
        stream = made.add_stream("libvpx", rate=10)
        stream.width = stream.height = 2
        stream.pix_fmt = "yuv420p"
        for _ in range(3):
            made.mux(stream.encode(av.VideoFrame(2, 2, "yuv420p")))
        made.mux(stream.encode(None))
    with pytest.raises(UnreadableFile, match="too small to see"):
        look_into(path, path.name)
