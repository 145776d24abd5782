from dataclasses import replace

import pytest

from cartouche.core.call.audience import FIRST_VIEWERS, LAYERS, Viewers, audience_of
from cartouche.core.call.kinds import KINDS, kind_named
from cartouche.core.call.ways import WAYS, Facts, Measured, Outcome, advice, outcomes, seen_done, sentence, way_named
from cartouche.core.pictures import Size
from cartouche.core.plates.model import Place
from cartouche.core.reading.verdicts import PagePicture, print_for
from cartouche.core.straighten.chain import Chain, SquareLink

FEED, HD = Size(1920, 1080), Size(1280, 720)
CHAIN = Chain(square=SquareLink(on=True, corners=((0.25, 0.05), (0.75, 0.05), (0.75, 0.95), (0.25, 0.95)), paper="A4"))
PLACE = Place.model_validate({"content": {"kind": "role", "role": "page"}, "rect": {"x": 0, "y": 0, "width": 0.7, "height": 1}})
PAGE = PagePicture(CHAIN, FEED, 0, asks_pt=12.0, page_true=True)
FACTS = Facts(PAGE, PLACE, HD, 30.0, 60.0, True, True, True, True)
CALL = KINDS[0]


def by_id(facts: Facts = FACTS, call=CALL, viewers: tuple[Viewers, ...] = FIRST_VIEWERS) -> dict[str, Outcome]:  # type: ignore[no-untyped-def]
    return {outcome.way.id: outcome for outcome in outcomes(facts, call, viewers)}


def test_each_way_is_weighed_once() -> None:
    assert set(by_id()) == {way.id for way in WAYS}
    assert all(outcome.impossible is None for outcome in by_id().values())


def test_print_is_that_of_the_verdicts() -> None:
    for got in by_id()["extension"].gets:
        assert got.print == print_for(audience_of(got.viewers, LAYERS), PAGE, PLACE, HD)


def test_what_is_shared_reads_better_in_a_grid_and_jumps() -> None:
    found = by_id()
    assert found["tab"].worst_pt is not None
    assert found["extension"].worst_pt is not None
    assert found["tab"].worst_pt < found["extension"].worst_pt
    assert found["tab"].fps < found["extension"].fps
    assert found["window"].delay_ms > found["tab"].delay_ms


def test_delay_is_what_was_measured_here_where_it_was_told() -> None:
    practice = kind_named("practice")
    measured = Measured({"extension": 55.0}, {"extension": 30.0, "tab": 45.0, "server": 500.0})

    def delays(call) -> dict[str, float]:  # type: ignore[no-untyped-def]
        return {outcome.way.id: outcome.delay_ms for outcome in outcomes(FACTS, call, FIRST_VIEWERS, measured)}

    assert delays(practice)["extension"] == 55 + 30
    assert delays(practice)["tab"] == FACTS.outgoing_ms + way_named("tab").adds_ms + 45
    assert delays(practice)["window"] == FACTS.outgoing_ms + way_named("window").adds_ms + practice.delay_ms
    assert delays(practice)["server"] == FACTS.outgoing_ms + way_named("server").adds_ms  # straight: no call is between
    assert delays(CALL)["extension"] == 55 + CALL.delay_ms  # another call is not the one that was tried


def test_a_straight_way_is_not_shrunk_by_the_call() -> None:
    pinned = FIRST_VIEWERS[:1]
    small = kind_named("many")
    found = by_id(call=small, viewers=pinned)
    assert found["server"].worst_pt is not None
    assert found["extension"].worst_pt is not None
    assert found["server"].worst_pt < found["extension"].worst_pt
    assert found["server"].size == HD
    assert found["extension"].size == Size(640, 360)


@pytest.mark.parametrize("has_face", [True, False])
def test_without_a_page_no_second_place_is_advised(has_face: bool) -> None:
    """It would keep the face beside a page that is not there."""
    order = outcomes(FACTS._replace(page=None, place=None, has_face=has_face), CALL, FIRST_VIEWERS)
    assert order[0].way.id not in ("twice", "participant")
    assert "Join twice" not in advice(order)


def test_what_cannot_be_had_says_why_and_stands_last() -> None:
    bare = FACTS._replace(loopback=False, phone=False, extension=False)
    program = kind_named("program")
    order = outcomes(bare, program, FIRST_VIEWERS)
    why = {outcome.way.id: outcome.impossible for outcome in order}
    assert "program of its own" in (why["extension"] or "")
    assert "loopback" in (why["device"] or "")
    assert "No phone" in (why["participant"] or "")
    assert why["window"] is None
    possible = [outcome.impossible is None for outcome in order]
    assert possible == sorted(possible, reverse=True)
    assert "second camera" in (by_id(call=replace_call(takes_second_camera=False))["second-camera"].impossible or "")


