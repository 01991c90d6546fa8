"""What the judgement looks at: the gaps of one circuit with their errors, and the conditions that move what is healthy.

A *feature* is a number that a fault moves; a *condition* is one that only moves the expectation (weather, load, what
the label says). Both are plain vectors in the order of `FEATURES` and `CONDITIONS`, so that the bench's calibration and
a technician's sheet meet in the same space.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache, lru_cache
from math import log

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.circuit import Derived, return_wet_bulb
from dry_gauge.core.quantities import CFM_M3_S, CFM_PER_TON, FAHRENHEIT_K, INCH_WATER_PA, TON_W, Measured, to_kelvin
from dry_gauge.core.refrigerants.catalogue import Refrigerant, find
from dry_gauge.core.refrigerants.properties import Properties
from dry_gauge.core.refrigerants.saturation import EVAPORATING_DEW_SHARE, saturation_of
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.vocabulary import EvaporatorClass, HeadPressureControl, Kind

Array = NDArray[np.float64]

# Differences in K, the rest as natural logarithm against nameplate or habit.
FEATURES = (
    "superheat", "coil_superheat", "inlet_superheat", "subcooling", "evaporator_td", "condenser_split", "air_split",
    "discharge_superheat", "leaving_rise", "wet_split", "amps", "input_power", "airflow", "external_static",
)  # fmt: skip
DIFFERENCES = FEATURES[:10]
CONDITIONS = (
    "one", "outdoor", "outdoor_squared", "entering", "wet_bulb", "split_class", "label_subcooling", "td_class",
    "head_held", "hot_gas", "glide", "elevation", "flooded", "flooded_cold", "weather_and_load",
)  # fmt: skip
FLOORED = ("superheat", "coil_superheat", "inlet_superheat", "subcooling")

_LABEL_STATIC_PA = 0.5 * INCH_WATER_PA  # external static that most labels allow


@dataclass(frozen=True, slots=True)
class Observed:
    """The features of one circuit.

    Parameters
    ----------
    at : ndarray of int, shape (d,)
        Which features could be had, as positions in `FEATURES`.
    values : ndarray, shape (d,)
    errors : mapping of str to ndarray, shape (d,)
        What each independent instrument adds to every feature, one sigma, signed.
    sources : tuple of tuple of str
        Readings behind each feature.
    impossible : tuple of (int, float, float)
        Features that no sound reading of this refrigerant can give, with value and error: a slip, or another filling.
    """

    at: NDArray[np.intp]
    values: Array
    errors: Mapping[str, Array]
    sources: tuple[tuple[str, ...], ...]
    impossible: tuple[tuple[int, float, float], ...] = ()


@dataclass(frozen=True, slots=True)
class Conditions:
    """What moves the expectation: the vector, how doubtful each assumed element is, and each reading's share in it."""

    values: Array
    doubts: Mapping[int, float]
    slopes: Mapping[str, Array]
    """One sigma of each reading that entered, as a step in the vector."""


def observe(view: CircuitView, derived: Mapping[str, Derived]) -> Observed:
    """The features that this circuit's readings yield; what reads as impossible is left out."""
    found: list[tuple[int, Measured]] = []
    impossible: list[tuple[int, float, float]] = []
    glide_k = {
        name: view.unit.saturation.glide_k(pressure.value)
        for name, pressure in (("low", view.get("suction_pressure")), ("high", view.high_pressure))
        if pressure
    }
    for i, name in enumerate(FEATURES):
        measured = _feature(name, view, derived)
        if measured is None:
            continue
        if name in FLOORED:
            floor_k = glide_k.get("high" if name == "subcooling" else "low", 0.0)
            if measured.value + measured.uncertainty < -floor_k:
                # A probe or a slip, or another refrigerant; asked about by `plausibility`, no evidence for a fault.
                impossible.append((i, measured.value, measured.uncertainty / 2))
                continue
            # Between bubble and dew two phases are present: less than nothing is left.
            measured = Measured(max(measured.value, 0.0), measured.parts)
        if name == "leaving_rise" and measured.value <= 0:
            continue
        found.append((i, measured))
    errors: dict[str, Array] = {}
    for row, (_, measured) in enumerate(found):
        for source, part in measured.parts.items():
            errors.setdefault(source, np.zeros(len(found)))[row] = part / 2
    return Observed(
        np.array([i for i, _ in found], dtype=np.intp),
        np.array([measured.value for _, measured in found]),
        errors,
        tuple(measured.sources for _, measured in found),
        tuple(impossible),
    )


