"""The register: sites, unit cards and their parts, labels to print, search, instruments, calls over several units."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

import uuid6
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from dry_gauge.core.dimensions import UNITS, unit_for
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import in_unit, parse_unit
from dry_gauge.notebook.subjects.readings import no_name
from dry_gauge.present.underway import in_short
from dry_gauge.service import audit
from dry_gauge.service.allowed import NotHere, site_here, unit_here, writer
from dry_gauge.service.notebooks import view_of
from dry_gauge.service.today import today_here
from dry_gauge.store import follow_ups, register
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import add_visit, find_unit, visits_of_call
from dry_gauge.web.fields import FORM, Fields, day_in, key_in, text_in
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import signed_in
from dry_gauge.web.typed import parse_number

router = APIRouter()


# -- sites -----------------------------------------------------------------


@router.get("/register")
def show_register(request: Request, q: str = "") -> Response:
    """Every site, or the units that a search finds."""
    with signed_in(request) as (connection, someone):
        found = register.search(connection, q[:100]) if q.strip() else []
        return page(
            request,
            "register/sites.html",
            someone=someone,
            sites=register.all_sites(connection),
            q=q[:100],
            found=found,
            error="",
            fields=defaultdict(str),
        )


@router.post("/register/sites")
def add_site(request: Request, fields: Fields = FORM) -> Response:
    """Register a site."""
    with signed_in(request) as (connection, someone):
        writer(someone, "changes the register")
        try:
            values = _site_values(fields)
        except Refused as refusal:
            return page(
                request,
                "register/sites.html",
                status=422,
                someone=someone,
                sites=register.all_sites(connection),
                q="",
                found=[],
                error=refusal.message,
                fields=defaultdict(str, fields),
            )
        site_id = key_in(fields)
        if register.add_site(connection, shop_id=someone.shop_id, id=site_id, **values):
            audit.note(connection, someone, "site_added", values["name"])
    return RedirectResponse(f"/register/sites/{site_id}", 303)


def _site_values(fields: Mapping[str, str]) -> dict[str, str]:
    return {
        "name": text_in(fields, "name", "A name", needed=True),
        "address": text_in(fields, "address", "The address"),
        "access": text_in(fields, "access", "Access", longest=1000),
    }


@router.get("/register/sites/{site_id}")
def show_site(request: Request, site_id: UUID) -> Response:
    """A site with its units."""
    with signed_in(request) as (connection, someone):
        return _site_page(request, connection, someone, site_id)


def _site_page(request: Request, connection: Connection, someone: Someone, site_id: UUID, error: str = "") -> Response:
    site = site_here(connection, site_id)
    units = register.units_of_site(connection, site_id)
    return page(
        request,
        "register/site.html",
        status=422 if error else 200,
        someone=someone,
        site=site,
        error=error,
        units=units,
        tags={unit.id: unit.tag for unit in units},
    )


@router.post("/register/sites/{site_id}")
def change_site(request: Request, site_id: UUID, fields: Fields = FORM) -> Response:
    """Change a site."""
    with signed_in(request) as (connection, someone):
        writer(someone, "changes the register")
        before = site_here(connection, site_id)
        try:
            values = _site_values(fields)
        except Refused as refusal:
            return _site_page(request, connection, someone, site_id, refusal.message)
        register.change_site(connection, site_id, **values)
        changed = [name for name, value in values.items() if getattr(before, name) != value]
        if changed:
            audit.note(connection, someone, "site_changed", f"{before.name}: {', '.join(changed)}")
    return RedirectResponse(f"/register/sites/{site_id}", 303)


# -- instruments -----------------------------------------------------------------


def _instruments_page(
    request: Request,
    connection: Connection,
    someone: Someone,
    error: str = "",
    at: str = "",
    fields: Mapping[str, str] | None = None,
) -> Response:
    reads = [(dimension, UNITS[unit].written) for dimension, unit in _read_in(someone).items()]
    return page(
        request,
        "register/instruments.html",
        status=422 if error else 200,
        someone=someone,
        error=error,
        error_at=at,
        fields=defaultdict(str, fields or {}),
        reads=reads,
        instruments=register.instruments_of(connection, retired=True),
        today=today_here(),
    )


def _read_in(someone: Someone) -> dict[str, str]:
    """By what an instrument reads, the unit of this reader."""
    chosen = reader_of(someone).chosen_units
    return {name: unit_for(name, chosen).name for name in ("pressure", "temperature", "current", "static", "humidity")}


def _number_in(fields: Fields, name: str, unit: str, *, difference: bool = False) -> float | None:
    """A number of an instrument in its unit, whatever unit is written behind it; an accuracy is a difference."""
    text = fields.get(name, "").strip()
    if not text:
        return None
    try:
        value, written = parse_number(text)
        typed_in = parse_unit(written, UNITS[unit].dimension) if written else unit
        return value * UNITS[typed_in].scale / UNITS[unit].scale if difference else in_unit(value, typed_in, unit, unit)
    except Refused as refusal:
        raise Refused(refusal.message, name) from None


@router.get("/register/instruments")
def show_instruments(request: Request) -> Response:
    """The shop's instruments."""
    with signed_in(request) as (connection, someone):
        return _instruments_page(request, connection, someone)


