"""Sending entries: each answers with the changed fragments only, and only once it is committed."""

from __future__ import annotations

import logging
from collections.abc import Hashable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from functools import partial
from threading import Lock
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Depends, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS
from dry_gauge.notebook.kind import Body, sweeps
from dry_gauge.notebook.state import LONGEST_WAIT
from dry_gauge.notebook.subjects.clock import CLOCK_WORDS, ClockBody
from dry_gauge.notebook.subjects.mode import ModeBody
from dry_gauge.notebook.subjects.movements import MovementBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.readings import ReadingBody
from dry_gauge.notebook.subjects.vacuum import VacuumEvent, VacuumEventBody
from dry_gauge.present.rows import row_of, sight_row
from dry_gauge.present.visit import VisitView
from dry_gauge.service.allowed import NotAllowed
from dry_gauge.service.append import MOST_AT_ONCE, Appended, IdTaken, Sent, Taken, append, append_all
from dry_gauge.service.notebooks import as_seen_by, judged, load
from dry_gauge.service.sealed_live import keep_trace
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import TimelineRow, find_entry, stands_on_top, timeline
from dry_gauge.web.asked import (
    circuit_asked,
    device_time,
    page_size,
    possible,
    seen_until,
    sender_named,
    sender_of,
    station_asked,
    waited,
)
from dry_gauge.web.drawn_once import DrawnOnce
from dry_gauge.web.forms import body_of
from dry_gauge.web.refusals import Refusal, refusal_of
from dry_gauge.web.render import Fragment, for_another_page, fragments, fragments_text, page, reader_of, wants_fragments
from dry_gauge.web.security import looking, signed_in
from dry_gauge.web.stations import station_named
from dry_gauge.web.timeline import TIMELINE_LENGTH, new_lines, timeline_part
from dry_gauge.web.turns import turn_over
from dry_gauge.web.typed import EntryForm, entry_form, form_of
from dry_gauge.web.visit_page import VisitPage
from dry_gauge.web.weights import doubt_slip

router = APIRouter(prefix="/visits")

# Kinds that change nothing but the judgement; anything else may change anything.
_CHANGES_ONLY_THE_JUDGEMENT = frozenset({"reading", "clock", "override", "aside", "out_of_reach"})
KEPT = "It is kept. What it changed could not be drawn: reload the page."
_NO_WORDS = Refusal("", 422)
log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class _Kept:
    """What became of an entry that was sent, and the visit as it then stood; one that was refused has neither."""

    someone: Someone
    circuit: int
    appended: Appended | None = None
    taken: Taken | None = None
    refusal: Refusal = _NO_WORDS

    def view(self) -> VisitView:
        """The visit as it stood just after it, judged."""
        assert self.appended is not None
        found = judged(self.appended.visit, self.appended.state, self.someone.superheat_school)
        return as_seen_by(self.someone, found)


@router.post("/{visit_id}/entries")
async def add_entry(request: Request, visit_id: UUID, form: Annotated[EntryForm, Depends(entry_form)]) -> Response:
    """Keep one entry. What it changed is judged and drawn once it is committed.

    What changes no more than the judgement is drawn out of turn: nobody waits to write meanwhile, and whoever wrote meanwhile
    and sees the visit in the same way gets the same drawing.
    """
    kept = await run_in_threadpool(_keep, request, visit_id, form)
    if kept.taken is None or request.headers.get("x-quiet") or not wants_fragments(request) or not _only_judged(form, kept.taken):
        return await run_in_threadpool(_answer, request, visit_id, form, kept)
    turn = await turn_over(request)
    drawings: DrawnOnce = request.app.state.drawings
    assert kept.appended is not None
    try:
        what, sequence = (visit_id, _as_seen(request, kept)), kept.appended.state.sequence
        drawn = await drawings.drawn(what, sequence, partial(_drawn_after_reading, request, kept), behind=turn)
        return await run_in_threadpool(_answer_drawn, request, form, kept, drawn)
    except Exception:
        return _not_drawn(request)


def _keep(request: Request, visit_id: UUID, form: EntryForm) -> _Kept:
    with signed_in(request) as (connection, someone):
        circuit = form.circuit or circuit_asked(request)
        try:
            body, now = body_of(form), someone.now()
            _before(connection, someone, visit_id, form, body, now)
            sent = Sent(form.entry_id, body, waited(request), sender_of(request), device_time(request))
            return _Kept(someone, circuit, *append(connection, someone, visit_id, sent, now))
        except (Refused, IdTaken, NotAllowed) as problem:
            return _Kept(someone, circuit, refusal=refusal_of(problem))