def _feature(name: str, view: CircuitView, derived: Mapping[str, Derived]) -> Measured | None:
    match name:
        case "superheat":
            line = view.get("suction_line_temp")
            return line - derived["suction_saturation"].measured if line and "suction_saturation" in derived else None
        case "inlet_superheat":
            inlet = view.get("compressor_suction_temp")
            return inlet - derived["suction_saturation"].measured if inlet and "suction_saturation" in derived else None
        case "leaving_rise":
            leaving, entering = view.get("condenser_leaving_air_temp"), view.get("outdoor_air_temp")
            return leaving - entering if leaving and entering and not view.unit.heating else None
        case "wet_split":
            entering, leaving = return_wet_bulb(view), view.get("supply_air_wet_bulb")
            return entering - leaving if entering and leaving and not view.unit.heating else None
        case "amps":
            return _log_ratio(view.get("compressor_amps"), view.unit.rated_load_amps)
        case "input_power":
            return _log_ratio(view.get("input_power"), view.unit.nominal_capacity_w)
        case "airflow":
            capacity_w = view.unit.nominal_capacity_w
            nominal = capacity_w / TON_W * CFM_PER_TON * CFM_M3_S if capacity_w else None
            return _log_ratio(view.get("airflow"), nominal)
        case "external_static":
            static = derived.get("external_static")
            return _log_ratio(static.measured if static else None, _LABEL_STATIC_PA)
        case "air_split" if view.unit.kind.is_walk_in:
            return None  # box air mixes; the coil's gap says it better
        case _:
            return derived[name].measured if name in derived else None


def _log_ratio(measured: Measured | None, reference: float | None) -> Measured | None:
    if measured is None or not reference or not 0.02 < measured.value / reference < 50:
        return None
    return measured.through(log(measured.value / reference), 1 / measured.value)


# -- conditions ----------------------------------------------------------------

_TD_CLASS_F = {EvaporatorClass.HIGH_HUMIDITY: 10.0, EvaporatorClass.GENERAL: 13.5, EvaporatorClass.LOW_HUMIDITY: 17.5}
_SPLIT_CLASS_F = ((11.0, 30.0), (13.0, 25.0), (16.0, 20.0), (99.0, 15.0))


def conditions(view: CircuitView) -> Conditions:
    """The conditions of one circuit. What is not known stands at its usual value, with the doubt that goes with it."""
    unit = view.unit
    values = np.zeros(len(CONDITIONS))
    doubts: dict[int, float] = {}
    slopes: dict[str, Array] = {}
    values[0] = 1.0

    def read(i: int, measured: Measured | None, middle_k: float, unit_f: float, usual: float, doubt: float) -> None:
        step_k = unit_f * FAHRENHEIT_K
        if measured is None:
            values[i], doubts[i] = usual, doubt
            return
        values[i] = min(max((measured.value - middle_k) / step_k, -4.0), 4.0)
        for source, part in measured.parts.items():
            slopes.setdefault(source, np.zeros(len(CONDITIONS)))[i] += part / 2 / step_k

    outdoor_middle_k = to_kelvin(40.0 if unit.heating else 90.0)
    read(1, view.get("outdoor_air_temp"), outdoor_middle_k, 20.0, 0.0, 0.6)
    values[2] = values[1] ** 2
    for source in tuple(slopes):
        slopes[source][2] = 2 * values[1] * slopes[source][1]
    if unit.kind.is_walk_in:
        read(3, view.get("box_air_temp", "return_air_temp"), unit.box_target_k, 10.0, 0.2, 0.3)
    else:
        read(3, view.get("return_air_temp"), to_kelvin(70.0 if unit.heating else 76.0), 10.0, 0.0, 0.5)
    if not unit.kind.is_walk_in and not unit.heating:
        # Without a wet bulb, half-dry air as most houses keep it.
        read(4, return_wet_bulb(view), to_kelvin(65.0), 6.0, 1.2 * values[3], 0.9)
        seer = unit.seer
        if seer is None:
            doubts[5] = 0.9
        else:
            aim_f = next(aim for below, aim in _SPLIT_CLASS_F if seer < below or below == 99.0)
            values[5] = (aim_f - 20.0) / 6.0
    if not unit.kind.is_walk_in:
        label_k = unit.target_subcooling_k
        if label_k is None or unit.heating:
            doubts[6] = 0.7
        else:
            values[6] = min(max((label_k / FAHRENHEIT_K - 10.0) / 2.5, -4.0), 6.0)
    if unit.kind is Kind.WALK_IN_COOLER:
        if unit.evaporator_class is None:
            doubts[7] = 0.8
        else:
            values[7] = (_TD_CLASS_F[unit.evaporator_class] - 13.5) / 4.0
    if unit.kind.is_walk_in and unit.head_pressure_control not in (None, HeadPressureControl.NONE):
        values[8] = max(0.0, -0.25 - values[1])
        if unit.head_pressure_control is HeadPressureControl.FLOODED:
            values[12], values[13] = 1.0, values[8]
    values[9], values[10] = refrigerant_traits(unit.refrigerant)
    values[11] = (unit.elevation_m or 0.0) / 1000.0
    values[14] = values[1] * (values[4] if not unit.kind.is_walk_in and not unit.heating else values[3])
    return Conditions(values, doubts, slopes)


