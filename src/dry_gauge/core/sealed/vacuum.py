"""Evacuation: when it is done, and what a rise after shutting the valve means.

A leak lets in air at a rate that does not care about a few thousand microns inside: the pressure climbs straight on.
Water, and refrigerant leaving the oil, come out until their own pressure is reached: the rise slows and levels off.
Both can be there at once. The verdict weighs those four pictures against the trace.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import ceil

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.sealed.pull_down import boiling_point_k
from dry_gauge.core.sealed.rise import NOISE_PA, NOISE_SHARE, Picture, Pictures
from dry_gauge.core.words import to_anyone

GAUGE_RANGE_PA = (1 * MICRON_PA, 25_000 * MICRON_PA)
"""What a vacuum gauge of the trade reads; beyond it the number is its end stop."""

Array = NDArray[np.float64]


# -- the end point ---------------------------------------------------------


@dataclass(frozen=True, slots=True)
class EndPoint:
    """When an evacuation is called done.

    Parameters
    ----------
    name, words : str
    limit_pa : float
        Not above this at the end of the watch. [Pa]
    minutes : float
        How long the valve stays shut.
    flat_pa_min : float
        Steepest rise at the end that still counts as holding. [Pa/min]
    """

    name: str
    words: str
    limit_pa: float
    minutes: float
    flat_pa_min: float


END_POINTS = {
    "strict": EndPoint("strict", "not above 500 microns after 10 minutes", 500 * MICRON_PA, 10.0, 8 * MICRON_PA),
    "common": EndPoint("common", "not above 1,000 microns after 10 minutes, and flat", 1000 * MICRON_PA, 10.0, 5 * MICRON_PA),
}
"""Habits of two schools; the maker's figure wins."""


# -- what a rise means -----------------------------------------------------


class Rise(StrEnum):
    """What the trace says."""

    TIGHT = "tight"
    MOISTURE = "moisture"
    LEAK = "leak"
    BOTH = "both"
    TOO_SOON = "too_soon"


@dataclass(frozen=True, slots=True)
class DecayMicron:
    """Where a rise stands and how fast it goes, with half-widths, and its fitted curve by minute. [micron]"""

    level: float
    level_half_width: float
    rate_min: float
    rate_half_width_min: float
    curve: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Decay:
    """A verdict on one watch with the valve shut.

    Parameters
    ----------
    verdict : Rise
    minutes : float
        Length of the trace.
    level_pa, level_half_width_pa : float
        Pressure at its end, smoothed. [Pa]
    rate_pa_min, rate_half_width_pa_min : float
        How fast it rises at the end. [Pa/min]
    leak_pa_min, leak_half_width_pa_min : float
        The part that climbs straight on. [Pa/min]
    minutes_more : int or None
        For 'too soon': how long still to watch.
    why : str
    curve : tuple of (float, float)
        The smoothed trace, minutes and Pa.
    left_out : int
        Points not used: spikes, and what stood at the end of the gauge.
    """

    verdict: Rise
    minutes: float
    level_pa: float
    level_half_width_pa: float
    rate_pa_min: float
    rate_half_width_pa_min: float
    leak_pa_min: float
    leak_half_width_pa_min: float
    minutes_more: int | None
    why: str
    curve: tuple[tuple[float, float], ...] = ()
    left_out: int = 0

    @property
    def micron(self) -> DecayMicron:
        """The same in microns, as a gauge of the trade shows it."""
        return DecayMicron(
            self.level_pa / MICRON_PA,
            self.level_half_width_pa / MICRON_PA,
            self.rate_pa_min / MICRON_PA,
            self.rate_half_width_pa_min / MICRON_PA,
            tuple((minute, pressure / MICRON_PA) for minute, pressure in self.curve),
        )


# A valve that is shut pushes its own gas in, and the gauge takes a while to follow. [s]
_VALVE_SECONDS = 30.0
_LEAST_MINUTES = 3.0
_SURE, _LIKELY = 0.95, 0.9
_LONGEST_WATCH_MINUTES = 60


