"""What the judgement looks at: the gaps of one circuit with their errors, and the conditions that move what is healthy.

A *feature* is a number that a fault moves; a *condition* is one that only moves the expectation (weather, load, what
the label says). Both are plain vectors in the order of `FEATURES` and `CONDITIONS`, so that the bench's calibration and
a technician's sheet meet in the same space.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cache, lru_cache
from math import log

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.circuit import Derived, entering_wet_bulb
from dry_gauge.core.efficiency import split_by_seer_f
from dry_gauge.core.quantities import CFM_M3_S, CFM_PER_TON, FAHRENHEIT_K, INCH_WATER_PA, TON_W, Measured, to_kelvin
from dry_gauge.core.refrigerants.catalogue import Refrigerant, find
from dry_gauge.core.refrigerants.properties import Properties
from dry_gauge.core.refrigerants.saturation import EVAPORATING_DEW_SHARE, saturation_of
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.vocabulary import EvaporatorClass, HeadPressureControl, Kind

Array = NDArray[np.float64]

CONDITIONS = (
    "one", "outdoor", "outdoor_squared", "entering", "wet_bulb", "split_class", "label_subcooling", "td_class",
    "head_held", "hot_gas", "glide", "elevation", "flooded", "flooded_cold", "weather_and_load",
)  # fmt: skip
MOST_UNEVEN = 0.7  # logarithm: in no weather do sound units differ by more than twice as much as usual, or less than half
BOX_NEAR_DESIGN_K = 10 * FAHRENHEIT_K
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
    instruments : mapping of str to str
        Names of the instruments behind `errors`, of those that have one.
    """

    at: NDArray[np.intp]
    values: Array
    errors: Mapping[str, Array]
    sources: tuple[tuple[str, ...], ...]
    impossible: tuple[tuple[int, float, float], ...] = ()
    instruments: Mapping[str, str] = field(default_factory=dict)


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
        for name, pressure in (
            ("low", view.in_table("suction_pressure")),
            ("high", view.in_table("liquid_pressure", "discharge_pressure")),
        )
        if pressure
    }
    unknown_stage = view.low_stage and not view.known_low_stage
    for i, row in enumerate(FEATURE_ROWS):
        measured = row.reader(view, derived)
        if measured is None or (unknown_stage and not row.of_any_stage):
            continue
        if row.floored:
            if measured.value + measured.uncertainty < -glide_k.get(row.floored, 0.0):
                # A probe or a slip, or another refrigerant; asked about by `plausibility`, no evidence for a fault.
                impossible.append((i, measured.value, measured.uncertainty / 2))
                continue
            # Between bubble and dew two phases are present: less than nothing is left.
            measured = Measured(max(measured.value, 0.0), measured.parts)
        found.append((i, measured))
    errors: dict[str, Array] = {}
    for place, (_, measured) in enumerate(found):
        for source, part in measured.parts.items():
            errors.setdefault(source, np.zeros(len(found)))[place] = part / 2
    return Observed(
        np.array([i for i, _ in found], dtype=np.intp),
        np.array([measured.value for _, measured in found]),
        errors,
        tuple(measured.sources for _, measured in found),
        tuple(impossible),
        view.instruments,
    )


Read = Callable[[CircuitView, Mapping[str, Derived]], Measured | None]


def _derived(name: str) -> Read:
    """A gap as the circuit arithmetic has it."""
    return lambda view, derived: derived[name].measured if name in derived else None


def _over_saturation(line: str) -> Read:
    """A line's temperature over dew at the suction pressure."""

    def read(view: CircuitView, derived: Mapping[str, Derived]) -> Measured | None:
        measured = view.get(line)
        return measured - derived["suction_saturation"].measured if measured and "suction_saturation" in derived else None

    return read


def _air_split(view: CircuitView, derived: Mapping[str, Derived]) -> Measured | None:
    # Box air mixes; the coil's gap says it better.
    return None if view.unit.kind.is_walk_in else _derived("air_split")(view, derived)


