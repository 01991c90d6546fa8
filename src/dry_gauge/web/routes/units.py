"""The unit card: what is known, what is not, and every visit it had."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

import uuid6
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse

from dry_gauge.core.charge.mass import GRAM_KG, forms
from dry_gauge.core.quantities import FOOT_M
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.words import Reader
from dry_gauge.service.cylinders import unit_book
from dry_gauge.service.history import card_history
from dry_gauge.service.notebooks import NotAllowed, NotHere, facts_of, view_of
from dry_gauge.service.settings import shop_settings
from dry_gauge.store.visits import add_visit, find_unit, visits_of_unit
from dry_gauge.web.history import trends_of
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.routes.board import call_of
from dry_gauge.web.security import signed_in

router = APIRouter(prefix="/units")


def card_rows(facts: UnitFacts, reader: Reader) -> list[tuple[str, str | None]]:
    """The card's rows; None is unknown and said so."""

    def gap(value_k: float | None) -> str | None:
        return None if value_k is None else reader.say("difference", value_k)

    def words(value: str | None) -> str | None:
        return None if value is None else value.replace("_", " ")

    refrigerant = facts.refrigerant
    rows: list[tuple[str, str | None]] = [
        ("Kind", words(facts.kind.value)),
        ("Refrigerant", f"{refrigerant.name}, {refrigerant.safety_group}" + (", estimated" if refrigerant.estimated else "")),
        ("Metering", facts.metering.value.upper() if facts.metering and facts.metering.value.endswith("xv") else
         words(facts.metering.value if facts.metering else None)),
        ("Size", None if facts.nominal_tons is None else f"{facts.nominal_tons:.1f} ton"),
        ("Label charge", None if facts.label_charge_kg is None else _weight(facts.label_charge_kg)),
        ("Rated load amps", None if facts.rated_load_amps is None else f"{facts.rated_load_amps:g} A"),
        ("Elevation", None if facts.elevation_m is None else f"{facts.elevation_m / FOOT_M:,.0f} ft"),
    ]  # fmt: skip
    if facts.kind.is_walk_in:
        box = None if facts.design_box_k is None else reader.say("temperature", facts.design_box_k)
        rows += [
            ("Design box", box),
            ("Evaporator class", words(facts.evaporator_class.value if facts.evaporator_class else None)),
            (
                "Head-pressure control",
                words(facts.head_pressure_control.value if facts.head_pressure_control else None),
            ),
            ("Receiver", "yes" if facts.receiver else "no"),
        ]
    else:
        rows += [
            ("Efficiency", None if facts.seer is None else f"SEER {facts.seer:g}"),
            ("Label subcooling", gap(facts.target_subcooling_k)),
            ("Label superheat", gap(facts.target_superheat_k)),
        ]
    return rows


def _weight(kg: float) -> str:
    said = forms(kg)
    return f"{said.lb_oz}, {said.kg}"


@router.get("/{unit_id}")
def show_unit(request: Request, unit_id: UUID) -> Response:
    """One unit."""
    with signed_in(request) as (connection, someone):
        unit = find_unit(connection, unit_id)
        if unit is None:
            raise NotHere("There is no such unit in your shop.")
        facts = facts_of(unit.facts)
        views = [view_of(connection, visit, someone.superheat_school) for visit in visits_of_unit(connection, unit_id)]
        settings = shop_settings(connection)
        calls = [call_of(view, someone, width=132, height=64) for view in views]
        return page(
            request, "unit.html", someone=someone, unit=unit, facts=facts, rows=card_rows(facts, reader_of(someone)),
            calls=calls, history=card_history(connection, unit_id), trends=trends_of(views, reader_of(someone)),
            book=unit_book(connection, unit_id, facts, settings), settings=settings, forms=forms, GRAM_KG=GRAM_KG,
            metric=someone.weight_unit == "kg",
        )  # fmt: skip


@router.post("/{unit_id}/visits")
def open_visit(request: Request, unit_id: UUID) -> Response:
    """Open a visit to this unit now."""
    with signed_in(request) as (connection, someone):
        if find_unit(connection, unit_id) is None:
            raise NotHere("There is no such unit in your shop.")
        if not someone.may_write:
            raise NotAllowed("Your role reads along; a technician or lead opens visits.")
        visit_id = uuid6.uuid7()
        add_visit(
            connection, shop_id=someone.shop_id, id=visit_id, unit_id=unit_id, technician_id=someone.person_id,
            planned_for=datetime.now().astimezone(), status="open",
        )  # fmt: skip
    return RedirectResponse(f"/visits/{visit_id}", 303)
