"""Who hears whom, by cases that a teacher meets; the exhaustive search stands in benchmarks/loops.py."""

import numpy as np
import pytest

from benchmarks.loops import key, truth
from cartouche.bench.wirings import random_wiring
from cartouche.core.sound.wiring import CALL_S, Air, Loudspeaker, Microphone, Person, Press, Wiring, contradictions, findings
from cartouche.core.sound.wiring_says import ends_says, press_says, says

TEACHER = Person("teacher", "Your voice", "classroom", frozenset({"headset"}))
LAPTOP = Microphone("laptop", "Laptop", "classroom", True, "laptop", frozenset({"laptop loud"}))
LAPTOP_LOUD = Loudspeaker("laptop loud", "Laptop loudspeaker", "classroom", True, "laptop")
PHONE = Microphone("phone", "Phone", "classroom", True, "phone", frozenset({"phone loud"}))
PHONE_LOUD = Loudspeaker("phone loud", "Phone loudspeaker", "classroom", True, "phone")


def kinds(wiring: Wiring) -> list[str]:
    return [one.kind for one in findings(wiring)]


def test_a_laptop_alone_that_cancels_its_own_echo_is_well() -> None:
    assert findings(Wiring([TEACHER], [LAPTOP], [LAPTOP_LOUD], ["laptop"])) == []


def test_two_devices_in_one_room_howl_and_one_press_ends_all_of_it() -> None:
    wiring = Wiring([TEACHER], [LAPTOP, PHONE], [LAPTOP_LOUD, PHONE_LOUD], ["laptop", "phone"])
    assert set(kinds(wiring)) == {"loop", "echo", "double"}
    loop = findings(wiring)[0]
    assert loop.delay_s == pytest.approx(2 * CALL_S, abs=0.15)
    assert len(loop.press) == 1
    for finding in findings(wiring):
        assert key(finding) not in {key(one) for one in findings(wiring.pressed(*finding.press))}
    assert "can howl" in says(wiring, loop)


def test_a_muted_second_device_still_doubles_nothing_but_a_loudspeaker_beside_a_microphone_echoes() -> None:
    silent = PHONE._replace(open=False)
    wiring = Wiring([TEACHER], [LAPTOP, silent], [LAPTOP_LOUD, PHONE_LOUD], ["laptop", "phone"])
    echo = next(one for one in findings(wiring) if one.kind == "echo")
    assert echo.path == ("learners", "phone loud", "laptop", ">laptop", "learners")
    assert echo.press == (Press("quiet", "phone loud"),)
    assert ends_says(wiring, echo) == "Silence Phone loudspeaker"
    assert findings(wiring.pressed(*echo.press)) == []


def test_nobody_is_heard_and_the_press_opens_one() -> None:
    wiring = Wiring([TEACHER], [LAPTOP._replace(open=False)], [LAPTOP_LOUD], ["laptop"])
    (silence,) = findings(wiring)
    assert (silence.kind, silence.press) == ("silence", (Press("open", "laptop"),))
    assert press_says(wiring, silence.press[0]) == "Open Laptop"


def test_a_headset_hears_its_wearer_and_no_loudspeaker() -> None:
    headset = Microphone("headset", "Headset", None, True, "laptop")
    assert findings(Wiring([TEACHER], [headset], [LAPTOP_LOUD, PHONE_LOUD], ["laptop", "phone"])) == []


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
    wiring = Wiring([TEACHER], [LAPTOP], [hall, LAPTOP_LOUD], ["laptop"], {("hall", "laptop"): Air(-20.0)})
    loop = findings(wiring)[0]
    assert loop.gain_db == -20.0
    assert "dies away" in says(wiring, loop)


@pytest.mark.parametrize("seed", range(40))
def test_an_exhaustive_search_finds_the_same_and_every_press_ends_what_it_is_for(seed: int) -> None:
    wiring = random_wiring(np.random.default_rng(1000 + seed))
    told, true = findings(wiring), truth(wiring)
    assert {key(one) for one in told} == true
    for one in told:
        if one.press:
            after = truth(wiring.pressed(*one.press))
            assert key(one) not in after
            assert {wrong[0] for wrong in after - true} <= {"silence", "deaf"}
        assert says(wiring, one).endswith((".", "!"))
