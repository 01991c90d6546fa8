"""Who is asking, and the headers that keep a browser from doing more than it is told."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import Any
from uuid import UUID

from fastapi import HTTPException, Request, Response
from sqlalchemy import Connection, Engine, event
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from dry_gauge.core.local_time import by_clock, served
from dry_gauge.service.sign_in import SESSION_LIFETIME, token_hash
from dry_gauge.store.database import see_shop
from dry_gauge.store.people import Someone, open_session
from dry_gauge.web.cookies import LOOPBACK, SESSION_COOKIE, cookie_named, host_of, is_secure
from dry_gauge.web.observing import SOMEONE

CONTENT_SECURITY_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; media-src 'self' blob:; font-src 'self'; "
    "connect-src 'self'; "
    "form-action 'self'; base-uri 'none'; frame-ancestors 'none'; manifest-src 'self'; worker-src 'self'"
)
HEADERS = {
    b"content-security-policy": CONTENT_SECURITY_POLICY.encode(),
    b"x-content-type-options": b"nosniff",
    b"referrer-policy": b"same-origin",
    b"cross-origin-opener-policy": b"same-origin",
    b"cross-origin-resource-policy": b"same-origin",
    b"permissions-policy": b"camera=(), geolocation=(), microphone=()",
    b"strict-transport-security": b"max-age=31536000",
    b"cache-control": b"no-store",  # of what is private; what may be kept says so itself
}
MOST_FORM_BYTES = 256 * 1024
# Photos leave a browser small; one sent without scripts may be as the camera made it.
LARGER = {"/photos": 40 * 1024 * 1024, "/probes/samples": 1024 * 1024, "/register/files/archive": 1024 * 1024 * 1024}


# A made-up call is a visit to a unit, with everything that is looked up beside it; people, prices, plans and files are real.
_WHILE_PRACTISING = (
    "/visits/",
    "/units/",
    "/practice",
    "/pocket",
    "/why/",
    "/teach",
    "/me/preferences",
    "/me/hints",
    "/sign-out",
)
_BY_ANY_NAME = frozenset({"/healthz", "/readyz", "/metrics"})  # what watches it asks by address


class SignInNeeded(Exception):
    """Nobody is signed in, or the session has ended."""

    words = "Your session has ended. Sign in and what you typed is kept."


class SecondStepDue(Exception):
    """The shop asks a second step of its leads, and this one has none yet."""


class InPractice(Exception):
    """Whoever asks is in a made-up call: real pages wait until they leave it."""

    def __init__(self, visit_id: UUID | None) -> None:
        super().__init__("You are in a practice call. Leave it, and everything else is there again; it waits for you.")
        self.visit_id = visit_id


class SomebodyElse(SignInNeeded):
    """Another person has signed in on this device since this was written: it waits for its writer."""

    words = "Somebody else is signed in here now. What you typed waits for you: sign in as yourself."


def engine_of(request: Request) -> Engine:
    """The application's engine."""
    engine: Engine = request.app.state.engine
    return engine


@contextmanager
def signed_in(request: Request) -> Iterator[tuple[Connection, Someone]]:
    """A transaction that sees the rows of the signed-in person's shop; committed when the block ends well.

    Raises
    ------
    SignInNeeded
        Also where the request names a writer who is not the one that is signed in.
    InPractice
        Where they play a call, and ask for what has no place in a practice shop.
    """
    token = session_token(request)
    if not token:
        raise SignInNeeded
    with engine_of(request).begin() as connection:
        someone = open_session(connection, token_hash(token))
        if someone is None:
            raise SignInNeeded
        if someone.second_step_due and not _goes_on_without(request):
            raise SecondStepDue
        if request.headers.get("x-writer", str(someone.person_id)) != str(someone.person_id):
            raise SomebodyElse
        if someone.practice is not None and not request.url.path.startswith(_WHILE_PRACTISING):
            raise InPractice(someone.practice.visit_id)
        request.scope[SOMEONE] = (someone.shop_id, someone.person_id)
        by_clock(someone.time_zone, someone.clock)
        yield connection, someone


def someone_or_nobody(request: Request) -> Someone | None:
    """Whoever is signed in; nobody where that is not so, for pages that need no shop."""
    try:
        with signed_in(request) as (_, someone):
            return someone
    except SignInNeeded:
        return None


