"""The same device again, in another port, on another day."""

from hypothesis import given
from hypothesis import strategies as st

from cartouche.core.kit.recognise import Known, Present, recognise

DESK, FACE = Known("desk", "id-1", "Page cam (0a1b)"), Known("face", "id-2", "Built-in cam")


def test_the_browsers_id_is_enough() -> None:
    found = recognise([DESK, FACE], [Present("id-2", ""), Present("id-1", "")])
    assert {id_: one.source for id_, one in found.matches.items()} == {"desk": "id-1", "face": "id-2"}
    assert not found.missing
    assert not found.new
    assert set(found.whys.values()) == {"same id"}


def test_in_another_port_the_label_tells() -> None:
    found = recognise([DESK, FACE], [Present("id-2", "Built-in cam"), Present("id-9", "Page  Cam (0A1B)")])
    assert found.matches["desk"].source == "id-9"
    assert found.whys["desk"] == "same make"


def test_what_is_not_there_is_named_and_what_is_new_offered() -> None:
    found = recognise([DESK, FACE], [Present("id-2", "Built-in cam"), Present("id-5", "Another cam")])
    assert found.missing == ["desk"]
    assert [one.source for one in found.new] == ["id-5"]


def test_two_of_one_make_are_not_guessed() -> None:
    two = [Known("left", "a", "Twin cam"), Known("right", "b", "Twin cam")]
    found = recognise(two, [Present("x", "Twin cam"), Present("y", "Twin cam")])
    assert not found.matches
    assert found.unsure == ["left", "right"]


def test_one_of_two_plugged_in_is_not_guessed_either() -> None:
    two = [Known("left", "a", "Twin cam"), Known("right", "b", "Twin cam")]
    assert not recognise(two, [Present("x", "Twin cam")]).matches


def test_the_twin_that_keeps_its_id_leaves_the_other_certain() -> None:
    two = [Known("left", "a", "Twin cam"), Known("right", "b", "Twin cam")]
    found = recognise(two, [Present("a", "Twin cam"), Present("y", "Twin cam")])
    assert {id_: one.source for id_, one in found.matches.items()} == {"left": "a", "right": "y"}


def test_the_largest_size_tells_two_of_one_name_apart() -> None:
    known = [Known("old", "a", "USB cam", (1280, 720))]
    found = recognise(known, [Present("x", "USB cam", (1920, 1080)), Present("y", "USB cam", (1280, 720))])
    assert found.matches["old"].source == "y"


def test_a_camera_without_a_name_is_known_by_its_id_alone() -> None:
    assert recognise([Known("odd", "a", "")], [Present("b", "")]).missing == ["odd"]


cameras = st.lists(
    st.tuples(st.sampled_from("abcdef"), st.sampled_from(["", "cam", "other cam"])), max_size=6, unique_by=lambda one: one[0]
)


@given(cameras, cameras)
def test_each_is_somewhere_and_no_camera_is_two_devices(known: list[tuple[str, str]], here: list[tuple[str, str]]) -> None:
    found = recognise([Known(f"device-{s}", s, label) for s, label in known], [Present(s, label) for s, label in here])
    assert sorted([*found.matches, *found.missing, *found.unsure]) == sorted(f"device-{s}" for s, _ in known)
    sources = [one.source for one in found.matches.values()]
    assert len(sources) == len(set(sources))
    assert sorted([*sources, *(one.source for one in found.new)]) == sorted(s for s, _ in here)