def replace_call(**more: object):  # type: ignore[no-untyped-def]
    return CALL.model_copy(update=more)


def test_what_is_ready_comes_before_what_must_be_set_up_when_it_reads_as_well() -> None:
    pinned = FIRST_VIEWERS[:1]
    lively = replace_call(share=CALL.share.model_copy(update={"fps": 15}))
    bare = FACTS._replace(extension=False, loopback=False)
    ready, not_yet, jumps = outcomes(FACTS, CALL, pinned)[0], outcomes(bare, lively, pinned)[0], outcomes(bare, CALL, pinned)[0]
    assert ready.ready
    assert not_yet.way.id == "tab"
    assert jumps.way.id == "extension"  # a share that jumps is worth a set-up
    assert advice([ready]).startswith(f"Take “{ready.way.name}”: 12 of 12 learners can read this page")


def test_advice_names_what_to_take_until_then() -> None:
    found = outcomes(FACTS._replace(extension=False), CALL, FIRST_VIEWERS)
    first = [outcome for outcome in found if outcome.way.id == "extension"] + [outcome for outcome in found if outcome.way.id == "window"]
    assert "once it is set up" in advice(first)
    assert "Until then take “Shared as a window”" in advice(first)
    assert advice([]) == "No way into this call is open on this computer."


def test_the_face_is_where_the_plate_or_the_call_puts_it() -> None:
    with_face, without = by_id(), by_id(FACTS._replace(has_face=False))
    assert {got.face for got in with_face["extension"].gets} == {"in the picture"}
    assert {got.face for got in without["extension"].gets} == {"not seen"}
    assert {got.face for got in without["tab"].gets} == {"a small tile"}
    assert [got.face for got in with_face["twice"].gets[:2]] == ["a small tile", "a tile beside"]


def test_who_must_do_what() -> None:
    pinned = FIRST_VIEWERS[:1]
    assert by_id(viewers=pinned)["extension"].gets[0].must == "You spotlight yourself for all"
    assert by_id(viewers=pinned)["participant"].gets[0].must == "You spotlight the second place for all"
    assert by_id(call=replace_call(spotlights=False), viewers=pinned)["extension"].gets[0].must == "They pin you"
    assert by_id(call=replace_call(spotlights=False, pins=False), viewers=pinned)["extension"].gets[0].must == ""
    assert by_id()["tab"].gets[0].must == ""


def test_the_phone_itself_is_not_straightened_and_not_made_smaller_by_the_plate() -> None:
    mirrored = FACTS._replace(page=PAGE._replace(page_true=None, mirrors=1))
    assert by_id(mirrored)["participant"].gets[0].reads_true is False
    found = by_id()
    assert found["participant"].delay_ms < found["extension"].delay_ms


def test_each_audience_gets_one_sentence() -> None:
    outcome = by_id()["extension"]
    said = [sentence(got, outcome) for got in outcome.gets]
    assert said[0].startswith("Print from ")
    assert "the right way round" in said[0]
    assert "your face in the picture" in said[0]
    assert said[-1] == "You see yourself mirrored; learners do not."
    nothing = by_id(FACTS._replace(page=None, place=None))["extension"]
    assert sentence(nothing.gets[0], nothing).startswith("Your face in the picture, 15 pictures a second")
    assert sentence(nothing.gets[0], nothing._replace(delay_ms=240)).endswith(", 0.2 s late.")
    assert sentence(nothing.gets[0], nothing._replace(delay_ms=14)).endswith(", less than 0.1 s late.")
    assert nothing.worst_pt is None
    assert "pictures a second" in advice([nothing])


@pytest.mark.parametrize("way", WAYS, ids=lambda way: way.id)
def test_each_way_says_how(way) -> None:  # type: ignore[no-untyped-def]
    assert way_named(way.id) is way
    assert way.steps
    assert way.risk.endswith(".")
    assert all(step.endswith(".") for step in (*way.steps, *way.needs))
    assert replace(way, presses=1) != way or way.presses == 1


def test_steps_are_ticked_off_as_far_as_they_can_be_seen() -> None:
    assert seen_done(way_named("tab"), True) == [True, None, None]
    assert seen_done(way_named("extension"), False) == [False, False]
    assert set(seen_done(way_named("participant"), True)) == {None}


def test_sound_of_a_tab_counts_only_where_the_call_takes_it() -> None:
    assert by_id()["tab"].sound == "shared"
    assert by_id(call=replace_call(shares_sound=False))["tab"].sound == "apart"
