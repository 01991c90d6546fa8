"""Pressure hold: whether nitrogen stays inside, with the weather taken out and the instruments' doubts left in.

A gas in a closed volume keeps p/T. What is left after that is a leak, a gauge, or a gas that is not as warm as the
thermometer: all three are weighed together, so the answer can also be 'too soon'.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import ceil, pi, sqrt

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import PSI_PA

Array = NDArray[np.float64]


class Hold(StrEnum):
    """What a hold says."""

    TIGHT = "tight"
    LEAKING = "leaking"
    TOO_SOON = "too_soon"
    GAIN = "gain"


@dataclass(frozen=True, slots=True)
class HoldReading:
    """One look at the gauge and the thermometer.

    Parameters
    ----------
    seconds : float
        Since the hold began.
    pressure_pa : float
        Absolute. [Pa]
    gas_k : float
        Of the gas, as near as a clamp on shaded pipe tells. [K]
    pressure_half_width_pa, gas_half_width_k : float
        Accuracy of both instruments, 95 %.
    gauge, thermometer : str
        Which instruments: an error that stays the same drops out only within one.
    """

    seconds: float
    pressure_pa: float
    gas_k: float
    pressure_half_width_pa: float
    gas_half_width_k: float
    gauge: str = ""
    thermometer: str = ""
    resolution_pa: float = 0.0
    """Smallest step that the gauge shows. [Pa]"""


@dataclass(frozen=True, slots=True)
class HoldVerdict:
    """How a hold stands.

    Parameters
    ----------
    verdict : Hold
    hours : float
        From first to last reading.
    expected_pa, found_pa : float
        What the last reading should show if nothing left, by the first one and the temperatures; and what it shows. [Pa]
    change_pa, change_half_width_pa : float
        Compensated change from first to last, at the first one's temperature. [Pa]
    rate_pa_h, rate_half_width_pa_h : float
        What leaves, at the first reading's temperature, positive for a loss. 95 %. [Pa/h]
    hours_more : int or None
        For 'too soon': when to come back.
    finest_pa_h : float
        The smallest loss that this hold has ruled out. [Pa/h]
    compensated : tuple of (float, float, float)
        Hours, pressure at the first reading's temperature and its half-width, for the plot.
    left_out : int
        Readings whose clock is not possible.
    """

    verdict: Hold
    hours: float
    expected_pa: float
    found_pa: float
    change_pa: float
    change_half_width_pa: float
    rate_pa_h: float
    rate_half_width_pa_h: float
    hours_more: int | None
    finest_pa_h: float
    compensated: tuple[tuple[float, float, float], ...]
    left_out: int = 0


# Of an instrument's accuracy, the share that comes anew with every reading; the rest stays and drops out. Assumed.
_REPEATS = 0.25
# Gas and pipe are not equally warm: sun, a fan, the inside of a coil. Standard deviation [K] and how long it lasts [h].
_GAS_APART_K, _GAS_APART_HOURS = 0.55, 5.0
# Just filled, the gas is warmer or colder than the pipe, for a while (docs/rules.md, R34). Standard deviation. [s, K]
JUST_FILLED_SECONDS, _JUST_FILLED_K = 20 * 60, 2.0
# Where the day swings, the gas lags behind: hours of lag times how fast a daily swing goes. Assumed. [1]
_LAG_SHARE = 0.7 * 2 * pi / 24
ALLOWED_PA_H = 0.25 * PSI_PA
"""Loss that a hold must rule out to be called tight: 0.25 psi an hour. A setting."""
_LONGEST_HOURS = 72


def expected_pressure_pa(pressure_pa: float, gas_k: float, now_k: float) -> float:
    """What a closed volume of nitrogen shows at another temperature: ``p T2 / T1``, absolute. [Pa]

    Raises
    ------
    Refused
        For a temperature or pressure that is not above absolute zero.

    References
    ----------
    .. [1] Ideal gas law; at 300 psig and 280 to 320 K nitrogen's compressibility changes by less than 0.3 %.

    Examples
    --------
    >>> from dry_gauge.core.quantities import STANDARD_ATMOSPHERE_PA as atm, to_kelvin
    >>> now = expected_pressure_pa(300 * PSI_PA + atm, to_kelvin(70), to_kelvin(71))
    >>> round((now - atm) / PSI_PA - 300, 1)
    0.6
    """
    if not (gas_k > 0 and now_k > 0 and pressure_pa > 0):
        raise Refused("Absolute pressure and temperature are above zero.", "gas_temp")
    return pressure_pa * now_k / gas_k


def judge_hold(readings: Sequence[HoldReading], allowed_pa_h: float = ALLOWED_PA_H) -> HoldVerdict:
    """Tight, leaking, or too soon to say.

    Parameters
    ----------
    readings : sequence of HoldReading
        At least one. Several gauges may have been used: their differing errors count then.
    allowed_pa_h : float
        What 'tight' must rule out. [Pa/h]

    Raises
    ------
    Refused
        Without a reading.

    Notes
    -----
    ``p = T/T0 (P0 - L t) + gauge + thermometer + noise``, solved by generalised least squares. A gauge's constant error
    has its accuracy as prior, so it drops out as long as one gauge is read throughout and counts in full when it is
    changed. The difference between gas and pipe is noise that lasts for hours.
    """
    listed = sorted((one for one in readings if one.seconds >= 0), key=lambda one: one.seconds)
    if not listed:
        raise Refused("A hold needs its first reading: pressure, temperature and time.", "pressure")
    first, last = listed[0], listed[-1]
    series = _Series.of(listed)
    hours = float(series.hours[-1])
    rate, half = series.loss() if hours > 0 else (0.0, float("inf"))
    verdict, hours_more = _verdict(first, hours, rate, half, allowed_pa_h)
    change, change_half = series.change()
    return HoldVerdict(
        verdict=verdict,
        hours=hours,
        expected_pa=expected_pressure_pa(first.pressure_pa, first.gas_k, last.gas_k),
        found_pa=last.pressure_pa,
        change_pa=change,
        change_half_width_pa=change_half,
        rate_pa_h=rate,
        rate_half_width_pa_h=half,
        hours_more=hours_more,
        finest_pa_h=max(rate + half, 0.0),
        compensated=series.compensated(),
        left_out=len(readings) - len(listed),
    )


def _verdict(first: HoldReading, hours: float, rate: float, half: float, allowed_pa_h: float) -> tuple[Hold, int | None]:
    """What a loss and its doubt say, and when to come back where they say too little."""
    if rate - half > 0:  # a loss outside its own doubt is a leak, however small
        return Hold.LEAKING, None
    if rate + half < 0:  # gas that is warmer than the clamp says hides a loss
        return Hold.GAIN, _hours_needed(first, allowed_pa_h, hours, half, 0.0)
    if rate + half <= allowed_pa_h:
        return Hold.TIGHT, None
    return Hold.TOO_SOON, _hours_needed(first, allowed_pa_h, hours, half, rate)


@dataclass(frozen=True, slots=True)
class _Series:
    """The readings of a hold in rows: hours from the first, pressure, the gas's temperature over the first one's."""

    hours: Array
    pressure_pa: Array
    warm: Array
    covariance: Array

    @classmethod
    def of(cls, listed: Sequence[HoldReading]) -> _Series:
        hours = np.array([one.seconds - listed[0].seconds for one in listed]) / 3600
        pressure_pa = np.array([one.pressure_pa for one in listed])
        warm = np.array([one.gas_k for one in listed]) / listed[0].gas_k
        return cls(hours, pressure_pa, warm, _noise(listed, hours, pressure_pa))

    def compensated(self) -> tuple[tuple[float, float, float], ...]:
        """Hours, and what the first reading's temperature makes of each pressure, with its half-width. [h, Pa, Pa]"""
        half_width = 2 * np.sqrt(np.diag(self.covariance)) / self.warm
        rows = np.stack([self.hours, self.pressure_pa / self.warm, half_width], axis=1)
        return tuple((hours, pressure_pa, half) for hours, pressure_pa, half in rows.tolist())

    def change(self) -> tuple[float, float]:
        """From first to last at the first one's temperature, and its half-width: what both share drops out. [Pa]"""
        contrast = np.zeros(len(self.hours))
        contrast[-1] += 1 / self.warm[-1]
        contrast[0] -= 1.0
        return float(contrast @ self.pressure_pa), 2 * sqrt(max(float(contrast @ self.covariance @ contrast), 0.0))

    def loss(self) -> tuple[float, float]:
        """What leaves, by generalised least squares, and its half-width; the readings span some time. [Pa/h]"""
        design = np.stack([self.warm, -self.warm * self.hours], axis=1)
        inverse = np.linalg.inv(self.covariance)
        posterior = np.linalg.inv(design.T @ inverse @ design)
        estimate = posterior @ design.T @ inverse @ self.pressure_pa
        return float(estimate[1]), 2 * sqrt(float(posterior[1, 1]))