def _answer(request: Request, visit_id: UUID, form: EntryForm, kept: _Kept) -> Response:
    """Everything that an entry changed, or why it was not kept."""
    someone, taken, refusal = kept.someone, kept.taken, kept.refusal
    if taken and request.headers.get("x-quiet"):
        return Response(status_code=204)
    if not wants_fragments(request):
        if taken is None:
            return page(
                request,
                "error.html",
                status=refusal.status,
                someone=someone,
                heading="Not kept",
                words=refusal.error,
                back=f"/visits/{visit_id}",
            )
        return RedirectResponse(f"/visits/{visit_id}?at={station_named(station_asked(request)).name}", 303)
    if taken is None:
        with looking(request, someone) as connection:
            view = load(connection, someone, visit_id)
            return _refused(request, _page(request, connection, view, someone, kept.circuit), form, refusal)
    try:  # around the connection too: where it broke, there is nothing left to end
        with looking(request, someone) as connection:
            return _changed(request, _page(request, connection, kept.view(), someone, kept.circuit), form, taken)
    except Exception:
        return _not_drawn(request)


def _not_drawn(request: Request) -> Response:
    log.exception("An entry was kept, and what it changed could not be drawn.")
    return fragments(request, ("visits/_problem.html", {"error": KEPT}))


@dataclass(frozen=True, slots=True)
class _Drawn:
    """What a visit's judgement looks like after an entry, and the visit that it was drawn of; lines by what a page shows."""

    view: VisitView
    text: str
    lines: dict[int | None, str] = field(default_factory=dict)
    turn: Lock = field(default_factory=Lock)


def _as_seen(request: Request, kept: _Kept) -> Hashable:
    """All that the drawing after a reading depends on besides the visit: two for whom this is the same see the same."""
    someone = kept.someone
    own = someone.person_id if someone.practice or someone.helps else None
    return (
        own,
        someone.shop_id,
        someone.superheat_school,
        someone.may_write,
        reader_of(someone),
        station_named(station_asked(request)).name,
        kept.circuit,
        page_size(request),
    )


def _drawn_after_reading(request: Request, kept: _Kept) -> _Drawn:
    with looking(request, kept.someone) as connection:
        shows = _page(request, connection, kept.view(), kept.someone, kept.circuit)
        return _Drawn(shows.view, fragments_text(request, *shows.after_reading()))


def _answer_drawn(request: Request, form: EntryForm, kept: _Kept, drawn: _Drawn) -> Response:
    """An entry's own line and field, before what was drawn for everybody who sees the visit in this way."""
    assert kept.taken is not None
    with looking(request, kept.someone) as connection:
        shows = _page(request, connection, drawn.view, kept.someone, kept.circuit)
        seen = seen_until(request)
        with drawn.turn:  # pages that were last drawn together lack the same lines
            if seen not in drawn.lines:
                drawn.lines[seen] = fragments_text(request, *_lines(seen, shows, kept.taken))
        beside = fragments_text(request, *_beside(shows, form, kept.taken))
    lines, rest = (for_another_page(request, text) for text in (drawn.lines[seen], drawn.text))
    return HTMLResponse(lines + beside + rest)


class TogetherEntry(BaseModel):
    """One of several entries that waited."""

    model_config = ConfigDict(extra="forbid")
    writer: UUID
    waited_ms: Annotated[int, Field(ge=0, le=10**13)] = 0
    device_time: datetime | None = None
    fields: Annotated[list[tuple[str, str]], Field(max_length=60)]


class Together(BaseModel):
    """Entries of one visit that waited in one browser, in their order."""

    model_config = ConfigDict(extra="forbid")
    sender: Annotated[str, Field(max_length=40)] = ""
    entries: Annotated[list[TogetherEntry], Field(max_length=MOST_AT_ONCE)]


