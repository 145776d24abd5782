"""A recording's own time, its chapters, and the room that it has."""

import pytest

from cartouche.core.record.chapters import SHORTEST_S, Chapter, Mark, chapters_of, from_vtt, vtt, within
from cartouche.core.record.room import MEASURED_S, RESERVE, USUAL_RATE, room
from cartouche.core.record.timeline import Timeline


def test_what_lay_between_two_presses_is_not_there() -> None:
    line = Timeline()
    assert line.at(5.0) is None
    assert line.length_s(5.0) == 0
    line.go_on(10.0)
    line.go_on(11.0)  # it runs already
    assert line.at(9.9) is None
    assert line.at(12.5) == 2.5
    line.pause(14.0)
    line.pause(20.0)  # it is paused already
    assert line.at(14.5) is None
    assert line.length_s(30.0) == 4.0
    line.go_on(100.0)
    assert line.at(101.0) == 5.0
    assert line.at(13.0) == 3.0
    assert line.length_s(102.0) == 6.0


def test_gone_on_before_the_pause_ended_nothing_is_there_twice() -> None:
    line = Timeline()
    line.go_on(10.0)
    line.pause(14.0)
    line.go_on(13.5)  # a picture that was captured before
    assert line.at(14.0) == 4.0
    assert line.at(15.0) == 5.0


def test_chapters_begin_where_something_happens() -> None:
    marks = [
        Mark(0.0, "plate", "Page and face"),
        Mark(30.0, "step", "Profile"),
        Mark(30.1, "plate", "Page"),
        Mark(50.0, "sheet", "Sheet 1", "s"),
    ]
    assert chapters_of(marks, 60.0) == [Chapter(0, 30, "Page and face"), Chapter(30, 50, "Profile"), Chapter(50, 60, "Sheet 1")]


def test_a_plate_on_the_way_to_another_is_no_chapter_and_a_sheet_always_is() -> None:
    marks = [Mark(10.0, "plate", "Face"), Mark(10.5, "plate", "Page"), Mark(11.0, "sheet", "Sheet 1"), Mark(11.5, "sheet", "Sheet 2")]
    assert [one.title for one in chapters_of(marks, 40.0)] == ["Beginning", "Page", "Sheet 1", "Sheet 2"]
    assert [one.from_s for one in chapters_of(marks, 40.0)] == [0, 10, 11, 11.5]


def test_what_was_marked_after_the_end_is_left_out() -> None:
    assert chapters_of([Mark(70.0, "plate", "Late")], 60.0) == [Chapter(0, 60, "Beginning")]
    assert chapters_of([], 0.0) == []


def test_a_part_of_it_has_its_chapters_by_its_own_time() -> None:
    chapters = [Chapter(0, 10, "a"), Chapter(10, 20, "b"), Chapter(20, 30, "c")]
    assert within(chapters, 12, 22) == [Chapter(0, 8, "b"), Chapter(8, 10, "c")]


def test_written_and_read_again_as_webvtt() -> None:
    chapters = [Chapter(0.0, 61.25, "Slope & <height> --> A"), Chapter(61.25, 3723.5, "Two\nlines")]
    text = vtt(chapters)
    assert text.startswith("WEBVTT\n\n00:00:00.000 --> 00:01:01.250\n")
    read = from_vtt(text)
    assert [(one.from_s, one.to_s) for one in read] == [(0.0, 61.25), (61.25, 3723.5)]
    assert [one.title for one in read] == ["Slope & <height> → A", "Two lines"]


@pytest.mark.parametrize("text", ["", "WEBVTT", "WEBVTT\n\nno times here", "WEBVTT\n\n1\n00:xx --> 1\nbad", "\x00\xff"])
def test_what_is_no_cue_is_left_out(text: str) -> None:
    assert from_vtt(text) == []


def test_others_cues_without_hours_and_with_names_are_read() -> None:
    assert from_vtt("WEBVTT\r\n\r\nintro\r\n00:01.000 --> 01:02.500 align:start\r\nHello\r\n") == [Chapter(1.0, 62.5, "Hello")]


def test_how_long_there_is_room() -> None:
    first = room(RESERVE + int(USUAL_RATE[720]) * 3600, 0, 0.0, 720)
    assert (round(first.left_s), first.verdict) == (3600, "enough")
    measured = room(RESERVE + 50_000 * 500, int(50_000 * MEASURED_S), MEASURED_S, 720)
    assert (round(measured.left_s), measured.verdict) == (500, "little")
    assert room(RESERVE, 5, 5.0, 1080).verdict == "full"
    assert SHORTEST_S > 1