def _goes_on_without(request: Request) -> bool:
    """What a lead who still has to set up a second step may do: set it up, and have kept what waits on the device."""
    return request.url.path.startswith("/me") or (request.method == "POST" and "x-outbox" in request.headers)


@contextmanager
def looking(request: Request, someone: Someone) -> Iterator[Connection]:
    """Another connection of someone who has signed in: for what is drawn after something was committed.

    Nothing is asked of the database before the first statement, and for most readings none follows.
    """
    # With a clock of its own: what is drawn for several is drawn within the request of one of them.
    with served(someone.time_zone, someone.clock), engine_of(request).connect() as connection:
        event.listen(connection, "begin", lambda begun: see_shop(begun, someone.shop_id))
        yield connection
        connection.commit()  # rolled back, as reading may be, the driver would forget every statement that it has prepared


def session_token(request: Request) -> str:
    """The session that this browser says it has; nothing where it has none."""
    return request.cookies.get(cookie_named(SESSION_COOKIE, request.scope), "")


def set_session_cookie(request: Request, response: Response, token: str) -> None:
    """Let the browser keep a session."""
    response.set_cookie(
        cookie_named(SESSION_COOKIE, request.scope),
        token,
        max_age=int(SESSION_LIFETIME.total_seconds()),
        secure=is_secure(request.scope),
        httponly=True,
        samesite="lax",
        path="/",
    )


def forget_session_cookie(request: Request, response: Response) -> None:
    """Let the browser forget its session."""
    response.delete_cookie(
        cookie_named(SESSION_COOKIE, request.scope), secure=is_secure(request.scope), httponly=True, samesite="lax", path="/"
    )


class SecurityHeaders:
    """Adds `HEADERS` to every answer; turns away names that are not ours, and bodies larger than any form or sheet.

    Pages print the name under which they were asked for, on labels and in commands: only one of `hosts`, or this machine's own.
    """

    def __init__(self, app: ASGIApp, hosts: Sequence[str] = ()) -> None:
        self.app, self.hosts = app, LOOPBACK | {host.lower() for host in hosts}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request through."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        send = _with_headers(send)
        turned_away = self._turned_away(scope)
        if turned_away is not None:
            await turned_away(scope, receive, send)
        else:
            await self._let_through(scope, receive, send)

    def _turned_away(self, scope: Scope) -> Response | None:
        """The answer to what goes no further, by its head alone."""
        if host_of(scope) not in self.hosts and scope["path"] not in _BY_ANY_NAME:
            return _problem(421, "This name is not one that this installation answers to; ALLOWED_HOSTS lists them.")
        if "\0" in scope["path"] or b"%00" in scope.get("query_string", b""):
            return _problem(400, "The address holds a character that cannot be.")
        length, most = dict(scope["headers"]).get(b"content-length", b"0"), _most_bytes(scope)
        if scope["method"] not in ("GET", "HEAD") and (not length.isdigit() or int(length) > most):
            return _problem(413, _too_large(most))
        return None

    async def _let_through(self, scope: Scope, receive: Receive, send: Send) -> None:
        """What comes without its length said is counted as it comes."""
        came, answered, most = 0, False, _most_bytes(scope)

        async def counted() -> Message:
            nonlocal came
            message = await receive()
            came += len(message.get("body", b""))
            if came > most:
                raise _TooLarge(413, _too_large(most))
            return message

        async def noting(message: Message) -> None:
            nonlocal answered
            answered = True
            await send(message)

        try:
            await self.app(scope, counted, noting)
        except _TooLarge:
            if not answered:
                await _problem(413, _too_large(most))(scope, receive, send)


def _with_headers(send: Send) -> Send:
    async def sending(message: Message) -> None:
        if message["type"] == "http.response.start":
            headers: list[Any] = [*message.get("headers", [])]
            said = {name for name, _ in headers}
            message = {**message, "headers": headers + [item for item in HEADERS.items() if item[0] not in said]}
        await send(message)

    return sending


def _most_bytes(scope: Scope) -> int:
    return next((limit for ending, limit in LARGER.items() if scope["path"].endswith(ending)), MOST_FORM_BYTES)


def _too_large(most: int) -> str:
    return f"The body is over {most // 1024} kB."


class _TooLarge(HTTPException):
    """More came than any form or sheet holds: answered by the application, or here where it is not reached yet."""


def _problem(status: int, words: str) -> Response:
    return Response(f'{{"error": "{words}", "path": null, "nearest": []}}', status, media_type="application/json")
