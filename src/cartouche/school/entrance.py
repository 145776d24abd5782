"""Before everything else: this teacher's path alone, and the teacher alone; guests by the door, the extension by its key.

Who somebody is says the hub (OAuth 2.0 with PKCE, RFC 7636). A browser keeps the token that it gives in a cookie, so that a process that
has died and come back knows it again.
"""

import asyncio
import secrets
import time
from http.cookies import CookieError, SimpleCookie
from typing import Any, Protocol
from urllib.parse import parse_qs, quote, urlencode, urlsplit

from starlette.requests import HTTPConnection
from starlette.responses import JSONResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send
from tornado.web import HTTPError

from cartouche.school.inner_door import PATH as DOOR
from cartouche.school.place import Place
from cartouche.web.pages import under
from cartouche.web.security import FOR_EXTENSIONS

CALLBACK, HEALTH = "/oauth_callback", "/health"
STATE_S = 600
SILENT_HUB_S = 2 * 3600  # a lesson: for so long a teacher who was known is let in while the hub does not answer
KNOWN_WITHIN_S, ANSWERS_WITHIN_S = 3.0, 20.0  # how long a request waits for the hub: its own client would for five minutes
DEAF_S = 30.0  # so long a hub that did not answer is not asked about somebody whom it knew
MAX_KNOWN = 16  # browsers of one teacher
WEB = {"ws": "http", "wss": "https"}
SIGN_IN = "Sign in to the school's server again: reload this page."
ANOTHERS = "This is another teacher's Cartouche. Yours is at the school's server's first page."
UNASKED = "The school's server does not say who you are just now. Try again in a moment."


class Hub(Protocol):
    """What is used of `jupyterhub.services.auth.HubOAuth`."""

    cookie_name: str
    login_url: str
    access_scopes: set[str]
    pkce_enabled: bool

    def generate_pkce_code_challenge(self) -> tuple[str, str, str]: ...
    def generate_state(self, next_url: str, **more: str) -> str: ...
    def get_next_url(self, state_id: str) -> str: ...
    def get_code_verifier(self, state_id: str) -> str | None: ...
    def clear_oauth_state(self, state_id: str) -> None: ...
    def token_for_code(self, code: str, *, code_verifier: str | None, sync: bool) -> Any: ...
    def user_for_token(self, token: str, *, sync: bool) -> Any: ...
    def check_scopes(self, required_scopes: set[str], user: dict[str, Any]) -> Any: ...


