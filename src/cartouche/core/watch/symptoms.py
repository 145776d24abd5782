"""The six things that go wrong in a call, and what causes each: the rules of the walk as one table."""

from collections.abc import Callable

from cartouche.core.watch.facts import DeviceFacts, Facts, Role
from cartouche.core.watch.readiness import (
    LATE_MS,
    MAX_BUSY,
    MAX_DELAY_MS,
    MIN_FED_SHARE,
    MIN_OUT_SHARE,
    network_trouble,
)
from cartouche.core.watch.signal import AWAY
from cartouche.core.watch.walk import Cause, Choice, Question, Symptom

YES_NO = (Choice("yes", "Yes"), Choice("no", "No"))

CALL_CAMERA = Question(
    "call-camera",
    "Which camera stands in the call’s own settings?",
    (
        Choice("cartouche", "Cartouche"),
        Choice("other", "Another one"),
        Choice("blocked", "None, or it says blocked"),
        Choice("share", "I share a window or tab instead"),
    ),
)
OWN_VIEW = Question(
    "own-view",
    "What does the call’s own picture of you show?",
    (
        Choice("lesson", "What goes out"),
        Choice("crossed", "Nothing: the camera is crossed out"),
        Choice("still", "A still picture or a card"),
    ),
)
SHARING = Question("sharing", "Does the call say that you are sharing?", YES_NO)
TILE = Question(
    "tile", "How do learners see you?", (Choice("tile", "In a small tile"), Choice("large", "Large"), Choice("no", "Not at all"))
)
CALL_MICROPHONE = Question(
    "call-microphone",
    "Which microphone stands in the call’s own settings?",
    (
        Choice("cartouche", "Cartouche"),
        Choice("own", "The one I speak into"),
        Choice("other", "Another one"),
        Choice("blocked", "None, or it says blocked"),
    ),
)
CROSSED_OUT = Question("crossed-out", "Is the microphone crossed out in the call?", YES_NO)
CALL_SPEAKER = Question(
    "call-speaker",
    "Which loudspeaker stands in the call’s own settings?",
    (Choice("right", "The one I listen to"), Choice("other", "Another one"), Choice("unknown", "I cannot find it")),
)
TEST_TONE = Question("test-tone", "Under Sound, play the test tone. Do you hear it?", (Choice("yes", "Yes"), Choice("no", "No")))
PLUG = Question(
    "plug",
    "Is the headset or loudspeaker pushed in fully, switched on, and its wheel turned up?",
    (Choice("now", "No, it was not"), Choice("yes", "Yes")),
)
TAB_MUTED = Question("tab-muted", "Does the call’s tab or window show a crossed-out loudspeaker?", YES_NO)
ONE_LEARNER = Question("one-learner", "Is it only one learner?", YES_NO)
WHO = Question(
    "who",
    "Who sees it mirrored?",
    (Choice("me", "Only I, in the call"), Choice("learners", "Learners"), Choice("board", "The board in the room")),
)
CALL_FLIPS = Question("call-flips", "Is “mirror my video” switched on in the call’s settings, for what others see?", YES_NO)
VOICES = Question("voices", "Do voices in the call break off too?", YES_NO)
HUB = Question("hub", "Is the camera plugged in by a hub or a long cable?", YES_NO)


def _serving(role: Role, holds: Callable[[DeviceFacts], bool]) -> Callable[[Facts], bool | None]:
    def told(facts: Facts) -> bool | None:
        device = facts.serving(role)
        return device is not None and holds(device)

    return told


def _either(holds: Callable[[DeviceFacts], bool]) -> Callable[[Facts], bool | None]:
    return lambda facts: any(holds(device) for device in facts.devices)


def _first(holds: Callable[[DeviceFacts], bool]) -> Callable[[Facts], str]:
    return lambda facts: next((device.id for device in facts.devices if holds(device)), "")


