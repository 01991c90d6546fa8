"""Readings that belong together: from the gaps a sheet should show, the pressures and temperatures that make them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.quantities import to_fahrenheit, to_kelvin
from dry_gauge.core.refrigerants.saturation import Saturation
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.subjects.readings import ReadingBody


@dataclass(frozen=True, slots=True)
class Gaps:
    """What the technician would find, in F; `supply_f` and `discharge_f` are temperatures, None is not read."""

    outdoor_f: float
    entering_f: float
    td: float
    superheat: float
    split: float
    subcooling: float
    wet_bulb_f: float | None = None
    supply_f: float | None = None
    coil_superheat: float | None = None
    discharge_f: float | None = None


def readings_for(facts: UnitFacts, gaps: Gaps) -> list[ReadingBody]:
    """The readings of a visit with those gaps, rounded as instruments show them."""
    saturation, atmosphere_pa = facts.saturation, facts.atmosphere_pa
    evaporator_air_f = gaps.outdoor_f if facts.heating else gaps.entering_f
    condenser_air_f = gaps.entering_f if facts.heating else gaps.outdoor_f
    suction_pa = _pressure_at_mean(saturation.evaporating_mean_k, saturation, to_kelvin(evaporator_air_f - gaps.td))
    liquid_pa = _pressure_at_mean(saturation.condensing_mean_k, saturation, to_kelvin(condenser_air_f + gaps.split))
    dew_f = to_fahrenheit(saturation.dew_temperature_k(suction_pa))
    bubble_f = to_fahrenheit(saturation.bubble_temperature_k(liquid_pa))
    psig = UNITS["psig"]
    walk_in = facts.kind.is_walk_in
    listed: list[tuple[str, float | None, str]] = [
        ("outdoor_air_temp", gaps.outdoor_f, "F"),
        ("box_air_temp" if walk_in else "return_air_temp", gaps.entering_f, "F"),
        ("return_air_wet_bulb", gaps.wet_bulb_f, "F"),
        ("supply_air_temp", gaps.supply_f, "F"),
        ("suction_pressure", psig.from_si(suction_pa, atmosphere_pa), "psig"),
        ("suction_line_temp", dew_f + gaps.superheat, "F"),
        ("coil_outlet_temp", None if gaps.coil_superheat is None else dew_f + gaps.coil_superheat, "F"),
        ("liquid_pressure", psig.from_si(liquid_pa, atmosphere_pa), "psig"),
        ("liquid_line_temp", bubble_f - gaps.subcooling, "F"),
        ("discharge_line_temp", gaps.discharge_f, "F"),
    ]
    return [
        ReadingBody(quantity=quantity, value=round(value, 1), unit=unit) for quantity, value, unit in listed if value is not None
    ]


def _pressure_at_mean(mean_k: Callable[[float], float], saturation: Saturation, wanted_k: float) -> float:
    """The pressure whose mean coil temperature is `wanted_k`, by bisection. [Pa]"""
    low, high = saturation.lowest_pressure_pa, saturation.highest_pressure_pa
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if mean_k(middle) < wanted_k else (low, middle)
    return (low + high) / 2
