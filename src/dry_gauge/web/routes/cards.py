"""Unit cards, as a person writes and changes them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

import uuid6
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.label import dates_in, sizes_in
from dry_gauge.core.refrigerants.catalogue import CATALOGUE
from dry_gauge.core.vocabulary import EvaporatorClass, HeadPressureControl
from dry_gauge.core.words import Reader
from dry_gauge.exchange.unit_card import facts_changed, facts_from_form, form_from_facts
from dry_gauge.service import audit
from dry_gauge.service.allowed import site_here, unit_here, writer
from dry_gauge.store import register
from dry_gauge.store.people import Someone
from dry_gauge.web.fields import FORM, LONGEST, Fields, key_in, text_in, whole_in
from dry_gauge.web.render import page
from dry_gauge.web.security import signed_in
from dry_gauge.web.typed import parse_number

router = APIRouter()

_CARD_TEXTS = ("tag", "serves", "maker", "model", "serial", "card_notes", "partner", "label_from")
_CHANGES = "changes the register"


def card_page(
    request: Request,
    someone: Someone,
    fields: Mapping[str, str],
    site: Any,
    unit: Any,
    error: str = "",
    at: str = "",
    from_label: Sequence[str] = (),
    chart: Any = None,
) -> Response:
    """A card to fill in or change.

    `from_label` names the fields that were just taken from a photo; `chart` is the maker's, as another card of the model has it.
    """
    year = datetime.now(UTC).year
    return page(
        request,
        "register/card.html",
        status=422 if error else 200,
        someone=someone,
        fields=defaultdict(str, fields),
        site=site,
        unit=unit,
        error=error,
        error_at=at,
        classes=list(EvaporatorClass),
        controls=list(HeadPressureControl),
        refrigerants=list(CATALOGUE),
        sizes=sizes_in(fields.get("model", "")),
        dates=dates_in(fields.get("serial", ""), year),
        gauge_unit=_gauge_unit(someone),
        from_label=from_label,
        chart=chart,
        chart_columns=_chart_columns(someone),
    )


def _chart_columns(someone: Someone) -> list[dict[str, str | bool]]:
    """What a maker's chart gives, column by column, in the person's units."""
    degrees, gauge = f"°{someone.temperature_unit}", _gauge_unit(someone)
    return [
        {"label": f"Outdoor, {degrees}", "signed": True},
        {"label": f"Indoor, {degrees}", "wet": "Its indoor air is the"},
        {"label": f"Suction, {gauge}"},
        {"label": f"Head, {gauge}"},
        {"label": f"Superheat, {degrees}"},
    ]


def _looked_up(request: Request, connection: Connection, someone: Someone, fields: Fields, site: Any, unit: Any) -> Response:
    """The card as it was typed, with what its model and serial say, or with the chart of another card of the model."""
    chart = register.chart_of_model(connection, fields.get("model", ""), unit.id if unit else None)
    if "chart" in fields and chart:
        fields = {**fields, "maker_chart": form_from_facts({"maker_chart": chart.chart}, *_units(someone))["maker_chart"]}
    return card_page(request, writer(someone, _CHANGES), fields, site, unit, chart=chart)


def _units(someone: Someone) -> tuple[bool, bool, str]:
    return someone.temperature_unit == "C", someone.weight_unit == "kg", _gauge_unit(someone)


def _gauge_unit(someone: Someone) -> str:
    return Reader(pressure_unit=someone.pressure_unit).gauge_unit


@router.get("/register/sites/{site_id}/units/new")
def new_card(request: Request, site_id: UUID) -> Response:
    """An empty unit card."""
    with signed_in(request) as (connection, someone):
        site = site_here(connection, site_id)
        return card_page(request, writer(someone, _CHANGES), {}, site, None)


@router.post("/register/sites/{site_id}/units/new")
def add_card(request: Request, site_id: UUID, fields: Fields = FORM) -> Response:
    """Register a unit; `read` only reads model and serial, `chart` only takes over a chart."""
    with signed_in(request) as (connection, someone):
        site = site_here(connection, site_id)
        if "read" in fields or "chart" in fields:
            return _looked_up(request, connection, someone, fields, site, None)
        try:
            values = _card_values(fields, writer(someone, _CHANGES))
        except Refused as refusal:
            return card_page(request, someone, fields, site, None, refusal.message, refusal.path or "")
        unit_id = key_in(fields)
        if register.add_unit(connection, shop_id=someone.shop_id, id=unit_id, site_id=site_id, **values):
            audit.note(connection, someone, "card_added", f"{site.name}, {values['tag']}")
    return RedirectResponse(f"/units/{unit_id}", 303)


@router.get("/units/{unit_id}/edit")
def edit_card(request: Request, unit_id: UUID) -> Response:
    """A unit card to change."""
    with signed_in(request) as (connection, someone):
        unit = unit_here(connection, unit_id)
        return _looked_up(request, connection, someone, fields_of_card(unit, someone), None, unit)


@router.post("/units/{unit_id}/edit")
def change_card(request: Request, unit_id: UUID, fields: Fields = FORM) -> Response:
    """Change a unit card; what it said before stays on record."""
    with signed_in(request) as (connection, someone):
        unit = unit_here(connection, unit_id)
        if "read" in fields or "chart" in fields:
            return _looked_up(request, connection, someone, fields, None, unit)
        try:
            values = _card_values(fields, writer(someone, _CHANGES))
        except Refused as refusal:
            return card_page(request, someone, fields, None, unit, refusal.message, refusal.path or "")
        values["facts"] = facts_changed(values["facts"], fields, fields_of_card(unit, someone), unit.facts)
        before = {name: getattr(unit, name) for name in values if name != "facts"} | dict(unit.facts)
        after = {name: value for name, value in values.items() if name != "facts"} | values["facts"]
        changed = {name: [before.get(name), after.get(name)] for name in {*before, *after} if before.get(name) != after.get(name)}
        if changed:
            audit.note(connection, someone, "card_changed", f"{unit.tag}: {', '.join(sorted(changed))}".replace("_", " "))
            register.change_unit(
                connection, someone.shop_id, unit_id, someone.person_id, uuid6.uuid7(), datetime.now(UTC), values, changed
            )
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
    }


def fields_of_card(unit: Any, someone: Someone) -> dict[str, str]:
    """The card's form as the card stands, in the person's units."""
    fields = form_from_facts(unit.facts, *_units(someone))
    fields |= {name: getattr(unit, name) or "" for name in _CARD_TEXTS}
    fields |= {name: str(getattr(unit, name) or "") for name in ("made_year", "circuits", "stages")}
    return fields | {"disconnects": "\n".join(unit.disconnects)}
