"""The way down of an evacuation: milestones, what keeps it from going on, when it will be there, and what water does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import log

import numpy as np

from dry_gauge.core.dimensions import MICRON_PA

WATER_TRIPLE_PA = 611.657  # [Pa] triple point of water: below it water that is left is ice (IAPWS, R14-08)
SWEEP_BELOW_PA = 1500 * MICRON_PA
"""How far a triple evacuation pulls before each sweep with dry nitrogen: a habit of the trade. [Pa]"""
TRIPLE_SWEEPS = 2


@dataclass(frozen=True, slots=True)
class Milestone:
    """A level on the way down, and what it is for; `short` where the curve marks it."""

    pressure_pa: float
    words: str
    short: str = ""


MILESTONES = (
    Milestone(20_000 * MICRON_PA, "water boils at 72 °F (22 °C): from here it dries", "it dries"),
    Milestone(5_000 * MICRON_PA, "close to freezing what water is left", "near ice"),
    Milestone(1_500 * MICRON_PA, "gas ballast can close", "ballast shut"),
    Milestone(1_000 * MICRON_PA, "shut off once to see that it holds at all"),
    Milestone(500 * MICRON_PA, "shut off and watch"),
)
# With liquid water inside it is held above this: at 4,600 micron what is left of it freezes, and ice reads as dry.
_ICE_WARNING_PA = 5_000 * MICRON_PA
_STALL_MINUTES = 8.0
# Falling by less than this share a minute is standing still.
_STALL_PER_MINUTE = 0.012


@dataclass(frozen=True, slots=True)
class PullDown:
    """How a pull-down goes.

    Parameters
    ----------
    passed : tuple of (Milestone, float)
        What was reached, and after how many minutes.
    stalled : bool
    causes : tuple of str
        What a stall at this level is usually from.
    minutes_to_target : float or None
        At the present pace; None where it does not fall, or too little is known.
    freezing : bool
        Below 5,000 micron with water suspected: close to where it freezes.
    """

    passed: tuple[tuple[Milestone, float], ...]
    stalled: bool
    causes: tuple[str, ...]
    minutes_to_target: float | None
    freezing: bool


_CAUSES = (
    (12_000 * MICRON_PA, ("a valve or core still shut between pump and system", "an open port or a large leak",
                          "liquid water: warm it, and trap it before the pump")),
    (3_000 * MICRON_PA, ("water: warm the unit, sweep with dry nitrogen", "ice where it was pulled too fast",
                         "pump oil full of water: open the ballast, change the oil")),
    (1_000 * MICRON_PA, ("pump oil is wet: change it", "refrigerant leaving the compressor's oil: crankcase heater on",
                         "thin hose or a core in the way: the gauge end lags the pump")),
    (0.0, ("a small leak: shut off and watch", "pump oil", "hoses and gaskets giving off gas: blank off and prove the rig")),
)  # fmt: skip


def pull_down(
    minutes: Sequence[float], pressure_pa: Sequence[float], target_pa: float, water_suspected: bool = False
) -> PullDown:
    """Milestones, stall and forecast of a pull-down.

    Parameters
    ----------
    minutes : sequence of float
        Since the pump was opened to the system; rising.
    pressure_pa : sequence of float
        Same length. [Pa]
    target_pa : float
        Where the valve is to be shut. [Pa]
    water_suspected : bool
        Whether liquid water may be inside: it must not freeze.
    """
    t, p = np.asarray(minutes, dtype=float), np.asarray(pressure_pa, dtype=float)
    good = (p > 0) & np.isfinite(p) & np.isfinite(t)
    t, p = t[good], p[good]
    passed = []
    for milestone in MILESTONES:
        below = np.flatnonzero(p <= milestone.pressure_pa)
        if below.size:
            passed.append((milestone, float(t[below[0]])))
    if t.size < 3:
        return PullDown(tuple(passed), False, (), None, bool(water_suspected and p.size and p[-1] < _ICE_WARNING_PA))
    recent = t >= t[-1] - _STALL_MINUTES
    if recent.sum() < 2:  # typed by hand, minutes apart: the last two say it
        recent[-2:] = True
    span = float(t[recent][-1] - t[recent][0])
    slope = float(np.polyfit(t[recent], np.log(p[recent]), 1)[0]) if span > 0.5 else 0.0
    now = float(p[-1])
    stalled = now > target_pa and span >= 0.75 * _STALL_MINUTES and slope > -_STALL_PER_MINUTE
    causes = next(words for level, words in _CAUSES if now >= level) if stalled else ()
    to_target = log(now / target_pa) / -slope if now > target_pa and slope < -_STALL_PER_MINUTE else None
    if now <= target_pa:
        to_target = 0.0
    return PullDown(tuple(passed), stalled, causes, to_target, water_suspected and now < _ICE_WARNING_PA)


def boiling_point_k(pressure_pa: float) -> float:
    """Temperature at which water boils under a vacuum, 1 C to 60 C. [K]

    References
    ----------
    .. [1] D. Sonntag, Z. Meteorol. 70, 340 (1990), over water, turned round by Newton's method.

    Examples
    --------
    >>> round((boiling_point_k(20_000 * MICRON_PA) - 273.15) * 1.8 + 32)
    72
    """
    temperature = 293.0
    for _ in range(12):
        value = _ln_saturation(temperature)
        slope = (_ln_saturation(temperature + 0.01) - value) / 0.01
        temperature -= (value - log(pressure_pa)) / slope
    return temperature


def _ln_saturation(temperature_k: float) -> float:
    t = temperature_k
    return -6096.9385 / t + 21.2409642 - 2.711193e-2 * t + 1.673952e-5 * t * t + 2.433502 * log(t)
