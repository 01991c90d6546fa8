"""Why a unit must not run as it is. A stop is ended by what is done about it; nobody overrides it.

Each line knows where it does not apply: a fan that its own control stops, a hot climate, carbon dioxide and ammonia, a unit
that heats or defrosts. What is stopped wrongly once is not believed again.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.flooding import find_flooding
from dry_gauge.core.quantities import FAHRENHEIT_K, Measured, to_kelvin
from dry_gauge.core.sheet import CircuitView, UnitFacts
from dry_gauge.core.target import Target
from dry_gauge.core.vocabulary import HeadPressureControl
from dry_gauge.core.words import Phrase


@dataclass(frozen=True, slots=True)
class Stop:
    """One reason to stop or to stay off: its code, what is wrong and what to do, and what it rests on."""

    code: str
    phrase: Phrase
    readings: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class StopRow:
    """What is done about one stop while the unit is off: in words, what would answer it, minutes; and how it is listed."""

    label: str
    check: str
    asks: tuple[str, ...]
    minutes: int


_HEAD_CHECK = "Unit off: outdoor fan and its direction, then both faces of the coil"
# In the order of how badly they end.
STOPS: Mapping[str, StopRow] = {
    "blade_unsafe": StopRow("Blade", "Off and locked out: replace the blade or wheel", ("blade_unsafe",), 60),
    "safety_bridged": StopRow("Safety bridged", "Unit off: take the bridge out and find what opened the safety",
                              ("safety_bridged", "high_pressure_trip", "low_pressure_trip"), 20),
    "head_above_stop": StopRow("Head", _HEAD_CHECK, ("condenser_fan_stopped", "condenser_fan_reversed", "condenser_dirty"), 10),
    "fan_dead": StopRow("Fan", "Off and locked out: free and mend the fan, then prove its direction", ("blower_stopped",), 40),
    "rotation_reversed": StopRow("Rotation", "Off and locked out at the supply: swap two phases",
                                 ("rotation_reversed",), 15),
    "supply_unfit": StopRow("Supply", "Off at the disconnect: fuses, joints, poles of the lost or weak leg; then read it again",
                            ("burnt_parts", "plug_loose"), 20),
    "discharge_too_hot": StopRow("Discharge", "Unit off until the pipe is cool: condenser's fan and face, then what starves it",
                                 ("condenser_fan_stopped", "condenser_dirty"), 20),
    "flooding": StopRow("Flooding", "Unit off: bulb tight and insulated, then the filter, the coil and its fan",
                        ("filter_dirty", "blower_stopped", "evaporator_dirty"), 15),
    "not_pumping": StopRow("Not pumping", "Unit off: rotation, then the compressor's windings; on a heat pump the valve",
                           ("rotation_reversed", "compressor_not_pumping"), 20),
    "no_liquid": StopRow("No liquid", "Keep it off: look for the leak, oil first; weigh in only after the repair",
                         ("oil_stain", "standing_pressure"), 20),
    "suction_below_stop": StopRow("Suction", "Unit off: ice, filter and the evaporator's fan; then whether liquid is left",
                                  ("ice_on_evaporator_even", "filter_dirty", "blower_stopped"), 15),
    "short_cycling": StopRow("Short cycle", "Keep it off: find which switch opens, and wait before it starts again",
                             ("high_pressure_trip", "low_pressure_trip"), 10),
}  # fmt: skip

IN_EITHER_MODE = frozenset({"head_above_stop", "discharge_too_hot", "not_pumping"})
"""What a heat pump is not turned away from: it must not run in its other mode either until something was done about it."""

# Defaults where the unit's own figure is not known (docs/rules.md, R27).
HEAD_STOP_SHARE = 0.95  # of the cut-out's gauge pressure
_STOP_CONDENSING_K, _HOT_CONDENSING_K, _HOT_SPLIT_K = to_kelvin(150), to_kelvin(140), 35 * FAHRENHEIT_K
_DISCHARGE_LIMIT_K, _DISCHARGE_LIMITS_K = to_kelvin(225), {"R-32": to_kelvin(245)}
_COLD_EVAPORATOR_K, _COLD_AFTER_MINUTES = to_kelvin(28), 10
_FAN_HELD_BELOW_K, _COOL_OUTDOORS_K = to_kelvin(90), to_kelvin(65)
_LOW_AMBIENT_K = to_kelvin(60)
_DRY_SUPERHEAT_K, _WORKING_SPLIT_K = 30 * FAHRENHEIT_K, 10 * FAHRENHEIT_K
_EQUAL_SHARE, _LEAST_AMPS, _PUMPED_AFTER_MINUTES = 0.10, 0.5, 2


def find_stops(view: CircuitView, derived: Mapping[str, Derived], targets: Mapping[str, Target]) -> list[Stop]:
    """Every reason why this circuit must not run as it is, the worst first.

    References
    ----------
    .. [1] docs/rules.md, R26 and R27; exact lines: contract of the assessment.
    """
    found = [stop for line in _LINES for stop in line(view, derived)]
    wet = find_flooding(view, derived, targets)
    if wet and wet.stop:
        found.append(Stop("flooding", wet.phrase, wet.readings))
    order = tuple(STOPS)
    return sorted(found, key=lambda stop: order.index(stop.code))


def head_stop_pa(facts: UnitFacts) -> float | None:
    """Head at which it is stopped, by its cut-out; None where that is not known: then the condensing mean decides. [Pa]"""
    cutout = facts.high_pressure_cutout_pa
    return None if cutout is None else facts.atmosphere_pa + HEAD_STOP_SHARE * (cutout - facts.atmosphere_pa)


def discharge_limit_k(facts: UnitFacts) -> float | None:
    """Hottest that the discharge line may be; None for carbon dioxide and ammonia without their maker's figure. [K]"""
    if facts.discharge_limit_k is not None or facts.refrigerant.apart:
        return facts.discharge_limit_k
    return _DISCHARGE_LIMITS_K.get(facts.refrigerant.name, _DISCHARGE_LIMIT_K)


