"""The register: sites, unit cards and their parts, labels to print, search, instruments, calls over several units."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

import segno
import uuid6
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.label import dates_in, sizes_in
from dry_gauge.core.refrigerants.catalogue import CATALOGUE
from dry_gauge.core.vocabulary import CompressorControl, EvaporatorClass, HeadPressureControl, Kind, Metering
from dry_gauge.core.words import Reader
from dry_gauge.exchange.unit_card import facts_from_form, form_from_facts
from dry_gauge.notebook.subjects.readings import no_name
from dry_gauge.present.headline import headline
from dry_gauge.present.visit import circuit_of
from dry_gauge.service import audit
from dry_gauge.service.notebooks import NotAllowed, NotHere, view_of
from dry_gauge.store import follow_ups, register
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import add_visit, find_unit, visits_of_call
from dry_gauge.web.fields import FORM, LONGEST, Fields, day_in, text_in, whole_in
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import signed_in
from dry_gauge.web.typed import parse_number

router = APIRouter()

_CARD_TEXTS = ("tag", "serves", "maker", "model", "serial", "card_notes", "partner", "label_from")


def _writer(someone: Someone) -> Someone:
    if not someone.may_write:
        raise NotAllowed("Your role reads along; a technician or lead changes the register.")
    return someone


def _unit(connection: Connection, unit_id: UUID) -> Any:
    unit = find_unit(connection, unit_id)
    if unit is None:
        raise NotHere("There is no such unit in your shop.")
    return unit


def _site(connection: Connection, site_id: UUID) -> Any:
    site = register.find_site(connection, site_id)
    if site is None:
        raise NotHere("There is no such site in your shop.")
    return site


# -- sites -----------------------------------------------------------------


@router.get("/register")
def show_register(request: Request, q: str = "") -> Response:
    """Every site, or the units that a search finds."""
    with signed_in(request) as (connection, someone):
        found = register.search(connection, q[:100]) if q.strip() else []
        return page(request, "register/sites.html", someone=someone, sites=register.all_sites(connection), q=q[:100],
                    found=found, error="", fields=defaultdict(str))  # fmt: skip


@router.post("/register/sites")
def add_site(request: Request, fields: Fields = FORM) -> Response:
    """Register a site."""
    with signed_in(request) as (connection, someone):
        _writer(someone)
        try:
            values = _site_values(fields)
        except Refused as refusal:
            return page(request, "register/sites.html", status=422, someone=someone, sites=register.all_sites(connection),
                        q="", found=[], error=refusal.message, fields=defaultdict(str, fields))  # fmt: skip
        site_id = uuid6.uuid7()
        register.add_site(connection, shop_id=someone.shop_id, id=site_id, **values)
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
    site = _site(connection, site_id)
    return page(request, "register/site.html", status=422 if error else 200, someone=someone, site=site, error=error,
                units=register.units_of_site(connection, site_id))  # fmt: skip


@router.post("/register/sites/{site_id}")
def change_site(request: Request, site_id: UUID, fields: Fields = FORM) -> Response:
    """Change a site."""
    with signed_in(request) as (connection, someone):
        _writer(someone)
        before = _site(connection, site_id)
        try:
            values = _site_values(fields)
        except Refused as refusal:
            return _site_page(request, connection, someone, site_id, refusal.message)
        register.change_site(connection, site_id, **values)
        changed = [name for name, value in values.items() if getattr(before, name) != value]
        if changed:
            audit.note(connection, someone, "site_changed", f"{before.name}: {', '.join(changed)}")
    return RedirectResponse(f"/register/sites/{site_id}", 303)


# -- unit cards -----------------------------------------------------------------


def _card_page(
    request: Request, someone: Someone, fields: Mapping[str, str], site: Any, unit: Any, error: str = "", at: str = ""
) -> Response:
    year = datetime.now(UTC).year
    return page(
        request, "register/card.html", status=422 if error else 200, someone=someone, fields=defaultdict(str, fields), site=site,
        unit=unit,
        error=error, error_at=at, kinds=list(Kind), meterings=list(Metering), classes=list(EvaporatorClass),
        controls=list(HeadPressureControl), refrigerants=list(CATALOGUE), sizes=sizes_in(fields.get("model", "")),
        dates=dates_in(fields.get("serial", ""), year), controls_of_compressor=list(CompressorControl),
        gauge_unit=_gauge_unit(someone),
    )  # fmt: skip


def _gauge_unit(someone: Someone) -> str:
    return Reader(pressure_unit=someone.pressure_unit).gauge_unit


@router.get("/register/sites/{site_id}/units/new")
def new_card(request: Request, site_id: UUID) -> Response:
    """An empty unit card."""
    with signed_in(request) as (connection, someone):
        site = _site(connection, site_id)
        return _card_page(request, _writer(someone), {}, site, None)


@router.post("/register/sites/{site_id}/units/new")
def add_card(request: Request, site_id: UUID, fields: Fields = FORM) -> Response:
    """Register a unit; `read` only reads model and serial."""
    with signed_in(request) as (connection, someone):
        site = _site(connection, site_id)
        if "read" in fields:
            return _card_page(request, _writer(someone), fields, site, None)
        try:
            values = _card_values(fields, _writer(someone))
        except Refused as refusal:
            return _card_page(request, someone, fields, site, None, refusal.message, refusal.path or "")
        unit_id = uuid6.uuid7()
        register.add_unit(connection, shop_id=someone.shop_id, id=unit_id, site_id=site_id, **values)
        audit.note(connection, someone, "card_added", f"{site.name}, {values['tag']}")
    return RedirectResponse(f"/units/{unit_id}", 303)


@router.get("/units/{unit_id}/edit")
def edit_card(request: Request, unit_id: UUID) -> Response:
    """A unit card to change."""
    with signed_in(request) as (connection, someone):
        unit = _unit(connection, unit_id)
        return _card_page(request, _writer(someone), _fields_of_card(unit, someone), None, unit)


@router.post("/units/{unit_id}/edit")
def change_card(request: Request, unit_id: UUID, fields: Fields = FORM) -> Response:
    """Change a unit card; what it said before stays on record."""
    with signed_in(request) as (connection, someone):
        unit = _unit(connection, unit_id)
        if "read" in fields:
            return _card_page(request, _writer(someone), fields, None, unit)
        try:
            values = _card_values(fields, _writer(someone))
        except Refused as refusal:
            return _card_page(request, someone, fields, None, unit, refusal.message, refusal.path or "")
        before = {name: getattr(unit, name) for name in values if name != "facts"} | dict(unit.facts)
        after = {name: value for name, value in values.items() if name != "facts"} | values["facts"]
        changed = {name: [before.get(name), after.get(name)] for name in {*before, *after}
                   if before.get(name) != after.get(name)}  # fmt: skip
        if changed:
            audit.note(connection, someone, "card_changed", f"{unit.tag}: {', '.join(sorted(changed))}".replace("_", " "))
            register.change_unit(connection, someone.shop_id, unit_id, someone.person_id, uuid6.uuid7(),
                                 datetime.now(UTC), values, changed)  # fmt: skip
    return RedirectResponse(f"/units/{unit_id}", 303)


def _card_values(fields: Mapping[str, str], someone: Someone) -> dict[str, Any]:
    celsius = someone.temperature_unit == "C"
    values: dict[str, Any] = {}
    for name in _CARD_TEXTS:
        label, longest = name.replace("_", " ").capitalize(), 2000 if name == "card_notes" else LONGEST
        values[name] = text_in(fields, name, label, needed=name == "tag", longest=longest)
    for name in ("maker", "model", "serial"):
        values[name] = values[name] or None
    year = datetime.now(UTC).year
    return values | {
        "made_year": whole_in(fields, "made_year", "The year", 1950, year),
        "circuits": whole_in(fields, "circuits", "Circuits", 1, 8) or 1,
        "stages": whole_in(fields, "stages", "Stages", 1, 8) or 1,
        "disconnects": [line.strip()[:LONGEST] for line in fields.get("disconnects", "").splitlines() if line.strip()][:12],
        "facts": facts_from_form(fields, celsius, parse_number, _gauge_unit(someone)),
    }  # fmt: skip


def _fields_of_card(unit: Any, someone: Someone) -> dict[str, str]:
    fields = form_from_facts(
        unit.facts, someone.temperature_unit == "C", someone.weight_unit == "kg", _gauge_unit(someone)
    )
    fields |= {name: getattr(unit, name) or "" for name in _CARD_TEXTS}
    fields |= {name: str(getattr(unit, name) or "") for name in ("made_year", "circuits", "stages")}
    return fields | {"disconnects": "\n".join(unit.disconnects)}


@router.get("/units/{unit_id}/label")
def show_label(request: Request, unit_id: UUID) -> Response:
    """A label to print and stick on the unit: scanning it opens the card."""
    with signed_in(request) as (connection, someone):
        unit = _unit(connection, unit_id)
        address = f"{str(request.base_url).rstrip('/')}/units/{unit_id}"
        code = segno.make(address, error="m", micro=False).svg_inline(
            scale=5, border=2, svgclass="qr", lineclass=None, omitsize=True
        )
        return page(request, "register/label.html", someone=someone, unit=unit, code=Markup(code), address=address)  # noqa: S704


# -- instruments -----------------------------------------------------------------


def _instruments_page(request: Request, connection: Connection, someone: Someone, error: str = "") -> Response:
    return page(request, "register/instruments.html", status=422 if error else 200, someone=someone, error=error,
                instruments=register.instruments_of(connection, retired=True), today=datetime.now(UTC).date())  # fmt: skip


@router.get("/register/instruments")
def show_instruments(request: Request) -> Response:
    """The shop's instruments."""
    with signed_in(request) as (connection, someone):
        return _instruments_page(request, connection, someone)


