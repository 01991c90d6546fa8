"""One sheet as it is typed: in an address before anyone signed in, and later in the notebook of a visit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any
from urllib.parse import parse_qsl
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import difference_k, make_observation, make_reading, parse_unit
from dry_gauge.core.judgement.assess import CircuitAssessment, assess
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.roles import by_role
from dry_gauge.core.sheet import Sheet, UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES, Kind, Metering, Mode, Quantity, State
from dry_gauge.core.words import Reader, to_anyone
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.mode import ModeBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.readings import ReadingBody
from dry_gauge.notebook.subjects.running import ClockEvent
from dry_gauge.present.rows import shown_unit, usual_few
from dry_gauge.service import opening
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import find_visit
from dry_gauge.web.render import reader_of
from dry_gauge.web.typed import parse_number

LONGEST_ADDRESS = 4000
LOOKED = ("evaporator_air_proven", "condenser_air_proven", "filter_dirty", "condenser_dirty", "sight_glass_bubbles")
_SETTLED_MINUTES = 20.0
_RAN_MINUTES = 15.0  # what is ticked: it ran for as long, at the least
_MOST_TYPED = 24
_MOST_SUBCOOLING_K = 60 * FAHRENHEIT_K  # that a label prints


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

    @property
    def is_empty(self) -> bool:
        """Whether nothing was read or looked at."""
        return not self.looked and not any(row.value for row in self.rows)


def units_asked(asked: Mapping[str, str], usual: Reader) -> Reader:
    """The units in which a sheet is typed."""
    temperature, _, pressure = asked.get("units", f"{usual.temperature_unit} {usual.pressure_unit}").partition(" ")
    return Reader("C" if temperature == "C" else "F", pressure if pressure in ("kPa", "bar") else "psi")


def sheet_at(address: str, usual: Reader) -> Typed:
    """The sheet that an address holds behind its question mark; an empty one where it holds none."""
    asked = {name: value.replace("\0", "") for name, value in parse_qsl(address[:LONGEST_ADDRESS])}  # no database keeps a NUL
    return typed_sheet(asked, units_asked(asked, usual))


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
    facts = UnitFacts(
        kind, refrigerant, Mode.HEATING if heating else Mode.COOLING, one_of(Metering, "metering", None), receiver=kind.is_walk_in
    )
    label, label_error = asked.get("label", "").strip()[:_MOST_TYPED], ""
    if label:
        try:
            subcooling_k = difference_k(*parse_number(label), reader.temperature_unit)
            if not 0 <= subcooling_k <= _MOST_SUBCOOLING_K:
                raise Refused(f"A label's subcooling lies between 0 and {to_anyone('margin', _MOST_SUBCOOLING_K)}.")
            facts = replace(facts, target_subcooling_k=subcooling_k)
        except Refused as refusal:
            label_error = refusal.message
    rows = tuple(
        TypedRow(QUANTITIES[name], shown_unit(QUANTITIES[name], reader), asked.get(name, "").strip()[:_MOST_TYPED])
        for name in usual_few(kind)
    )
    looked = frozenset(what for what in LOOKED if asked.get(what))
    return Typed(facts, rows, looked, bool(asked.get("settled")), label, label_error)


def judged(typed: Typed) -> tuple[CircuitAssessment | None, Typed, str]:
    """The judgement of what can be read, the sheet with what is wrong beside its fields, and why there is nothing."""
    readings, rows = [], []
    for row in typed.rows:
        if not row.value:
            rows.append(row)
            continue
        try:
            readings.append(make_reading(typed.facts, row.quantity.name, *_number_in(row)))
            rows.append(row)
        except Refused as refusal:
            rows.append(replace(row, error=refusal.message))
    typed = replace(typed, rows=tuple(rows))
    seen = tuple(make_observation(*by_role(what, State.YES, heating=typed.facts.heating)) for what in sorted(typed.looked))
    if not readings:
        return None, typed, ""
    sheet = Sheet(typed.facts, tuple(readings), seen, minutes_running=_SETTLED_MINUTES if typed.settled else None)
    try:
        return assess(sheet).first, typed, ""
    except Refused as refusal:
        return None, typed, refusal.message


def empty_circuit(typed: Typed) -> CircuitAssessment:
    """Nothing read yet of such a unit: for the ladder that waits for its first rung."""
    return assess(Sheet(typed.facts, ())).first


def _number_in(row: TypedRow) -> tuple[float, str]:
    value, written = parse_number(row.value)
    return value, parse_unit(written, row.quantity.dimension) if written else row.unit


def entries_of(typed: Typed) -> tuple[list[Body], list[str]]:
    """What a notebook keeps of it, in the order in which it is judged; and in words what it cannot read."""
    bodies: list[Body] = []
    unread: list[str] = []
    if typed.facts.heating:
        bodies.append(ModeBody(mode=Mode.HEATING))
    if typed.settled:
        bodies.append(ClockBody(event=ClockEvent.STARTED, minutes_ago=_RAN_MINUTES))
    bodies += [ObservationBody(what=what, state=State.YES) for what in sorted(typed.looked)]
    for row in typed.rows:
        if not row.value:
            continue
        try:
            value, unit = _number_in(row)
            bodies.append(ReadingBody(quantity=row.quantity.name, value=value, unit=unit))
        except Refused as refusal:
            unread.append(f"{row.quantity.label} {row.value}: {refusal.message}")
    return bodies, unread


def keep_sheet(connection: Connection, someone: Someone, visit_id: UUID, fields: Mapping[str, str]) -> None:
    """Enter the sheet that a form carries, where it carries one."""
    typed = sheet_at(fields.get("sheet", ""), reader_of(someone))
    if typed.is_empty:
        return
    bodies, unread = entries_of(typed)
    visit = find_visit(connection, visit_id)
    card, named = visit.facts if visit else {}, typed.facts.refrigerant.name
    if card.get("refrigerant") != named:
        unread.append(f"It was typed for {named}; the unit's card says {card.get('refrigerant', 'nothing')}.")
    if typed.label and "target_subcooling_f" not in card:
        unread.append(f"Label subcooling {typed.label}: it belongs on the unit's card.")
    opening.put_down(connection, someone, visit_id, bodies, unread)
