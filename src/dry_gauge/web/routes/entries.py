"""Sending entries: each answers with the changed fragments only, and only once it is committed."""

from __future__ import annotations

import logging
import re
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Depends, Request, Response
from fastapi.responses import JSONResponse, RedirectResponse
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.state import LONGEST_WAIT
from dry_gauge.notebook.subjects.actions import ActionBody
from dry_gauge.notebook.subjects.charge import MovementBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.readings import ReadingBody
from dry_gauge.notebook.subjects.record import VoidBody
from dry_gauge.notebook.subjects.running import ClockBody, ModeBody
from dry_gauge.notebook.subjects.vacuum import VacuumEvent, VacuumEventBody
from dry_gauge.present.rail import DESKS
from dry_gauge.present.settling import settling_of
from dry_gauge.service.append import MOST_AT_ONCE, IdTaken, Sent, Taken, append, append_all
from dry_gauge.service.notebooks import NotAllowed, VisitView, judged, load
from dry_gauge.service.sealed_live import keep_trace
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import find_entry, timeline
from dry_gauge.web.desks import desk_picture, desk_values
from dry_gauge.web.forms import EntryForm, body_of, entry_form, form_of
from dry_gauge.web.render import fragments, page, reader_of, row_of, sight_row, wants_fragments
from dry_gauge.web.routes.visits import judge_part, picture_part, shown_circuit, station_of
from dry_gauge.web.sealed_forms import Doubtful, doubt_slip
from dry_gauge.web.security import looking, signed_in
from dry_gauge.web.stations import lists, progress, read_more
from dry_gauge.web.timeline import TIMELINE_LENGTH, Fragment, new_lines, on_top, timeline_part

router = APIRouter(prefix="/visits")

# What an entry may change besides its own field. Anything else may change anything.
_CHANGES_NOTHING_JUDGED = frozenset({"note", "photo", "caution", "claim", "task", "task_done"})
_CHANGES_ONLY_THE_JUDGEMENT = frozenset({"reading", "clock", "mode", "override", "aside"})
KEPT = "It is kept. What it changed could not be drawn: reload the page."
_SENDER = re.compile(r"[0-9a-zA-Z-]{1,40}")
log = logging.getLogger(__name__)


@router.post("/{visit_id}/entries")
def add_entry(request: Request, visit_id: UUID, form: Annotated[EntryForm, Depends(entry_form)]) -> Response:
    """Keep one entry. What it changed is judged and drawn once it is committed, and nobody waits for that."""
    taken, refusal = None, None
    with signed_in(request) as (connection, someone):
        try:
            body, now = body_of(form), datetime.now(UTC)
            _before(connection, someone, visit_id, form, body, now)
            sent = Sent(form.entry_id, body, waited(request), sender_of(request), _device_time(request))
            appended, taken = append(connection, someone, visit_id, sent, now)
        except (Refused, IdTaken, NotAllowed) as problem:
            refusal = refusal_of(problem)
    if taken and request.headers.get("x-quiet"):
        return Response(status_code=204)
    if not wants_fragments(request):
        if refusal:
            return page(request, "error.html", status=refusal.status, someone=someone, heading="Not kept", words=refusal.error,
                        back=f"/visits/{visit_id}")  # fmt: skip
        return RedirectResponse(f"/visits/{visit_id}?at={_here(request)}", 303)
    with looking(request, someone) as connection:
        if taken is None or refusal:
            view = load(connection, someone, visit_id)
            return _refused(request, view, form, reader_of(someone, view.facts), refusal or Refusal("", 422))
        try:
            view = judged(appended.visit, appended.state, someone.superheat_school)
            return _changed(request, connection, someone, view, form, taken)
        except Exception:
            log.exception("An entry was kept, and what it changed could not be drawn.")
            return fragments(request, ("visits/_problem.html", {"error": KEPT}))


