"""Live: a page's stream of news, a hub's stream of samples, and the page that connects the two."""

from __future__ import annotations

import asyncio
import json
import time
from collections.abc import AsyncIterator, Sequence
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any
from uuid import UUID

from anyio import to_thread
from fastapi import APIRouter, Header, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse, StreamingResponse
from sqlalchemy import Connection
from sqlalchemy.exc import SQLAlchemyError

from dry_gauge.core.judgement.assess import Assessment
from dry_gauge.core.probes import LatestProbe, is_fresh
from dry_gauge.core.settling import Series
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.core.words import Reader
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.present.settling import settling_of
from dry_gauge.present.visit import VisitView, judged_before
from dry_gauge.service import probes as live_probes
from dry_gauge.service.notebooks import NotAllowed, load
from dry_gauge.store import samples
from dry_gauge.store.database import see_shop
from dry_gauge.store.people import Someone
from dry_gauge.web.asked import shown_circuit, size_named
from dry_gauge.web.drawings import drawn
from dry_gauge.web.fields import FORM, Fields
from dry_gauge.web.listening import Listener, News
from dry_gauge.web.livedesk import gap_history, numbers
from dry_gauge.web.observing import Numbers
from dry_gauge.web.render import TEMPLATES, page, reader_of
from dry_gauge.web.security import SignInNeeded, engine_of, signed_in
from dry_gauge.web.stations import station_named
from dry_gauge.web.stations.pictures import ladder
from dry_gauge.web.visit_page import VisitPage

router = APIRouter()

# A page asks anew this often: a proxy may have let go of it.
_STREAM_SECONDS = 600
_HEARTBEAT_SECONDS = 15.0
_SESSION_SECONDS = 10.0
_PLOT_MINUTES = 10
_DRAWN_SECONDS, _SERIES_SECONDS = 0.9, 5.0
_MOST_BODY = 1_000_000
_RETRY_MS = 1500
_LADDER, _SETTLING = "visits/_ladder.html", "stations/read/settling.html"


def _event(name: str, data: Any) -> str:
    text = data if isinstance(data, str) else json.dumps(data)
    lines = "".join(f"data: {line}\n" for line in text.splitlines() or [""])
    return f"event: {name}\n{lines}\n"