@cache
def refrigerant_traits(refrigerant: Refrigerant) -> tuple[float, float]:
    """How hot its discharge runs and how wide its glide is, as conditions.

    The first is the superheat of ideal compression from 40 F to 115 F saturated with 20 F of suction superheat,
    against 30 F, in steps of 15 F; the second its glide at 40 F in steps of 10 F. Outside a refrigerant's table the
    nearest states it has.
    """
    saturation, properties = saturation_of(refrigerant), Properties([refrigerant])
    low_k, high_k = (
        min(max(to_kelvin(t), saturation.temperature_range_k[0] + 1), saturation.temperature_range_k[1] - 1)
        for t in (40.0, 115.0)
    )
    ends = np.array([[saturation.dew_pressure_pa(low_k)], [saturation.dew_pressure_pa(high_k)]])
    low, high = properties.at_each(*properties.position(ends))
    entropy = low.vapour_entropy(np.array([20.0 * FAHRENHEIT_K]))
    hot_k = float(high.superheat_at_entropy_k(entropy)[0])
    return (hot_k / FAHRENHEIT_K - 30.0) / 15.0, float((low.dew_k - low.bubble_k)[0]) / FAHRENHEIT_K / 10.0


@cache
def vapour_step(label: Refrigerant, filling: Refrigerant) -> float:
    """How much more vapour of `filling` a compressor moves than of `label`: logarithm of their pressures at 40 F."""
    pressures = []
    for refrigerant in (label, filling):
        saturation = saturation_of(refrigerant)
        low_k, high_k = saturation.temperature_range_k
        pressures.append(saturation.dew_pressure_pa(min(max(to_kelvin(40.0), low_k + 1), high_k - 1)))
    return log(pressures[1] / pressures[0])


@cache
def vapour_steps(label: Refrigerant, names: tuple[str, ...]) -> Array:
    """`vapour_step` of several fillings by name."""
    return np.array([vapour_step(label, find(name)) for name in names])


@cache
def _tables(names: tuple[str, ...]) -> tuple[Properties, Array, Array]:
    refrigerants = [find(name) for name in names]
    limits = [(s.lowest_pressure_pa, s.highest_pressure_pa) for s in map(saturation_of, refrigerants)]
    low, high = np.array(limits).T
    return Properties(refrigerants), low, high


def refilled(view: CircuitView, names: tuple[str, ...]) -> Array:
    """By how much each feature would read more if the pressures belonged to another refrigerant.

    Returns
    -------
    ndarray, shape (names, features), not to be written to
        Rows of NaN for the refrigerant of the label and for those whose tables do not hold the pressures. [K]
    """
    pressures = (view.get("suction_pressure"), view.high_pressure, view.get("discharge_pressure", "liquid_pressure"))
    return _refilled(view.unit.refrigerant, tuple(one.value if one else None for one in pressures), names)


@lru_cache(maxsize=64)
def _refilled(label: Refrigerant, pressures: tuple[float | None, ...], names: tuple[str, ...]) -> Array:
    # Most entries of a visit leave the pressures as they are: the last answers are kept.
    found = np.zeros((len(names), len(FEATURES)))
    others, lowest, highest = _tables(names)
    read = np.array([lowest[0] if one is None else one for one in pressures])[:, None]
    bubbles_k, dews_k = others.both_temperatures(read)
    suction, high, discharge = pressures
    own = saturation_of(label)
    if suction is not None:
        found[:, :3] += (own.dew_temperature_k(suction) - dews_k[0])[:, None]
        mean_k = bubbles_k[0] + EVAPORATING_DEW_SHARE * (dews_k[0] - bubbles_k[0])
        found[:, 4] += own.evaporating_mean_k(suction) - mean_k
    if high is not None:
        found[:, 3] += bubbles_k[1] - own.bubble_temperature_k(high)
        found[:, 5] += (bubbles_k[1] + dews_k[1]) / 2 - own.condensing_mean_k(high)
    if discharge is not None:
        found[:, 7] += own.dew_temperature_k(discharge) - dews_k[2]
    given = np.array([one is not None for one in pressures])[:, None]
    found[(given & ((read < lowest) | (read > highest))).any(axis=0)] = np.nan
    if label.name in names:
        found[names.index(label.name)] = np.nan
    return found
