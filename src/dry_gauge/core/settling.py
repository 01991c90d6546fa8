"""Whether a unit has settled: how fast each number drifts, and how long it will take.

Rule: saturations moving less than 1 F and superheat and subcooling less than 1.5 F over 5 minutes. A regular swing
(hunting) counts by its mean over two swings; the swing itself is reported so that it can be added to the uncertainty.
"""

from __future__ import annotations

from bisect import bisect
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.sheet import UnitFacts

WINDOW_MINUTES = 5.0
SETTLED_MINUTES = 15
SETTLED_WHEN_FRESH_MINUTES = 20
SETTLED_AFTER_CHANGE_MINUTES = 5
SETTLED_AFTER_DEFROST_HEATING_MINUTES = 10
_TOGETHER_MINUTES = 0.5
AS_GOOD = 2 / 3
"""Share of a wait from which on a number is taken as settled: what is left by then is small."""
_ROUNDING_MINUTES = 0.01
MOVES_UNTIL_SETTLED = frozenset(
    {
        "suction_pressure",
        "suction_line_temp",
        "coil_outlet_temp",
        "compressor_suction_temp",
        "liquid_pressure",
        "liquid_line_temp",
        "discharge_pressure",
        "discharge_line_temp",
        "drier_inlet_temp",
        "drier_outlet_temp",
        "valve_inlet_temp",
        "supply_air_temp",
        "supply_air_wet_bulb",
        "condenser_leaving_air_temp",
        "compressor_amps",
        "input_power",
    }
)
"""What a unit moves on its way: read too early it is read again (docs/rules.md, R16)."""
Series = Sequence[tuple[float, float]]
"""Minutes and values in SI, rising in time."""
LIMITS_K: Mapping[str, float] = {
    "suction_saturation": 1.0 * FAHRENHEIT_K,
    "condensing_saturation": 1.0 * FAHRENHEIT_K,
    "superheat": 1.5 * FAHRENHEIT_K,
    "subcooling": 1.5 * FAHRENHEIT_K,
}
"""Most that each may move over five minutes. [K]"""
_LONGEST_WAIT_MINUTES = 30
_SLOWEST_MINUTES = 8.0
"""Time constant assumed where the trace does not show one."""
_HUNTING_MINUTES = 17.0
"""Two whole swings of the slowest hunting that valves show, eight minutes each."""
_SWINGS_FOR_HUNTING = 4
_LEAST_SWING_K = 0.6


@dataclass(frozen=True, slots=True)
class Drift:
    """How one quantity moves.

    Parameters
    ----------
    quantity : str
    change_k : float
        Over the last five minutes, signed; with hunting, of the mean. [K]
    limit_k : float
    swing_k : float
        Half of peak to peak, where it hunts; else 0. [K]
    """

    quantity: str
    change_k: float
    limit_k: float
    swing_k: float

    @property
    def still(self) -> bool:
        """Whether it moves less than its limit."""
        return abs(self.change_k) <= self.limit_k


@dataclass(frozen=True, slots=True)
class Settling:
    """The answer: ready, or about how many minutes more; None where nothing repeated has been read, or it is off."""

    ready: bool
    minutes_more: int | None
    drifts: tuple[Drift, ...]
    reason: str
    off: bool = False


def drift_of(quantity: str, minutes: Sequence[float], values_k: Sequence[float]) -> Drift | None:
    """Drift of one quantity over the last five minutes, by a straight line through them.

    Parameters
    ----------
    minutes, values_k : sequence of float
        Rising in time; of them the last 17 minutes count.

    Returns
    -------
    Drift or None
        None for fewer than two times, and for less than five minutes in which nothing moved: that proves nothing.
    """
    t, v = np.asarray(minutes, dtype=float), np.asarray(values_k, dtype=float)
    recent = t >= t[-1] - _HUNTING_MINUTES if t.size else np.zeros(0, dtype=bool)
    t, v = t[recent], v[recent]
    limit_k = LIMITS_K.get(quantity, FAHRENHEIT_K)
    if t.size < 2 or t[-1] - t[0] <= 0:
        return None
    if t[-1] - t[0] < WINDOW_MINUTES - _TOGETHER_MINUTES:
        moved = float(v[-1] - v[0])
        return Drift(quantity, moved, limit_k, 0.0) if abs(moved) > limit_k else None
    swing = _swing_k(t, v)
    inside = t >= t[-1] - WINDOW_MINUTES - _TOGETHER_MINUTES
    if t[inside][0] == t[-1]:  # one moment says nothing of how it moves
        inside = t >= t[t < t[-1]][-1]
    slope = _slope_of_means(t, v) if swing else float(np.polyfit(t[inside] - t[-1], v[inside], 1)[0])
    return Drift(quantity, slope * WINDOW_MINUTES, limit_k, swing)