Line = Callable[[CircuitView, Mapping[str, Derived]], Iterator[Stop]]


def _head(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Stop]:
    heads = [one for one in (view.get("liquid_pressure"), view.get("discharge_pressure")) if one]
    others = [one for one in (view.get("suction_pressure"), view.get("standing_pressure")) if one]
    line_pa, mean = head_stop_pa(view.unit), derived.get("condensing_mean")
    carbon_dioxide = view.unit.refrigerant.apart == "carbon_dioxide"
    where = "the indoor filter and blower" if view.unit.heating else "the outdoor fan and coil"
    top_pa = view.unit.saturation.highest_pressure_pa
    beyond = [one for one in (*heads, *others) if one.value > top_pa and not carbon_dioxide]
    if beyond:
        worst = max(beyond, key=lambda one: one.value)
        yield Stop(
            "head_above_stop",
            Phrase(
                f"{{head}} is more than {view.unit.refrigerant.name} may ever show running. Off now, stay clear; then {where}.",
                {"head": ("pressure", worst.value)},
            ),
            worst.sources,
        )
    elif line_pa is not None:
        over = max((one for one in heads if one.value >= line_pa), key=lambda one: one.value, default=None)
        if over:
            yield Stop(
                "head_above_stop",
                Phrase(
                    f"Head {{head}} is at the stop line, {{line}}, just below the cut-out. Off now; then {where}.",
                    {"head": ("pressure", over.value), "line": ("pressure", line_pa)},
                ),
                over.sources,
            )
    elif mean and not carbon_dioxide:
        air = view.entering_condenser_air
        far = air is not None and mean.value - air.value > _HOT_SPLIT_K
        if mean.value >= _STOP_CONDENSING_K or (mean.value >= _HOT_CONDENSING_K and far):
            yield Stop(
                "head_above_stop",
                Phrase(
                    f"It condenses at {{mean}}: the head is at the stop line (no cut-out on the card). Off now; then {where}.",
                    {"mean": ("temperature", mean.value)},
                ),
                mean.measured.sources,
            )


