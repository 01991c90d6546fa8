"""From a judged visit to what the templates show: rows, words and numbers in the reader's units."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from pathlib import Path
from time import time_ns
from typing import Any
from uuid import UUID

import uuid6
from fastapi import Request
from fastapi.responses import HTMLResponse
from jinja2 import Environment, FileSystemLoader, StrictUndefined
from markupsafe import Markup

from dry_gauge.core.complaints import TRIAGE
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import make_reading
from dry_gauge.core.judgement.assess import CALLED_FROM, Assessment, CircuitAssessment
from dry_gauge.core.quantities import STANDARD_ATMOSPHERE_PA, UNITS
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS, Quantity, Sight
from dry_gauge.core.words import Reader
from dry_gauge.drawing.fingerprint import fingerprint_svg
from dry_gauge.drawing.geometry import DESK, PHONE, Geometry
from dry_gauge.drawing.ladder import ladder_svg
from dry_gauge.exchange.assessment import FAULT_WORDS, GATE_WORDS
from dry_gauge.notebook.subjects.actions import ACTION_WORDS
from dry_gauge.notebook.subjects.charge import MOVEMENT_WORDS
from dry_gauge.notebook.subjects.closing import OUTCOME_WORDS
from dry_gauge.notebook.subjects.ledger import CHANGE_WORDS
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.readings import KeptReading, Readings
from dry_gauge.notebook.subjects.running import CONDITION_WORDS
from dry_gauge.present.rail import DESKS
from dry_gauge.service.notebooks import VisitView, judged_before
from dry_gauge.store.people import Someone

_HERE = Path(__file__).parent
STATIC = _HERE / "static"


@lru_cache(maxsize=64)
def static_url(name: str) -> str:
    """Address of a static file with its fingerprint, so that it may be kept for ever."""
    digest = hashlib.sha256((STATIC / name).read_bytes()).hexdigest()[:10]
    return f"/static/{name}?v={digest}"


def _environment() -> Environment:
    environment = Environment(
        loader=FileSystemLoader(_HERE / "templates"),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
        auto_reload=bool(os.environ.get("DRY_GAUGE_RELOAD")),
    )
    environment.globals |= {"static": static_url, "FAULTS": FAULT_WORDS, "new_id": lambda: uuid6.uuid7(),
                            "now_ms": lambda: time_ns() // 1_000_000,
                            "GATES": GATE_WORDS, "CHANGE_WORDS": CHANGE_WORDS, "ACTION_WORDS": ACTION_WORDS,
                            "OUTCOME_WORDS": {outcome.value: words for outcome, words in OUTCOME_WORDS.items()},
                            "outcomes_offered": [(outcome.value, words) for outcome, words in OUTCOME_WORDS.items()],
                            "sorts_offered": [(sort.value, row.label) for sort, row in TRIAGE.items()]}  # fmt: skip
    # What only an answer to a sent entry sets: partials also stand in whole pages.
    environment.globals |= {"oob": False, "said_oob": False, "error": "", "at": None, "repeated": False, "text": ""}
    environment.globals |= {"DESKS": DESKS, "choices": ()}
    # Pairs of value and words, for what a form offers.
    environment.filters |= {"enum_pair": lambda pair: (pair[0].value, pair[1]),
                            "way_pair": lambda way: (way.value, MOVEMENT_WORDS[way]),
                            "inches": lambda size: (size, f"{size} in."),
                            "end_pair": lambda end: (end.name, end.words)}  # fmt: skip
    environment.filters |= {"clock": lambda moment: moment.astimezone().strftime("%H:%M"), "when": _when,
                            "pair": lambda value: (value, value.replace("_", " ")), "same": lambda value: (value, value),
                            "due": lambda day: f"{day:%a} {day.day} {day:%b %Y}",
                            "percent": lambda probability: percent(probability),
                            "day": lambda moment: _day(moment.astimezone())}  # fmt: skip
    return environment


def _when(moment: datetime) -> str:
    """Hour and minute, and before today the day as well."""
    here = moment.astimezone()
    return (
        f"{here:%H:%M}" if here.date() == datetime.now().astimezone().date() else f"{here:%a} {here.day}, {here:%H:%M}"
    )


def _day(moment: datetime) -> str:
    return f"{moment:%a} {moment.day} {moment:%b %Y}"


TEMPLATES = _environment()


def page(
    request: Request, name: str, *, status: int = 200, someone: Someone | None = None, **values: Any
) -> HTMLResponse:
    """A whole page."""
    text = TEMPLATES.get_template(name).render(
        me=someone,
        csrf=request.scope["csrftoken"](),
        path=request.url.path,
        reader=reader_of(someone),
        **values,
    )
    return HTMLResponse(text, status)


def fragments(request: Request, *parts: tuple[str, Mapping[str, Any]], status: int = 200) -> HTMLResponse:
    """Changed fragments only; each lands where its id stands."""
    csrf = request.scope["csrftoken"]()
    texts = (TEMPLATES.get_template(name).render({"oob": True, "csrf": csrf, **values}) for name, values in parts)
    return HTMLResponse("".join(texts), status)


def wants_fragments(request: Request) -> bool:
    """Whether htmx asks (and not a plain form)."""
    return request.headers.get("hx-request") == "true"


def reader_of(someone: Someone | None, facts: UnitFacts | None = None) -> Reader:
    """How this person reads numbers, where this unit stands."""
    if someone is None:
        return Reader()
    barometer = STANDARD_ATMOSPHERE_PA if facts is None else facts.atmosphere_pa
    return Reader(someone.temperature_unit, someone.pressure_unit, barometer, someone.weight_unit)


# -- the reading sheet -----------------------------------------------------------------

_SHOWN_UNITS = {"humidity": "%", "current": "A", "static": "inwc", "airflow": "cfm", "power": "W"}
_WRITTEN = {"F": "°F", "C": "°C", "inwc": "in. w.c."}
_DECIMALS = {"temperature": 1, "current": 1, "static": 2, "airflow": 0, "power": 0, "humidity": 0}


def shown_unit(quantity: Quantity, reader: Reader) -> str:
    """The unit in which this reader types and sees a quantity."""
    match quantity.dimension:
        case "temperature":
            return reader.temperature_unit
        case "pressure":
            return reader.gauge_unit
        case dimension:
            return _SHOWN_UNITS[dimension]


@dataclass(frozen=True, slots=True)
class Row:
    """One quantity of the reading sheet, with what was read last."""

    quantity: Quantity
    unit: str
    value: str
    kept: KeptReading | None
    error: str = ""

    @property
    def tags(self) -> str:
        """What it was taken under, in words."""
        return " and ".join(CONDITION_WORDS[tag] for tag in self.kept.tags) if self.kept else ""

    @property
    def unit_words(self) -> str:
        """The unit as it is written beside the field."""
        return _WRITTEN.get(self.unit, self.unit)


def row_of(quantity: Quantity, view: VisitView, reader: Reader, circuit: int = 1) -> Row:
    """One row, its value in the reader's unit; a value typed in that unit stays as it was typed."""
    kept = view.state[Readings].shown(quantity.name, circuit)
    unit = shown_unit(quantity, reader)
    value = ""
    if kept:
        value = shown_value(kept, view.facts, unit)
    return Row(quantity, unit, value, kept, view.why_not.get(quantity.name, ""))


