"""The rows of the reading sheet: numbers in the reader's units, as they were typed where that is their own."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from dry_gauge.core.dimensions import UNITS, unit_for
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import make_reading
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.visit.survey import not_asked, not_read
from dry_gauge.core.vocabulary import IN_A_BOX, OF_A_CIRCUIT, QUANTITIES, SIGHTS, Kind, Quantity, Sight
from dry_gauge.core.words import Reader
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.readings import KeptReading, Readings, is_of_other_mode
from dry_gauge.notebook.subjects.running import CONDITION_WORDS
from dry_gauge.present.visit import VisitView


def shown_unit(quantity: Quantity, reader: Reader) -> str:
    """The unit in which this reader types and sees a quantity."""
    return unit_for(quantity.dimension, reader.chosen_units).name


@dataclass(frozen=True, slots=True)
class Row:
    """One quantity of the reading sheet, with what was read last."""

    quantity: Quantity
    unit: str
    value: str
    kept: KeptReading | None
    error: str = ""
    asked: str = ""
    """Something to make sure of: the number is beyond what its instrument shows."""
    tags: str = ""
    """What it was taken under, in words: nobody judges it."""
    read_again: str = ""
    """When it was read, in words, where that is not of now: it is read again before anything is judged."""

    @property
    def unit_words(self) -> str:
        """The unit as it is written beside the field."""
        return UNITS[self.unit].written


def row_of(quantity: Quantity, view: VisitView, reader: Reader, circuit: int = 1) -> Row:
    """One row, its value in the reader's unit; a value typed in that unit stays as it was typed."""
    kept = view.state[Readings].shown(quantity.name, circuit)
    unit = shown_unit(quantity, reader)
    value = ""
    if kept:
        value = shown_value(kept, view.facts, unit)
    beyond = _beyond_its_instrument(quantity, kept, view, reader)
    tags, again = _taken_under(kept, view) if kept else "", view.outdated(circuit).get(quantity.name, "") if kept else ""
    return Row(_named(quantity, view), unit, value, kept, view.why_not.get(quantity.name, ""), beyond, tags, again)


def _taken_under(kept: KeptReading, view: VisitView) -> str:
    under = [CONDITION_WORDS[tag] for tag in kept.tags]
    if is_of_other_mode(view.state, kept):
        under.append(f"in {view.facts.mode.other}")
    return " and ".join(under)


def _beyond_its_instrument(quantity: Quantity, kept: KeptReading | None, view: VisitView, reader: Reader) -> str:
    """An instrument's own range asks; it never refuses: the number may be the evidence."""
    used = view.state[Readings].in_use.get(quantity.dimension)
    if kept is None or used is None or kept.instrument != used.instrument or used.holds(kept.body.value, kept.body.unit):
        return ""
    ends = (("from", used.low), ("to", used.high))
    said = " ".join(f"{word} {reader.own(end, used.unit)}" for word, end in ends if end is not None)
    return f"{used.instrument} reads {said}: was it this one?"


def shown_value(kept: KeptReading, facts: UnitFacts, unit: str) -> str:
    """A kept reading in `unit`, as typed where that is its own unit."""
    body = kept.body
    if body.unit == unit:
        return f"{body.value:.10g}"
    try:
        si = make_reading(facts, body.quantity, body.value, body.unit).value_si
    except Refused:
        return ""
    return UNITS[unit].say(si, facts.atmosphere_pa)


_FIRST_COMFORT = (
    "outdoor_air_temp",
    "return_air_temp",
    "return_air_wet_bulb",
    "supply_air_temp",
    "suction_pressure",
    "suction_line_temp",
    "liquid_pressure",
    "liquid_line_temp",
    "discharge_line_temp",
)
_FIRST_WALK_IN = (
    "outdoor_air_temp",
    "box_air_temp",
    "suction_pressure",
    "suction_line_temp",
    "coil_outlet_temp",
    "liquid_pressure",
    "liquid_line_temp",
    "discharge_line_temp",
)
_SIDE_NAMES = {"air": "Air and space", "low": "Low side", "high": "High side", "power": "Amps, static, airflow"}


@dataclass(frozen=True, slots=True)
class SheetRows:
    """The usual few by side, the rest by side."""

    usual: dict[str, list[Row]]
    rest: dict[str, list[Row]]


def usual_few(kind: Kind) -> Sequence[str]:
    """The quantities that are asked for first on such a unit."""
    return _FIRST_WALK_IN if kind.is_walk_in else _FIRST_COMFORT


def sheet_rows(view: VisitView, reader: Reader, circuit: int) -> SheetRows:
    """The sheet's rows: the usual few first, the rest that such a unit has by side."""
    first, out = usual_few(view.facts.kind), not_read(view.facts)
    rest: dict[str, list[Row]] = {name: [] for name in _SIDE_NAMES.values()}
    for quantity in QUANTITIES.values():
        if quantity.name not in first and not quantity.desk:
            row = row_of(quantity, view, reader, circuit)
            if row.kept or quantity.name not in out:  # what was read all the same stands too
                rest[_SIDE_NAMES[quantity.side]].append(row)
    usual: dict[str, list[Row]] = {}
    for name in first:
        usual.setdefault(_SIDE_NAMES[QUANTITIES[name].side], []).append(row_of(QUANTITIES[name], view, reader, circuit))
    return SheetRows(usual, rest)


Named = TypeVar("Named", Quantity, Sight)


def _named(one: Named, view: VisitView) -> Named:
    """The same as a box calls it, where it is one."""
    return replace(one, label=IN_A_BOX[one.name]) if view.facts.kind.is_walk_in and one.name in IN_A_BOX else one


@dataclass(frozen=True, slots=True)
class SightRow:
    """One observation of the sheet, with its answer so far."""

    sight: Sight
    state: str
    circuit: int | None


def sight_row(sight: Sight, view: VisitView, circuit: int = 1) -> SightRow:
    """One observation: of the circuit where the unit has several and each has its own, else of the unit."""
    own = sight.name in OF_A_CIRCUIT and (view.has_several_circuits or circuit > 1)
    kept = view.state[Observations].of(sight.name, circuit if own else None)
    return SightRow(_named(sight, view), kept.body.state.value if kept else "", circuit if own else None)


def sight_groups(view: VisitView, circuit: int) -> dict[str, list[SightRow]]:
    """All observations that this sort of unit is asked about, by group; what was answered all the same stands too."""
    groups: dict[str, list[SightRow]] = {}
    out = not_asked(view.facts) - view.state[Observations].states().keys()
    for sight in SIGHTS.values():
        if sight.name in out:
            continue
        groups.setdefault(sight.group, []).append(sight_row(sight, view, circuit))
    return groups