def _noise(listed: Sequence[HoldReading], hours: Array, p: Array) -> Array:
    """Covariance of the pressures: what each look adds, what stays with each instrument, and gas apart from pipe. [Pa2]"""
    k = np.array([one.gas_k for one in listed])
    slope = p / k  # what a kelvin is in pascal
    gauge_sd = np.array([one.pressure_half_width_pa for one in listed]) / 2
    clamp_sd = np.array([one.gas_half_width_k for one in listed]) / 2 * slope
    stays = sqrt(1 - _REPEATS**2)
    alike_gauge = np.array([[a.gauge == b.gauge for b in listed] for a in listed])
    alike_clamp = np.array([[a.thermometer == b.thermometer for b in listed] for a in listed])
    resolution_sd = np.array([one.resolution_pa for one in listed]) / sqrt(12)
    fresh_sd = np.array([_JUST_FILLED_K if one.seconds < JUST_FILLED_SECONDS else 0.0 for one in listed]) * slope
    own = (_REPEATS * gauge_sd) ** 2 + (_REPEATS * clamp_sd) ** 2 + resolution_sd**2 + fresh_sd**2
    covariance: Array = np.diag(own + 1.0)
    covariance += alike_gauge * np.outer(stays * gauge_sd, stays * gauge_sd)
    covariance += alike_clamp * np.outer(stays * clamp_sd, stays * clamp_sd)
    apart = np.exp(-np.abs(hours[:, None] - hours[None, :]) / _GAS_APART_HOURS)
    apart_k = np.hypot(_GAS_APART_K, _LAG_SHARE * float(np.std(k)))
    covariance += apart * np.outer(apart_k * slope, apart_k * slope)
    return covariance


