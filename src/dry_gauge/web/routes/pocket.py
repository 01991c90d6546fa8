"""The pocket: saturation for any refrigerant while typing, without a visit."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel

from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import FOOT_M, atmospheric_pressure_pa
from dry_gauge.core.refrigerants.catalogue import CATALOGUE, GWP_SOURCE, Refrigerant, find
from dry_gauge.core.refrigerants.saturation import COOLPROP_VERSION, saturation_of
from dry_gauge.core.words import Reader
from dry_gauge.store.people import Someone
from dry_gauge.web.render import fragments, page, reader_of, wants_fragments
from dry_gauge.web.security import signed_in
from dry_gauge.web.typed import parse_number, parse_unit

router = APIRouter()


class PocketQuery(BaseModel):
    """What was typed: either field, the refrigerant, the elevation."""

    refrigerant: str = "R-410A"
    pressure: str = ""
    temperature: str = ""
    elevation_ft: str = ""


def look_up(query: PocketQuery, someone: Someone) -> dict[str, Any]:
    """Answers and refusals for the pocket, in the reader's units."""
    found: dict[str, Any] = {"errors": {}, "at_pressure": None, "at_temperature": None}
    errors: dict[str, str] = found["errors"]
    elevation_ft = 0.0
    try:
        refrigerant = find(query.refrigerant)
    except Refused as refusal:
        refrigerant, errors["refrigerant"] = CATALOGUE[0], refusal.message
    try:
        elevation_ft = parse_number(query.elevation_ft)[0] if query.elevation_ft.strip() else 0.0
        if not -1500 <= elevation_ft <= 20_000:
            raise Refused("Elevation lies between -1,500 and 20,000 ft.")
    except Refused as refusal:
        errors["elevation_ft"], elevation_ft = refusal.message, 0.0
    atmosphere_pa = atmospheric_pressure_pa(elevation_ft * FOOT_M)
    base = reader_of(someone)
    reader = Reader(base.temperature_unit, base.pressure_unit, atmosphere_pa)
    found |= {"refrigerant": refrigerant, "units": reader, "elevation_ft": elevation_ft,
              "range": _range(refrigerant, reader)}  # fmt: skip
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
    """Saturation both ways; while typing only the answers are sent."""
    with signed_in(request) as (_, someone):
        found = look_up(query, someone)
        if wants_fragments(request):
            return fragments(request, ("_pocket_answers.html", found))
        return page(
            request, "pocket.html", someone=someone, query=query, catalogue=CATALOGUE, oob=False,
            coolprop=COOLPROP_VERSION, gwp_source=GWP_SOURCE, **found,
        )  # fmt: skip