@router.post("/{visit_id}/entries/together")
def add_together(request: Request, visit_id: UUID, together: Together) -> JSONResponse:
    """Keep what waited: one transaction, each entry answered by itself, none in another's name."""
    sender = sender_named(together.sender)
    answers: dict[int, tuple[int, str]] = {}
    sent: dict[int, Sent] = {}
    with signed_in(request) as (connection, someone):
        now = someone.now()
        for i, one in enumerate(together.entries):
            if one.writer != someone.person_id:
                answers[i] = 401, "Somebody else wrote this: it waits until they sign in here."
                continue
            try:
                form = form_of(one.fields)
                body = body_of(form)
                _before(connection, someone, visit_id, form, body, now)
            except ValueError as problem:
                refusal = refusal_of(problem if isinstance(problem, Refused) else Refused("It came without its id."))
                answers[i] = refusal.status, refusal.error
                continue
            waited = min(timedelta(milliseconds=one.waited_ms), LONGEST_WAIT)
            sent[i] = Sent(form.entry_id, body, waited, sender, possible(one.device_time))
        try:
            found = append_all(connection, someone, visit_id, list(sent.values()), now).found
        except NotAllowed as problem:
            answers |= {i: (403, str(problem)) for i in sent}
            sent, found = {}, []
        for i, what in zip(sent, found, strict=True):
            answers[i] = (200, "") if isinstance(what, Taken) else (refusal_of(what).status, refusal_of(what).error)
    return JSONResponse({"answers": [{"status": status, "why": why} for _, (status, why) in sorted(answers.items())]})


def _refused(request: Request, shows: VisitPage, form: EntryForm, refusal: Refusal) -> Response:
    name, values = _said_beside(None, shows, form, refusal.error)
    offered = {"choices": refusal.choices, "choice_field": refusal.field}
    return fragments(request, (name, {**values, **offered}), status=refusal.status)


def _before(connection: Connection, someone: Someone, visit_id: UUID, form: EntryForm, body: Body, now: datetime) -> None:
    """What comes before some entries: a doubtful weight is asked about, and a live gauge's trace is kept."""
    if isinstance(body, MovementBody) and find_entry(connection, form.entry_id) is None:
        view = load(connection, someone, visit_id)
        own = view.of_circuit(body.circuit or 1)
        doubt_slip(own.state, own.facts, body, form.get)
    if isinstance(body, VacuumEventBody) and body.event is not VacuumEvent.PUMP_ON:
        keep_trace(connection, someone, visit_id, form.entry_id, body.evacuation, now)