def _discharge(view: CircuitView, _: Mapping[str, Derived]) -> Iterator[Stop]:
    line, limit_k = view.get("discharge_line_temp"), discharge_limit_k(view.unit)
    if line and limit_k is not None and line.value > limit_k:
        yield Stop(
            "discharge_too_hot",
            Phrase(
                "The discharge line at {line} is above {limit}: oil breaks down. Off now; find out what makes it run so hot.",
                {"line": ("temperature", line.value), "limit": ("temperature", limit_k)},
            ),
            line.sources,
        )


def _suction(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Stop]:
    suction, unit = view.get("suction_pressure"), view.unit
    if suction is None or unit.heating:
        return
    if unit.kind.is_walk_in:
        line_pa = unit.atmosphere_pa if unit.low_pressure_cutout_pa is None else unit.low_pressure_cutout_pa
        if suction.value <= line_pa:
            yield Stop(
                "suction_below_stop",
                Phrase(
                    "Suction {suction} is at the low stop line, {line}. Off, unless it is being pumped down; "
                    "then ice, fans, and whether liquid is left.",
                    {"suction": ("pressure", suction.value), "line": ("pressure", line_pa)},
                ),
                suction.sources,
            )
        return
    mean, running = derived.get("evaporating_mean"), view.sheet.minutes_running
    below = mean.value < _COLD_EVAPORATOR_K if mean else suction.value < unit.saturation.lowest_pressure_pa
    if below and running is not None and running >= _COLD_AFTER_MINUTES:
        words = "The coil evaporates at {mean}: it freezes over." if mean else "Suction stands below the table: the coil starves."
        numbers = {"mean": ("temperature", mean.value)} if mean else {}
        sources = mean.measured.sources if mean else suction.sources
        yield Stop(
            "suction_below_stop",
            Phrase(f"{words} Compressor off; filter, blower and coil before any refrigerant.", numbers),
            sources,
        )


def fan_held_by_control(view: CircuitView, derived: Mapping[str, Derived]) -> bool:
    """Whether a condenser fan that stands still is stopped by its own control, stage or defrost: then it is no fault."""
    unit, mean = view.unit, derived.get("condensing_mean")
    if view.seen("defrost_active") or view.low_stage:
        return True
    if unit.heating or unit.head_pressure_control not in (HeadPressureControl.FAN_CYCLING, HeadPressureControl.VARIABLE_SPEED):
        return False
    return mean is not None and mean.value < (unit.head_setting_k or _FAN_HELD_BELOW_K)


def fan_may_be_held(view: CircuitView) -> bool:
    """Whether it has to be asked first: nobody wrote down a control, and it is cold enough for one to stop the fan."""
    outdoor = view.get("outdoor_air_temp")
    unknown = view.unit.head_pressure_control is None and not view.unit.heating
    return unknown and outdoor is not None and outdoor.value < _COOL_OUTDOORS_K


def _fans(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Stop]:
    if view.seen("blower_stopped") and not view.seen("defrost_active"):
        which = "evaporator's fan stands" if view.unit.kind.is_walk_in else "blower stands"
        yield Stop(
            "fan_dead",
            Phrase(f"The {which} still: off and locked out until it turns again. No reading says anything."),
            ("blower_stopped",),
        )
    if view.seen("condenser_fan_reversed") and not view.seen("defrost_active"):
        yield Stop(
            "fan_dead",
            Phrase("The outdoor fan turns backwards: off until it is put right. A run costs a trip."),
            ("condenser_fan_reversed",),
        )
    if view.seen("condenser_fan_stopped") and not fan_held_by_control(view, derived) and not fan_may_be_held(view):
        yield Stop(
            "fan_dead",
            Phrase("The outdoor fan stands still: off and locked out until it turns. A run costs a trip."),
            ("condenser_fan_stopped",),
        )