def _leaving_rise(view: CircuitView, _: Mapping[str, Derived]) -> Measured | None:
    leaving, entering = view.get("condenser_leaving_air_temp"), view.get("outdoor_air_temp")
    rise = leaving - entering if leaving and entering and not view.unit.heating else None
    return rise if rise and rise.value > 0 else None


def _wet_split(view: CircuitView, _: Mapping[str, Derived]) -> Measured | None:
    entering, leaving = entering_wet_bulb(view), view.get("supply_air_wet_bulb")
    return entering - leaving if entering and leaving and not view.unit.heating else None


def _airflow(view: CircuitView, _: Mapping[str, Derived]) -> Measured | None:
    capacity_w = view.unit.nominal_capacity_w
    nominal = capacity_w / TON_W * CFM_PER_TON * CFM_M3_S if capacity_w else None
    return _log_ratio(view.get("airflow"), nominal)


def _external_static(_: CircuitView, derived: Mapping[str, Derived]) -> Measured | None:
    static = derived.get("external_static")
    return _log_ratio(static.measured if static else None, _LABEL_STATIC_PA)


def _log_ratio(measured: Measured | None, reference: float | None) -> Measured | None:
    if measured is None or not reference or not 0.02 < measured.value / reference < 50:
        return None
    return measured.through(log(measured.value / reference), 1 / measured.value)


def _box_warmth(view: CircuitView, _: Mapping[str, Derived]) -> Measured | None:
    design_k = view.unit.design_box_k
    box = view.entering_indoor_air if view.unit.kind.is_walk_in else None
    # Colder than it should be says no more than being there; further off than the gate allows it is being pulled down.
    return box.through(_between(0.0, box.value - design_k, BOX_NEAR_DESIGN_K), 1.0) if box and design_k is not None else None


@dataclass(frozen=True, slots=True)
class FeatureRow:
    """A number that a fault moves.

    Parameters
    ----------
    name, label : str
        In calibration and files, and as a sentence writes it.
    least_spread : float
        No two sound units are more alike than this, one sigma: K for differences, natural logarithm for the rest.
    reader : callable
        What it reads on a circuit; None where that cannot be had.
    difference : bool
        A difference in K; else the natural logarithm of a ratio against nameplate or habit.
    floored : str
        The side (``low`` or ``high``) on which two phases begin: it never reads less than nothing there.
    moved_by : str
        Which curve it is measured from, where the pressures may belong to another refrigerant; see `refilled`.
    least_heating : float
        The same as `least_spread` in heating, where there is no chart but the maker's and sound units differ by more.
    of_any_stage : bool
        Whether a sound unit shows about the same whatever share of its stage it runs at; the rest is only expected of a stage
        that is known.
    leads_to : str
        The reading that its sentence leads to, where it is not a gap of the ladder.
    standing : float
        Of the variance between sound units, the share that stays with the unit from day to day (`scripts/standing.py`; at
        most 0.85, since no two days are as alike as simulated ones: chosen).
    of_model : float
        Of the same variance, the share that units of one model have in common (`scripts/standing.py`; at most 0.4, since
        installations differ by more than simulated ones: chosen).
    family : str
        What kind of evidence it is: two of one kind err together.
    by_itself : bool
        Whether a sound unit shows the same in all conditions: it is one of them.
    """

    name: str
    label: str
    least_spread: float
    reader: Read
    difference: bool = True
    floored: str = ""
    moved_by: str = ""
    least_heating: float = 0.0
    of_any_stage: bool = False
    leads_to: str = ""
    standing: float = 0.85
    of_model: float = 0.4
    family: str = "pressures"
    by_itself: bool = False