def _swing_k(t: NDArray[np.float64], v: NDArray[np.float64]) -> float:
    """Half of peak to peak of a regular swing about the trend; 0 if there is none."""
    if t.size < 12:
        return 0.0
    residual = v - np.polyval(np.polyfit(t - t[-1], v, 1), t - t[-1])
    crossings = int(np.count_nonzero(np.diff(np.signbit(residual))))
    half = float(np.percentile(residual, 95) - np.percentile(residual, 5)) / 2
    power = float(residual @ residual)
    lag_one = float(residual[:-1] @ residual[1:]) / power if power > 0 else 0.0
    # Noise crosses its mean at every other sample; a swing takes several samples each way.
    regular = _SWINGS_FOR_HUNTING <= crossings <= t.size / 3 and lag_one > 0.5
    return half if regular and half >= _LEAST_SWING_K else 0.0


def _slope_of_means(t: NDArray[np.float64], v: NDArray[np.float64]) -> float:
    """How fast the mean of a regular swing moves, from its last whole swing against the one before. [1/min]"""
    residual = v - np.polyval(np.polyfit(t - t[-1], v, 1), t - t[-1])
    crossed = t[1:][np.diff(np.signbit(residual))]
    period = 2 * float(crossed[-1] - crossed[0]) / max(crossed.size - 1, 1)
    last, before = t > t[-1] - period, (t <= t[-1] - period) & (t > t[-1] - 2 * period)
    if not before.any():
        return float(np.polyfit(t - t[-1], v, 1)[0])
    return float(v[last].mean() - v[before].mean()) / period


@dataclass(frozen=True, slots=True)
class Clocks:
    """How long ago what a unit settles from: its start, the last change, refrigerant going in, a defrost or thaw. [min]"""

    running: float | None
    since_change: float | None = None
    since_charge: float | None = None
    since_defrost: float | None = None
    heating: bool = False


@dataclass(frozen=True, slots=True)
class Wait:
    """What is left to wait [min], of how much, from what, and the name of the contract that says how long ago that was.

    Negative where it is over.
    """

    left: float
    whole: int
    after: str
    asks: str


def clock_wait(clocks: Clocks) -> Wait | None:
    """The longest wait that the clock still asks for; None where it asks for none (docs/rules.md, R16).

    The one rule for the gate and for what the screen counts down. Each counts from its own event: an hour of running before
    a charge says nothing about the minutes after it. Times that nobody wrote down wait for nothing here: that they are
    missing is said elsewhere.
    """
    return max((wait for wait in _waits(clocks) if wait.left > 0), key=lambda wait: wait.left, default=None)


def read_too_early(clocks: Clocks, minutes_ago: float) -> bool:
    """Whether a number that was read so long ago was read on the unit's way: before two thirds of a wait were over (R16).

    Before a change it was read of the unit as it was: what a change leaves behind is for the change to say.
    """
    for wait in _waits(clocks):
        gone = wait.whole - wait.left - minutes_ago
        if gone < AS_GOOD * wait.whole - _ROUNDING_MINUTES and (gone >= 0 or wait.asks != "minutes_since_change"):
            return True
    return False