class Entrance:
    def __init__(self, app: ASGIApp, door: ASGIApp, hub: Hub, place: Place) -> None:
        self._app, self._door, self._hub, self._place = app, door, hub, place
        self.origin = f"http://{place.address}:{place.port}"  # by which the teacher came last
        self.asked = 0  # requests that were let in: somebody is there
        self._let_in = dict[str, float]()  # when the hub last knew each token as its owner's
        self._deaf_until_s = float("-inf")

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            await self._app(scope, receive, send)
            return
        inner = under(scope, self._place.path, self._place.base)
        if inner is None:
            await _refuse(scope, receive, send, 404, "There is nothing at this address.")
        elif (door := under(inner, DOOR)) is not None:
            await self._door(door, receive, send)
        elif inner["path"] == HEALTH:
            await JSONResponse({"ok": True})(inner, receive, send)
        elif inner["path"] in FOR_EXTENSIONS:  # each of these asks for the key besides
            await self._app(inner, receive, send)
        elif inner["path"] == CALLBACK and scope["type"] == "http":
            await (await self._signed_in(HTTPConnection(inner)))(inner, receive, send)
        else:
            await self._known(inner, receive, send)

    async def _known(self, scope: Scope, receive: Receive, send: Send) -> None:
        connection = HTTPConnection(scope)
        token = _cookie(connection, self._hub.cookie_name)
        try:
            user = await self._user(token) if token else None
            owner = user is not None and self._is_owner(user)
            self._remember(token, owner)
        except (HTTPError, TimeoutError):
            user, owner = None, self._was_owner(token)
            if not owner:
                await _refuse(scope, receive, send, 503, UNASKED)
                return
        if owner:
            self.asked += 1
            self.origin = f"{WEB.get(scope['scheme'], scope['scheme'])}://{connection.headers.get('host', '')}"
            await self._app(scope, receive, send)
        elif user is not None:
            await _refuse(scope, receive, send, 403, ANOTHERS)
        elif scope["type"] == "http" and scope["method"] in ("GET", "HEAD") and "text/html" in connection.headers.get("accept", ""):
            await self._to_sign_in(scope)(scope, receive, send)
        else:
            await _refuse(scope, receive, send, 403, SIGN_IN)

    async def _user(self, token: str) -> dict[str, Any] | None:
        """Raises HTTPError, TimeoutError: the hub is away. Whoever is known does not wait for it with every press."""
        known = self._was_owner(token)
        if known and time.monotonic() < self._deaf_until_s:
            raise TimeoutError
        try:
            async with asyncio.timeout(KNOWN_WITHIN_S if known else ANSWERS_WITHIN_S):
                user: dict[str, Any] | None = await self._hub.user_for_token(token, sync=False)
        except (HTTPError, TimeoutError):
            self._deaf_until_s = time.monotonic() + DEAF_S
            raise
        return user

    def _remember(self, token: str | None, owner: bool) -> None:
        if token is None:
            return
        self._let_in.pop(token, None)
        if owner:
            self._let_in[token] = time.monotonic()
            for oldest in list(self._let_in)[:-MAX_KNOWN]:
                del self._let_in[oldest]

    def _was_owner(self, token: str | None) -> bool:
        """A hub that is away, or begins again, ends nobody's lesson."""
        return token is not None and time.monotonic() - self._let_in.get(token, float("-inf")) < SILENT_HUB_S

    def _is_owner(self, user: dict[str, Any]) -> bool:
        """Nobody else, though the hub would let them in: administrators, and with whom a server is shared."""
        return user.get("name") == self._place.owner and bool(self._hub.check_scopes(self._hub.access_scopes, user))

    def _to_sign_in(self, scope: Scope) -> Response:
        query = scope["query_string"].decode("latin-1")
        next_url = quote(self._place.path + scope["path"]) + (f"?{query}" if query else "")
        verifier, challenge, method = self._hub.generate_pkce_code_challenge()
        state = self._hub.generate_state(next_url, code_verifier=verifier)
        asks = urlencode({"state": state, "code_challenge": challenge, "code_challenge_method": method})
        answer = RedirectResponse(f"{self._hub.login_url}&{asks}", 302)
        self._keep(answer, scope, self._state_name, state, STATE_S)
        return answer

    async def _signed_in(self, connection: HTTPConnection) -> Response:
        """The hub has sent the browser back with a code."""
        asked = {name: values[0] for name, values in parse_qs(connection.scope["query_string"].decode("latin-1")).items()}
        state, kept = asked.get("state", ""), _cookie(connection, self._state_name)
        if "code" not in asked or not kept or not secrets.compare_digest(state.encode(), kept.encode()):
            return RedirectResponse(self._place.base + "/", 302)  # an old page of the sign-in: once more from the start
        next_url, verifier = self._hub.get_next_url(state), self._hub.get_code_verifier(state)
        self._hub.clear_oauth_state(state)
        try:
            token = await self._hub.token_for_code(asked["code"], code_verifier=verifier, sync=False)
        except HTTPError:
            return JSONResponse({"detail": UNASKED}, 503)
        local = urlsplit(next_url).path.startswith(quote(self._place.path) + "/") and "://" not in next_url.split("?")[0]
        answer = RedirectResponse(next_url if local else self._place.base + "/", 302)
        self._keep(answer, connection.scope, self._hub.cookie_name, token, None)
        answer.delete_cookie(self._state_name, self._place.base + "/")
        return answer

    @property
    def _state_name(self) -> str:
        return self._hub.cookie_name + "-state"

    def _keep(self, answer: Response, scope: Scope, name: str, value: str, seconds: int | None) -> None:
        secure = scope["scheme"] == "https"
        answer.set_cookie(name, value, seconds, path=self._place.base + "/", secure=secure, httponly=True, samesite="lax")


def _cookie(connection: HTTPConnection, name: str) -> str | None:
    kept: SimpleCookie = SimpleCookie()
    try:
        kept.load(connection.headers.get("cookie", ""))
    except CookieError:
        return None
    return kept[name].value if name in kept else None


async def _refuse(scope: Scope, receive: Receive, send: Send, status: int, sentence: str) -> None:
    if scope["type"] == "websocket":
        await send({"type": "websocket.close", "code": 1008, "reason": sentence[:110]})
    else:
        await JSONResponse({"detail": sentence}, status)(scope, receive, send)
