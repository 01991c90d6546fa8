"""A visit's pages: its stations, ladder, judgement and timeline, the cycle, circuits side by side."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Form, Request, Response
from sqlalchemy import Connection

from dry_gauge.core.spoken import understood
from dry_gauge.core.words import Reader
from dry_gauge.notebook.sheets import circuits_of
from dry_gauge.present.rail import DESKS
from dry_gauge.service.notebooks import VisitView, load
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import visits_of_call
from dry_gauge.web.desks import desk_picture
from dry_gauge.web.judging import likelihood_words, ph_view, side_by_side, sort_of, warnings
from dry_gauge.web.render import circuit_of, fragments, headline, ladders, page, reader_of, sheet_rows, sight_groups
from dry_gauge.web.security import signed_in
from dry_gauge.web.stations import STATIONS, look, station_values
from dry_gauge.web.timeline import Fragment, timeline_part

router = APIRouter(prefix="/visits")
MOST_CIRCUITS = 8
_MOST_SAID = 2000


def shown_circuit(number: int) -> int:
    """A circuit that a unit may have."""
    return min(max(number, 1), MOST_CIRCUITS)


def picture_part(
    view: VisitView, reader: Reader, circuit: int, only: str | None = None, here: str = "read"
) -> Fragment:
    """The picture in the middle: the loop while looking, else the ladder."""
    if here == "look":
        return "visits/_loop.html", {"view": view, **look(view, reader)}
    if here in DESKS:  # drawn with the desk, from the same numbers
        return "visits/_no_picture.html", {"view": view}
    drawings = ladders(view, reader, circuit, only)
    return "visits/_ladder.html", {"drawings": drawings, "view": view, "circuit": circuit}


def judge_part(view: VisitView, reader: Reader, circuit: int, may_write: bool) -> Fragment:
    """The judgement of one circuit."""
    judged = circuit_of(view, circuit)
    return "visits/_judge.html", {
        "view": view, "judged": judged, "headline": headline(judged, reader), "units": reader,
        "warnings": warnings(view, judged) if judged else [], "may_write": may_write and view.visit.status != "closed",
        "sort": sort_of(view.facts), "likelihood": likelihood_words,
    }  # fmt: skip


def station_of(asked: str) -> str:
    """A station of that name, or the reading sheet."""
    return asked if asked in STATIONS else "read"


def page_values(
    connection: Connection, view: VisitView, someone: Someone, reader: Reader, here: str, circuit: int
) -> Mapping[str, Any]:
    """Everything a visit's page shows."""
    values = dict(picture_part(view, reader, circuit, None, here)[1])
    values |= judge_part(view, reader, circuit, someone.may_write)[1]
    values |= timeline_part(connection, view, someone)[1]
    values |= station_values(connection, view, someone, reader, here, circuit)
    if here in DESKS:
        values["pictures"] = desk_picture(view, reader, here, values)
    if here == "read":
        values |= sheet_rows(view, reader, circuit)
        values["groups"] = sight_groups(view)
    values["circuit"] = circuit
    values["siblings"] = visits_of_call(connection, view.visit.call_id)
    return values


@router.get("/{visit_id}")
def show_visit(request: Request, visit_id: UUID, circuit: int = 1, at: str = "read") -> Response:
    """The whole visit, at one of its stations."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        reader = reader_of(someone, view.facts)
        values = page_values(connection, view, someone, reader, station_of(at), shown_circuit(circuit))
        return page(request, "visits/show.html", someone=someone, **values)


@router.post("/{visit_id}/said")
def read_back(
    request: Request, visit_id: UUID, text: Annotated[str, Form()] = "", circuit: Annotated[int, Form()] = 1
) -> Response:
    """Readings in words, as they were understood; nothing is kept."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        reader = reader_of(someone, view.facts)
        units = {"pressure": reader.gauge_unit, "temperature": reader.temperature_unit, "current": "A"}
        found, lost = understood(text[:_MOST_SAID], units)
        values = {"found": found, "lost": lost, "circuit": shown_circuit(circuit)}
        return fragments(request, ("visits/_read_back.html", values))


@router.get("/{visit_id}/cycle")
def show_cycle(request: Request, visit_id: UUID, circuit: int = 1) -> Response:
    """The measured cycle against the one that fits here."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        judged = circuit_of(view, shown_circuit(circuit))
        drawing = ph_view(judged, reader_of(someone, view.facts)) if judged else None
        return page(request, "visits/cycle.html", someone=someone, visit=view.visit, drawing=drawing, circuit=circuit,
                    circuits=circuits_of(view.state))  # fmt: skip


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
        return fragments(request, timeline_part(connection, view, someone, before=before))
