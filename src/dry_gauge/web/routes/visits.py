"""A visit: its sheet, ladder, judgement and timeline; each entry answers with the changed fragments only."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Form, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS
from dry_gauge.core.words import Reader
from dry_gauge.exchange.assessment import FAULT_WORDS
from dry_gauge.notebook.entries import Body, Entry, VoidBody
from dry_gauge.notebook.measuring import (
    AsideBody,
    ClockBody,
    ModeBody,
    NoteBody,
    ObservationBody,
    OverrideBody,
    ReadingBody,
)
from dry_gauge.service.notebooks import Appended, IdTaken, NotAllowed, VisitView, append, load
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import TimelineRow, timeline
from dry_gauge.web.forms import EntryForm, body_of
from dry_gauge.web.judging import likelihood_words, ph_view, side_by_side, sort_of, warnings
from dry_gauge.web.render import (
    circuit_of,
    fragments,
    headline,
    ladders,
    page,
    reader_of,
    row_of,
    sheet_rows,
    sight_groups,
    sight_row,
    wants_fragments,
)
from dry_gauge.web.security import signed_in

router = APIRouter(prefix="/visits")

TIMELINE_LENGTH = 40
MOST_CIRCUITS = 8

Fragment = tuple[str, Mapping[str, Any]]


def _ladder(view: VisitView, reader: Reader, circuit: int, only: str | None = None) -> Fragment:
    drawings = ladders(view, reader, circuit, only)
    return "visits/_ladder.html", {"drawings": drawings, "view": view, "circuit": circuit}


def _judge(view: VisitView, reader: Reader, circuit: int, may_write: bool) -> Fragment:
    judged = circuit_of(view, circuit)
    return "visits/_judge.html", {
        "view": view, "judged": judged, "headline": headline(judged, reader), "units": reader,
        "warnings": warnings(view, judged) if judged else [], "may_write": may_write and view.visit.status != "closed",
        "sort": sort_of(view.facts), "likelihood": likelihood_words,
    }  # fmt: skip


def _timeline(
    connection: Connection, view: VisitView, someone: Someone, *, before: int | None = None, after: int | None = None
) -> Fragment:
    """The latest entries, older ones before a number, or only those that came after what the page shows."""
    rows = timeline(connection, view.visit.id, before=before, after=after, limit=TIMELINE_LENGTH + 1)
    if after is not None and len(rows) > TIMELINE_LENGTH:
        return _timeline(connection, view, someone)
    return _timeline_of(rows, view, someone, before=before, after=after)


def _new_lines(connection: Connection, view: VisitView, someone: Someone, appended: Appended, seen: int) -> Fragment:
    """What the page does not show yet: nearly always just this entry, and then there is nothing to ask for."""
    if seen == appended.entry.sequence - 1 and not appended.repeated:
        return _timeline_of([TimelineRow(appended.entry, someone.name, None, "")], view, someone, after=seen)
    return _timeline(connection, view, someone, after=seen)


def _timeline_of(
    rows: list[TimelineRow], view: VisitView, someone: Someone, *, before: int | None = None, after: int | None = None
) -> Fragment:
    more = rows[TIMELINE_LENGTH - 1].entry.sequence if len(rows) > TIMELINE_LENGTH else None
    return "visits/_timeline_new.html" if after is not None else "visits/_timeline.html", {
        "visit": view.visit, "rows": [(row, said(row.entry.body)) for row in rows[:TIMELINE_LENGTH]], "more": more,
        "before": before, "may_write": someone.may_write and view.visit.status != "closed", "view": view,
    }  # fmt: skip


def said(body: Body) -> tuple[str, str]:
    """An entry as the timeline writes it: what, and how it read."""
    match body:
        case ReadingBody():
            quantity = QUANTITIES[body.quantity]
            kind = " pressure" if quantity.dimension == "pressure" else ""
            circuit = f", circuit {body.circuit}" if body.circuit and body.circuit > 1 else ""
            return f"{quantity.label}{kind}{circuit}", f"{body.value:.10g} {body.unit}"
        case ObservationBody():
            return SIGHTS[body.what].label, body.state.value.replace("_", " ")
        case ClockBody():
            return "Unit started" if body.event == "started" else "Last change", f"{body.minutes_ago:g} min before"
        case ModeBody():
            return "Mode", body.mode.value
        case NoteBody():
            return "Note", body.text
        case OverrideBody():
            return f"Own verdict: {FAULT_WORDS[body.fault]}", body.reason
        case AsideBody():
            return "Warning put aside", body.reason
        case VoidBody():
            return "Taken back", body.reason


def _said_beside(appended: Appended | None, view: VisitView, form: EntryForm, reader: Reader, error: str) -> Fragment:
    """What stands beside the field that was sent; the field itself is never replaced under someone's thumb."""
    values: dict[str, Any] = {
        "error": error,
        "at": appended.entry.received_at if appended else None,
        "repeated": bool(appended and appended.repeated),
        "said_oob": True,
        "visit": view.visit,
        "may_write": True,
    }
    match form.kind:
        case "reading" if form.quantity in QUANTITIES:
            row = row_of(QUANTITIES[form.quantity], view, reader, form.circuit or 1)
            return "visits/_said_reading.html", {**values, "row": row}
        case "observation" if form.what in SIGHTS:
            return "visits/_said_switch.html", {**values, "switch": form.what}
        case "clock" if form.event in ("started", "changed"):
            return "visits/_said_clock.html", {**values, "event": form.event}
        case "mode":
            return "visits/_said_switch.html", {**values, "switch": "mode"}
        case "note":
            return "visits/_note.html", {**values, "text": form.text if error else ""}
        case _:
            return "visits/_problem.html", values


