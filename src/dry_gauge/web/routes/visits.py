"""A visit's pages: its stations, ladder, judgement and timeline, the cycle, circuits side by side."""

from __future__ import annotations

from functools import partial
from time import monotonic
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Query, Request, Response
from sqlalchemy import Connection

from dry_gauge.core.spoken import understood
from dry_gauge.present.judge import circuits_compared
from dry_gauge.present.rail import begins_at
from dry_gauge.present.visit import circuit_of
from dry_gauge.service import opening
from dry_gauge.service.notebooks import load
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import visits_of_call
from dry_gauge.web.asked import shown_circuit
from dry_gauge.web.drawings import columns, ph_view
from dry_gauge.web.practice_hand import hand_values, to_the_beat
from dry_gauge.web.render import fragments, page, reader_of
from dry_gauge.web.security import signed_in
from dry_gauge.web.stations import station_named
from dry_gauge.web.timeline import timeline_part
from dry_gauge.web.visit_page import VisitPage, page_values

router = APIRouter(prefix="/visits")
_MOST_SAID = 2000
_CAMERA = {"permissions-policy": "camera=(self), geolocation=(), microphone=(self)"}  # for clips


@router.get("/{visit_id}")
def show_visit(request: Request, visit_id: UUID, circuit: int = 1, at: str = "", opens: UUID | None = None) -> Response:
    """The whole visit, at one of its stations: where none is named, at the one where such a call begins.

    With the unit that it opens to, one that is not opened yet is shown as it will be: kept for where there is no signal, it can
    be begun there.
    """
    began = monotonic()
    with signed_in(request) as (connection, someone):
        look = partial(visit_page, request, connection, someone, visit_id, at, circuit)
        answer = look() if opens is None else opening.as_opened(connection, someone, opens, visit_id, look)
    answer.headers.update(_CAMERA | ({"x-ahead": "1"} if opens else {}))
    if someone.practice is not None:  # waited for without a connection to the database in hand
        to_the_beat(began)
    return answer


def visit_page(
    request: Request, connection: Connection, someone: Someone, visit_id: UUID, at: str, circuit: int = 1, refused: str = ""
) -> Response:
    """The page; `refused` is why the last thing that was to be done on a made-up unit was not.

    Raises
    ------
    NotHere
    """
    view = load(connection, someone, visit_id)
    station = station_named(at or begins_at(view))
    shows = VisitPage(connection, view, someone, reader_of(someone, view.facts), station, shown_circuit(circuit))
    values = {
        **timeline_part(connection, view, someone)[1],
        **page_values(shows),
        **hand_values(connection, someone, visit_id, station.name, refused),
        "siblings": visits_of_call(connection, view.visit.call_id),
    }
    return page(request, "visits/show.html", status=422 if refused else 200, someone=someone, **values)


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
        return fragments(request, ("stations/read/read_back.html", values))


@router.get("/{visit_id}/cycle")
def show_cycle(request: Request, visit_id: UUID, circuit: int = 1) -> Response:
    """The measured cycle against the one that fits here."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        judged = circuit_of(view, shown_circuit(circuit))
        drawing = ph_view(judged, reader_of(someone, view.facts)) if judged else None
        return page(
            request,
            "visits/cycle.html",
            someone=someone,
            visit=view.visit,
            drawing=drawing,
            circuit=circuit,
            circuits=view.circuits,
        )


@router.get("/{visit_id}/circuits")
def show_circuits(request: Request, visit_id: UUID) -> Response:
    """All circuits beside each other."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        reader = reader_of(someone, view.facts)
        return page(
            request,
            "visits/circuits.html",
            someone=someone,
            visit=view.visit,
            columns=columns(view, reader),
            rows=circuits_compared(view, reader),
        )


@router.get("/{visit_id}/entries")
def show_entries(request: Request, visit_id: UUID, before: Annotated[int, Query(ge=0, le=2**31 - 1)]) -> Response:
    """Older entries."""
    with signed_in(request) as (connection, someone):
        view = load(connection, someone, visit_id)
        return fragments(request, timeline_part(connection, view, someone, before=before))
