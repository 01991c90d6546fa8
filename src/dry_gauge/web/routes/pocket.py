"""The pocket: saturation for any refrigerant, and small tools, while typing; without a visit, and without signing in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import timedelta
from typing import Annotated, Any

from fastapi import APIRouter, HTTPException, Query, Request, Response
from pydantic import BaseModel

from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import height_m, parse_unit
from dry_gauge.core.local_time import local_at
from dry_gauge.core.pocket import BY_NAME, TOOLS, Answer, Tool
from dry_gauge.core.pocket_units import answers_shown, chosen, typed_values, unit_shown
from dry_gauge.core.quantities import FOOT_M, atmospheric_pressure_pa
from dry_gauge.core.refrigerants.catalogue import CATALOGUE, GWP_SOURCE, Refrigerant, find
from dry_gauge.core.refrigerants.saturation import COOLPROP_VERSION, saturation_of
from dry_gauge.core.words import Reader
from dry_gauge.service.today import today_here
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import open_visits_before, visits_between
from dry_gauge.web.one_sheet import units_asked
from dry_gauge.web.render import fragments, page, reader_of, wants_fragments
from dry_gauge.web.security import signed_in, someone_or_nobody
from dry_gauge.web.typed import parse_number

router = APIRouter()
_MOST_VISITS = 20


class PocketQuery(BaseModel):
    """What was typed: either field, the refrigerant, the elevation."""

    refrigerant: str = "R-410A"
    pressure: str = ""
    temperature: str = ""
    elevation_ft: str = ""
    units: str = ""
    """In which somebody reads who is not signed in, as One sheet's address says it."""


def reader_asked(units: str) -> Reader:
    """The reader of an address's units; who reads degrees Celsius there weighs in kilograms."""
    asked = units_asked({"units": units} if units else {}, Reader())
    return replace(asked, weight_unit="kg") if asked.celsius else asked


def look_up(query: PocketQuery, someone: Someone | None) -> dict[str, Any]:
    """Answers and refusals for the pocket, in the reader's units."""
    found: dict[str, Any] = {"errors": {}, "at_pressure": None, "at_temperature": None}
    errors: dict[str, str] = found["errors"]
    elevation_ft, base = 0.0, reader_of(someone) if someone else reader_asked(query.units)
    try:
        refrigerant = find(query.refrigerant)
    except Refused as refusal:
        refrigerant, errors["refrigerant"] = CATALOGUE[0], refusal.message
    try:
        typed = query.elevation_ft.strip()
        elevation_ft = height_m(*parse_number(typed), "m" if base.celsius else "ft") / FOOT_M if typed else 0.0
        if not -1500 <= elevation_ft <= 20_000:
            raise Refused("Elevation lies between -1,500 and 20,000 ft (-450 and 6,100 m).")
    except Refused as refusal:
        errors["elevation_ft"], elevation_ft = refusal.message, 0.0
    atmosphere_pa = atmospheric_pressure_pa(elevation_ft * FOOT_M)
    reader = replace(base, atmosphere_pa=atmosphere_pa)
    found |= {"refrigerant": refrigerant, "units": reader, "elevation_ft": elevation_ft, "range": _range(refrigerant, reader)}
    for name, answer in (("pressure", _at_pressure), ("temperature", _at_temperature)):
        typed = getattr(query, name)
        if not typed.strip():
            continue
        try:
            found[f"at_{name}"] = answer(refrigerant, typed, reader)
        except Refused as refusal:
            errors[name] = refusal.message
    return found


def _si(typed: str, dimension: str, default_unit: str, atmosphere_pa: float) -> float:
    value, written = parse_number(typed)
    unit = UNITS[parse_unit(written, dimension) if written else default_unit]
    si = unit.to_si(value, atmosphere_pa)
    if si <= 0:
        what = "absolute zero" if dimension == "temperature" else "a perfect vacuum"
        raise Refused(f"{typed.strip()} is below {what}.")
    return si


