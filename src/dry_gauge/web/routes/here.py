"""A new visit where one stands: the site and unit are found while typing, or put down in a few facts."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from typing import Any
from uuid import UUID

import uuid6
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection
from sqlalchemy.exc import IntegrityError

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import local_at
from dry_gauge.core.refrigerants.catalogue import CATALOGUE
from dry_gauge.core.words import Reader
from dry_gauge.exchange.unit_card import facts_from_form, form_from_facts
from dry_gauge.service import opening
from dry_gauge.service.today import today_here
from dry_gauge.store import register
from dry_gauge.store.people import Someone
from dry_gauge.web.fields import FORM, Fields, text_in
from dry_gauge.web.one_sheet import LONGEST_ADDRESS, Typed, keep_sheet, sheet_at
from dry_gauge.web.render import fragments, page, reader_of, visit_url
from dry_gauge.web.security import signed_in
from dry_gauge.web.typed import parse_number

router = APIRouter()

# In the order in which a technician meets them; the shop's own come first.
_USUAL = ("R-410A", "R-22", "R-404A", "R-134a", "R-32", "R-454B")


def _refrigerants(connection: Connection) -> list[str]:
    own = register.usual_refrigerants(connection)
    return [*own[:5], *(name for name in _USUAL if name not in own[:5])][:6]


def _known(connection: Connection, someone: Someone, words: str) -> dict[str, Any]:
    midnight = local_at(today_here())
    typed = words.strip()[:100]
    sites = register.sites_named_like(connection, typed) if len(typed) > 1 else []
    return {
        "units": register.units_to_visit(connection, someone.person_id, typed, midnight),
        "following": opening.next_visits(connection, someone),
        "typed": typed,
        "sites": [name for name in sites if name.lower() != typed.lower()],
    }


def _facts_values(connection: Connection, someone: Someone, fields: Mapping[str, str]) -> dict[str, Any]:
    """What the facts' part of the form shows: as typed, and where nothing was, as a unit of that model has it."""
    alike = opening.alike(connection, fields.get("model", ""))
    filled = {} if alike is None else form_from_facts(alike.facts, someone.temperature_unit == "C", kilograms=False)
    typed = {name: value for name, value in fields.items() if value}
    return {
        "fields": defaultdict(str, filled | typed),
        "alike": alike,
        "me": someone,
        "usual": _refrigerants(connection),
        "catalogue": [one.name for one in CATALOGUE],
    }


def _page(
    request: Request, connection: Connection, someone: Someone, fields: Mapping[str, str], refusal: Refused | None = None
) -> Response:
    sheet = fields.get("sheet", "")[:LONGEST_ADDRESS]
    typed = sheet_at(sheet, reader_of(someone))
    on_sheet = {} if typed.is_empty else _facts_on(typed, reader_of(someone))
    values = _facts_values(connection, someone, {**on_sheet, **fields}) | _known(connection, someone, fields.get("site", ""))
    values.pop("me")
    return page(
        request,
        "here.html",
        status=422 if refusal else 200,
        someone=someone,
        error=refusal.message if refusal else "",
        error_at=refusal.path if refusal else "",
        visit_id=fields.get("visit_id") or uuid6.uuid7(),
        sheet="" if typed.is_empty else sheet,
        on_sheet=[row for row in typed.rows if row.value],
        looked_at=len(typed.looked),
        **values,
    )


def _facts_on(typed: Typed, reader: Reader) -> dict[str, str]:
    """What a sheet says of its unit, as the form has it."""
    facts = typed.facts
    label = facts.target_subcooling_k
    return {
        "kind": facts.kind.value,
        "refrigerant": facts.refrigerant.name,
        "metering": facts.metering.value if facts.metering else "",
        "target_subcooling": "" if label is None else f"{reader.difference(label):.4g}",
    }


@router.get("/here")
def show_here(request: Request, sheet: str = "") -> Response:
    """The short form; with a sheet that was typed before, which goes into the visit."""
    with signed_in(request) as (connection, someone):
        opening.may_open(someone)
        return _page(request, connection, someone, {"sheet": sheet} if sheet else {})


@router.get("/here/known")
def show_known(request: Request, site: str = "", sheet: str = "") -> Response:
    """Units and sites that fit what was typed so far."""
    with signed_in(request) as (connection, someone):
        values = {**_known(connection, someone, site), "sheet": sheet[:LONGEST_ADDRESS]}
        return fragments(request, ("_here_known.html", {**values, "me": someone}))


@router.post("/here/like")
def show_alike(request: Request, fields: Fields = FORM) -> Response:
    """The facts filled from a unit of the same model; nothing changes where the shop has none."""
    with signed_in(request) as (connection, someone):
        values = _facts_values(connection, someone, fields)
        return Response(status_code=204) if values["alike"] is None else fragments(request, ("_here_facts.html", values))


@router.post("/here")
def open_here(request: Request, fields: Fields = FORM) -> Response:
    """Open the visit; site and unit are registered where they are not known yet."""
    with signed_in(request) as (connection, someone):
        try:
            visit_id = UUID(fields.get("visit_id", ""))
        except ValueError:
            visit_id = uuid6.uuid7()
        try:
            with connection.begin_nested():
                _open(connection, someone, visit_id, fields)
                keep_sheet(connection, someone, visit_id, fields)
        except Refused as refusal:
            return _page(request, connection, someone, fields, refusal)
        except IntegrityError:
            pass  # the same form arrived twice at the same moment: the other one opened it
    return RedirectResponse(visit_url(visit_id, "arrive"), 303)


def _open(connection: Connection, someone: Someone, visit_id: UUID, fields: Mapping[str, str]) -> None:
    site = " ".join(text_in(fields, "site", "Where it is", needed=True).split())
    unit, model = text_in(fields, "unit", "The unit"), text_in(fields, "model", "The model")
    sent = dict(fields)
    if fields.get("other_refrigerant"):
        sent["refrigerant"] = fields["other_refrigerant"]
    if not sent.get("refrigerant"):
        raise Refused("Choose the refrigerant; it is on the unit's label.", "refrigerant")
    gauge_unit = Reader(pressure_unit=someone.pressure_unit).gauge_unit
    facts = facts_from_form(sent, someone.temperature_unit == "C", parse_number, gauge_unit)
    card: dict[str, Any] = {"model": model or None}
    like = opening.alike(connection, model)
    if like is not None:
        facts = {**like.facts, **facts}
        card |= {"maker": like.maker or None, "label_from": f"as {like.said} (same model)"}
    opening.open_new(connection, someone, visit_id, site, unit, facts, card)
