"""How both of our applications answer: one sentence for each expected error, and the policy of their pages."""

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from starlette.exceptions import HTTPException

from cartouche.core.errors import CartoucheError
from cartouche.live.errors import NoLessonOpen, NoPictureYet
from cartouche.store.errors import CannotSave, LastPlate, NoSuchPlate, NotKept, TooLarge, TooManyPlates
from cartouche.web.errors import NoPageServes, NoPageToTry, NothingToHold, NothingToKeep, NotPaired, TooManyPairings, TooManySteps
from cartouche.web.guests.errors import NotAGuest, NotARemote, NotAWatcher, NotLetIn, NotNow, TooManyWatchers
from cartouche.web.validation import sentence

STATUS: tuple[tuple[type[CartoucheError], int], ...] = (
    (NotKept, 404),
    (NotAGuest, 401),
    (NotAWatcher, 401),
    (NotARemote, 401),
    (TooManyWatchers, 429),
    (NotPaired, 401),
    (TooManyPairings, 429),
    (NotLetIn, 403),
    (NotNow, 409),
    (NoLessonOpen, 409),
    (NoPictureYet, 409),
    (NoPageToTry, 409),
    (NoPageServes, 409),
    (NothingToHold, 409),
    (NothingToKeep, 409),
    (TooManySteps, 409),
    (LastPlate, 409),
    (NoSuchPlate, 404),
    (TooManyPlates, 409),
    (TooLarge, 413),
    (CannotSave, 507),
    (CartoucheError, 422),
)
_REFUSED = {
    400: "What was sent cannot be read. Reload the page, then try again.",
    404: "There is nothing at this address. Go back to Cartouche’s first page.",
    405: "This cannot be done at this address. Reload the page, then try again.",
}
# Ant Design Vue writes its styles by script, so inline style elements are let in; scripts are not.
POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; media-src 'self' blob:; style-src 'self' 'unsafe-inline'; script-src 'self'; "
    "connect-src 'self' ws: wss:; font-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)


def answer_errors(app: FastAPI) -> None:
    app.add_exception_handler(CartoucheError, _refuse)
    app.add_exception_handler(RequestValidationError, _refuse_body)
    app.add_exception_handler(HTTPException, _refuse_request)


async def _refuse(_: Request, exc: Exception) -> Response:
    status = next(code for kind, code in STATUS if isinstance(exc, kind))
    return JSONResponse({"detail": str(exc)}, status)


async def _refuse_body(_: Request, exc: Exception) -> Response:
    """One sentence: which value, and what was wanted."""
    assert isinstance(exc, RequestValidationError)
    return JSONResponse({"detail": sentence(exc.errors())}, 422)


async def _refuse_request(_: Request, exc: Exception) -> Response:
    """What the framework refuses by itself, in our words."""
    assert isinstance(exc, HTTPException)
    said = _REFUSED.get(exc.status_code, "Cartouche cannot answer this. Reload the page, then try again.")
    return JSONResponse({"detail": said}, exc.status_code, headers=exc.headers)
