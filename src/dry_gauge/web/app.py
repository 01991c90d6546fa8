"""The web application: routes, static files, security headers, and what each kind of error says."""

from __future__ import annotations

import asyncio
import logging
import re
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any, cast
from urllib.parse import urlencode

from anyio import to_thread
from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import RedirectResponse
from sqlalchemy import Engine
from sqlalchemy.exc import OperationalError, SQLAlchemyError
from sqlalchemy.exc import TimeoutError as DatabaseBusy
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.requests import ClientDisconnect
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Message, Receive, Scope, Send
from uvicorn.middleware.proxy_headers import ProxyHeadersMiddleware

from dry_gauge.core.local_time import served
from dry_gauge.service.allowed import NotAllowed, NotHere
from dry_gauge.service.apart import Apart
from dry_gauge.service.jobs import JobWorker
from dry_gauge.service.owners import LinkSigner, NoSuchLink, TooManyLinks
from dry_gauge.service.pictures import LabelReader, PictureWorker
from dry_gauge.service.probes import NoSuchToken
from dry_gauge.service.second_step import Keeper
from dry_gauge.store.database import check_role, connect
from dry_gauge.store.samples import keep_days
from dry_gauge.web.drawn_once import DrawnOnce
from dry_gauge.web.feeds import Feeds
from dry_gauge.web.form_token import FormGuard
from dry_gauge.web.job_pdf import pdf_maker
from dry_gauge.web.listening import Listener
from dry_gauge.web.observing import REQUEST_ID, Numbers, Observed
from dry_gauge.web.pending import Pending
from dry_gauge.web.render import STATIC, page, scripts_digest, wants_fragments
from dry_gauge.web.routes import (
    api,
    board,
    cards,
    codes,
    cylinders,
    entries,
    files,
    here,
    labels,
    live,
    me,
    offers,
    owner,
    parts,
    patterns,
    people,
    photos,
    plan,
    pocket,
    practice,
    prices,
    proof,
    red_tag,
    register,
    season,
    sheet,
    shell,
    shop,
    sign_in,
    survey,
    units,
    visits,
    warranties,
    watch,
    why,
)
from dry_gauge.web.security import InPractice, SecondStepDue, SecurityHeaders, SignInNeeded
from dry_gauge.web.settings import Settings
from dry_gauge.web.styles import STYLE_SHEET, style_sheet
from dry_gauge.web.turns import TakingTurns

_DAYS_CHECKED_SECONDS = 3600
_PRESS_SECONDS = 90
_CLIENT_GONE = 499  # by the habit of proxies; only our log and numbers see it
# One interpreter works on one request at a time: more threads than this only take turns more often, and everyone waits
# longer (measured: 32 pages posting to one visit).
_AT_ONCE = 6
EXPIRED_HEADER = "x-token-expired"
"""Tells a page's script to fetch a new token and send again. Pages of the release before look for the words instead."""


_SCRIPTS = re.compile(r"scripts/([0-9a-f]{10})/([a-z]+\.js)")


class KeptFiles(StaticFiles):
    """Static files that a browser may keep for ever: their addresses carry a fingerprint.

    Script modules carry it in their path, since they name each other; another release's is answered by today's.
    """

    async def get_response(self, path: str, scope: Scope) -> Response:
        """One file."""
        fingerprint = _SCRIPTS.fullmatch(path)
        if path == STYLE_SHEET:
            response = Response(style_sheet(), media_type="text/css")
        else:
            response = await super().get_response(f"scripts/{fingerprint[2]}" if fingerprint else path, scope)
        today = fingerprint is not None and fingerprint[1] == scripts_digest()
        if today or b"v=" in scope.get("query_string", b""):
            response.headers["cache-control"] = "public, max-age=31536000, immutable"
        elif path.endswith(".woff2"):  # named by the stylesheet, which knows no fingerprints
            response.headers["cache-control"] = "public, max-age=604800"
        else:
            response.headers["cache-control"] = "no-cache"  # kept, and asked about
        return response