@router.post("/register/instruments")
def change_instruments(request: Request, fields: Fields = FORM) -> Response:
    """Register, calibrate or retire an instrument."""
    with signed_in(request) as (connection, someone):
        writer(someone, "changes the register")
        try:
            if fields.get("instrument"):
                changes: dict[str, Any] = {"calibrated_until": day_in(fields, "calibrated_until", "Calibrated until")}
                if fields.get("retire"):
                    changes = {"retired": True}
                register.change_instrument(connection, UUID(fields["instrument"]), **changes)
            else:
                dimension = fields.get("dimension", "")
                unit = _read_in(someone).get(dimension)
                if unit is None:
                    raise Refused("Choose what it reads.", "dimension")
                low, high = (_number_in(fields, name, unit) for name in ("range_low", "range_high"))
                accuracy = _number_in(fields, "accuracy", unit, difference=True)
                if accuracy is not None and accuracy < 0:
                    raise Refused("Accuracy cannot be negative.", "accuracy")
                if low is not None and high is not None and low >= high:
                    raise Refused("The range's low end lies above its high end: turn the two around.", "range_low")
                no_name(fields.get("name", "").strip(), "name")
                register.add_instrument(
                    connection,
                    shop_id=someone.shop_id,
                    id=key_in(fields),
                    dimension=dimension,
                    name=text_in(fields, "name", "A name", needed=True),
                    accuracy=accuracy,
                    unit=unit,
                    range_low=low,
                    range_high=high,
                    calibrated_until=day_in(fields, "calibrated_until", "Calibrated until"),
                )
        except (Refused, ValueError) as problem:
            known = problem if isinstance(problem, Refused) else Refused("There is no such instrument.")
            return _instruments_page(request, connection, someone, known.message, known.path, fields)
    return RedirectResponse("/register/instruments", 303)


# -- calls over several units, and what was left -----------------------------------------------------------------


@router.get("/calls/{call_id}")
def show_call(request: Request, call_id: UUID) -> Response:
    """Every unit of one call: what runs, what is open, where to go on."""
    with signed_in(request) as (connection, someone):
        rows = visits_of_call(connection, call_id)
        if not rows:
            raise NotHere("There is no such call in your shop.")
        views = [view_of(connection, row, someone.superheat_school) for row in rows]
        units = register.units_of_site(connection, unit_here(connection, rows[0].unit_id).site_id)
        here = {row.unit_id for row in rows}
        cards = [(view, in_short(view, reader_of(someone, view.facts))[1]) for view in views]
        return page(
            request,
            "register/call.html",
            someone=someone,
            cards=cards,
            call_id=call_id,
            site_name=rows[0].site_name,
            others=[unit for unit in units if unit.id not in here],
            now=datetime.now(UTC),
        )


@router.post("/calls/{call_id}")
def add_to_call(request: Request, call_id: UUID, fields: Fields = FORM) -> Response:
    """Take another unit into the call; it gets a notebook of its own."""
    with signed_in(request) as (connection, someone):
        writer(someone, "changes the register")
        rows = visits_of_call(connection, call_id)
        try:
            unit = find_unit(connection, UUID(fields.get("unit", "")))
        except ValueError:
            unit = None
        if not rows or unit is None:
            raise NotHere("There is no such unit or call in your shop.")
        known = next((row for row in rows if row.unit_id == unit.id), None)
        visit_id = known.id if known else uuid6.uuid7()
        if known is None:
            add_visit(
                connection,
                shop_id=someone.shop_id,
                id=visit_id,
                call_id=call_id,
                unit_id=unit.id,
                technician_id=someone.person_id,
                planned_for=datetime.now(UTC),
                status="open",
                complaint=rows[0].complaint,
            )
    return RedirectResponse(f"/visits/{visit_id}?at=arrive", 303)


@router.post("/follow-ups/{follow_up_id}/done")
def settle_follow_up(request: Request, follow_up_id: UUID, fields: Fields = FORM) -> Response:
    """Something left for later was seen to."""
    with signed_in(request) as (connection, someone):
        writer(someone, "changes the register")
        follow_ups.settle(connection, follow_up_id, datetime.now(UTC))
    unit = fields.get("unit", "")
    return RedirectResponse(f"/units/{unit}" if unit else "/", 303)
