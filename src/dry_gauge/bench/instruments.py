"""What instruments show of a settled unit: the true numbers, their errors, and the mistakes people make with them."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from dry_gauge.bench import moist_air
from dry_gauge.bench.cycle import LOAD_K
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.plant import Faults, Weather
from dry_gauge.bench.solve import Solution
from dry_gauge.core.judgement.hypotheses import Misreading
from dry_gauge.core.quantities import FAHRENHEIT_K, INCH_WATER_PA, to_kelvin
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.sheet import Reading
from dry_gauge.core.vocabulary import QUANTITIES, Fault, default_half_width_si

Array = NDArray[np.float64]

_STANDING_GAS_K = 9.0  # bubble above ambient, unit off, with all the foreign gas the bench knows
_LABEL_STATIC_PA = 0.5 * INCH_WATER_PA
_POWER_FACTOR_VOLTS = 0.87 * 230.0
STAYS = 0.6
"""Of the variance of an instrument's error, what stays with it from day to day. Chosen, and not what the judgement takes."""

# What a technician may read on a running unit, in the order of the vocabulary.
_NOT_WHILE_RUNNING = (
    "product_temp",
    "space_temp",
    "box_rh",
    "return_air_rh",
    "blower_amps",
    "condenser_fan_amps",
    "standing_pressure",
    "equalized_ambient_temp",
)
NAMES = tuple(name for name, quantity in QUANTITIES.items() if name not in _NOT_WHILE_RUNNING and not quantity.desk)


def true_readings(machine: Machine, weather: Weather, faults: Faults, solution: Solution) -> dict[str, Array]:
    """Every quantity of the contract that such a unit shows, SI, by name; one element a unit.

    Quantities of which only some of the units have a meaning (wet bulbs in a box) are NaN for the others.
    """
    turn, n = solution.turn, machine.n
    walk_in, heating = machine.walk_in, machine.heating
    indoor_supply_k = np.where(heating, turn.condenser_leaving_air_k + 0.5, turn.supply_air_k)
    outdoor_leaving_k = np.where(heating, turn.supply_air_k - 0.6, turn.condenser_leaving_air_k)
    indoor_kg_s = np.where(
        heating,
        turn.condenser_heat_w / np.maximum(turn.condenser_leaving_air_k - weather.return_k, 0.5) / moist_air.DRY_AIR_J_KG_K,
        turn.evaporator_airflow_kg_s,
    )
    volts = np.where(turn.power_w > 0, _POWER_FACTOR_VOLTS, 1.0)
    idle = machine.makes.idle_amps  # current of a motor falls by less than its work
    amps = 0.88 * ((1 - idle) * turn.power_w + idle * machine.power_design) * machine.habits.amps / volts
    outlet_k = turn.valve_inlet_k - 0.3
    comfort = ~walk_in
    blocked = np.where(heating, faults[Fault.LOW_CONDENSER_AIRFLOW], faults[Fault.LOW_EVAPORATOR_AIRFLOW])
    open_wide = np.where(heating, 0.0, faults[Fault.HIGH_EVAPORATOR_LOAD])
    filter_pa, coil_pa = (0.10 + 0.55 * blocked) * INCH_WATER_PA, 0.22 * INCH_WATER_PA  # what is short of air is a filter here
    static = _LABEL_STATIC_PA * (1.0 + machine.makes.static * blocked - 0.45 * open_wide)

    def where(applies: NDArray[np.bool_], values: Array) -> Array:
        return np.where(applies, values, np.nan)

    return {
        "outdoor_air_temp": weather.outdoor_k,
        "return_air_temp": where(comfort, weather.return_k),
        "return_air_wet_bulb": where(comfort & ~heating, weather.return_wet_bulb_k),
        "box_air_temp": where(walk_in, weather.return_k + machine.makes.load_seen * LOAD_K * faults[Fault.HIGH_EVAPORATOR_LOAD]),
        "supply_air_temp": indoor_supply_k,
        "supply_air_wet_bulb": where(
            comfort & ~heating, moist_air.wet_bulb_k(turn.supply_air_k, turn.supply_humidity, weather.atmosphere_pa)
        ),
        "condenser_leaving_air_temp": outdoor_leaving_k,
        "suction_pressure": turn.suction_pressure_pa,
        "liquid_pressure": turn.liquid_pressure_pa,
        "discharge_pressure": turn.discharge_pressure_pa,
        "suction_line_temp": np.where(walk_in, turn.compressor_suction_k, turn.suction_line_k),
        "coil_outlet_temp": turn.coil_outlet_k,
        "compressor_suction_temp": turn.compressor_suction_k,
        "discharge_line_temp": turn.discharge_line_k,
        "liquid_line_temp": turn.liquid_line_k,
        "drier_inlet_temp": turn.liquid_line_k - 0.2,
        "drier_outlet_temp": np.minimum(outlet_k, turn.liquid_line_k - 0.2),
        "valve_inlet_temp": turn.valve_inlet_k - 0.5,
        "compressor_amps": amps,
        "input_power": turn.power_w * 1.06,
        "airflow": where(comfort, indoor_kg_s / moist_air.density_kg_m3(weather.return_k, weather.atmosphere_pa)),
        "external_static_supply": where(comfort, 0.45 * static),
        "external_static_return": where(comfort, -0.55 * static),
        "static_after_filter": where(comfort, -0.55 * static - filter_pa),
        "static_after_coil": where(comfort, -0.55 * static - filter_pa - coil_pa),
        "standing_pressure": _standing(machine, weather, faults),
        "equalized_ambient_temp": weather.outdoor_k,
        "rated_load_amps": 0.88 * machine.power_design * 1.35 / np.full(n, _POWER_FACTOR_VOLTS),
    }