def _waits(clocks: Clocks) -> list[Wait]:
    defrost = SETTLED_AFTER_DEFROST_HEATING_MINUTES if clocks.heating else SETTLED_WHEN_FRESH_MINUTES
    return [
        Wait(whole - minutes, whole, after, asks)
        for minutes, whole, after, asks in (
            (clocks.running, SETTLED_MINUTES, "from the start", "minutes_running"),
            (clocks.since_charge, SETTLED_WHEN_FRESH_MINUTES, "after refrigerant went in", "minutes_since_charge"),
            (clocks.since_defrost, defrost, "after the defrost or thaw", "minutes_since_defrost"),
            (clocks.since_change, SETTLED_AFTER_CHANGE_MINUTES, "after each change", "minutes_since_change"),
        )
        if minutes is not None
    ]


def settled(drifts: Sequence[Drift], clocks: Clocks) -> Settling:
    """Ready, or not yet and about how long."""
    by_clock = clock_wait(clocks)
    waits = [by_clock.left] if by_clock else []
    moving = [drift for drift in drifts if not drift.still]
    # What moves by x now moves by its limit after tau ln(x / limit): pressures and lines approach exponentially.
    waits += [_SLOWEST_MINUTES * float(np.log(abs(drift.change_k) / drift.limit_k)) for drift in moving]
    wait = min(max(waits, default=0.0), _LONGEST_WAIT_MINUTES)
    minutes_more = int(np.ceil(wait))
    if clocks.running is None:
        return Settling(False, None, tuple(drifts), "Say how long it has been running.")
    if moving:
        names = " and ".join(drift.quantity.replace("_", " ") for drift in moving)
        return Settling(False, max(minutes_more, 1), tuple(drifts), f"Still moving: {names}.")
    if minutes_more:
        after = f": {by_clock.whole} min {by_clock.after}" if by_clock else ""
        return Settling(False, minutes_more, tuple(drifts), f"By the clock it is too early{after}.")
    if not drifts:
        return Settling(True, 0, (), "By the clock. Read the pressures twice, five minutes apart, to be sure.")
    return Settling(True, 0, tuple(drifts), "Nothing moves more than it may.")


def gaps_over_time(series: Mapping[str, Series], facts: UnitFacts) -> dict[str, Series]:
    """Both saturations, superheat, subcooling and air split at the times at which they can be had.

    Saturations are temperatures, the rest differences; a pressure goes with the line read nearest to it. [min, K]
    """
    saturation = saturation_of(facts.refrigerant)
    found: dict[str, Series] = {}
    for name, gap, pressure, line, curve, sign in (
        ("suction_saturation", "superheat", "suction_pressure", "suction_line_temp", saturation.dew_temperature_k, 1),
        ("condensing_saturation", "subcooling", "liquid_pressure", "liquid_line_temp", saturation.bubble_temperature_k, -1),
    ):
        points = [(t, curve(p)) for t, p in series.get(pressure, ()) if saturation.covers_pressure(p)]
        found[name] = points
        found[gap] = [(t, sign * (value - k)) for t, k, value in _beside(points, series.get(line, ()))]
    rise = -1 if facts.heating else 1
    air = _beside(series.get("return_air_temp", ()), series.get("supply_air_temp", ()))
    found["air_split"] = [(t, rise * (entering - supply)) for t, entering, supply in air]
    return found


def _beside(points: Series, others: Series) -> list[tuple[float, float, float]]:
    """Each point with the other series' value nearest in time, where that was read in the same half minute or between."""
    times = [t for t, _ in others]
    found = []
    for t, value in points:
        if not times or not times[0] - _TOGETHER_MINUTES <= t <= times[-1] + _TOGETHER_MINUTES:
            continue
        i = bisect(times, t)
        nearest = min((j for j in (i - 1, i) if 0 <= j < len(times)), key=lambda j: abs(times[j] - t))
        found.append((t, value, others[nearest][1]))
    return found


def drifts_of(series: Mapping[str, Series], facts: UnitFacts) -> tuple[Drift, ...]:
    """Drift of both saturations, superheat and subcooling, as far as pressures and lines were read repeatedly."""
    gaps = gaps_over_time(series, facts)
    found = (drift_of(name, [t for t, _ in gaps[name]], [k for _, k in gaps[name]]) for name in LIMITS_K)
    return tuple(drift for drift in found if drift is not None)