def _hours_needed(first: HoldReading, allowed_pa_h: float, span: float, half: float, rate: float) -> int:
    """Hours from the last reading after which one more would settle it, if the gauge stays the same."""
    slope = first.pressure_pa / first.gas_k
    one = sqrt(
        (_REPEATS * first.pressure_half_width_pa / 2) ** 2
        + (_REPEATS * first.gas_half_width_k / 2 * slope) ** 2
        + (_GAS_APART_K * slope) ** 2
    )
    room = max(allowed_pa_h - max(rate, 0.0), 0.5 * allowed_pa_h)
    needed = 2 * sqrt(2.0) * one / room
    if half and span:
        needed = min(needed, span * half / room) if half > room else span + 1
    return int(min(max(ceil(needed - span), 1), _LONGEST_HOURS))


@dataclass(frozen=True, slots=True)
class SectionComparison:
    """Several sections held at once: which of them loses."""

    leaking: tuple[str, ...]
    alike: bool
    words: str


def compare_sections(sections: Sequence[tuple[str, HoldVerdict]]) -> SectionComparison:
    """Which section leaks, or whether all fall alike, as they do where a valve between them is open.

    Parameters
    ----------
    sections : sequence of (str, HoldVerdict)
        Names and verdicts, two or more of them.
    """
    leaking = tuple(name for name, found in sections if found.verdict is Hold.LEAKING)
    rates = [found.rate_pa_h for _, found in sections if np.isfinite(found.rate_half_width_pa_h)]
    doubts = [found.rate_half_width_pa_h for _, found in sections if np.isfinite(found.rate_half_width_pa_h)]
    apart = len(rates) > 1 and max(rates) - min(rates) > sqrt(sum(one * one for one in doubts))
    if len(leaking) == len(sections) and not apart:
        return SectionComparison(
            leaking,
            True,
            "All sections fall alike: is the valve between them shut, or is it the gas that is cooler than the thermometer?",
        )
    if leaking and apart:
        worst = max(sections, key=lambda one: one[1].rate_pa_h)[0]
        return SectionComparison(leaking, False, f"{worst} loses more than the rest: search there.")
    if leaking:
        return SectionComparison(leaking, False, f"{' and '.join(leaking)}: losing; the others cannot be told apart yet.")
    return SectionComparison((), not apart, "No section loses more than its doubt.")