def find_no_liquid(view: CircuitView, derived: Mapping[str, Derived]) -> Stop | None:
    """Standing below dew at the coldest part, or running without any liquid: nearly empty."""
    standing, saturation = view.get("standing_pressure"), view.unit.saturation
    air = _coldest_air(view) if standing else None
    if standing and air:
        low_k, high_k = saturation.temperature_range_k
        if low_k <= air.value <= high_k:
            dew_pa = saturation.dew_pressure_pa(air.value)
            slope = 1 / saturation.dew_slope_k_per_pa(dew_pa)
            short = air.through(dew_pa, slope) - standing
            if short.value > short.uncertainty:
                return Stop(
                    "no_liquid",
                    Phrase(
                        "Off, it stands at {standing}; with any liquid left it would be {dew} or more. "
                        "Do not run it: find the leak.",
                        {"standing": ("pressure", standing.value), "dew": ("pressure", dew_pa)},
                    ),
                    ("standing_pressure", *air.sources),
                )
    return _running_empty(view, derived)


def _running_empty(view: CircuitView, derived: Mapping[str, Derived]) -> Stop | None:
    head, suction, outdoor = view.high_pressure, view.get("suction_pressure"), view.get("outdoor_air_temp")
    if not (head and suction and outdoor) or view.unit.heating or outdoor.value < _LOW_AMBIENT_K or head.value < suction.value:
        return None
    lowest_pa = view.unit.saturation.lowest_pressure_pa
    split, subcooling, superheat = (derived.get(name) for name in ("condenser_split", "subcooling", "superheat"))
    below = split.value + split.uncertainty < 0 if split else head.value < lowest_pa
    dry = subcooling.value <= subcooling.uncertainty if subcooling else head.value < lowest_pa
    starved = superheat.value > _DRY_SUPERHEAT_K if superheat else suction.value < lowest_pa
    air = derived.get("air_split")
    works = air is not None and air.value > _WORKING_SPLIT_K  # then the gauges are read by another refrigerant
    if works or not (below and dry and starved):
        return None
    return Stop(
        "no_liquid",
        Phrase(
            "Head below the outdoor air, no subcooling, the suction dry: next to nothing is left. Off; find the leak, do not add."
        ),
        (*head.sources, *suction.sources, "outdoor_air_temp"),
    )


_AIRS = (
    "outdoor_air_temp",
    "return_air_temp",
    "mixed_air_temp",
    "supply_air_temp",
    "box_air_temp",
    "space_temp",
    "equalized_ambient_temp",
    "product_temp",
)


def _coldest_air(view: CircuitView) -> Measured | None:
    read = [view.measured[name] for name in _AIRS if name in view.measured]
    return min(read, key=lambda one: one.value, default=None)


def _no_liquid(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Stop]:
    found = find_no_liquid(view, derived)
    if found:
        yield found


def _not_pumping(view: CircuitView, _: Mapping[str, Derived]) -> Iterator[Stop]:
    words = "It runs and does not pump: both sides stand near each other. Off; rotation and valves before anything else."
    if view.seen("compressor_not_pumping"):
        yield Stop("not_pumping", Phrase(words), ("compressor_not_pumping",))
        return
    low, high, amps = view.get("suction_pressure"), view.high_pressure, view.get("compressor_amps")
    running = view.sheet.minutes_running
    if not (low and high and amps) or (running is not None and running < _PUMPED_AFTER_MINUTES):
        return
    if amps.value > _LEAST_AMPS and abs(high.value - low.value) <= _EQUAL_SHARE * max(high.value, low.value):
        yield Stop("not_pumping", Phrase(words), (*low.sources, *high.sources, "compressor_amps"))


_SEEN = {
    "short_cycling": "It starts again and again: keep it off, find which switch opens, and let it stand five minutes.",
    "blade_unsafe": "A blade or wheel is cracked, loose or rubbing: off and locked out until it is replaced.",
    "safety_bridged": "A safety is bridged: nothing guards the unit. Off; take the bridge out before it runs.",
    "supply_unfit": "The supply has lost a leg, or its pairs differ by over 5 %: nothing runs on it. Off; find the leg first.",
    "rotation_reversed": "It turns backwards: off at the supply, swap two phases, then prove the direction.",
}


def _seen(view: CircuitView, _: Mapping[str, Derived]) -> Iterator[Stop]:
    for what, words in _SEEN.items():
        if view.seen(what):
            yield Stop(what, Phrase(words), (what,))


_LINES: tuple[Line, ...] = (_head, _discharge, _suction, _fans, _no_liquid, _not_pumping, _seen)