def shown_value(kept: KeptReading, facts: UnitFacts, unit: str) -> str:
    """A kept reading in `unit`, as typed where that is its own unit."""
    body = kept.body
    if body.unit == unit:
        return f"{body.value:.10g}"
    try:
        si = make_reading(facts, body.quantity, body.value, body.unit).value_si
    except Refused:
        return ""
    dimension = QUANTITIES[body.quantity].dimension
    decimals = {"kPag": 0, "barg": 2}.get(unit, 1) if dimension == "pressure" else _DECIMALS[dimension]
    return f"{UNITS[unit].from_si(si, facts.atmosphere_pa):.{decimals}f}"


_FIRST_COMFORT = ("outdoor_air_temp", "return_air_temp", "return_air_wet_bulb", "supply_air_temp", "suction_pressure",
                  "suction_line_temp", "liquid_pressure", "liquid_line_temp", "discharge_line_temp")  # fmt: skip
_FIRST_WALK_IN = ("outdoor_air_temp", "box_air_temp", "suction_pressure", "suction_line_temp", "coil_outlet_temp",
                  "liquid_pressure", "liquid_line_temp", "discharge_line_temp")  # fmt: skip
_SIDE_NAMES = {"air": "Air and space", "low": "Low side", "high": "High side", "power": "Amps, static, airflow"}