def _sentence(holds: Callable[[DeviceFacts], bool]) -> Callable[[Facts], str]:
    def told(facts: Facts) -> str:
        device = next((device for device in facts.devices if holds(device)), None)
        return "" if device is None else device.sentence or f"“{device.name}” {_AWAY[device.state]}."

    return told


_AWAY = {"asleep": "is asleep", "black": "gives a black picture", "stuck": "stands still", "lost": "gives no picture"}


def is_away(device: DeviceFacts) -> bool:
    return device.state in AWAY


def is_late(device: DeviceFacts) -> bool:
    return device.paced and device.delay_ms is not None and device.delay_ms > MAX_DELAY_MS


def is_slow(device: DeviceFacts) -> bool:
    return device.paced and device.state == "live" and device.fps < MIN_FED_SHARE * device.out_fps


def is_far(device: DeviceFacts) -> bool:
    return network_trouble(device.connection) is not None


def is_weak(device: DeviceFacts) -> bool:
    return device.battery is not None and device.battery.is_low


def _microphone_is(*kinds: str) -> Callable[[Facts], bool | None]:
    def told(facts: Facts) -> bool | None:
        return bool(facts.sound.open) and facts.sound.open[0].verdict in kinds

    return told


def _microphone_says(facts: Facts) -> str:
    return facts.sound.open[0].says if facts.sound.open else ""


def _finding_says(facts: Facts) -> str:
    return " ".join(part.rstrip(".") + "." for part in facts.sound.findings[0] if part)


def _shares(facts: Facts) -> bool:
    """By a window alone: then the call's camera list says nothing."""
    return facts.way.windows > 0 and facts.way.taken_by is None


NOWHERE = Cause(
    "nowhere", "Choose a way in: the outgoing picture is taken by nobody.", "way-in", lambda facts: not facts.way.in_use,
    ruled_out="The outgoing picture is taken.",
)  # fmt: skip
AWAY_DEVICE = Cause(
    "away", "Bring it back.", "restart", _either(is_away), ruled_out="The cameras give pictures.", target=_first(is_away),
    found=_sentence(is_away),
)  # fmt: skip
STANDS = Cause(
    "window", "", "front-window", lambda facts: facts.way.says is not None and facts.way.windows > 0,
    found=lambda facts: facts.way.says or "", ruled_out="The outgoing window is visible and large enough.",
)  # fmt: skip

NOT_SEEN = Symptom(
    "not-seen",
    "They can’t see me",
    (
        Cause("no-camera", "Choose a camera for page and face.", "first", lambda facts: not facts.devices, ruled_out="Cameras are chosen."),
        AWAY_DEVICE,
        Cause("exchanged", "The two cameras are exchanged: exchange them back.", "swap",
              lambda facts: bool(facts.face and not facts.face.seen and facts.page and (facts.page.shows_person or 0) >= 0.2)),
        Cause("wrong-lens", "The phone uses its front lens.", "lens", _serving("page", lambda device: device.facing == "front"),
              target=_first(lambda device: device.facing == "front")),
        Cause("weak", "Plug it in: its battery is nearly empty, and a phone then stops its camera.", "", _either(is_weak),
              ruled_out="No battery is low."),
        NOWHERE,
        STANDS,
        Cause("taker", "", "way-in", lambda facts: facts.way.says is not None, found=lambda facts: facts.way.says or ""),
        Cause("blocked", "Allow the camera in the call: press the icon beside the address, then reload the call.", "",
              lambda facts: False if _shares(facts) else None, (CALL_CAMERA, "blocked")),
        Cause("other-camera", "Choose Cartouche in the call’s camera list. If it is not there, reload the call.", "",
              lambda facts: False if _shares(facts) else None, (CALL_CAMERA, "other")),
        Cause("not-sharing", "Press Share in the call and choose Cartouche outgoing.", "",
              lambda facts: None if _shares(facts) else False, (SHARING, "no")),
        Cause("crossed", "Switch your camera on in the call.", "", lambda facts: False if _shares(facts) else None, (OWN_VIEW, "crossed")),
        Cause("still", "Leave the call and join again: it holds an old picture.", "",
              lambda facts: False if _shares(facts) else None, (OWN_VIEW, "still")),
        Cause("nobody", "Sit before the camera, or turn it to you.", "",
              lambda facts: facts.face is not None and not facts.face.seen, ruled_out="Your face is seen by its camera."),
        Cause("tile", "Ask learners to pin you, or spotlight yourself in the call.", "", asked=(TILE, "tile")),
    ),
    "Cartouche finds nothing wrong on this side. Leave the call and join again; if that does not help, copy this for your help desk.",
)  # fmt: skip