_DIMENSION_UNITS = {"pressure": "psig", "temperature": "F", "current": "A", "static": "inwc", "humidity": "%"}


@router.post("/register/instruments")
def change_instruments(request: Request, fields: Fields = FORM) -> Response:
    """Register, calibrate or retire an instrument."""
    with signed_in(request) as (connection, someone):
        _writer(someone)
        try:
            if fields.get("instrument"):
                changes: dict[str, Any] = {"calibrated_until": day_in(fields, "calibrated_until", "Calibrated until")}
                if fields.get("retire"):
                    changes = {"retired": True}
                register.change_instrument(connection, UUID(fields["instrument"]), **changes)
            else:
                dimension = fields.get("dimension", "")
                if dimension not in _DIMENSION_UNITS:
                    raise Refused("Choose what it reads.", "dimension")
                accuracy, low, high = (
                    parse_number(fields[name])[0] if fields.get(name, "").strip() else None
                    for name in ("accuracy", "range_low", "range_high")
                )
                if accuracy is not None and accuracy < 0:
                    raise Refused("Accuracy cannot be negative.", "accuracy")
                no_name(fields.get("name", "").strip(), "name")
                register.add_instrument(
                    connection, shop_id=someone.shop_id, id=uuid6.uuid7(), dimension=dimension,
                    name=text_in(fields, "name", "A name", needed=True), accuracy=accuracy, unit=_DIMENSION_UNITS[dimension],
                    range_low=low, range_high=high,
                    calibrated_until=day_in(fields, "calibrated_until", "Calibrated until"),
                )  # fmt: skip
        except (Refused, ValueError) as problem:
            words = problem.message if isinstance(problem, Refused) else "There is no such instrument."
            return _instruments_page(request, connection, someone, words)
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
        units = register.units_of_site(connection, _unit(connection, rows[0].unit_id).site_id)
        here = {row.unit_id for row in rows}
        cards = [(view, headline(circuit_of(view, 1), reader_of(someone, view.facts))) for view in views]
        return page(request, "register/call.html", someone=someone, cards=cards, call_id=call_id, site_name=rows[0].site_name,
                    others=[unit for unit in units if unit.id not in here], now=datetime.now(UTC))  # fmt: skip


@router.post("/calls/{call_id}")
def add_to_call(request: Request, call_id: UUID, fields: Fields = FORM) -> Response:
    """Take another unit into the call; it gets a notebook of its own."""
    with signed_in(request) as (connection, someone):
        _writer(someone)
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
                connection, shop_id=someone.shop_id, id=visit_id, call_id=call_id, unit_id=unit.id,
                technician_id=someone.person_id, planned_for=datetime.now(UTC), status="open", complaint=rows[0].complaint,
            )  # fmt: skip
    return RedirectResponse(f"/visits/{visit_id}?at=arrive", 303)


@router.post("/follow-ups/{follow_up_id}/done")
def settle_follow_up(request: Request, follow_up_id: UUID, fields: Fields = FORM) -> Response:
    """Something left for later was seen to."""
    with signed_in(request) as (connection, someone):
        _writer(someone)
        follow_ups.settle(connection, follow_up_id, datetime.now(UTC))
    unit = fields.get("unit", "")
    return RedirectResponse(f"/units/{unit}" if unit else "/", 303)