class TogetherEntry(BaseModel):
    """One of several entries that waited."""

    model_config = ConfigDict(extra="forbid")
    writer: UUID
    waited_ms: Annotated[int, Field(ge=0)] = 0
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
    sender = together.sender if _SENDER.fullmatch(together.sender) else ""
    answers: dict[int, tuple[int, str]] = {}
    sent: dict[int, Sent] = {}
    now = datetime.now(UTC)
    with signed_in(request) as (connection, someone):
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
            sent[i] = Sent(form.entry_id, body, waited, sender, one.device_time)
        try:
            found = append_all(connection, someone, visit_id, list(sent.values()), now).found
        except NotAllowed as problem:
            answers |= {i: (403, str(problem)) for i in sent}
            sent = {}
        for i, entry in sent.items():
            what = found[entry.id]
            answers[i] = (200, "") if isinstance(what, Taken) else (refusal_of(what).status, refusal_of(what).error)
    return JSONResponse({"answers": [{"status": status, "why": why} for _, (status, why) in sorted(answers.items())]})


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why an entry was not kept; and, where it could be meant in two ways, what to choose from."""

    error: str
    status: int
    choices: tuple[tuple[str, str], ...] = ()
    field: str = ""


def refusal_of(problem: Exception) -> Refusal:
    """What to say of an entry that was not kept."""
    match problem:
        case Doubtful():
            return Refusal(problem.message, 422, problem.choices, problem.path)
        case Refused():
            return Refusal(problem.message, 422)
        case IdTaken():
            return Refusal(str(problem), 409)
        case _:
            return Refusal(str(problem), 403)


def _refused(request: Request, view: VisitView, form: EntryForm, reader: Reader, refusal: Refusal) -> Response:
    name, values = _said_beside(None, view, form, reader, refusal.error)
    offered = {"choices": refusal.choices, "choice_field": refusal.field}
    return fragments(request, (name, {**values, **offered}), status=refusal.status)


def _before(
    connection: Connection, someone: Someone, visit_id: UUID, form: EntryForm, body: Body, now: datetime
) -> None:
    """What comes before some entries: a doubtful weight is asked about, and a live gauge's trace is kept."""
    if isinstance(body, MovementBody) and find_entry(connection, form.entry_id) is None:
        view = load(connection, someone, visit_id)
        doubt_slip(view.state, view.facts, body, form.get)
    if isinstance(body, VacuumEventBody) and body.event is not VacuumEvent.PUMP_ON:
        keep_trace(connection, someone, visit_id, form.entry_id, body.evacuation, now)


@router.get("/{visit_id}/changes")
def show_changes(request: Request, visit_id: UUID) -> Response:
    """Everything that came since what the page shows: someone else's entries, or one's own that had to wait."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        reader, circuit, seen = reader_of(someone, view.facts), _shown_circuit(request), _seen(request)
        new = [row.entry.body for row in timeline(connection, visit_id, after=seen or 0, limit=TIMELINE_LENGTH)]
        # A void strikes through a line further down, a late entry stands there; an action makes stale what was read before.
        sweeping = any(isinstance(body, VoidBody | ActionBody) for body in new) or not on_top(connection, visit_id, seen or 0)
        parts = [timeline_part(connection, view, someone, after=None if sweeping else seen)]
        if sweeping:
            rows = _rows(view, reader, circuit)
            parts.append(
                (
                    "visits/_stale_quietly.html",
                    {"visit": view.visit, "view": view, "may_write": someone.may_write, **rows},
                )
            )
        else:
            for body in new:
                parts += _given_back(body, view, reader, circuit, someone.may_write, quietly=True)
        return fragments(request, *parts, *_everything(request, connection, view, someone, reader, circuit))


def _changed(
    request: Request, connection: Connection, someone: Someone, view: VisitView, form: EntryForm, taken: Taken
) -> Response:
    """Only what this entry changed: its own line, the timeline, the lists, and for what is judged ladder and verdict."""
    reader, circuit = reader_of(someone, view.facts), form.circuit or _shown_circuit(request)
    # An entry that took its place among others, or took one back, changes lines further down; others only add at the top.
    seen = None if taken.late else _seen(request)
    parts = [
        timeline_part(connection, view, someone) if seen is None else new_lines(connection, view, someone, taken, seen)
    ]
    if taken.taken_back:
        parts += _given_back(taken.taken_back.body, view, reader, circuit, someone.may_write)
    else:
        parts.append(_said_beside(taken, view, form, reader, ""))
    if taken.late and not taken.taken_back:
        parts += _everything(request, connection, view, someone, reader, circuit, "void")
    elif form.kind in _CHANGES_ONLY_THE_JUDGEMENT:
        parts += _judged(request, view, someone, reader, circuit)
        values = progress(view, reader, _here(request), someone.may_write)
        if _here(request) == "read":
            values["settling"] = settling_of(view.state, view.facts)
        parts.append(("visits/_after_reading.html", values))
    elif form.kind != "note":
        parts += _everything(request, connection, view, someone, reader, circuit, form.kind)
    return fragments(request, *parts)


def _judged(request: Request, view: VisitView, someone: Someone, reader: Reader, circuit: int) -> list[Fragment]:
    if _here(request) in DESKS:  # they show no judgement
        return []
    judge = judge_part(view, reader, circuit, someone.may_write)
    return [
        judge,
        ("visits/_dock.html", {**judge[1], "here": _here(request)}),
        picture_part(view, reader, circuit, _page_size(request), _here(request)),
    ]


def _everything(
    request: Request, connection: Connection, view: VisitView, someone: Someone, reader: Reader, circuit: int,
    kind: str = "",
) -> list[Fragment]:  # fmt: skip
    here = _here(request)
    parts = [] if kind in _CHANGES_NOTHING_JUDGED else _judged(request, view, someone, reader, circuit)
    values = lists(view, reader, here, someone.may_write)
    parts.append(("visits/_lists.html", values))
    if here == "read":
        parts.append(("visits/_beside_sheet.html", values | read_more(connection, view)))
    if here in DESKS:
        parts += _desk(request, connection, view, someone, reader, circuit, values)
    if kind in ("action", "void"):
        # What was read before an action is no longer a reading of now, and what it answered is to be looked at again.
        parts.append(("visits/_stale.html", values | {"circuit": circuit, **_rows(view, reader, circuit)}))
    return parts


def _desk(
    request: Request, connection: Connection, view: VisitView, someone: Someone, reader: Reader, circuit: int,
    values: dict[str, Any],
) -> list[Fragment]:  # fmt: skip
    """A desk's forms and lists, its picture, and the account."""
    here = _here(request)
    shown = values | desk_values(connection, view, someone, reader, here, circuit)
    shown["pictures"] = desk_picture(view, reader, here, shown, _page_size(request))
    return [(f"visits/{name}.html", shown) for name in ("_desk", "_desk_picture", "_account", "_dock")]