NOT_HEARD = Symptom(
    "not-heard",
    "They can’t hear me",
    (
        Cause("closed", "Open your microphone.", "open-microphone",
              lambda facts: not facts.sound.open and facts.sound.last_open is not None,
              target=lambda facts: facts.sound.last_open or "", ruled_out="A microphone is open."),
        Cause("switched-off", "Switch it on at the device itself: many have a switch on the cable.", "sound", _microphone_is("nothing"),
              found=_microphone_says, ruled_out="Sound comes in from it."),
        Cause("quiet", "", "sound", _microphone_is("too quiet", "noise", "noisy", "hum", "too loud"), found=_microphone_says),
        Cause("loop", "", "end-finding", lambda facts: bool(facts.sound.findings),
              found=_finding_says, ruled_out="No loop and no double was found."),
        Cause("crossed-out", "Switch the microphone on in the call.", "", asked=(CROSSED_OUT, "yes")),
        Cause("blocked", "Allow the microphone in the call: press the icon beside the address, then reload the call.", "",
              asked=(CALL_MICROPHONE, "blocked")),
        Cause("other-microphone", "Choose the microphone you speak into in the call, or Cartouche.", "", asked=(CALL_MICROPHONE, "other")),
        Cause("not-open-here", "Open a microphone in Cartouche: the call takes its sound from here.", "sound",
              lambda facts: False if facts.sound.open else None, (CALL_MICROPHONE, "cartouche")),
        Cause("one", "Their own loudspeaker is off: the others hear you.", "", asked=(ONE_LEARNER, "yes")),
    ),
    "Cartouche finds nothing wrong on this side. Leave the call and join again; if that does not help, copy this for your help desk.",
)  # fmt: skip

CANNOT_HEAR = Symptom(
    "cannot-hear",
    "I can’t hear them",
    (
        Cause("one", "That learner’s microphone is off or broken: the others are heard.", "", asked=(ONE_LEARNER, "yes")),
        Cause("plug", "Then try again: it was the plug, the switch or the wheel.", "", asked=(PLUG, "now")),
        Cause(
            "no-tone", "Choose another loudspeaker under Sound, and look at this computer’s own volume.", "sound", asked=(TEST_TONE, "no")
        ),
        Cause("other-speaker", "Choose the loudspeaker you listen to in the call’s settings.", "", asked=(CALL_SPEAKER, "other")),
        Cause("tab-muted", "Press the crossed-out loudspeaker to hear the call again.", "", asked=(TAB_MUTED, "yes")),
    ),
    "This side plays sound. Ask learners whether their microphones are crossed out; if they are not, leave the call and join again.",
)

MIRRORED = Symptom(
    "mirrored",
    "It is mirrored",
    (
        Cause("reversed", "Flip it: it reads reversed for learners.", "mirror",
              lambda facts: any(one.reads_true is False for one in facts.page.audiences) if facts.page else False,
              ruled_out="By the count of reflections and the page’s own print, learners get it the right way round."),
        Cause("print", "Flip it: the page’s own print is reversed.", "mirror",
              lambda facts: facts.page is not None and facts.page.first.press == "mirror"),
        Cause("turned", "Turn it: the page stands the wrong way up.", "turn",
              lambda facts: facts.page is not None and facts.page.first.press == "turn"),
        Cause("own-view", "Leave it: the call mirrors your own view only. Learners get it the right way round.", "", asked=(WHO, "me")),
        Cause("board", "Feed the board by the outgoing window instead of your own screen.", "window", asked=(WHO, "board")),
        Cause("call-flips", "Switch “mirror my video” off in the call.", "", asked=(CALL_FLIPS, "yes")),
    ),
    "Lay a page with print under the camera and square it up: the print then tells which way round it goes out.",
)  # fmt: skip


