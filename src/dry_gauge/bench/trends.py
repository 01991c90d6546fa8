"""Which way each fault moves each gap at medium size: the bench against the rules of the trade.

The rules are stated once, here, as signs; `scripts/trends.py` prints both, and a test holds the bench to them.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dry_gauge.bench.instruments import true_readings
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.plant import Faults, Habits, Nameplate, Weather
from dry_gauge.bench.solve import solve
from dry_gauge.core.quantities import FAHRENHEIT_K, to_kelvin
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.vocabulary import Fault, Kind, Metering, Mode

Array = NDArray[np.float64]
F = Fault
MEDIUM = 0.6

SHOWN = ("superheat", "subcooling", "evaporator_td", "condenser_split", "air_split", "discharge_line", "suction", "head", "amps")

# By metering as the trade tells it: `+` up, `-` down, everything else may go either way or stays about the same.
_FIXED: Mapping[Fault, Mapping[str, str]] = {
    F.UNDERCHARGE: {"subcooling": "-", "head": "-", "condenser_split": "-", "amps": "-", "suction": "-", "superheat": "+",
                    "discharge_line": "+", "evaporator_td": "+", "air_split": "-"},
    F.OVERCHARGE: {"subcooling": "+", "head": "+", "amps": "+", "suction": "+", "superheat": "-"},
    F.LOW_EVAPORATOR_AIRFLOW: {"suction": "-", "evaporator_td": "+", "air_split": "+", "superheat": "-", "head": "-"},
    F.HIGH_EVAPORATOR_LOAD: {"suction": "+", "evaporator_td": "-", "air_split": "-", "head": "+", "superheat": "+"},
    F.LOW_CONDENSER_AIRFLOW: {"head": "+", "condenser_split": "+", "amps": "+", "suction": "+", "superheat": "-"},
    F.LIQUID_LINE_RESTRICTION: {"suction": "-", "superheat": "+", "discharge_line": "+", "subcooling": "+"},
    F.METERING_UNDERFEEDING: {"suction": "-", "superheat": "+", "discharge_line": "+", "subcooling": "+"},
    F.METERING_OVERFEEDING: {"suction": "+", "superheat": "-", "evaporator_td": "-", "discharge_line": "-"},
    F.NON_CONDENSABLES: {"head": "+", "subcooling": "+", "suction": "+", "superheat": "-"},
    F.INEFFICIENT_COMPRESSOR: {"suction": "+", "head": "-", "amps": "-", "air_split": "-", "evaporator_td": "-"},
}  # fmt: skip
_VALVE: Mapping[Fault, Mapping[str, str]] = {
    F.UNDERCHARGE: {"subcooling": "-", "head": "-", "condenser_split": "-", "amps": "-"},
    F.OVERCHARGE: {"subcooling": "+", "head": "+", "amps": "+"},
    F.LOW_EVAPORATOR_AIRFLOW: {"suction": "-", "evaporator_td": "+", "air_split": "+", "head": "-"},
    F.HIGH_EVAPORATOR_LOAD: {"suction": "+", "evaporator_td": "-", "air_split": "-", "head": "+"},
    F.LOW_CONDENSER_AIRFLOW: {"head": "+", "condenser_split": "+", "discharge_line": "+", "amps": "+"},
    F.LIQUID_LINE_RESTRICTION: {"suction": "-", "superheat": "+", "discharge_line": "+", "subcooling": "+"},
    F.METERING_UNDERFEEDING: {"suction": "-", "superheat": "+", "discharge_line": "+", "subcooling": "+"},
    F.METERING_OVERFEEDING: {"suction": "+", "superheat": "-", "evaporator_td": "-", "discharge_line": "-"},
    F.NON_CONDENSABLES: {"head": "+", "subcooling": "+", "discharge_line": "+"},
    F.INEFFICIENT_COMPRESSOR: {"suction": "+", "head": "-", "amps": "-", "air_split": "-", "evaporator_td": "-"},
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Sort:
    """One sort of unit of the printed table."""

    name: str
    plate: Nameplate
    outdoor_f: float
    entering_f: float
    wet_bulb_f: float

    @property
    def signs(self) -> Mapping[Fault, Mapping[str, str]]:
        """The rules that hold for it."""
        rules = {fault: dict(row) for fault, row in (_FIXED if self.plate.metering.is_fixed else _VALVE).items()}
        if self.plate.receiver:
            for fault in (F.LIQUID_LINE_RESTRICTION, F.METERING_UNDERFEEDING):
                del rules[fault]["subcooling"]  # the receiver takes it up
            rules[F.UNDERCHARGE] |= {"superheat": "+", "suction": "-"}
        if self.plate.kind.is_walk_in:
            # The box is judged by its coil; warm wet air that the probe does not show widens what the coil gives.
            for row in rules.values():
                row.pop("air_split", None)
        if self.plate.mode is Mode.HEATING:
            del rules[F.HIGH_EVAPORATOR_LOAD]
            rules[F.LOW_EVAPORATOR_AIRFLOW]["air_split"] = "-"
            rules[F.LOW_CONDENSER_AIRFLOW]["air_split"] = "+"
        return rules


def _k(differences_f: float) -> float:
    return differences_f * FAHRENHEIT_K


def _sorts() -> tuple[Sort, ...]:
    found = []
    for kind in Kind:
        if kind.is_walk_in:
            freezer = kind is Kind.WALK_IN_FREEZER
            box_f = -5.0 if freezer else 37.0
            for metering, receiver in ((Metering.TXV, True), (Metering.EXV, True), (Metering.CAPILLARY, False)):
                plate = Nameplate(
                    kind,
                    find("R-448A"),
                    metering=metering,
                    receiver=receiver,
                    capacity_w=5000,
                    evaporator_td_k=_k(8 if freezer else 10),
                    condenser_split_k=_k(14 if freezer else 21),
                    design_superheat_k=_k(5 if freezer else 7),
                    design_subcooling_k=_k(5),
                )
                found.append(Sort(f"{kind.value}, {metering.value}", plate, 90.0, box_f + 1, box_f - 0.5))
            continue
        for mode in (Mode.COOLING, Mode.HEATING) if kind.is_heat_pump else (Mode.COOLING,):
            heating = mode is Mode.HEATING
            for metering in (Metering.TXV, Metering.EXV, Metering.ORIFICE):
                plate = Nameplate(
                    kind,
                    find("R-410A"),
                    mode,
                    metering,
                    evaporator_td_k=_k(12 if heating else 35),
                    condenser_split_k=_k(36 if heating else 20),
                    design_superheat_k=_k(11),
                    design_subcooling_k=_k(10),
                )
                where = (45.0, 70.0, 58.0) if heating else (88.0, 77.0, 65.5)
                found.append(Sort(f"{kind.value}, {mode.value}, {metering.value}", plate, *where))
    return tuple(found)


SORTS = _sorts()


def moved(sort: Sort, severity: float = MEDIUM) -> dict[Fault, dict[str, float]]:
    """How far each gap moves, F; pressures in per cent, amps in per cent."""
    faults = list(sort.signs)
    n = len(faults) + 1
    machine = Machine([sort.plate] * n, Habits.textbook(n))
    weather = Weather.of(*([to_kelvin(t)] * n for t in (sort.outdoor_f, sort.entering_f, sort.wet_bulb_f)))
    table = np.zeros((len(Faults.none(1).severity), n))
    for column, fault in enumerate(faults, 1):
        table += Faults.of(n, **{fault.value: np.where(np.arange(n) == column, severity, 0.0)}).severity
    sick = Faults(table)
    solution = solve(machine, weather, sick)
    if not solution.solved.all():
        raise ArithmeticError(f"{sort.name}: {int((~solution.solved).sum())} of {n} medium faults do not settle")
    shown = true_readings(machine, weather, sick, solution)
    values = _gaps(sort, shown)
    return {fault: {name: float(row[column] - row[0]) for name, row in values.items()} for column, fault in enumerate(faults, 1)}


def _gaps(sort: Sort, shown: Mapping[str, Array]) -> dict[str, Array]:
    saturation = saturation_of(sort.plate.refrigerant)
    low, high = shown["suction_pressure"], shown["liquid_pressure"]
    dew = saturation.dew_temperature_k(low)
    mean_low = np.array([saturation.evaporating_mean_k(float(p)) for p in low])
    mean_high = np.array([saturation.condensing_mean_k(float(p)) for p in high])
    heating = sort.plate.mode is Mode.HEATING
    indoor = shown["box_air_temp"] if sort.plate.kind.is_walk_in else shown["return_air_temp"]
    outdoor = shown["outdoor_air_temp"]
    split = shown["supply_air_temp"] - indoor if heating else indoor - shown["supply_air_temp"]
    in_kelvin = {
        "superheat": shown["coil_outlet_temp"] - dew,
        "subcooling": saturation.bubble_temperature_k(high) - shown["liquid_line_temp"],
        "evaporator_td": (outdoor if heating else indoor) - mean_low,
        "condenser_split": mean_high - (indoor if heating else outdoor),
        "air_split": split,
        "discharge_line": shown["discharge_line_temp"],
    }
    found = {name: values / FAHRENHEIT_K for name, values in in_kelvin.items()}
    for name, values in (("suction", low), ("head", high), ("amps", shown["compressor_amps"])):
        found[name] = 100 * values / values[0]
    return found
