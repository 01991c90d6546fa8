"""Every error as words: what is wrong and what to do, never a trace."""

from __future__ import annotations

from collections.abc import Callable, Coroutine
from typing import Any
from urllib.parse import urlencode

from fastapi import Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import RedirectResponse
from sqlalchemy.exc import OperationalError
from sqlalchemy.exc import TimeoutError as DatabaseBusy
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect
from starlette.types import Message, Scope, Send

from dry_gauge.service.allowed import NotAllowed, NotHere
from dry_gauge.service.owners import NoSuchLink, TooManyLinks
from dry_gauge.service.probes import NoSuchToken
from dry_gauge.web.observing import REQUEST_ID
from dry_gauge.web.pending import Pending
from dry_gauge.web.render import page, wants_fragments
from dry_gauge.web.routes import api, owner
from dry_gauge.web.security import InPractice, SecondStepDue, SignInNeeded

EXPIRED_HEADER = "x-token-expired"
"""Tells a page's script to fetch a new token and send again. Pages of the release before look for the words instead."""
_CLIENT_GONE = 499  # by the habit of proxies; only our log and numbers see it


def _said(request: Request, status: int, heading: str, words: str) -> Response:
    return page(request, "error.html", status=status, heading=heading, words=words, back="/")


def _of_api(request: Request) -> bool:
    return request.url.path.startswith("/api/")


async def not_from_our_page(scope: Scope, send: Send) -> None:
    request = Request(scope)
    words = "This page is older than your browser's permission to send. Reload it, then send again; nothing was changed."
    if not request.headers.get("cookie"):
        words = "Your browser sent no cookie back. Allow cookies for this address, or open it over https; nothing was changed."
    answer = _said(request, 403, "Not sent", words)
    answer.headers[EXPIRED_HEADER] = "1"
    await answer(scope, _no_body, send)


async def come_again(scope: Scope, send: Send) -> None:
    words = "Too many write to this visit just now. Nothing that was kept is lost; send again in a moment."
    answer = _said(Request(scope), 503, "One moment", words)
    answer.headers["retry-after"] = "2"
    await answer(scope, _no_body, send)


async def _no_body() -> Message:
    return {"type": "http.disconnect"}


async def _sign_in_needed(request: Request, why: SignInNeeded) -> Response:
    if request.method in ("GET", "HEAD"):
        target = request.url.path + (f"?{request.url.query}" if request.url.query else "")
        if wants_fragments(request):
            return Response(status_code=401, headers={"hx-redirect": "/sign-in"})
        return RedirectResponse("/sign-in?" + urlencode({"to": target}), 303)
    # The outbox keeps what it sends; a plain form is carried through the sign-in.
    pending = None
    if not request.headers.get("x-outbox"):
        pending = Pending.of(request.url.path, list((await request.form()).multi_items()))
    back = request.url.path.rpartition("/")[0] if request.url.path.startswith("/visits/") else "/"
    station = request.headers.get("x-station", "")
    back += f"?at={station}" if station.isalpha() else ""
    name = "_sign_in_again.html" if wants_fragments(request) else "sign_in.html"
    return page(request, name, status=401, to=back, login="", pending=pending, error=why.words)


async def _second_step_due(request: Request, _: SecondStepDue) -> Response:
    if request.method in ("GET", "HEAD") and not wants_fragments(request):
        return RedirectResponse("/me/second-step", 303)
    return _said(request, 403, "One step more", "Your shop asks a second step of its leads: set it up under your name first.")


async def _in_practice(request: Request, why: InPractice) -> Response:
    back = f"/visits/{why.visit_id}" if why.visit_id else "/practice"
    return page(request, "practice/elsewhere.html", status=409, words=str(why), back=back)


async def _not_here(request: Request, error: NotHere) -> Response:
    return _said(request, 404, "Not here", str(error))


async def _not_allowed(request: Request, error: NotAllowed) -> Response:
    return _said(request, 403, "Not allowed", str(error))


async def _nothing_under_link(request: Request, why: NoSuchLink | TooManyLinks) -> Response:
    return owner.nothing_here(request, why)


async def _no_such_token(_: Request, error: NoSuchToken) -> Response:
    return api.problem(401, str(error))


async def _database_away(request: Request, _: OperationalError) -> Response:
    return _in_a_moment(request, "The database does not answer. Nothing that was kept is lost; send again in a moment.")


async def _database_busy(request: Request, _: DatabaseBusy) -> Response:
    return _in_a_moment(request, "Too much at once just now. Nothing that was kept is lost; send again in a moment.")


def _in_a_moment(request: Request, words: str) -> Response:
    answer = api.problem(503, words) if _of_api(request) else _said(request, 503, "One moment", words)
    answer.headers["retry-after"] = "2"
    return answer


async def _gone(_: Request, __: ClientDisconnect) -> Response:
    """The connection broke while a form came in: nobody is there to be answered, and nothing is wrong here."""
    return Response(status_code=_CLIENT_GONE)


async def _not_understood(request: Request, error: RequestValidationError) -> Response:
    where = ".".join(str(step) for step in error.errors()[0]["loc"][1:])
    if request.url.path.startswith(("/visits/", "/units/")) and where in ("visit_id", "unit_id"):
        return _said(request, 404, "Not here", "There is no such page in your shop.")
    return _said(request, 422, "Not understood", f"The field '{where}' cannot be read. Reload the page and try again.")


async def _http_error(request: Request, error: HTTPException) -> Response:
    if _of_api(request):
        return api.problem(error.status_code, str(error.detail))
    words = {404: "There is no such page.", 405: "This page does not take that."}
    return _said(request, error.status_code, "Not here", words.get(error.status_code, str(error.detail)))


async def _unexpected(request: Request, _: Exception) -> Response:
    if _of_api(request):
        return api.problem(500, "Something went wrong on our side; the sheet was not judged.")
    return _said(
        request,
        500,
        "Something went wrong on our side",
        "Entries shown in the timeline are kept. What you just typed may not be: look, and send it again. "
        f"Whoever runs this finds what happened under {request.scope.get(REQUEST_ID, 'no name')}.",
    )


HANDLERS: dict[int | type[Exception], Callable[[Request, Any], Coroutine[Any, Any, Response]]] = {
    SignInNeeded: _sign_in_needed,
    SecondStepDue: _second_step_due,
    InPractice: _in_practice,
    NotHere: _not_here,
    NotAllowed: _not_allowed,
    NoSuchLink: _nothing_under_link,
    TooManyLinks: _nothing_under_link,
    NoSuchToken: _no_such_token,
    OperationalError: _database_away,
    DatabaseBusy: _database_busy,
    ClientDisconnect: _gone,
    RequestValidationError: _not_understood,
    HTTPException: _http_error,
    Exception: _unexpected,
}
"""What answers each kind of error; the nearest class counts."""