def judge_decay(seconds: Sequence[float], pressure_pa: Sequence[float], end_point: EndPoint) -> Decay:
    """What the rise after shutting the valve says.

    Parameters
    ----------
    seconds : sequence of float
        Since the valve was shut, in any order; a clock that jumped back shows as points out of order and is sorted.
    pressure_pa : sequence of float
        Absolute, same length. [Pa]
    end_point : EndPoint
        What counts as done.

    Returns
    -------
    Decay
        `TOO_SOON` for as long as the pictures cannot be told apart.

    Notes
    -----
    Tight, leak, moisture and both are fitted as ``p0 + L t + A (1 - exp(-t/tau))`` with L and A not negative. The
    evidence of each is its likelihood integrated over tau (and a Bayes information criterion for the rest), so a curve
    that could still become either leaves both likely, and the answer is 'too soon'. Error rates on simulated traces are
    in docs/accuracy.md.
    """
    stopped = _at_end_stop(seconds, pressure_pa, end_point)
    if stopped is not None:
        return stopped
    t, p, left_out = _cleaned(seconds, pressure_pa)
    if t.size < 4 or t[-1] - t[0] < _LEAST_MINUTES:
        span = float(t[-1]) if t.size else 0.0
        wait = ceil(max(end_point.minutes - span, 1.0))
        level = float(p[-1]) if p.size else 0.0
        return Decay(
            Rise.TOO_SOON,
            span,
            level,
            level * 0.1,
            0.0,
            level,
            0.0,
            level,
            wait,
            "Fewer than three minutes, or than four points, say nothing.",
            (),
            left_out,
        )
    if _is_one_step(p):
        level = float(p[-1])
        return Decay(
            Rise.TOO_SOON,
            float(t[-1]),
            level,
            level * 0.05,
            0.0,
            level,
            0.0,
            level,
            ceil(end_point.minutes),
            "One step between flat stretches is a valve or the gauge, not a leak. Watch on.",
            tuple(zip(t.tolist(), p.tolist(), strict=True)),
            left_out,
        )
    return _verdict(Pictures.of(t, p), end_point, left_out)


# From here up a reading that does not move is the end of a gauge: 12,000, 20,000 and 25,000 are usual (docs/rules.md, R35).
_END_STOP_PA, _END_STOP_SHARE, _END_STOP_POINTS = 9_500 * MICRON_PA, 0.005, 3


def _at_end_stop(seconds: Sequence[float], pressure_pa: Sequence[float], end_point: EndPoint) -> Decay | None:
    """A gauge that stands at its end after the valve was shut: a leak or an open valve first; None where it does not."""
    order = np.argsort(np.asarray(seconds, dtype=float), kind="stable")
    t, p = np.asarray(seconds, dtype=float)[order] / 60, np.asarray(pressure_pa, dtype=float)[order]
    late = t >= _VALVE_SECONDS / 60
    if late.sum() < _END_STOP_POINTS:
        return None
    last = p[late][-_END_STOP_POINTS:]
    if last.min() < _END_STOP_PA or np.ptp(last) > _END_STOP_SHARE * last.max() or not np.isfinite(last).all():
        return None
    level, span = float(last[-1]), float(t[-1])
    why = (
        "The gauge stands at its end: a leak or an open valve first. Liquid water only if the coldest part is above "
        f"{to_anyone('limit', boiling_point_k(level))}."
    )
    return Decay(Rise.LEAK, span, level, 0.0, 0.0, level, 0.0, level, None, why, (), int(t.size))


_STEP_SHARE, _STEP_LEAST_POINTS = 0.75, 3


def _is_one_step(p: Array) -> bool:
    """Whether nearly all of the rise happened between two neighbouring points, flat before and flat after."""
    rise = float(p[-1] - p[0])
    if rise <= 12 * NOISE_PA or rise < 8 * NOISE_SHARE * float(np.median(p)):
        return False
    steps = np.diff(p)
    at = int(steps.argmax())
    before, after = p[: at + 1], p[at + 1 :]
    flat = max(float(np.ptp(before)), float(np.ptp(after))) < (1 - _STEP_SHARE) * rise
    return flat and steps[at] > _STEP_SHARE * rise and min(before.size, after.size) >= _STEP_LEAST_POINTS


def _cleaned(seconds: Sequence[float], pressure_pa: Sequence[float]) -> tuple[Array, Array, int]:
    """Minutes and pressures in order, without the valve's push, end stops and spikes; and how many were left out."""
    t, p = np.asarray(seconds, dtype=float) / 60, np.asarray(pressure_pa, dtype=float)
    order = np.argsort(t, kind="stable")
    t, p = t[order], p[order]
    good = np.isfinite(t) & np.isfinite(p) & (p > GAUGE_RANGE_PA[0]) & (p < GAUGE_RANGE_PA[1])
    late = t >= _VALVE_SECONDS / 60
    if (good & late).sum() >= 4:
        good &= late
    t_good, p_good = t[good], p[good]
    if t_good.size >= 7:
        # A spike stands off from the median of its neighbours by far more than those differ.
        padded = np.pad(p_good, 3, mode="edge")
        windows = np.lib.stride_tricks.sliding_window_view(padded, 7)
        middle = np.median(windows, axis=1)
        steps = np.abs(np.diff(p_good))
        usual = max(float(np.median(steps)) * 4, NOISE_SHARE * 4 * float(np.median(p_good)), 6 * NOISE_PA)
        keep = np.abs(p_good - middle) <= usual
        t_good, p_good = t_good[keep], p_good[keep]
    return t_good, p_good, int(t.size - t_good.size)