class _Desk:
    """One open page: what it shows, so that each sample only costs what it changes."""

    def __init__(self, request: Request, visit_id: UUID, circuit: int, size: str | None, at: str) -> None:
        self.request, self.visit_id, self.circuit, self.size, self.station = request, visit_id, circuit, size, station_named(at)
        self.numbers: Numbers = request.app.state.numbers
        self.view: VisitView | None = None
        self.someone: Someone | None = None
        self.reader = Reader("F", "psi")
        self.series: dict[tuple[str, int], list[tuple[float, float]]] = {}
        self.before: Assessment | None = None
        self.drawn_at = self.settled_at = 0.0
        self.speaking = False

    def still_signed_in(self) -> bool:
        """Whether the session goes on: with it ends what the page sees."""
        try:
            with signed_in(self.request):
                return True
        except SignInNeeded:
            return False

    def load(self) -> int:
        """Look at the visit anew; its latest sequence."""
        with signed_in(self.request) as (connection, self.someone):
            self.view = load(connection, self.someone, self.visit_id)
            self.reader = reader_of(self.someone, self.view.facts)
            self.before = judged_before(self.view)
            if not self.series:
                self.recall(connection)
        return self.view.visit.sequence

    def recall(self, connection: Connection) -> None:
        """The last minutes of samples, for the plot and for drift."""
        since = datetime.now(UTC) - timedelta(minutes=_PLOT_MINUTES)
        for row in samples.recent(connection, self.visit_id, since):
            self.series.setdefault((row.quantity, row.circuit), []).append((float(row.second), row.value_si))

    def live(self) -> list[str]:
        """What the probes show now: numbers, a point of the plot, and now and then ladder and settling."""
        assert self.view is not None
        assert self.someone is not None
        with engine_of(self.request).begin() as connection:
            see_shop(connection, self.someone.shop_id)
            probes = samples.latest(connection, self.visit_id)
        now = datetime.now(UTC)
        self.remember(probes, now)
        self.speaking = any(is_fresh(probe, now) for probe in probes)
        found = live_probes.lay_over(self.view, probes, self.someone.superheat_school, now).assessment
        judged = found.circuits.get(self.circuit, found.first) if found else None
        told = [_event("live", numbers(self.view.facts, probes, judged, self.reader, now))]
        if self.station.group:
            told += self.desk()
        elif judged and self.station.pictured is ladder and time.monotonic() - self.drawn_at >= _DRAWN_SECONDS:
            self.drawn_at = time.monotonic()
            drawings = drawn(judged, self.before, self.reader, self.circuit, self.size)
            values = {"drawings": drawings, "view": self.view, "circuit": self.circuit, "oob": True}
            told.append(_event("ladder", TEMPLATES.get_template(_LADDER).render(values)))
        if _SETTLING in self.station.live and time.monotonic() - self.settled_at >= _SERIES_SECONDS:
            self.settled_at = time.monotonic()
            told.append(_event("fragments", self.settling(now)))
        return told

    def page(self, connection: Connection) -> VisitPage:
        """The page that looks on."""
        assert self.view is not None
        assert self.someone is not None
        return VisitPage(connection, self.view, self.someone, self.reader, self.station, self.circuit, self.size)

    def desk(self) -> list[str]:
        """What a live scale or vacuum gauge changes at a desk: its picture and the number above it."""
        if not self.station.live or time.monotonic() - self.drawn_at < _DRAWN_SECONDS:
            return []
        self.drawn_at = time.monotonic()
        assert self.someone is not None
        with engine_of(self.request).begin() as connection:
            see_shop(connection, self.someone.shop_id)
            parts = self.page(connection).live()
        texts = (TEMPLATES.get_template(name).render({**values, "oob": True}) for name, values in parts)
        return [_event("fragments", "".join(texts))]

    def remember(self, probes: Sequence[LatestProbe], now: datetime) -> None:
        """Keep a point of each probe every few seconds, for as long as the plot is."""
        second = now.timestamp()
        for probe in probes:
            if not is_fresh(probe, now) or probe.value_si is None:
                continue
            line = self.series.setdefault((probe.quantity, probe.circuit), [])
            if not line or second - line[-1][0] >= _SERIES_SECONDS - 0.5:
                line.append((second, probe.value_si))
            while line[0][0] < second - 60 * _PLOT_MINUTES:
                line.pop(0)

    def lines(self, now: datetime) -> dict[str, Series]:
        """This circuit's points by quantity, in minutes before now; what all circuits share comes from wherever it is."""
        return {
            quantity: [((at - now.timestamp()) / 60, value) for at, value in line]
            for (quantity, circuit), line in self.series.items()
            if circuit == self.circuit or (quantity in QUANTITIES and QUANTITIES[quantity].shared)
        }

    def settling(self, now: datetime) -> str:
        """Ready or not, by what the probes did in the last minutes."""
        assert self.view is not None
        assert self.someone is not None
        read_at = self.view.state[Running].read_at
        since_read = (now - read_at).total_seconds() / 60 if read_at else 0.0
        found = settling_of(self.view.state, self.view.facts, self.lines(now), since_read)
        with engine_of(self.request).begin() as connection:
            values = self.page(connection).progress
        return TEMPLATES.get_template(_SETTLING).render({**values, "settling": found, "oob": True})

    def history(self) -> list[str]:
        """The plot as it was before this page was opened."""
        assert self.view is not None
        now = datetime.now(UTC)
        return (
            [_event("history", gap_history(self.lines(now), self.view.facts, self.reader, now))] if self.series else []
        )


@router.get("/visits/{visit_id}/live")
async def stream(
    request: Request, visit_id: UUID, circuit: int = 1, size: str = "", at: str = "", seen: int = 0
) -> Response:
    """News of a visit as server-sent events, until the page goes or its time is up."""
    desk = _Desk(request, visit_id, shown_circuit(circuit), size_named(size), at)
    sequence = await to_thread.run_sync(desk.load)
    listener: Listener = request.app.state.listener
    return StreamingResponse(
        _news(desk, listener, sequence, seen), media_type="text/event-stream",
        headers={"cache-control": "no-store", "x-accel-buffering": "no"},
    )  # fmt: skip


async def _news(desk: _Desk, listener: Listener, sequence: int, seen: int) -> AsyncIterator[str]:
    yield f"retry: {_RETRY_MS}\n\n"
    if sequence > seen:
        yield _event("changed", {"sequence": sequence})
    try:
        with desk.numbers.streams.track_inprogress():
            async for told in _as_it_comes(desk, listener):
                yield told
    except (SQLAlchemyError, SignInNeeded):
        return  # the page asks again by itself, and is told what is wrong then