def _at_pressure(refrigerant: Refrigerant, typed: str, reader: Reader) -> dict[str, str]:
    saturation = saturation_of(refrigerant)
    pressure_pa = _si(typed, "pressure", reader.gauge_unit, reader.atmosphere_pa)
    dew_k, bubble_k = saturation.dew_temperature_k(pressure_pa), saturation.bubble_temperature_k(pressure_pa)
    # The difference of the two numbers that are shown, as they are shown.
    glide = round(reader.temperature(dew_k), 1) - round(reader.temperature(bubble_k), 1)
    return {
        "pressure": reader.say("pressure", pressure_pa),
        "dew": reader.say("temperature", dew_k),
        "bubble": reader.say("temperature", bubble_k),
        "condensing": reader.say("temperature", saturation.condensing_mean_k(pressure_pa)),
        "evaporating": reader.say("temperature", saturation.evaporating_mean_k(pressure_pa)),
        "glide": f"{glide:.1f} °{reader.temperature_unit}" if glide > 0.05 else "",
    }


def _at_temperature(refrigerant: Refrigerant, typed: str, reader: Reader) -> dict[str, str]:
    saturation = saturation_of(refrigerant)
    temperature_k = _si(typed, "temperature", reader.temperature_unit, reader.atmosphere_pa)
    return {
        "temperature": reader.say("temperature", temperature_k),
        "dew": reader.say("pressure", saturation.dew_pressure_pa(temperature_k)),
        "bubble": reader.say("pressure", saturation.bubble_pressure_pa(temperature_k)),
        "glide": "yes" if saturation.glide_k(saturation.dew_pressure_pa(temperature_k)) > 0.03 else "",
    }


def _range(refrigerant: Refrigerant, reader: Reader) -> str:
    saturation = saturation_of(refrigerant)
    low, high = saturation.lowest_pressure_pa, saturation.highest_pressure_pa
    return f"{reader.say('pressure', low)} to {reader.say('pressure', high)}"


@router.get("/pocket")
def show_pocket(request: Request, query: Annotated[PocketQuery, Query()]) -> Response:
    """Saturation both ways, and the tools; while typing only the answers are sent."""
    someone = someone_or_nobody(request)
    found = look_up(query, someone)
    if wants_fragments(request):
        return fragments(request, ("_pocket_answers.html", found))
    return _pocket(request, someone, query, found)


@router.get("/pocket/{tool}")
def show_tool(request: Request, tool: str) -> Response:
    """The pocket with one tool open, and its answer where numbers came along: without scripts it is the server that answers."""
    someone = someone_or_nobody(request)
    if tool not in BY_NAME:
        raise HTTPException(404)
    typed = {field.name: request.query_params.get(field.name, "")[:40] for field in BY_NAME[tool].fields}
    query = PocketQuery(units=request.query_params.get("units", "")[:20])
    return _pocket(request, someone, query, look_up(query, someone), tool, typed)


def _answered(tool: Tool, typed: Mapping[str, str], reader: Reader) -> tuple[list[Answer], str]:
    """A tool's answer to what was typed, or what is wrong with it; neither where nothing was."""
    if not any(typed[field.name].strip() for field in tool.fields if not field.choices):
        return [], ""
    try:
        return answers_shown(tool, tool.answers(typed_values(tool, typed, reader)), reader), ""
    except Refused as refusal:
        return [], refusal.message
    except ValueError as error:
        return [], str(error)


def _pocket(
    request: Request,
    someone: Someone | None,
    query: PocketQuery,
    found: Mapping[str, Any],
    opened: str = "",
    typed: Mapping[str, str] | None = None,
) -> Response:
    answers, error = _answered(BY_NAME[opened], typed or {}, found["units"]) if opened else ([], "")
    visits = _open_visits(request) if someone and someone.may_write else []
    return page(
        request,
        "pocket.html",
        someone=someone,
        query=query,
        catalogue=CATALOGUE,
        oob=False,
        coolprop=COOLPROP_VERSION,
        gwp_source=GWP_SOURCE,
        tools=TOOLS,
        opened=opened,
        typed=typed or {},
        tool_answers=answers,
        tool_error=error,
        visits=visits,
        front_door=someone is None,
        reads=" ".join(chosen(found["units"])),
        unit_shown=unit_shown,
        **found,
    )


def _open_visits(request: Request) -> list[Any]:
    """Visits that a result can be kept in: today's, and those still open from before."""
    with signed_in(request) as (connection, _):
        midnight = local_at(today_here())
        listed = [*visits_between(connection, midnight, midnight + timedelta(days=1)), *open_visits_before(connection, midnight)]
        return [one for one in listed if one.status != "closed"][:_MOST_VISITS]
