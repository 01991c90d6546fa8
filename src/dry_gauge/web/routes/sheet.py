"""One sheet: readings of one unit typed by anyone, ladder and judgement beside them. No sign-in, nothing kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from fastapi import APIRouter, Request, Response
from markupsafe import Markup

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import make_observation, make_reading
from dry_gauge.core.judgement.assess import CircuitAssessment, assess
from dry_gauge.core.judgement.checks import UNIT_STANDS
from dry_gauge.core.judgement.stops import STOPS
from dry_gauge.core.refrigerants.catalogue import CATALOGUE, find
from dry_gauge.core.sheet import Sheet, UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS, Kind, Metering, Mode, Quantity, State
from dry_gauge.core.words import Reader
from dry_gauge.drawing.geometry import DESK, PHONE
from dry_gauge.drawing.ladder import ladder_svg
from dry_gauge.present.headline import headline
from dry_gauge.present.judge import likelihood_words
from dry_gauge.present.rows import shown_unit
from dry_gauge.service.sign_in import within_rate
from dry_gauge.web.asked import page_size
from dry_gauge.web.render import fragments, page, reader_of, wants_fragments
from dry_gauge.web.security import engine_of, someone_or_nobody
from dry_gauge.web.typed import parse_number, parse_unit

router = APIRouter()

KINDS = {
    Kind.SPLIT_AC: "split system", Kind.PACKAGE_AC: "rooftop", Kind.SPLIT_HEAT_PUMP: "split heat pump",
    Kind.PACKAGE_HEAT_PUMP: "rooftop heat pump", Kind.WALK_IN_COOLER: "walk-in cooler",
    Kind.WALK_IN_FREEZER: "walk-in freezer",
}  # fmt: skip
_COMFORT = ("outdoor_air_temp", "return_air_temp", "return_air_wet_bulb", "supply_air_temp", "suction_pressure",
            "suction_line_temp", "liquid_pressure", "liquid_line_temp", "discharge_line_temp")  # fmt: skip
_BOX = ("outdoor_air_temp", "box_air_temp", "suction_pressure", "suction_line_temp", "coil_outlet_temp", "liquid_pressure",
        "liquid_line_temp", "discharge_line_temp")  # fmt: skip
_LOOKED = ("evaporator_air_proven", "condenser_air_proven", "filter_dirty", "condenser_dirty", "sight_glass_bubbles")
_SETTLED_MINUTES = 20.0
_MOST_TYPED = 24


@dataclass(frozen=True, slots=True)
class TypedRow:
    """One field of the sheet, with what is wrong with it."""

    quantity: Quantity
    unit: str
    value: str
    error: str = ""


@dataclass(frozen=True, slots=True)
class Typed:
    """The sheet as it was typed: the unit, its rows, what was looked at."""

    facts: UnitFacts
    rows: tuple[TypedRow, ...]
    looked: frozenset[str]
    settled: bool
    label: str
    label_error: str = ""


def typed_sheet(asked: Mapping[str, str], reader: Reader) -> Typed:
    """What an address or a form says; anything unknown is as usual."""

    def one_of(enum: Any, name: str, usual: Any) -> Any:
        try:
            return enum(asked.get(name, ""))
        except ValueError:
            return usual

    kind = one_of(Kind, "kind", Kind.SPLIT_AC)
    try:
        refrigerant = find(asked.get("refrigerant", "R-410A"))
    except Refused:
        refrigerant = find("R-410A")
    heating = asked.get("mode") == Mode.HEATING and kind.is_heat_pump
    facts = UnitFacts(kind, refrigerant, Mode.HEATING if heating else Mode.COOLING, one_of(Metering, "metering", None),
                      receiver=kind.is_walk_in)  # fmt: skip
    label, label_error = asked.get("label", "").strip()[:_MOST_TYPED], ""
    if label:
        try:
            value = parse_number(label)[0]
            if not 0 <= value <= 60:
                raise Refused("A label's subcooling lies between 0 and 60.")
            facts = replace(facts, target_subcooling_k=value * (5 / 9 if reader.temperature_unit == "F" else 1.0))
        except Refused as refusal:
            label_error = refusal.message
    names = _BOX if kind.is_walk_in else _COMFORT
    rows = tuple(
        TypedRow(QUANTITIES[name], shown_unit(QUANTITIES[name], reader), asked.get(name, "").strip()[:_MOST_TYPED])
        for name in names
    )
    looked = frozenset(what for what in _LOOKED if asked.get(what))
    return Typed(facts, rows, looked, bool(asked.get("settled")), label, label_error)


def judged(typed: Typed) -> tuple[CircuitAssessment | None, Typed, str]:
    """The judgement of what can be read, the sheet with what is wrong beside its fields, and why there is nothing."""
    readings, rows = [], []
    for row in typed.rows:
        if not row.value:
            rows.append(row)
            continue
        try:
            value, written = parse_number(row.value)
            unit = parse_unit(written, row.quantity.dimension) if written else row.unit
            readings.append(make_reading(typed.facts, row.quantity.name, value, unit))
            rows.append(row)
        except Refused as refusal:
            rows.append(replace(row, error=refusal.message))
    typed = replace(typed, rows=tuple(rows))
    seen = tuple(make_observation(what, State.YES) for what in sorted(typed.looked))
    if not readings:
        return None, typed, ""
    sheet = Sheet(typed.facts, tuple(readings), seen, minutes_running=_SETTLED_MINUTES if typed.settled else None)
    try:
        return assess(sheet).first, typed, ""
    except Refused as refusal:
        return None, typed, refusal.message


@router.get("/sheet")
def show_sheet(request: Request) -> Response:
    """The sheet and its answer; while typing only the answer is sent. The address holds all that was typed."""
    someone = someone_or_nobody(request)
    base = reader_of(someone)
    asked = {name: value for name, value in request.query_params.items() if len(value) <= 200}
    in_units = asked.get("units", f"{base.temperature_unit} {base.pressure_unit}").split(" ")
    temperature, pressure = in_units if len(in_units) == 2 else ("F", "psi")
    reader = Reader("C" if temperature == "C" else "F", pressure if pressure in ("kPa", "bar") else "psi")
    typed = typed_sheet(asked, reader)
    address = request.client.host if request.client else "unknown"
    per_minute = request.app.state.settings.api_calls_per_minute
    many = any(row.value for row in typed.rows) and not within_rate(engine_of(request), f"sheet {address}", per_minute * 3)
    circuit, typed, refused = (None, typed, "Many sheets from here in a minute: wait a little.") if many else judged(typed)
    drawings = {} if circuit is None else {
        size: Markup(ladder_svg(circuit, reader, geometry, f"ladder-{size}"))  # noqa: S704  (our own drawing)
        for size, geometry in (("desk", DESK), ("phone", PHONE)) if page_size(request) in (None, size)
    }  # fmt: skip
    values: dict[str, Any] = {
        "typed": typed, "judged": circuit, "refused": refused, "units": reader, "drawings": drawings,
        "headline": headline(circuit, reader) if circuit else None, "STOPS": STOPS, "UNIT_STANDS": UNIT_STANDS,
        "likelihood": likelihood_words,
    }  # fmt: skip
    if wants_fragments(request):
        return fragments(request, ("sheet_answer.html", values))
    return page(
        request, "sheet.html", someone=someone, front_door=someone is None, kinds=KINDS, meterings=list(Metering),
        catalogue=CATALOGUE, looked=[SIGHTS[what] for what in _LOOKED], **values,
    )  # fmt: skip