def _given_back(entry: Entry, view: VisitView, reader: Reader, circuit: int) -> list[Fragment]:
    """The field of a voided entry, showing what counts now."""
    values: dict[str, Any] = {"view": view, "visit": view.visit, "circuit": circuit, "may_write": True}
    match entry.body:
        case ReadingBody() as body:
            row = row_of(QUANTITIES[body.quantity], view, reader, body.circuit or 1)
            return [("visits/_reading_row.html", {**values, "row": row, "circuit": body.circuit or 1})]
        case ObservationBody() as body:
            return [("visits/_sight.html", {**values, "row": sight_row(SIGHTS[body.what], view)})]
        case ModeBody():
            return [("visits/_mode.html", values)]
        case ClockBody() as body:
            return [("visits/_clock_row.html", {**values, "event": body.event})]
        case _:
            return []


@router.get("/{visit_id}")
def show_visit(request: Request, visit_id: UUID, circuit: int = 1) -> Response:
    """The whole visit."""
    circuit = min(max(circuit, 1), MOST_CIRCUITS)
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        reader = reader_of(someone, view.facts)
        values = dict(_ladder(view, reader, circuit)[1]) | dict(_judge(view, reader, circuit, someone.may_write)[1])
        values |= dict(_timeline(connection, view, someone)[1])
        values |= sheet_rows(view, reader, circuit)
        values["groups"] = sight_groups(view)
        return page(request, "visits/show.html", someone=someone, **values)


@router.get("/{visit_id}/ladder")
def show_ladder(request: Request, visit_id: UUID, circuit: int = 1) -> Response:
    """Both ladders anew, when the page has turned from one size to the other."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        return fragments(request, _ladder(view, reader_of(someone, view.facts), circuit))


@router.get("/{visit_id}/cycle")
def show_cycle(request: Request, visit_id: UUID, circuit: int = 1) -> Response:
    """The measured cycle against the one that fits here."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        judged = circuit_of(view, min(max(circuit, 1), MOST_CIRCUITS))
        drawing = ph_view(judged, reader_of(someone, view.facts)) if judged else None
        return page(request, "visits/cycle.html", someone=someone, visit=view.visit, drawing=drawing, circuit=circuit,
                    circuits=view.state.circuits)  # fmt: skip