FEATURE_ROWS = (
    FeatureRow("superheat", "Superheat", 1.0, _over_saturation("suction_line_temp"), floored="low", moved_by="suction_dew",
               of_any_stage=True, standing=0.75, of_model=0.25),
    FeatureRow("coil_superheat", "Coil superheat", 0.9, _derived("coil_superheat"), floored="low", moved_by="suction_dew",
               of_any_stage=True, standing=0.75, of_model=0.25),
    FeatureRow("inlet_superheat", "Superheat at the compressor", 1.2, _over_saturation("compressor_suction_temp"),
               floored="low", moved_by="suction_dew", of_any_stage=True, leads_to="compressor_suction_temp",
               standing=0.75, of_model=0.25),
    FeatureRow("subcooling", "Subcooling", 0.8, _derived("subcooling"), floored="high", moved_by="high_bubble",
               least_heating=1.1, of_any_stage=True, standing=0.8, of_model=0.2),
    FeatureRow("evaporator_td", "Evaporator gap", 0.9, _derived("evaporator_td"), moved_by="suction_mean"),
    FeatureRow("condenser_split", "Condenser gap", 1.1, _derived("condenser_split"), moved_by="high_mean", least_heating=1.7,
               standing=0.65),
    FeatureRow("air_split", "Air split", 0.5, _air_split, least_heating=1.2, family="air"),
    FeatureRow("discharge_superheat", "Discharge superheat", 4.0, _derived("discharge_superheat"), moved_by="discharge_dew",
               standing=0.75),
    FeatureRow("leaving_rise", "Rise of the outdoor air", 1.5, _leaving_rise, leads_to="condenser_leaving_air_temp",
               standing=0.65, family="air"),
    FeatureRow("wet_split", "Wet bulb split", 0.5, _wet_split, leads_to="supply_air_wet_bulb", family="air"),
    FeatureRow("amps", "Compressor amps", 0.10,
               lambda view, _: _log_ratio(view.get("compressor_amps"), view.unit.rated_load_amps), False,
               leads_to="compressor_amps", of_model=0.05, family="current"),
    FeatureRow("input_power", "Input power", 0.12,
               lambda view, _: _log_ratio(view.get("input_power"), view.unit.nominal_capacity_w), False,
               leads_to="input_power", family="current"),
    FeatureRow("airflow", "Airflow", 0.10, _airflow, False, leads_to="airflow", of_model=0.3, family="air"),
    FeatureRow("external_static", "External static", 0.35, _external_static, False, leads_to="external_static_supply",
               standing=0.4, of_model=0.0, family="air"),  # the ducts' own
    # Doors, deliveries and defrosts leave a sound one warm as well: its least spread is wider than the bench's (R82).
    FeatureRow("box_warmth", "Box over its target", 1.6, _box_warmth, leads_to="box_air_temp", standing=0.0, of_model=0.0,
               family="air", by_itself=True),
)  # fmt: skip
FEATURES = tuple(row.name for row in FEATURE_ROWS)
DIFFERENCES = tuple(row.name for row in FEATURE_ROWS if row.difference)


# -- conditions ----------------------------------------------------------------

_TD_CLASS_F = {EvaporatorClass.HIGH_HUMIDITY: 10.0, EvaporatorClass.GENERAL: 13.5, EvaporatorClass.LOW_HUMIDITY: 17.5}


class _Context:
    """The conditions by name while they are gathered."""

    def __init__(self) -> None:
        self.values = dict.fromkeys(CONDITIONS, 0.0)
        self.doubts: dict[str, float] = {}
        self.slopes: dict[str, dict[str, float]] = {}

    def read(self, name: str, measured: Measured | None, middle_k: float, unit_f: float, usual: float, doubt: float) -> None:
        """A temperature as a condition: from `middle_k` in steps of `unit_f`; what was not read stands at `usual`."""
        step_k = unit_f * FAHRENHEIT_K
        if measured is None:
            self.values[name], self.doubts[name] = usual, doubt
            return
        self.values[name] = _within(measured.value - middle_k, step_k, 4.0)
        for source, part in measured.parts.items():
            slope = self.slopes.setdefault(source, {})
            slope[name] = slope.get(name, 0.0) + part / 2 / step_k

    def done(self) -> Conditions:
        """As vectors, in the order of `CONDITIONS`."""
        at = {name: i for i, name in enumerate(CONDITIONS)}
        slopes = {source: np.array([by_name.get(name, 0.0) for name in CONDITIONS]) for source, by_name in self.slopes.items()}
        values = np.array([self.values[name] for name in CONDITIONS])
        return Conditions(values, {at[name]: doubt for name, doubt in self.doubts.items()}, slopes)