def _standing(machine: Machine, weather: Weather, faults: Faults) -> Array:
    """Pressure of the unit off and equalized at outdoor temperature. [Pa]"""
    foreign_k = _STANDING_GAS_K * faults[Fault.NON_CONDENSABLES]
    properties = machine.properties
    at_k = np.clip(weather.outdoor_k + foreign_k, to_kelvin(-40), to_kelvin(140))
    # Mostly vapour space over some liquid: a blend stands between its bubble and its dew pressure.
    return properties.pressure_pa(properties.position_of_temperature(at_k, dew_share=0.35))


def half_widths(values: Mapping[str, Array], atmosphere_pa: Array) -> dict[str, Array]:
    """Usual accuracy of each instrument at what it shows, 95 %, SI."""
    found = {}
    for name, value in values.items():
        quantity = QUANTITIES.get(name)
        if quantity is None:
            continue
        if quantity.dimension == "pressure":
            low = default_half_width_si(quantity, 0.0, 0.0)
            found[name] = np.maximum(low, 0.005 * (value - atmosphere_pa))
        elif quantity.relative:
            found[name] = quantity.half_width_si * np.abs(value)
        else:
            found[name] = np.full_like(value, quantity.half_width_si)
    return found


def read(
    values: Mapping[str, Array],
    atmosphere_pa: Array,
    chance: np.random.Generator,
    noise: float = 1.0,
    tails: float | None = None,
    stays: Mapping[str, Array] | None = None,
) -> dict[str, Array]:
    """What the instruments show: each true number with an error of its own.

    Parameters
    ----------
    noise : float
        Multiplies every error.
    tails : float, optional
        Degrees of freedom of Student's t in place of a normal error, at the same spread.
    stays : mapping of str to ndarray, optional
        What of an instrument's error stays with it from day to day, see `standing_errors`.
    """
    shown = dict(values)
    for name, half_width in half_widths(values, atmosphere_pa).items():
        draw = chance.standard_normal(len(half_width))
        if tails:
            draw /= np.sqrt(chance.chisquare(tails, len(half_width)) / (tails - 2))
        if stays:
            draw = STAYS**0.5 * stays[name] + (1 - STAYS) ** 0.5 * draw
        shown[name] = values[name] + noise * half_width / 2 * draw
    for wet, dry in (("return_air_wet_bulb", "return_air_temp"), ("supply_air_wet_bulb", "supply_air_temp")):
        shown[wet] = np.fmin(shown[wet], shown[dry])
    return shown


def standing_errors(values: Mapping[str, Array], chance: np.random.Generator) -> dict[str, Array]:
    """What stays with each instrument of each unit's technician, as a share of its accuracy."""
    return {name: chance.standard_normal(len(value)) for name, value in values.items()}


def misread(
    shown: Mapping[str, Array], misreading: Misreading, size: Array, machine: Machine, weather: Weather
) -> dict[str, Array]:
    """The same readings after one mistake of a size between 0 and 1."""
    wrong = dict(shown)
    warm_k = np.maximum(weather.outdoor_k, weather.return_k)
    if misreading is Misreading.LOOSE_SUCTION_CLAMP:
        line = shown["suction_line_temp"]
        wrong["suction_line_temp"] = line + (0.25 + 0.5 * size) * np.maximum(warm_k - line, 5.0)
    elif misreading is Misreading.LOOSE_LIQUID_CLAMP:
        line = shown["liquid_line_temp"]
        wrong["liquid_line_temp"] = line - (0.25 + 0.5 * size) * np.maximum(line - warm_k, 3.0)
    elif misreading is Misreading.DISCHARGE_PORT:
        wrong["liquid_pressure"] = shown["discharge_pressure"] * (1 + 0.02 * size)
    elif misreading is Misreading.PROBE_IN_SUN:
        wrong["outdoor_air_temp"] = shown["outdoor_air_temp"] + (8 + 10 * size) * FAHRENHEIT_K
    elif misreading is Misreading.DRY_SOCK:
        wet, dry = shown["return_air_wet_bulb"], shown["return_air_temp"]
        wrong["return_air_wet_bulb"] = wet + (0.6 + 0.4 * size) * (dry - wet)
    return wrong


def as_readings(shown: Mapping[str, Array], i: int, names: tuple[str, ...], atmosphere_pa: float) -> tuple[Reading, ...]:
    """One unit's numbers as readings of a sheet, each with its usual accuracy."""
    found = []
    for name in names:
        value = float(shown[name][i])
        if np.isfinite(value):
            found.append(Reading(name, value, default_half_width_si(QUANTITIES[name], value, atmosphere_pa)))
    return tuple(found)


def in_table(machine: Machine, values: Mapping[str, Array]) -> NDArray[np.bool_]:
    """Whether the label refrigerant's tables hold all four pressures: a gauge set to it could show them."""
    inside = np.ones(machine.n, dtype=bool)
    for i, plate in enumerate(machine.nameplates):
        saturation = saturation_of(plate.refrigerant)
        inside[i] = all(
            saturation.lowest_pressure_pa * 1.05 < values[name][i] < saturation.highest_pressure_pa * 0.97
            for name in ("suction_pressure", "liquid_pressure", "discharge_pressure", "standing_pressure")
        )
    return inside


__all__ = ["NAMES", "Misreading", "as_readings", "half_widths", "in_table", "misread", "read", "standing_errors", "true_readings"]
