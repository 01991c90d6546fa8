"""Readings of the demo's visits: its units run on the bench, so that every number of a visit agrees with the others."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from dry_gauge.bench.field import nameplate_of
from dry_gauge.bench.instruments import true_readings
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.plant import Faults, Habits, Weather
from dry_gauge.bench.solve import solve
from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.quantities import to_fahrenheit, to_kelvin
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.subjects.readings import ReadingBody

USUAL = (
    "outdoor_air_temp",
    "return_air_temp",
    "box_air_temp",
    "return_air_wet_bulb",
    "supply_air_temp",
    "suction_pressure",
    "suction_line_temp",
    "coil_outlet_temp",
    "liquid_pressure",
    "liquid_line_temp",
    "discharge_line_temp",
)
_DRY_IN_A_BOX_F = 1.5  # wet bulb below the box air


@dataclass(frozen=True, slots=True)
class Day:
    """What a unit met on the day of a visit, in F, and what was wrong with it, by the contract's names."""

    outdoor_f: float
    entering_f: float
    wet_bulb_f: float | None = None
    wrong: Mapping[str, float] = field(default_factory=dict)


def readings_for(facts: UnitFacts, day: Day, skip: frozenset[str] = frozenset()) -> list[ReadingBody]:
    """The readings of a visit, rounded as instruments show them, in the order of the sheet."""
    machine = Machine([nameplate_of(facts)], Habits.textbook(1))
    wet_f = day.entering_f - _DRY_IN_A_BOX_F if day.wet_bulb_f is None else day.wet_bulb_f
    weather = Weather.of([to_kelvin(day.outdoor_f)], [to_kelvin(day.entering_f)], [to_kelvin(wet_f)])
    faults = Faults.of(1, **day.wrong)
    solution = solve(machine, weather, faults)
    if not solution.solved.all():
        raise ValueError(f"The demo's {facts.kind} does not run on such a day: {day}")
    shown = true_readings(machine, weather, faults, solution)
    psig = UNITS["psig"]
    comfort_valve_only = {"coil_outlet_temp"} if not facts.kind.is_walk_in else {"supply_air_temp"}
    bodies = []
    for name in USUAL:
        value = float(shown[name][0])
        if value != value or name in skip or name in comfort_valve_only:  # not a number: the unit has no such place
            continue
        pressure = name.endswith("pressure")
        number = psig.from_si(value, facts.atmosphere_pa) if pressure else to_fahrenheit(value)
        bodies.append(ReadingBody(quantity=name, value=round(number, 1), unit="psig" if pressure else "F"))
    return bodies