def _some_cannot_read(facts: Facts) -> bool | None:
    return facts.page is not None and any(one.reads is False for one in facts.page.audiences)


TOO_SMALL = Symptom(
    "too-small",
    "It is too small",
    (
        Cause("blurred", "Refocus: the picture is not sharp.", "refocus",
              lambda facts: facts.page is not None and facts.page.first.press == "refocus", ruled_out="The page is in focus."),
        Cause("not-square", "Square the page up first: it then fills its place.", "square",
              lambda facts: facts.page is not None and facts.page.first.press == "square", ruled_out="The page is squared up."),
        Cause("window", "", "front-window", lambda facts: facts.way.windows > 0 and "small" in (facts.way.says or ""),
              found=lambda facts: facts.way.says or ""),
        Cause("print", "Zoom in: its smallest print does not read for all of them.", "closer", _some_cannot_read,
              ruled_out="By its measured print the page reads for all audiences, as they are set under Way in."),
        Cause("tile", "Ask them to pin you, or spotlight yourself: in a small tile no page reads.", "", asked=(TILE, "tile")),
    ),
    "Zoom in to a part of the page in Square up, or show the page beforehand as a file.",
)  # fmt: skip

LAGS = Symptom(
    "lags",
    "It lags",
    (
        Cause("late", "Choose Quick for it under Kit, or bring it closer to the router.", "kit", _either(is_late),
              found=lambda facts: next((f"“{d.name}” comes {d.delay_ms:.0f} ms late." for d in facts.devices if is_late(d)), ""),
              ruled_out="No camera comes late."),
        Cause("far", "", "", _either(is_far),
              found=lambda facts: next((says for d in facts.devices if (says := network_trouble(d.connection))), ""),
              ruled_out="The way from the phone is short."),
        Cause("slow", "Choose Quick for it under Kit, and give it more light.", "kit", _either(is_slow),
              found=lambda facts: next((f"“{d.name}” gives {d.fps:.0f} pictures a second." for d in facts.devices if is_slow(d)), ""),
              ruled_out="The cameras give enough pictures."),
        Cause("hot", "Plug the computer in and give it air: heat slows it down.", "", lambda facts: bool(facts.computer.throttled)),
        Cause("busy", "Close other programs and tabs: this computer is at its limit.", "",
              lambda facts: None if facts.computer.busy is None else facts.computer.busy > MAX_BUSY,
              ruled_out="This computer has room."),
        Cause("few", "Send 1280x720 on Teach instead of more.", "",
              lambda facts: facts.way.in_use and 0 < facts.way.fps < MIN_OUT_SHARE * facts.way.out_fps,
              ruled_out="Enough pictures go out."),
        Cause("lips", "Set picture and sound together under Sound.", "sound",
              lambda facts: facts.sound.lips_ms is not None and facts.sound.lips_ms > LATE_MS),
        Cause("one", "It is that learner’s own line: the others see it well.", "", asked=(ONE_LEARNER, "yes")),
        Cause("line", "The line is short: use a cable instead of Wi-Fi, and stop other downloads.", "", asked=(VOICES, "yes")),
        Cause("hub", "Plug the camera straight into the computer.", "", asked=(HUB, "yes")),
    ),
    "Cartouche measures no delay on this side. Share by another way under Way in, or ask your help desk about the line.",
)  # fmt: skip

SYMPTOMS: tuple[Symptom, ...] = (NOT_SEEN, NOT_HEARD, CANNOT_HEAR, MIRRORED, TOO_SMALL, LAGS)


def symptom_named(id_: str) -> Symptom:
    """Raises KeyError."""
    return {symptom.id: symptom for symptom in SYMPTOMS}[id_]  # type: ignore[index]
