"""Live: a page's stream of news, a hub's stream of samples, and the page that connects the two."""

from __future__ import annotations

import asyncio
import time
from collections.abc import AsyncIterator
from datetime import UTC, datetime
from typing import Annotated, Any
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Header, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse, StreamingResponse
from sqlalchemy import Connection
from sqlalchemy.exc import SQLAlchemyError

from dry_gauge.service import probes as live_probes
from dry_gauge.service.allowed import writer
from dry_gauge.service.notebooks import load
from dry_gauge.store import samples
from dry_gauge.store.people import Someone
from dry_gauge.web.asked import shown_circuit, size_named
from dry_gauge.web.feeds import Feeds, Looking, TooManyPages, event
from dry_gauge.web.fields import FORM, Fields
from dry_gauge.web.render import page
from dry_gauge.web.security import SignInNeeded, engine_of, signed_in
from dry_gauge.web.stations import station_named

router = APIRouter()

# A page asks anew this often: a proxy may have let go of it.
_STREAM_SECONDS = 600
_HEARTBEAT_SECONDS = 10.0
_MOST_BODY = 1_000_000
_RETRY_MS = 1500


@router.get("/visits/{visit_id}/live")
async def stream(request: Request, visit_id: UUID, circuit: int = 1, size: str = "", at: str = "", seen: int = 0) -> Response:
    """News of a visit as server-sent events, until the page goes or its time is up."""

    def allowed() -> Someone:
        with signed_in(request) as (connection, someone):
            load(connection, someone, visit_id)
        return someone

    someone = await to_thread.run_sync(allowed)
    looking = Looking(visit_id, shown_circuit(circuit), size_named(size), station_named(at).name)
    feeds: Feeds = request.app.state.feeds
    try:
        feeds.check_room(someone, looking)
    except TooManyPages as refusal:
        return Response(str(refusal), 503, media_type="text/plain", headers={"retry-after": "60"})
    return StreamingResponse(
        _news(request, someone, looking, seen),
        media_type="text/event-stream",
        headers={"cache-control": "no-store", "x-accel-buffering": "no"},
    )


async def _news(request: Request, someone: Someone, looking: Looking, seen: int) -> AsyncIterator[str]:
    feeds: Feeds = request.app.state.feeds
    try:
        async with feeds.join(someone, looking) as (feed, queue):
            yield f"retry: {_RETRY_MS}\n\n"
            await asyncio.shield(feed.begun)
            if feed.sequence > seen:  # as it stands now: this page may have been drawn before others' latest news
                yield event("changed", {"sequence": feed.sequence})
            for told in await to_thread.run_sync(feed.desk.history):
                yield told
            async for told in _as_it_comes(request, queue):
                yield told
    except SQLAlchemyError:
        return  # the page asks again by itself, and is told what is wrong then


async def _as_it_comes(request: Request, queue: asyncio.Queue[str | None]) -> AsyncIterator[str]:
    looked = began = time.monotonic()
    while time.monotonic() - began < _STREAM_SECONDS:
        if time.monotonic() - looked >= _HEARTBEAT_SECONDS:  # what the page sees ends with its session
            looked = time.monotonic()
            if not await to_thread.run_sync(lambda: _still_signed_in(request)):
                return
        try:
            told = await asyncio.wait_for(queue.get(), _HEARTBEAT_SECONDS)
        except TimeoutError:
            told = ": still here\n\n"
        if told is None:
            return
        yield told


def _still_signed_in(request: Request) -> bool:
    try:
        with signed_in(request):
            return True
    except SignInNeeded:
        return False


# -- hubs -----------------------------------------------------------------


def _bearer(authorization: str) -> str:
    scheme, _, token = authorization.partition(" ")
    if scheme.lower() != "bearer" or not token.strip():
        raise live_probes.NoSuchToken("Send the visit's token as 'Authorization: Bearer ...'.")
    return token.strip()


def _hub_name(hub: str) -> str:
    return "".join(letter for letter in hub if letter.isalnum() or letter in "-_. ")[: live_probes.HUB_NAME_LENGTH] or "hub"


@router.get("/api/v1/visits/{visit_id}/probes/position")
def position(request: Request, visit_id: UUID, hub: str = "hub", authorization: Annotated[str, Header()] = "") -> Response:
    """Where a hub goes on, and the unit's card for hubs that simulate one."""
    with engine_of(request).begin() as connection:
        shop_id, visit = live_probes.open_visit(connection, _bearer(authorization), visit_id)
        acknowledged, _ = samples.lock_hub(connection, shop_id, visit.id, _hub_name(hub))
    return JSONResponse({"acknowledged": acknowledged, "unit": visit.facts, "tag": visit.tag, **visit.at_work})


@router.post("/api/v1/visits/{visit_id}/probes/samples")
async def take_samples(
    request: Request, visit_id: UUID, hub: str = "hub", authorization: Annotated[str, Header()] = ""
) -> Response:
    """Samples of a hub, as JSON lines; answered once they are kept."""
    token, body = _bearer(authorization), b""
    async for chunk in request.stream():
        body += chunk
        if len(body) > _MOST_BODY:
            return JSONResponse({"error": "More than 1 MB at once; send less at a time."}, 413)

    def keep() -> dict[str, Any]:
        with engine_of(request).begin() as connection:
            shop_id, visit = live_probes.open_visit(connection, token, visit_id)
            batch = live_probes.take_in(connection, shop_id, visit, _hub_name(hub), body, datetime.now(UTC))
        return {
            "acknowledged": batch.acknowledged,
            "gap": batch.gap,
            "repeated": batch.repeated,
            "refused": batch.refused[:50],
            **visit.at_work,
        }

    return JSONResponse(await to_thread.run_sync(keep))


def _probes_page(
    request: Request, connection: Connection, someone: Someone, visit_id: UUID, token: str = "", command: str = ""
) -> Response:
    view = load(connection, someone, visit_id)
    return page(
        request,
        "visits/probes.html",
        someone=someone,
        visit=view.visit,
        token=token,
        command=command,
        probes=samples.latest(connection, visit_id),
        tokens=samples.tokens_of(connection, visit_id),
        now=datetime.now(UTC),
    )


@router.get("/visits/{visit_id}/probes")
def show_probes(request: Request, visit_id: UUID) -> Response:
    """How to connect probes to this visit."""
    with signed_in(request) as (connection, someone):
        return _probes_page(request, connection, someone, visit_id)


@router.post("/visits/{visit_id}/probes")
def make_token(request: Request, visit_id: UUID) -> Response:
    """A token for a hub, shown once."""
    with signed_in(request) as (connection, someone):
        token = live_probes.make_token(connection, writer(someone, "connects probes"), visit_id)
        server = str(request.base_url).rstrip("/")
        command = f".venv/bin/dry-gauge probes --server {server} --visit {visit_id} --token {token}"
        return _probes_page(request, connection, someone, visit_id, token, command)


@router.post("/visits/{visit_id}/probes/end")
def end_token(request: Request, visit_id: UUID, fields: Fields = FORM) -> Response:
    """A token ends at once: what its hub sends is refused."""
    with signed_in(request) as (connection, someone):
        live_probes.end_token(connection, writer(someone, "connects probes"), visit_id, fields.get("token", ""))
    return RedirectResponse(f"/visits/{visit_id}/probes", 303)