def create_app(settings: Settings) -> ASGIApp:
    """The application, ready to serve.

    Raises
    ------
    WrongRole
        When started (not here) with a database role that row-level security does not bind.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        check_role(app.state.engine)
        to_thread.current_default_thread_limiter().total_tokens = _AT_ONCE
        app.state.listener = Listener(settings.listen_url or settings.database_url)
        feeds = app.state.feeds = Feeds(app.state.engine, app.state.listener)
        app.state.numbers.streams.set_function(lambda: len(feeds.people))
        keeper = asyncio.create_task(_keep_sample_days(app.state.engine))
        app.state.jobs.start()
        async with app.state.listener.running():
            yield
        keeper.cancel()
        app.state.jobs.close()
        app.state.pictures.close()
        app.state.labels.close()
        app.state.press.close()
        app.state.engine.dispose()

    app = FastAPI(title="Dry Gauge", lifespan=lifespan, docs_url=None, redoc_url=None, openapi_url=None)
    app.state.settings = settings
    app.state.engine = connect(settings.database_url, pooled=bool(settings.listen_url))
    app.state.pictures, app.state.labels, app.state.press = PictureWorker(), LabelReader(), Apart(_PRESS_SECONDS)
    app.state.jobs = JobWorker(app.state.engine, pdf_maker(app.state.press))
    app.state.drawings = DrawnOnce()
    app.state.keeper = Keeper(settings.secret_key)
    app.state.links = LinkSigner(settings.secret_key)
    app.state.numbers = Numbers(app.state.engine)
    for routes in (
        entries, shell, sign_in, board, here, people, register, cards, codes, labels, shop, cylinders, units, visits, proof,
        photos, live, why, pocket, sheet, season, api, me, owner, offers, prices, plan, parts, warranties, files, survey, red_tag,
        watch, practice,
    ):  # fmt: skip
        app.include_router(routes.router)
    app.include_router(files.tables)
    if settings.patterns:
        app.include_router(patterns.router)
    app.mount("/static", KeptFiles(directory=STATIC), name="static")
    _say_errors(app)
    protected = FormGuard(TakingTurns(app, _come_again), settings.secret_key, _not_from_our_page)
    whole = SecurityHeaders(GZipMiddleware(protected, minimum_size=700, compresslevel=2), settings.allowed_hosts)
    return from_trusted_proxies(Observed(ByTheShopsClock(whole), app.state.numbers), settings.trusted_proxies)


class ByTheShopsClock:
    """Gives each request a clock of its own, set by whoever turns out to be signed in."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request through."""
        with served():
            await self.app(scope, receive, send)


def from_trusted_proxies(app: ASGIApp, trusted: str) -> ASGIApp:
    """Believe X-Forwarded-For and X-Forwarded-Proto, but only of those addresses; of nobody where there are none."""
    return cast(ASGIApp, ProxyHeadersMiddleware(cast(Any, app), trusted_hosts=trusted)) if trusted else app


async def _keep_sample_days(engine: Engine) -> None:
    """Partitions of live samples for the days ahead; days past the retention go."""
    while True:
        try:
            await to_thread.run_sync(lambda: _keep_days(engine))
        except SQLAlchemyError:  # PostgreSQL is away; samples of a day without a partition are kept as well
            logging.getLogger(__name__).warning("The days of live samples could not be seen to; trying again.")
        await asyncio.sleep(_DAYS_CHECKED_SECONDS)


def _keep_days(engine: Engine) -> None:
    with engine.begin() as connection:
        keep_days(connection)


async def _not_from_our_page(scope: Scope, send: Send) -> None:
    request = Request(scope)
    words = "This page is older than your browser's permission to send. Reload it, then send again; nothing was changed."
    if not request.headers.get("cookie"):
        words = "Your browser sent no cookie back. Allow cookies for this address, or open it over https; nothing was changed."
    answer = page(request, "error.html", status=403, heading="Not sent", words=words, back="/")
    answer.headers[EXPIRED_HEADER] = "1"
    await answer(scope, _no_body, send)


async def _come_again(scope: Scope, send: Send) -> None:
    words = "Too many write to this visit just now. Nothing that was kept is lost; send again in a moment."
    answer = page(Request(scope), "error.html", status=503, heading="One moment", words=words, back="/")
    answer.headers["retry-after"] = "2"
    await answer(scope, _no_body, send)


async def _no_body() -> Message:
    return {"type": "http.disconnect"}