async def _as_it_comes(desk: _Desk, listener: Listener) -> AsyncIterator[str]:
    ends = time.monotonic() + _STREAM_SECONDS
    async with listener.of_visit(desk.visit_id) as queue:
        for told in await to_thread.run_sync(desk.history):
            yield told
        looked = time.monotonic()
        while time.monotonic() < ends and not listener.ending:
            if time.monotonic() - looked >= _SESSION_SECONDS:
                looked = time.monotonic()
                if not await to_thread.run_sync(desk.still_signed_in):
                    return
            try:
                news: list[News] = [await asyncio.wait_for(queue.get(), _HEARTBEAT_SECONDS)]
            except TimeoutError:
                yield ": still here\n\n"
                # A hub that falls silent sends no news of it: what the page shows as live must go all the same.
                for told in await to_thread.run_sync(desk.live) if desk.speaking else ():
                    yield told
                continue
            while not queue.empty():
                news.append(queue.get_nowait())
            if any("samples" not in one for one in news):
                sequence = await to_thread.run_sync(desk.load)
                yield _event("changed", {"sequence": sequence})
            if any("sequence" not in one for one in news):
                for told in await to_thread.run_sync(desk.live):
                    yield told


# -- hubs -----------------------------------------------------------------


def _bearer(authorization: str) -> str:
    scheme, _, token = authorization.partition(" ")
    if scheme.lower() != "bearer" or not token.strip():
        raise live_probes.NoSuchToken("Send the visit's token as 'Authorization: Bearer ...'.")
    return token.strip()


def _hub_name(hub: str) -> str:
    return (
        "".join(letter for letter in hub if letter.isalnum() or letter in "-_. ")[: live_probes.HUB_NAME_LENGTH]
        or "hub"
    )


@router.get("/api/v1/visits/{visit_id}/probes/position")
def position(
    request: Request, visit_id: UUID, hub: str = "hub", authorization: Annotated[str, Header()] = ""
) -> Response:
    """Where a hub goes on, and the unit's card for hubs that simulate one."""
    with engine_of(request).begin() as connection:
        shop_id, visit = live_probes.open_visit(connection, _bearer(authorization), visit_id)
        acknowledged, _ = samples.lock_hub(connection, shop_id, visit.id, _hub_name(hub))
    return JSONResponse(
        {"acknowledged": acknowledged, "unit": visit.facts, "tag": visit.tag, **visit.at_work}
    )


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
        return {"acknowledged": batch.acknowledged, "gap": batch.gap, "repeated": batch.repeated,
                "refused": batch.refused[:50], **visit.at_work}  # fmt: skip

    return JSONResponse(await to_thread.run_sync(keep))


def _probes_page(
    request: Request, connection: Connection, someone: Someone, visit_id: UUID, token: str = "", command: str = ""
) -> Response:
    view = load(connection, someone, visit_id)
    return page(request, "visits/probes.html", someone=someone, visit=view.visit, token=token, command=command,
                probes=samples.latest(connection, visit_id), tokens=samples.tokens_of(connection, visit_id),
                now=datetime.now(UTC))  # fmt: skip


@router.get("/visits/{visit_id}/probes")
def show_probes(request: Request, visit_id: UUID) -> Response:
    """How to connect probes to this visit."""
    with signed_in(request) as (connection, someone):
        return _probes_page(request, connection, someone, visit_id)


def _connecting(someone: Someone) -> Someone:
    if not someone.may_write:
        raise NotAllowed("Your role reads along; a technician or lead connects probes.")
    return someone


@router.post("/visits/{visit_id}/probes")
def make_token(request: Request, visit_id: UUID) -> Response:
    """A token for a hub, shown once."""
    with signed_in(request) as (connection, someone):
        token = live_probes.make_token(connection, _connecting(someone), visit_id)
        server = str(request.base_url).rstrip("/")
        command = f".venv/bin/dry-gauge probes --server {server} --visit {visit_id} --token {token}"
        return _probes_page(request, connection, someone, visit_id, token, command)


@router.post("/visits/{visit_id}/probes/end")
def end_token(request: Request, visit_id: UUID, fields: Fields = FORM) -> Response:
    """A token ends at once: what its hub sends is refused."""
    with signed_in(request) as (connection, someone):
        live_probes.end_token(connection, _connecting(someone), visit_id, fields.get("token", ""))
    return RedirectResponse(f"/visits/{visit_id}/probes", 303)
