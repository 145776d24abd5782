"""Who hears whom, by cases that a teacher meets; the exhaustive search stands in benchmarks/loops.py."""

import numpy as np
import pytest

from benchmarks.loops import key, truth
from cartouche.bench.wirings import random_wiring
from cartouche.core.sound.faults import findings
from cartouche.core.sound.stations import HERE, Here, KnownMicrophone, Now, SoundKit, Station, misplaced, wiring
from cartouche.core.sound.wiring import CALL_S, Air, Loudspeaker, Microphone, Person, Press, Wiring, contradictions
from cartouche.core.sound.wiring_says import ends_says, press_says, says

TEACHER = Person("teacher", "Your voice", "classroom", frozenset({"headset"}))
LAPTOP = Microphone("laptop", "Laptop", "classroom", True, "laptop", frozenset({"laptop loud"}))
LAPTOP_LOUD = Loudspeaker("laptop loud", "Laptop loudspeaker", "classroom", True, "laptop")
PHONE = Microphone("phone", "Phone", "classroom", True, "phone", frozenset({"phone loud"}))
PHONE_LOUD = Loudspeaker("phone loud", "Phone loudspeaker", "classroom", True, "phone")


def kinds(wired: Wiring) -> list[str]:
    return [one.kind for one in findings(wired)]


def test_a_laptop_alone_that_cancels_its_own_echo_is_well() -> None:
    assert findings(Wiring([TEACHER], [LAPTOP], [LAPTOP_LOUD], ["laptop"])) == ()


def test_two_devices_in_one_room_howl_and_one_press_ends_all_of_it() -> None:
    wired = Wiring([TEACHER], [LAPTOP, PHONE], [LAPTOP_LOUD, PHONE_LOUD], ["laptop", "phone"])
    assert set(kinds(wired)) == {"loop", "echo", "double"}
    loop = findings(wired)[0]
    assert loop.delay_s == pytest.approx(2 * CALL_S, abs=0.15)
    assert len(loop.press) == 1
    for finding in findings(wired):
        assert key(finding) not in {key(one) for one in findings(wired.pressed(*finding.press))}
    assert "can howl" in says(wired, loop)


def test_a_muted_second_device_still_doubles_nothing_but_a_loudspeaker_beside_a_microphone_echoes() -> None:
    silent = PHONE._replace(open=False)
    wired = Wiring([TEACHER], [LAPTOP, silent], [LAPTOP_LOUD, PHONE_LOUD], ["laptop", "phone"])
    echo = next(one for one in findings(wired) if one.kind == "echo")
    assert echo.path == ("learners", "phone loud", "laptop", ">laptop", "learners")
    assert echo.press == (Press("quiet", "phone loud"),)
    assert ends_says(wired, echo) == "Silence Phone loudspeaker"
    assert findings(wired.pressed(*echo.press)) == ()


def test_nobody_is_heard_and_the_press_opens_one() -> None:
    wired = Wiring([TEACHER], [LAPTOP._replace(open=False)], [LAPTOP_LOUD], ["laptop"])
    (silence,) = findings(wired)
    assert (silence.kind, silence.press) == ("silence", (Press("open", "laptop"),))
    assert press_says(wired, silence.press[0]) == "Open Laptop"


def test_a_headset_hears_its_wearer_and_no_loudspeaker() -> None:
    headset = Microphone("headset", "Headset", None, True, "laptop")
    assert findings(Wiring([TEACHER], [headset], [LAPTOP_LOUD, PHONE_LOUD], ["laptop", "phone"])) == ()


def test_what_nothing_here_can_mend_says_what_to_do() -> None:
    (silence,) = findings(Wiring([TEACHER], [], [LAPTOP_LOUD], ["laptop"]))
    assert silence.press == ()
    assert "say below which computer" in ends_says(Wiring([TEACHER], [], [LAPTOP_LOUD], ["laptop"]), silence)


def test_what_was_measured_counts_more_than_the_room() -> None:
    far = LAPTOP_LOUD._replace(room="next door", join="phone")
    open_door = Wiring(
        [TEACHER], [LAPTOP._replace(cancels=frozenset())], [far], ["laptop", "phone"], {("laptop loud", "laptop"): Air(-3.0)}
    )
    echo = next(one for one in findings(open_door) if one.kind == "echo")
    assert echo.measured
    assert contradictions(open_door) == [("laptop loud", "laptop")]
    deaf_to_it = Wiring([TEACHER], [LAPTOP], [PHONE_LOUD._replace(join="laptop")], ["laptop"], {("phone loud", "laptop"): Air(None)})
    assert "echo" not in kinds(deaf_to_it)
    assert contradictions(deaf_to_it) == [("phone loud", "laptop")]


def test_a_loop_that_was_measured_to_die_away_is_not_said_to_howl() -> None:
    hall = Loudspeaker("hall", "Hall", "classroom", True, None, ("laptop",))
    wired = Wiring([TEACHER], [LAPTOP], [hall, LAPTOP_LOUD], ["laptop"], {("hall", "laptop"): Air(-20.0)})
    loop = findings(wired)[0]
    assert loop.gain_db == -20.0
    assert "dies away" in says(wired, loop)


@pytest.mark.parametrize("seed", range(40))
def test_an_exhaustive_search_finds_the_same_and_every_press_ends_what_it_is_for(seed: int) -> None:
    wired = random_wiring(np.random.default_rng(1000 + seed))
    told, true = findings(wired), truth(wired)
    assert {key(one) for one in told} == true
    for one in told:
        if one.press:
            after = truth(wired.pressed(*one.press))
            assert key(one) not in after
            assert {wrong[0] for wrong in after - true} <= {"silence", "deaf"}
        assert says(wired, one).endswith((".", "!"))


def test_a_hall_full_of_devices_is_told_as_pairs_and_not_as_every_way_round() -> None:
    stations = [
        Station(id=HERE, name="This computer"),
        *(Station(id=f"s{number}", name=f"Tablet {number}", microphone="open") for number in range(11)),
    ]
    wired = wiring(SoundKit(stations=tuple(stations)), Now([Here("lapel", "Lapel")], ["lapel"], {}))
    found = findings(wired)
    loops = [one for one in found if one.kind == "loop"]
    assert len(loops) == len({one.path[:2] for one in loops}) == 12 * 11
    assert all(one.press for one in loops)
    assert findings(wiring(SoundKit(stations=tuple(stations)), Now([Here("lapel", "Lapel")], ["lapel"], {}))) is found, "worked out once"


def test_a_kept_microphone_is_known_again_by_its_label_where_only_one_has_it() -> None:
    kit = SoundKit(microphones=(KnownMicrophone(id="a", label="Lapel (1234)", name="My lapel", worn=True),))
    assert kit.microphone(Here("b", "Lapel (1234)")).name == "My lapel"
    two = kit.model_copy(update={"microphones": (*kit.microphones, KnownMicrophone(id="c", label="Lapel (1234)", name="Other"))})
    assert two.microphone(Here("b", "Lapel (1234)")).name == "Lapel (1234)"


def test_pairs_that_were_measured_move_a_microphone_into_the_room_and_the_difference_is_said() -> None:
    kit = SoundKit(microphones=(KnownMicrophone(id="b", label="B", name="B", room="Hall"),))
    now = Now([Here("a", "A"), Here("b", "B")], ["a", "b"], {}, together=[("a", "b")])
    assert [one.kind for one in findings(wiring(kit, now))] == ["double"]
    assert misplaced(kit, now) == [("a", "b")]
    assert [one.kind for one in findings(wiring(kit, now._replace(together=[])))] == []