def sheet_rows(view: VisitView, reader: Reader, circuit: int) -> dict[str, Any]:
    """The sheet's rows: the usual few first, the rest by side."""
    first = _FIRST_WALK_IN if view.facts.kind.is_walk_in else _FIRST_COMFORT
    rest: dict[str, list[Row]] = {name: [] for name in _SIDE_NAMES.values()}
    for quantity in QUANTITIES.values():
        if quantity.name not in first:
            rest[_SIDE_NAMES[quantity.side]].append(row_of(quantity, view, reader, circuit))
    usual: dict[str, list[Row]] = {}
    for name in first:
        usual.setdefault(_SIDE_NAMES[QUANTITIES[name].side], []).append(row_of(QUANTITIES[name], view, reader, circuit))
    return {"usual": usual, "rest": rest}


@dataclass(frozen=True, slots=True)
class SightRow:
    """One observation of the sheet, with its answer so far."""

    sight: Sight
    state: str
    circuit: int | None


def sight_row(sight: Sight, view: VisitView) -> SightRow:
    """One observation."""
    kept = view.state[Observations].of(sight.name)
    return SightRow(sight, kept.body.state.value if kept else "", None)


def sight_groups(view: VisitView) -> dict[str, list[SightRow]]:
    """All observations by group."""
    groups: dict[str, list[SightRow]] = {}
    for sight in SIGHTS.values():
        groups.setdefault(sight.group, []).append(sight_row(sight, view))
    return groups


# -- drawings and judgement -----------------------------------------------------------------


def circuit_of(view: VisitView, number: int) -> CircuitAssessment | None:
    """The judged circuit of that number, or the first."""
    if view.assessment is None:
        return None
    return view.assessment.circuits.get(number, view.assessment.first)


def ladders(view: VisitView, reader: Reader, number: int, only: str | None = None) -> dict[str, Markup]:
    """The ladder for the pages asked for: ``desk``, ``phone``, or both."""
    circuit = circuit_of(view, number)
    return drawn(circuit, judged_before(view), reader, number, only) if circuit else {}


def drawn(
    circuit: CircuitAssessment, before: Assessment | None, reader: Reader, number: int, only: str | None = None
) -> dict[str, Markup]:
    """One judged circuit's ladder by page size, with the ghost of what was before."""
    ghost = before.circuits.get(number) if before else None
    sizes: dict[str, Geometry] = {"desk": DESK, "phone": PHONE}
    # The drawing writes its own escaped SVG: this is the one place where it becomes page text.
    return {
        name: Markup(ladder_svg(circuit, reader, geometry, f"ladder-{name}", ghost))  # noqa: S704
        for name, geometry in sizes.items()
        if only in (None, name)
    }


def fingerprint(
    circuit: CircuitAssessment | None,
    title: str,
    ident: UUID,
    *,
    width: int = 150,
    height: int = 200,
    past: bool = False,
) -> Markup:
    """A small ladder, as page text."""
    return Markup(fingerprint_svg(circuit, title, width, height, ident=f"fp-{ident}", past=past))  # noqa: S704


def percent(probability: float) -> str:
    """A probability as it is shown: never all or nothing."""
    return f"{min(max(round(probability * 100), 1), 99)} %"


@dataclass(frozen=True, slots=True)
class Headline:
    """The verdict in a few words: for the board, the dock and the top of the judgement."""

    words: str
    mark: str
    detail: str


def headline(circuit: CircuitAssessment | None, reader: Reader) -> Headline:
    """What the judgement amounts to, said so that nothing provisional sounds final."""
    if circuit is None:
        return Headline("These readings cannot be", "act", "One value contradicts the rest; see below.")
    if not circuit.view.measured:
        return Headline("Nothing read yet", "open", "Type the first reading; the ladder starts there.")
    first, second = circuit.causes[:2]
    fault = FAULT_WORDS[first.fault]
    if first.severity and second.severity and second.probability >= CALLED_FROM:
        fault += f" and {FAULT_WORDS[second.fault].lower()}"
    match circuit.verdict:
        case "healthy":
            return Headline("Nothing wrong found", "ok", "Every gate is open and the readings fit a healthy unit.")
        case "fault":
            return Headline(fault, "act", f"{(first.severity or '').capitalize()}, {percent(first.probability)}.")
        case "held":
            holding = ", ".join(GATE_WORDS[gate.name].lower() for gate in circuit.holding)
            lead = "Looks healthy so far" if first.severity is None else f"Leans to: {fault.lower()}"
            return Headline(lead, "held", f"Held by: {holding}.")
        case _:
            missing = next((gate for gate in circuit.holding if gate.name == "too_few_readings"), None)
            detail = missing.released_by.read(reader) if missing else "No cause stands out; the next check helps most."
            return Headline("Not enough to say", "open", detail)
