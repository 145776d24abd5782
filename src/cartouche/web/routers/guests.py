"""Phones and tablets, from the teacher's side: invite one, see what it tells, set its lens, zoom, focus, exposure and light."""

import asyncio
import time
from typing import Annotated, cast

from fastapi import Depends, Request

from cartouche.store.guests import Guest
from cartouche.web.guests.book import Guests
from cartouche.web.guests.inviting import Invited
from cartouche.web.guests.reports import Orders
from cartouche.web.kit_schemas import ControlChange, GuestView, InvitationView, NetworkView, NewInvitation
from cartouche.web.qr import qr_svg
from cartouche.web.routing import screen_router
from cartouche.web.schemas import Id
from cartouche.web.state import AppState, app_state

router = screen_router("guests", "/api/guests")
State = Annotated[AppState, Depends(app_state)]


def guest_book(request: Request) -> Guests:
    return cast(Guests, request.app.state.guests)


Book = Annotated[Guests, Depends(guest_book)]


@router.get("/networks")
def networks(book: Book) -> list[NetworkView]:
    """This computer's addresses, the likeliest for a phone first."""
    return [NetworkView.model_validate(network._asdict()) for network in book.keeper.doors.networks()]


@router.post("/invitation", status_code=201)
async def invite(wish: NewInvitation, book: Book) -> InvitationView:
    """A new code for one device; a shown one that nobody used runs out."""
    return _view(await book.inviting.invite(wish), book)


@router.get("/invitation")
def invitation(book: Book) -> InvitationView | None:
    """The one that is shown: how long it holds, and who has come by it."""
    return _view(shown, book) if (shown := book.inviting.shown) is not None else None


@router.put("/invitation")
async def restate(wish: NewInvitation, book: Book) -> InvitationView:
    """Another name, rig or role for the device that the shown code is for; the code and its network stay."""
    return _view(book.inviting.restate(wish), book)


@router.delete("/invitation", status_code=204)
async def withdraw(book: Book) -> None:
    await book.inviting.withdraw()


@router.put("/{device_id}/controls", status_code=204)
def control(device_id: Id, change_: ControlChange, state: State, book: Book) -> None:
    """Ask the phone for another lens, zoom, focus, exposure or light; it does what it can and tells how it stands."""

    def change(orders: Orders) -> Orders:
        microphone = orders.microphone if change_.microphone is None else change_.microphone
        refocus = orders.refocus + int(change_.refocus)
        settings = {**({} if change_.lens else orders.settings), **change_.settings}
        return Orders(lens=change_.lens or orders.lens, settings=settings, refocus=refocus, microphone=microphone)

    device_id = state.device(device_id).id
    if change_.microphone:
        book.visitors.open_microphone(device_id)  # one open microphone, and only one
    elif change_.microphone is False and device_id in state.running.sound.microphones.open_ids:
        state.running.sound.microphones.open(None)
    book.visitors.order(device_id, change)


@router.post("/{device_id}/wait", status_code=204)
async def wait_for(device_id: Id, state: State, book: Book) -> None:
    """Hold the door open for a phone that joined before, without a new code."""
    await asyncio.to_thread(lambda: book.visitors.wait_for(state.device(device_id).id))
    await book.keeper.settle()
    state.running.stage.versions.touch("kit")


def _view(invited: Invited, book: Guests) -> InvitationView:
    code = invited.invitation.code
    address = book.keeper.doors.link(invited.address)
    link = f"{address}/#{code}"
    return InvitationView(
        code=code,
        address=address,
        link=link,
        qr=qr_svg(link),
        left_s=invited.invitation.left_s(time.monotonic()),
        device_id=invited.device_id,
    )


def guest_view(book: Guests, guest: Guest) -> GuestView:
    visitor = book.visitors.of_device(guest.device_id)
    report = visitor.report
    return GuestView(
        here=visitor.is_here(time.monotonic()),
        awaited=guest.awaited_until > time.time(),
        left=guest.awaited_until == 0,
        transport=report.transport if report else None,
        lenses=report.lenses if report else [],
        lens=report.lens if report else None,
        spans=report.spans if report else {},
        settings=report.settings if report else {},
        can_refocus=report.can_refocus if report else False,
        microphone=report.microphone if report else "off",
        awake=report.awake if report else "missing",
    )