@router.get("/{visit_id}/changes")
def show_changes(request: Request, visit_id: UUID) -> Response:
    """Everything that came since what the page shows: someone else's entries, or one's own that had to wait."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        seen = seen_until(request)
        shows = _page(request, connection, view, someone, circuit_asked(request))
        return fragments(request, *_since(seen, shows), *shows.everything())


def _since(seen: int | None, shows: VisitPage) -> list[Fragment]:
    """What came since a page was drawn: lines, and what they say beside fields; the whole timeline where it shows none."""
    connection, view, someone = shows.connection, shows.view, shows.someone
    new = timeline(connection, view.visit.id, after=seen or 0, limit=TIMELINE_LENGTH + 1)
    # A void strikes through a line further down, a late entry stands there; an action makes stale what was read before.
    sweeping = any(sweeps(row.entry.body) for row in new) or not stands_on_top(connection, view.visit.id, seen or 0)
    whole = sweeping or seen is None or len(new) > TIMELINE_LENGTH
    parts = [timeline_part(connection, view, someone) if whole else new_lines(new, view, someone)]
    if sweeping:
        return [*parts, ("visits/_stale_quietly.html", {**shows.common, **_rows(shows)})]
    return [*parts, *(part for row in new for part in _given_back(row.entry.body, shows, quietly=True))]


def _page(request: Request, connection: Connection, view: VisitView, someone: Someone, circuit: int) -> VisitPage:
    return VisitPage(
        connection,
        view,
        someone,
        reader_of(someone, view.facts),
        station_named(station_asked(request)),
        circuit,
        page_size(request),
    )


def _only_judged(form: EntryForm, taken: Taken) -> bool:
    """Whether an entry changes nothing but its own line and field, and the judgement."""
    of_a_list = form.kind == "reading" and form.beside  # one of several fans: it stands in a list
    of_a_field = form.kind in _CHANGES_ONLY_THE_JUDGEMENT and not of_a_list
    return of_a_field and not taken.late and not sweeps(taken.entry.body)


def _lines(seen: int | None, shows: VisitPage, taken: Taken) -> list[Fragment]:
    """What the timeline of a page lacks that shows entries up to that one: nearly always just what was taken now."""
    view, someone = shows.view, shows.someone
    # An entry that took its place among others, or took one back, changes lines further down; others only add at the top.
    if seen is None or taken.late:
        return [timeline_part(shows.connection, view, someone)]
    if seen + 1 == taken.entry.sequence == view.state.sequence and not taken.repeated:
        return [new_lines([TimelineRow(taken.entry, someone.name, None, "")], view, someone)]
    return _since(seen, shows)


def _beside(shows: VisitPage, form: EntryForm, taken: Taken) -> list[Fragment]:
    """What stands beside the field of an entry."""
    return _given_back(taken.taken_back.body, shows) if taken.taken_back else [_said_beside(taken, shows, form, "")]


def _changed(request: Request, shows: VisitPage, form: EntryForm, taken: Taken) -> Response:
    """Only what this entry changed: its own line, the timeline, the lists, and for what is judged ladder and verdict."""
    parts = [*_lines(seen_until(request), shows, taken), *_beside(shows, form, taken)]
    if form.kind == "note" and not taken.late:
        return fragments(request, *parts)
    parts += shows.everything(form.kind if not taken.late else "")
    if taken.late or sweeps(taken.entry.body):
        # What was read before an action is no longer a reading of now, and what it answered is to be looked at again.
        # A clock stands above the fields: who typed it is in the next one by now.
        stale = "visits/_stale_quietly.html" if form.kind == "clock" else "visits/_stale.html"
        parts.append((stale, {**shows.lists, **_rows(shows)}))
    return fragments(request, *parts)


def _rows(shows: VisitPage) -> dict[str, Any]:
    rows = [row_of(quantity, shows.view, shows.reader, shows.circuit) for quantity in QUANTITIES.values()]
    return {"rows": rows, "sights": [sight_row(sight, shows.view, shows.circuit) for sight in SIGHTS.values()]}


def _said_beside(taken: Taken | None, shows: VisitPage, form: EntryForm, error: str) -> Fragment:
    """What stands beside the field that was sent; the field itself is never replaced under someone's thumb."""
    values: dict[str, Any] = {
        "error": error,
        "at": taken.entry.written_at if taken else None,
        "repeated": bool(taken and taken.repeated),
        "said_oob": True,
        "view": shows.view,
        "visit": shows.view.visit,
        "may_write": True,
    }
    match form.kind:
        case "reading" if form.get("quantity") in QUANTITIES and not form.beside:
            row = row_of(QUANTITIES[form.get("quantity")], shows.view, shows.reader, form.circuit or 1)
            return "visits/_said_reading.html", {**values, "row": row}
        case "observation" if form.get("what") in SIGHTS:
            return "visits/_said_switch.html", {**values, "switch": form.get("what")}
        case "clock" if form.get("event") in CLOCK_WORDS:
            return "visits/_said_clock.html", {**values, "event": form.get("event")}
        case "mode":
            return "visits/_said_switch.html", {**values, "switch": "mode"}
        case "note":
            return "visits/_note.html", {**values, "text": form.get("text") if error else ""}
        case _ if form.beside:
            return "visits/_said_form.html", {**values, "beside": form.beside}
        case _:
            return "visits/_problem.html", values


def _given_back(body: Body, shows: VisitPage, quietly: bool = False) -> list[Fragment]:
    """The field that an entry is about, showing what counts now; `quietly` only what stands beside it."""
    values = shows.common
    match body:
        case ReadingBody():
            row = row_of(QUANTITIES[body.quantity], shows.view, shows.reader, body.circuit or 1)
            if quietly and (body.circuit or 1) != shows.circuit and not QUANTITIES[body.quantity].shared:
                return []
            name = "visits/_said_reading.html" if quietly else "visits/_reading_row.html"
            return [(name, {**values, "row": row, "circuit": body.circuit or 1, "said_oob": True})]
        case ObservationBody():
            return [("visits/_sight.html", {**values, "row": sight_row(SIGHTS[body.what], shows.view, shows.circuit)})]
        case ModeBody():
            return [("visits/_mode.html", values)]
        case ClockBody():
            return [("visits/_clock_row.html", {**values, "event": body.event})]
        case _:
            return []
