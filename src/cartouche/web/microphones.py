"""Which microphone is open, phones included, whoever opens or closes it."""

from cartouche.store.errors import NotKept
from cartouche.web.guests.book import Guests
from cartouche.web.schemas import OpenMicrophoneView
from cartouche.web.state import AppState


def open_alone(state: AppState, guests: Guests, microphone_id: str | None, beside: bool = False) -> None:
    """This one and no other; None closes all. beside: the others stay. Raises NotKept."""
    room, phones = state.running.sound.microphones, guests.visitors.microphones()
    if microphone_id in phones:
        room.join(microphone_id, state.device(microphone_id).name, kind="phone")
    try:
        room.open(microphone_id, beside=beside)
    except KeyError as exc:
        raise NotKept("microphone", microphone_id or "") from exc
    guests.visitors.open_microphones([one for one in room.open_ids if one in phones])


def open_now(state: AppState, guests: Guests) -> OpenMicrophoneView | None:
    opened = state.running.sound.microphones.opened or next(
        ((one, "") for one, is_open in guests.visitors.microphones().items() if is_open), None
    )
    return OpenMicrophoneView(id=opened[0], label=opened[1]) if opened else None
