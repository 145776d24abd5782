"""The stage: one writer of what is shown; what cannot be drawn is refused whole; only differences are applied."""

import threading
from dataclasses import replace

import numpy as np
import pytest

from cartouche.core.errors import DegenerateCorners
from cartouche.core.pictures import Size
from cartouche.core.plates.ready_made import FIRST_PLATES
from cartouche.core.straighten.chain import Chain, FrameLink, SquareLink, UnbendLink
from cartouche.live.stage import Opened, Stage

FEED = Size(1280, 720)
FOLDED = Chain(
    unbend=UnbendLink(on=True, distortion=-0.3),
    square=SquareLink.model_validate({"corners": [[-1.9, -1.9], [2.9, -1.8], [2.8, 2.9], [-1.9, 2.8]], "aspect": 1.4}),
)
SQUARED = Chain(square=SquareLink.model_validate({"corners": [[0.2, 0.2], [0.8, 0.2], [0.8, 0.9], [0.2, 0.9]], "follow": True}))


def opened(**chains: Chain) -> Opened:
    return Opened(FIRST_PLATES[0], FIRST_PLATES, {"page": "desk"}, chains, {"desk": 0})


@pytest.fixture
def stage() -> Stage:
    stage = Stage(lambda _: FEED)
    stage.reopen(opened(desk=SQUARED))
    return stage


def test_a_chain_that_cannot_be_drawn_is_refused_and_nothing_has_changed(stage: Stage) -> None:
    before, versions = stage.setup, stage.versions.total
    with pytest.raises(DegenerateCorners):
        stage.correct("desk", FOLDED)
    assert stage.setup is before
    assert stage.versions.total == versions


def test_a_kept_chain_that_no_longer_passes_is_opened_without_the_link_at_fault_and_that_is_said(stage: Stage) -> None:
    stage.reopen(opened(desk=FOLDED))
    in_force = stage.setup.chains["desk"]
    assert in_force.square.on
    assert not in_force.unbend.on
    assert "lens correction" in stage.notices["desk"]
    stage.correct("desk", SQUARED)
    assert not stage.notices


def test_opening_again_applies_differences_alone(stage: Stage) -> None:
    corners = np.array([[260.0, 150], [1020, 150], [1020, 640], [260, 640]])
    stage.page_moved("desk", stage.setup.chains["desk"], corners, FEED)
    followed = stage.setup.chains["desk"]
    assert followed != SQUARED
    stage.reopen(replace(opened(desk=SQUARED), roles={}))  # another device was renamed, say
    assert stage.setup.chains["desk"] is followed
    assert stage.setup.roles == {}
    closer = SQUARED.model_copy(update={"frame": FrameLink(zoom=2)})
    stage.reopen(opened(desk=closer))
    assert stage.setup.chains["desk"] is closer


def test_the_same_chain_once_more_leaves_what_was_read_by_the_one_in_force(stage: Stage) -> None:
    before, versions = stage.setup, stage.versions.total
    stage.correct("desk", SQUARED.model_copy())
    assert stage.setup is before
    assert stage.versions.total == versions + 1  # a tab looks all the same: it may have been kept only now
    closer = SQUARED.model_copy(update={"frame": FrameLink(zoom=2)})
    stage.correct("desk", closer, glide_s=5)
    stage.correct("desk", closer.model_copy())  # on its way there: at once now
    assert not stage.setup.glides


def test_a_followed_page_does_not_undo_a_hand_that_was_quicker(stage: Stage) -> None:
    before = stage.setup.chains["desk"]
    by_hand = SQUARED.model_copy(update={"frame": FrameLink(zoom=3)})
    stage.correct("desk", by_hand)
    stage.page_moved("desk", before, np.array([[260.0, 150], [1020, 150], [1020, 640], [260, 640]]), FEED)
    assert stage.setup.chains["desk"] is by_hand


def test_changes_from_many_threads_are_all_kept(stage: Stage) -> None:
    """A plate, chains of three devices and the caption, a hundred times each, all at once."""
    stage.reopen(Opened(FIRST_PLATES[0], FIRST_PLATES, {}, {name: Chain() for name in "abc"}, {}))

    def zoom(device: str) -> None:
        for step in range(100):
            stage.correct(device, Chain(frame=FrameLink(zoom=1 + step / 50)))

    def change_plates() -> None:
        for step in range(100):
            stage.put_on(FIRST_PLATES[step % 3])

    threads = [threading.Thread(target=zoom, args=(name,)) for name in "abc"]
    threads.append(threading.Thread(target=change_plates))
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert [stage.setup.chains[name].frame.zoom for name in "abc"] == [pytest.approx(1 + 99 / 50)] * 3
    assert stage.setup.plate is FIRST_PLATES[0]


def test_versions_say_what_has_changed(stage: Stage) -> None:
    before = stage.versions.by_topic()
    stage.correct("desk", Chain())
    changed = {topic for topic, number in stage.versions.by_topic().items() if number != before.get(topic)}
    assert changed == {"chain:desk"}
    before = stage.versions.by_topic()
    stage.put_on(FIRST_PLATES[2])
    assert {topic for topic, number in stage.versions.by_topic().items() if number != before.get(topic)} == {"plates"}


def test_a_feed_whose_pictures_change_size_loses_what_cannot_be_drawn_there() -> None:
    """A phone that is turned: in an upright picture these corners lie where the lens does not see."""
    stage = Stage(lambda _: FEED)
    below = SquareLink.model_validate({"corners": [[0.2, 0.2], [0.8, 0.2], [0.8, 1.9], [0.2, 1.9]], "aspect": 1.0})
    chain = Chain(unbend=UnbendLink(on=True, distortion=-0.3), square=below)
    stage.reopen(opened(desk=chain))
    assert stage.setup.chains["desk"] is chain
    stage.size_changed("desk", Size(720, 1280))
    assert not stage.setup.chains["desk"].unbend.on
    assert stage.setup.chains["desk"].square == below
    assert "lens correction" in stage.notices["desk"]
    stage.forget("desk")
    assert not stage.notices
    assert "desk" not in stage.setup.chains