def _say_errors(app: FastAPI) -> None:
    """Every error as words: what is wrong and what to do, never a trace."""

    def said(request: Request, status: int, heading: str, words: str) -> Response:
        return page(request, "error.html", status=status, heading=heading, words=words, back="/")

    @app.exception_handler(SignInNeeded)
    async def sign_in_needed(request: Request, why: Exception) -> Response:
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
        return page(request, name, status=401, to=back, login="", pending=pending,
                    error=why.words if isinstance(why, SignInNeeded) else "")  # fmt: skip

    @app.exception_handler(SecondStepDue)
    async def second_step_due(request: Request, _: Exception) -> Response:
        if request.method in ("GET", "HEAD") and not wants_fragments(request):
            return RedirectResponse("/me/second-step", 303)
        return said(request, 403, "One step more", "Your shop asks a second step of its leads: set it up under your name first.")

    @app.exception_handler(InPractice)
    async def in_practice(request: Request, why: Exception) -> Response:
        assert isinstance(why, InPractice)
        back = f"/visits/{why.visit_id}" if why.visit_id else "/practice"
        return page(request, "practice/elsewhere.html", status=409, words=str(why), back=back)

    @app.exception_handler(NotHere)
    async def not_here(request: Request, error: Exception) -> Response:
        return said(request, 404, "Not here", str(error))

    @app.exception_handler(NotAllowed)
    async def not_allowed(request: Request, error: Exception) -> Response:
        return said(request, 403, "Not allowed", str(error))

    @app.exception_handler(NoSuchLink)
    @app.exception_handler(TooManyLinks)
    async def nothing_under_link(request: Request, why: Exception) -> Response:
        assert isinstance(why, NoSuchLink | TooManyLinks)
        return owner.nothing_here(request, why)

    @app.exception_handler(NoSuchToken)
    async def no_such_token(request: Request, error: Exception) -> Response:
        return api.problem(401, str(error))

    def in_a_moment(request: Request, words: str) -> Response:
        answer = api.problem(503, words) if request.url.path.startswith("/api/") else said(request, 503, "One moment", words)
        answer.headers["retry-after"] = "2"
        return answer

    @app.exception_handler(OperationalError)
    async def database_away(request: Request, _: Exception) -> Response:
        return in_a_moment(request, "The database does not answer. Nothing that was kept is lost; send again in a moment.")

    @app.exception_handler(DatabaseBusy)
    async def database_busy(request: Request, _: Exception) -> Response:
        return in_a_moment(request, "Too much at once just now. Nothing that was kept is lost; send again in a moment.")

    @app.exception_handler(ClientDisconnect)
    async def gone(_: Request, __: Exception) -> Response:
        """The connection broke while a form came in: nobody is there to be answered, and nothing is wrong here."""
        return Response(status_code=_CLIENT_GONE)

    @app.exception_handler(RequestValidationError)
    async def not_understood(request: Request, error: Exception) -> Response:
        assert isinstance(error, RequestValidationError)
        where = ".".join(str(step) for step in error.errors()[0]["loc"][1:])
        if request.url.path.startswith(("/visits/", "/units/")) and where in ("visit_id", "unit_id"):
            return said(request, 404, "Not here", "There is no such page in your shop.")
        return said(
            request, 422, "Not understood", f"The field '{where}' cannot be read. Reload the page and try again."
        )

    @app.exception_handler(HTTPException)
    async def http_error(request: Request, error: Exception) -> Response:
        assert isinstance(error, HTTPException)
        if request.url.path.startswith("/api/"):
            return api.problem(error.status_code, str(error.detail))
        words = {404: "There is no such page.", 405: "This page does not take that."}
        return said(request, error.status_code, "Not here", words.get(error.status_code, str(error.detail)))

    @app.exception_handler(Exception)
    async def unexpected(request: Request, _: Exception) -> Response:
        if request.url.path.startswith("/api/"):
            return api.problem(500, "Something went wrong on our side; the sheet was not judged.")
        return said(
            request,
            500,
            "Something went wrong on our side",
            "Entries shown in the timeline are kept. What you just typed may not be: look, and send it again. "
            f"Whoever runs this finds what happened under {request.scope.get(REQUEST_ID, 'no name')}.",
        )