@router.get("/{visit_id}/circuits")
def show_circuits(request: Request, visit_id: UUID) -> Response:
    """All circuits beside each other."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        columns, rows = side_by_side(view, reader_of(someone, view.facts))
        return page(request, "visits/circuits.html", someone=someone, visit=view.visit, columns=columns, rows=rows)


@router.get("/{visit_id}/entries")
def show_entries(request: Request, visit_id: UUID, before: int) -> Response:
    """Older entries."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        name, values = _timeline(connection, view, someone, before=before)
        return fragments(request, (name, values))


@router.post("/{visit_id}/entries")
def add_entry(request: Request, visit_id: UUID, form: Annotated[EntryForm, Form()]) -> Response:
    """Keep one entry. The answer is only sent once the entry is committed."""
    error, status, appended = "", 200, None
    with signed_in(request) as (connection, someone):
        try:
            appended = append(
                connection, someone, visit_id, form.entry_id, body_of(form), datetime.now(UTC), _device_time(request)
            )
            view = appended.view
        except (Refused, IdTaken, NotAllowed) as problem:
            error = problem.message if isinstance(problem, Refused) else str(problem)
            status = {Refused: 422, IdTaken: 409, NotAllowed: 403}.get(type(problem), 422)
            view = load(connection, someone, visit_id)
        if not wants_fragments(request):
            if error:
                return page(request, "error.html", status=status, someone=someone, heading="Not kept", words=error,
                            back=f"/visits/{visit_id}")  # fmt: skip
            answer: Response = RedirectResponse(f"/visits/{visit_id}", 303)
        else:
            answer = _changed(request, connection, someone, view, form, appended, error, status)
    return answer


def _changed(
    request: Request, connection: Connection, someone: Someone, view: VisitView, form: EntryForm,
    appended: Appended | None, error: str, status: int,
) -> Response:  # fmt: skip
    """Only what this entry changed: its own line, the timeline, and for what is judged the ladder and the verdict."""
    reader, circuit = reader_of(someone, view.facts), form.circuit or _shown_circuit(request)
    if error or appended is None:
        return fragments(request, _said_beside(appended, view, form, reader, error), status=status)
    # A void strikes through a line further down; anything else only adds lines at the top.
    seen = None if form.kind == "void" else _seen(request)
    parts = [
        _timeline(connection, view, someone) if seen is None else _new_lines(connection, view, someone, appended, seen)
    ]
    if appended.taken_back:
        parts += _given_back(appended.taken_back, view, reader, circuit)
    else:
        parts.append(_said_beside(appended, view, form, reader, error))
    if form.kind != "note":
        judge = _judge(view, reader, circuit, someone.may_write)
        parts += [judge, ("visits/_dock.html", judge[1])]
    if form.kind in ("reading", "mode", "observation", "void"):
        parts.append(_ladder(view, reader, circuit, _page_size(request)))
    return fragments(request, *parts, status=status)


def _seen(request: Request) -> int | None:
    """Sequence of the latest entry that this page shows; None if it shows none or does not say."""
    seen = request.headers.get("x-seen", "")
    return int(seen) if seen.isdigit() and len(seen) < 10 else None


def _shown_circuit(request: Request) -> int:
    """The circuit whose ladder this page shows."""
    number = request.headers.get("x-circuit", "")
    return min(max(int(number), 1), MOST_CIRCUITS) if number.isdigit() and len(number) < 4 else 1


def _device_time(request: Request) -> datetime | None:
    """The sender's own clock, if it says: kept beside the server's time, never used for the order."""
    try:
        moment = datetime.fromisoformat(request.headers.get("x-device-time", ""))
    except ValueError:
        return None
    return moment if moment.tzinfo else None


def _page_size(request: Request) -> str | None:
    """The one ladder this page shows; both if it does not say."""
    size = request.headers.get("x-page")
    return size if size in ("desk", "phone") else None
