"""The web application: routes, static files, security headers, and what each kind of error says."""

from __future__ import annotations

import asyncio
import logging
import re
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any, cast

from anyio import to_thread
from fastapi import FastAPI, Response
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Receive, Scope, Send
from uvicorn.middleware.proxy_headers import ProxyHeadersMiddleware

from dry_gauge.core.local_time import served
from dry_gauge.service.apart import Apart
from dry_gauge.service.jobs import JobWorker
from dry_gauge.service.owners import LinkSigner
from dry_gauge.service.pictures import LabelReader, PictureWorker
from dry_gauge.service.second_step import Keeper
from dry_gauge.store.database import check_role, connect
from dry_gauge.store.samples import keep_days
from dry_gauge.web import errors
from dry_gauge.web.drawn_once import DrawnOnce
from dry_gauge.web.feeds import Feeds
from dry_gauge.web.form_token import FormGuard
from dry_gauge.web.job_pdf import pdf_maker
from dry_gauge.web.listening import Listener
from dry_gauge.web.observing import Numbers, Observed
from dry_gauge.web.render import STATIC, scripts_digest
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
from dry_gauge.web.security import SecurityHeaders
from dry_gauge.web.settings import Settings
from dry_gauge.web.styles import STYLE_SHEET, style_sheet
from dry_gauge.web.turns import TakingTurns

_DAYS_CHECKED_SECONDS = 3600
_PRESS_SECONDS = 90
# One interpreter works on one request at a time: more threads than this only take turns more often, and everyone waits
# longer (measured: 32 pages posting to one visit).
_AT_ONCE = 6

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

    app = FastAPI(
        title="Dry Gauge", lifespan=lifespan, docs_url=None, redoc_url=None, openapi_url=None, exception_handlers=errors.HANDLERS
    )
    app.state.settings = settings
    app.state.engine = connect(settings.database_url, pooled=bool(settings.listen_url))
    app.state.pictures, app.state.labels, app.state.press = PictureWorker(), LabelReader(), Apart(_PRESS_SECONDS)
    app.state.jobs = JobWorker(app.state.engine, pdf_maker(app.state.press))
    app.state.drawings = DrawnOnce()
    app.state.keeper = Keeper(settings.secret_key)
    app.state.links = LinkSigner(settings.secret_key)
    app.state.numbers = Numbers(app.state.engine)
    for routes in (
        entries,
        shell,
        sign_in,
        board,
        here,
        people,
        register,
        cards,
        codes,
        labels,
        shop,
        cylinders,
        units,
        visits,
        proof,
        photos,
        live,
        why,
        pocket,
        sheet,
        season,
        api,
        me,
        owner,
        offers,
        prices,
        plan,
        parts,
        warranties,
        files,
        survey,
        red_tag,
        watch,
        practice,
    ):
        app.include_router(routes.router)
    app.include_router(files.tables)
    if settings.patterns:
        app.include_router(patterns.router)
    app.mount("/static", KeptFiles(directory=STATIC), name="static")
    protected = FormGuard(TakingTurns(app, errors.come_again), settings.secret_key, errors.not_from_our_page)
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