def _rows(view: VisitView, reader: Reader, circuit: int) -> dict[str, Any]:
    return {"rows": [row_of(quantity, view, reader, circuit) for quantity in QUANTITIES.values()],
            "sights": [sight_row(sight, view) for sight in SIGHTS.values()]}  # fmt: skip


def _said_beside(taken: Taken | None, view: VisitView, form: EntryForm, reader: Reader, error: str) -> Fragment:
    """What stands beside the field that was sent; the field itself is never replaced under someone's thumb."""
    values: dict[str, Any] = {
        "error": error,
        "at": taken.entry.written_at if taken else None,
        "repeated": bool(taken and taken.repeated),
        "said_oob": True,
        "visit": view.visit,
        "may_write": True,
    }
    match form.kind:
        case "reading" if form.get("quantity") in QUANTITIES:
            row = row_of(QUANTITIES[form.get("quantity")], view, reader, form.circuit or 1)
            return "visits/_said_reading.html", {**values, "row": row}
        case "observation" if form.get("what") in SIGHTS:
            return "visits/_said_switch.html", {**values, "switch": form.get("what")}
        case "clock" if form.get("event") in ("started", "changed"):
            return "visits/_said_clock.html", {**values, "event": form.get("event")}
        case "mode":
            return "visits/_said_switch.html", {**values, "switch": "mode"}
        case "note":
            return "visits/_note.html", {**values, "text": form.get("text") if error else ""}
        case _ if form.beside:
            return "visits/_said_form.html", {**values, "beside": form.beside}
        case _:
            return "visits/_problem.html", values


def _given_back(
    body: Body, view: VisitView, reader: Reader, circuit: int, may_write: bool, quietly: bool = False
) -> list[Fragment]:
    """The field that an entry is about, showing what counts now; `quietly` only what stands beside it."""
    values: dict[str, Any] = {"view": view, "visit": view.visit, "circuit": circuit, "may_write": may_write}
    match body:
        case ReadingBody():
            row = row_of(QUANTITIES[body.quantity], view, reader, body.circuit or 1)
            if quietly and (body.circuit or 1) != circuit and not QUANTITIES[body.quantity].shared:
                return []
            name = "visits/_said_reading.html" if quietly else "visits/_reading_row.html"
            return [(name, {**values, "row": row, "circuit": body.circuit or 1, "said_oob": True})]
        case ObservationBody():
            return [("visits/_sight.html", {**values, "row": sight_row(SIGHTS[body.what], view)})]
        case ModeBody():
            return [("visits/_mode.html", values)]
        case ClockBody():
            return [("visits/_clock_row.html", {**values, "event": body.event})]
        case _:
            return []


def _here(request: Request) -> str:
    """The station whose page asks."""
    return station_of(request.headers.get("x-station", ""))


def _seen(request: Request) -> int | None:
    """Sequence of the latest entry that this page shows; None if it shows none or does not say."""
    seen = request.headers.get("x-seen", "")
    return int(seen) if seen.isdigit() and len(seen) < 10 else None


def _shown_circuit(request: Request) -> int:
    """The circuit whose ladder this page shows."""
    number = request.headers.get("x-circuit", "")
    return shown_circuit(int(number)) if number.isdigit() and len(number) < 4 else 1


def _device_time(request: Request) -> datetime | None:
    """The sender's own clock, if it says: kept beside the server's time, never used for the order."""
    try:
        moment = datetime.fromisoformat(request.headers.get("x-device-time", ""))
    except ValueError:
        return None
    return moment if moment.tzinfo else None


def waited(request: Request) -> timedelta:
    """How long an entry waited for a connection, by the difference of the sender's clock with itself.

    Pages send milliseconds; those of before sent whole seconds.
    """
    for header, unit in (("x-waited-ms", timedelta(milliseconds=1)), ("x-waited", timedelta(seconds=1))):
        number = request.headers.get(header, "")
        if number.isdigit() and len(number) < 14:
            return min(int(number) * unit, LONGEST_WAIT)
    return timedelta(0)


def sender_of(request: Request) -> str:
    """Which browser sends: what it sends stays in its own order."""
    sender = request.headers.get("x-sender", "")
    return sender if _SENDER.fullmatch(sender) else ""


def _page_size(request: Request) -> str | None:
    """The one ladder this page shows; both if it does not say."""
    size = request.headers.get("x-page")
    return size if size in ("desk", "phone") else None