def _within(value: float, step: float, most: float) -> float:
    return _between(-4.0, value / step, most)


def _between(least: float, value: float, most: float) -> float:
    return min(max(value, least), most)


def conditions(view: CircuitView) -> Conditions:
    """The conditions of one circuit. What is not known stands at its usual value, with the doubt that goes with it."""
    unit, found = view.unit, _Context()
    values, doubts = found.values, found.doubts
    comfort_cooling = not unit.kind.is_walk_in and not unit.heating
    values["one"] = 1.0
    found.read("outdoor", view.get("outdoor_air_temp"), to_kelvin(40.0 if unit.heating else 90.0), 20.0, 0.0, 0.6)
    values["outdoor_squared"] = values["outdoor"] ** 2
    for slope in found.slopes.values():
        slope["outdoor_squared"] = 2 * values["outdoor"] * slope["outdoor"]
    if unit.kind.is_walk_in:
        found.read("entering", view.entering_indoor_air, unit.box_target_k, 10.0, 0.2, 0.3)
    else:
        found.read("entering", view.entering_indoor_air, to_kelvin(70.0 if unit.heating else 76.0), 10.0, 0.0, 0.5)
    if comfort_cooling:
        # Without a wet bulb, half-dry air as most houses keep it.
        found.read("wet_bulb", entering_wet_bulb(view), to_kelvin(65.0), 6.0, 1.2 * values["entering"], 0.9)
        if unit.seer is None:
            doubts["split_class"] = 0.9
        else:
            values["split_class"] = (split_by_seer_f(unit.seer) - 20.0) / 6.0
    if not unit.kind.is_walk_in:
        label_k = unit.target_subcooling_k
        if label_k is None or unit.heating:
            doubts["label_subcooling"] = 0.7
        else:
            values["label_subcooling"] = _within(label_k / FAHRENHEIT_K - 10.0, 2.5, 6.0)
    if unit.kind is Kind.WALK_IN_COOLER:
        if unit.evaporator_class is None:
            doubts["td_class"] = 0.8
        else:
            values["td_class"] = (_TD_CLASS_F[unit.evaporator_class] - 13.5) / 4.0
    if unit.kind.is_walk_in and unit.head_pressure_control not in (None, HeadPressureControl.NONE):
        values["head_held"] = max(0.0, -0.25 - values["outdoor"])
        if unit.head_pressure_control is HeadPressureControl.FLOODED:
            values["flooded"], values["flooded_cold"] = 1.0, values["head_held"]
    values["hot_gas"], values["glide"] = refrigerant_traits(unit.refrigerant)
    values["elevation"] = (unit.elevation_m or 0.0) / 1000.0
    values["weather_and_load"] = values["outdoor"] * values["wet_bulb" if comfort_cooling else "entering"]
    return found.done()


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
    pressures = (
        view.in_table("suction_pressure"),
        view.in_table("liquid_pressure", "discharge_pressure"),
        view.in_table("discharge_pressure", "liquid_pressure"),
    )
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
    moved: dict[str, Array] = {}
    if suction is not None:
        moved["suction_dew"] = own.dew_temperature_k(suction) - dews_k[0]
        mean_k = bubbles_k[0] + EVAPORATING_DEW_SHARE * (dews_k[0] - bubbles_k[0])
        moved["suction_mean"] = own.evaporating_mean_k(suction) - mean_k
    if high is not None:
        moved["high_bubble"] = bubbles_k[1] - own.bubble_temperature_k(high)
        moved["high_mean"] = (bubbles_k[1] + dews_k[1]) / 2 - own.condensing_mean_k(high)
    if discharge is not None:
        moved["discharge_dew"] = own.dew_temperature_k(discharge) - dews_k[2]
    for i, row in enumerate(FEATURE_ROWS):
        if row.moved_by in moved:
            found[:, i] += moved[row.moved_by]
    given = np.array([one is not None for one in pressures])[:, None]
    found[(given & ((read < lowest) | (read > highest))).any(axis=0)] = np.nan
    if label.name in names:
        found[names.index(label.name)] = np.nan
    return found