@dataclass(frozen=True, slots=True)
class _Chances:
    """Of each kind of trouble, not of each formula. [1]"""

    leak: float
    """A straight part that amounts to something."""
    climb: float
    """That, or what has not levelled off within the trace and could hide one."""
    wet: float
    """It comes to rest too high within the trace."""
    slow: float
    """It would come to rest too high, beyond the trace."""


def _verdict(pictures: Pictures, end_point: EndPoint, left_out: int) -> Decay:
    end, levels_off = pictures.end, pictures.levels_off_pa()
    (level, level_half), (rate, rate_half) = pictures.level(), pictures.rate()
    leak, leak_half = pictures.straight()
    straight = f", {leak / MICRON_PA:.1f} ±{leak_half / MICRON_PA:.1f} μm a minute"
    comes_to = "" if levels_off is None else f", at about {float(f'{levels_off / MICRON_PA:.2g}'):,.0f} μm"
    within = level + level_half <= end_point.limit_pa and rate - rate_half <= end_point.flat_pa_min
    verdict, why, more = _decide(end, within, _chances(pictures, end_point), end_point, straight, comes_to)
    return Decay(verdict, end, level, level_half, rate, rate_half, leak, leak_half, more, why, pictures.curve(), left_out)


def _chances(pictures: Pictures, end_point: EndPoint) -> _Chances:
    def is_wet(picture: Picture) -> bool:
        rest = picture.rest_pa(pictures.end)
        if rest is None:
            return False
        return rest > end_point.limit_pa and rest - float(picture.coefficients[0]) > 0.25 * end_point.limit_pa

    def is_slow(picture: Picture) -> bool:
        return not is_wet(picture) and sum(picture.coefficients) - picture.leak_pa_min > end_point.limit_pa

    leak = pictures.chance_of_leak()
    return _Chances(leak, max(pictures.chance_of_climb(), leak), pictures.chance(is_wet), pictures.chance(is_slow))


def _decide(
    end: float, within: bool, chances: _Chances, end_point: EndPoint, straight: str, comes_to: str
) -> tuple[Rise, str, int | None]:
    """``within``: it ends below the limit, and rises no faster than counts as flat."""
    leaks, wet = chances.leak > _SURE, chances.wet > _LIKELY
    if leaks and wet:
        words = f"Part of the rise slows down, and under it something climbs straight on{straight}: wet, and a leak."
        return Rise.BOTH, words, None
    if leaks and chances.wet < 1 - _LIKELY:
        return Rise.LEAK, f"It climbs straight on{straight}. Water would slow down as it rises; a leak does not.", None
    if wet and chances.climb < 1 - _SURE:
        words = f"It slows down and levels off too high{comes_to}: water, or refrigerant still leaving the oil."
        return Rise.MOISTURE, words, None
    if leaks and end >= 1.5 * end_point.minutes:
        return Rise.LEAK, f"It climbs straight on{straight}; whether it is wet as well shows once the leak is mended.", None
    if end >= end_point.minutes and within and chances.leak < 0.1 and chances.slow < 0.5:
        return Rise.TIGHT, "Low enough for long enough, and rising slower or not at all.", None
    if wet:
        words = "It is slowing down, so it is wet; whether it leaks as well has not shown yet."
        return Rise.TOO_SOON, words, ceil(max(end_point.minutes - end, 0.5 * end))
    if end < end_point.minutes:
        # The next point has to come as well: a minute more than the clock alone asks.
        return Rise.TOO_SOON, "Straight and leveling rises still look alike.", ceil(end_point.minutes - end) + 1
    more = ceil(min(max(0.5 * end, 3.0), max(_LONGEST_WATCH_MINUTES - end, 3.0)))
    return Rise.TOO_SOON, "It could still be a slow leak or slow drying: the curve has not shown which.", more
