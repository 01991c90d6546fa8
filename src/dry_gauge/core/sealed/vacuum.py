"""Evacuation: when it is done, and what a rise after shutting the valve means.

A leak lets in air at a rate that does not care about a few thousand microns inside: the pressure climbs straight on.
Water, and refrigerant leaving the oil, come out until their own pressure is reached: the rise slows and levels off.
Both can be there at once. The verdict weighs those four pictures against the trace.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import ceil, erf, log, sqrt

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.sealed.pull_down import boiling_point_k
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
}  # fmt: skip
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
        return DecayMicron(self.level_pa / MICRON_PA, self.level_half_width_pa / MICRON_PA, self.rate_pa_min / MICRON_PA,
                           self.rate_half_width_pa_min / MICRON_PA,
                           tuple((minute, pressure / MICRON_PA) for minute, pressure in self.curve))  # fmt: skip



# A valve that is shut pushes its own gas in, and the gauge takes a while to follow. [s]
_VALVE_SECONDS = 30.0
_LEAST_MINUTES = 3.0
# A gauge repeats itself to about this share of its reading, and no better than its last digit.
_NOISE_SHARE, _NOISE_PA = 0.012, 1.5 * MICRON_PA
# Noise of neighbouring points is alike for about this long: more points in it say nothing new. [min]
_ALIKE_MINUTES = 0.15
# Slowest and fastest levelling that is looked for. [min]
_TAUS = np.geomspace(0.7, 45.0, 19)
_CLEAR_LEAK_PA_MIN = 8 * MICRON_PA
"""A straight rise slower than this is within what clean systems do in the first minutes."""
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
        return Decay(Rise.TOO_SOON, span, level, level * 0.1, 0.0, level, 0.0, level, wait,
                     "Fewer than three minutes, or than four points, say nothing.", (), left_out)  # fmt: skip
    if _is_one_step(p):
        level = float(p[-1])
        return Decay(Rise.TOO_SOON, float(t[-1]), level, level * 0.05, 0.0, level, 0.0, level,
                     ceil(end_point.minutes), "One step between flat stretches is a valve or the gauge, not a leak. Watch on.",
                     tuple(zip(t.tolist(), p.tolist(), strict=True)), left_out)  # fmt: skip
    return _verdict(t, _fits(t, p), end_point, left_out)


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
    why = ("The gauge stands at its end: a leak or an open valve first. Liquid water only if the coldest part is above "
           f"{to_anyone('limit', boiling_point_k(level))}.")  # fmt: skip
    return Decay(Rise.LEAK, span, level, 0.0, 0.0, level, 0.0, level, None, why, (),
                 int(t.size))  # fmt: skip


_STEP_SHARE, _STEP_LEAST_POINTS = 0.75, 3


def _is_one_step(p: Array) -> bool:
    """Whether nearly all of the rise happened between two neighbouring points, flat before and flat after."""
    rise = float(p[-1] - p[0])
    if rise <= 12 * _NOISE_PA or rise < 8 * _NOISE_SHARE * float(np.median(p)):
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
        usual = max(float(np.median(steps)) * 4, _NOISE_SHARE * 4 * float(np.median(p_good)), 6 * _NOISE_PA)
        keep = np.abs(p_good - middle) <= usual
        t_good, p_good = t_good[keep], p_good[keep]
    return t_good, p_good, int(t.size - t_good.size)


@dataclass(frozen=True, slots=True)
class _Fit:
    """One picture: which columns it uses, their coefficients and covariance, and its evidence."""

    columns: tuple[int, ...]
    coefficients: Array
    covariance: Array
    log_evidence: float

    @property
    def leak_pa_min(self) -> float:
        """The straight part. [Pa/min]"""
        return float(self.coefficients[1]) if 1 in self.columns else 0.0

    def rest_pa(self, end_minutes: float) -> float | None:
        """Where that which has levelled off within the trace comes to rest; None if nothing has."""
        given = [float(self.coefficients[i]) for i, c in enumerate(self.columns)
                 if c >= _FIRST_TAU and _TAUS[c - _FIRST_TAU] < end_minutes]  # fmt: skip
        return float(self.coefficients[0]) + sum(given) if given else None

    def row(self, basis: Array) -> Array:
        """Its columns of a basis."""
        return basis[list(self.columns)]


def _basis(t: Array) -> Array:
    """Every column that a picture may use: level, straight rise, and levelling at each time constant."""
    return np.concatenate([np.ones((1, t.size)), t[None, :], 1 - np.exp(-t[None, :] / _TAUS[:, None])])


def _slopes(minute: float) -> Array:
    """How fast each column rises at that minute. [1/min]"""
    return np.concatenate([[0.0, 1.0], np.exp(-minute / _TAUS) / _TAUS])


_FIRST_TAU = 2
_EACH = range(_FIRST_TAU, _FIRST_TAU + len(_TAUS))
# Pictures of one family share its evidence, so that none wins by being asked more often.
_FAMILIES: tuple[tuple[tuple[int, ...], ...], ...] = (
    ((0,),),
    ((0, 1),),
    tuple((0, k) for k in _EACH),
    tuple((0, 1, k) for k in _EACH),
    # Two things drying at their own pace slow down twice, which one time constant and a leak would imitate.
    tuple((0, k, j) for k in _EACH for j in _EACH if j >= k + 3),
)


def _fits(t: Array, p: Array) -> list[_Fit]:
    apart = max(float(np.median(np.diff(t))), 1e-3)
    # Points closer together than noise forgets itself count as fewer.
    share = min(1.0, apart / _ALIKE_MINUTES)
    weight = share / _honest_noise(t, p) ** 2
    basis = _basis(t)
    gram, cross, square = (basis * weight) @ basis.T, (basis * weight) @ p, float(weight @ p**2)
    points = max(t.size * share, 2.0)
    fits = []
    for family in _FAMILIES:
        index = np.array(family)
        blocks = gram[index[:, :, None], index[:, None, :]]
        # A ridge far below what the data say keeps columns that are nearly alike apart.
        blocks = blocks + np.eye(index.shape[1]) * 1e-9 * np.trace(blocks, axis1=1, axis2=2)[:, None, None]
        solved = np.linalg.solve(blocks, cross[index][..., None])[..., 0]
        inverse = np.linalg.inv(blocks)
        chi2 = square - np.einsum("ki,ki->k", solved, cross[index])
        for i in np.flatnonzero((solved[:, 1:] >= 0).all(axis=1)):
            evidence = -0.5 * float(chi2[i]) - 0.5 * len(family[i]) * log(points) - log(len(family))
            fits.append(_Fit(family[i], solved[i], inverse[i], evidence))
    return fits


def _honest_noise(t: Array, p: Array) -> Array:
    """Noise as the trace shows it, where that is more than a good gauge makes: a coarse last digit, a shaky hose. [Pa]"""
    sigma = np.hypot(_NOISE_SHARE * p, _NOISE_PA)
    if t.size <= 8:
        return sigma
    residual = (p - np.polyval(np.polyfit(t, p, 5), t)) / sigma
    shown = float(np.sqrt(residual @ residual / (t.size - 6)))
    return sigma * max(shown, 1.0)


def _verdict(t: Array, fits: Sequence[_Fit], end_point: EndPoint, left_out: int) -> Decay:
    weights = np.array([fit.log_evidence for fit in fits])
    weights = np.exp(weights - weights.max())
    weights /= weights.sum()
    end = float(t[-1])

    def mixed(column: Array) -> tuple[float, float]:
        """Mean and 95 % half-width of a linear figure over all pictures."""
        rows = [fit.row(column) for fit in fits]
        means = np.array([float(row @ fit.coefficients) for row, fit in zip(rows, fits, strict=True)])
        variances = np.array([float(row @ fit.covariance @ row) for row, fit in zip(rows, fits, strict=True)])
        mean = float(weights @ means)
        return mean, 2 * sqrt(float(weights @ (variances + (means - mean) ** 2)))

    level, level_half = mixed(_basis(np.array([end]))[:, 0])
    rate, rate_half = mixed(_slopes(end))
    leak, leak_half = mixed(np.eye(_FIRST_TAU + len(_TAUS))[1])
    # Chances of each kind of trouble, not of each formula: a straight part that amounts to nothing is no leak.
    leaks = sum(w * _chance_of_leak(fit) for w, fit in zip(weights, fits, strict=True))
    wets = slow = climbing = 0.0
    slopes = _slopes(end) * (np.arange(_FIRST_TAU + len(_TAUS)) < _FIRST_TAU)
    slopes[_FIRST_TAU:] = np.where(0.5 * end <= _TAUS, _slopes(end)[_FIRST_TAU:], 0.0)
    for w, fit in zip(weights, fits, strict=True):
        rest = fit.rest_pa(end)
        start = float(fit.coefficients[0])
        if rest is not None and rest > end_point.limit_pa and rest - start > 0.25 * end_point.limit_pa:
            wets += float(w)
        elif sum(fit.coefficients) - fit.leak_pa_min > end_point.limit_pa:
            slow += float(w)
        climbing += float(w) * _chance_of_climb(fit, slopes)
    best = max(fits, key=lambda fit: fit.log_evidence)
    levels_off = best.rest_pa(end) if best.leak_pa_min == 0 else None
    straight = f", {leak / MICRON_PA:.1f} ±{leak_half / MICRON_PA:.1f} μm a minute"
    comes_to = "" if levels_off is None else f", at about {float(f'{levels_off / MICRON_PA:.2g}'):,.0f} μm"
    verdict, why, more = _decide(
        end, level, level_half, rate, rate_half, leaks, max(climbing, leaks), wets, slow, end_point, straight, comes_to
    )
    minutes = np.linspace(0.0, end, 41)
    basis = _basis(minutes)
    curve = tuple(
        (float(x), float(y))
        for x, y in zip(minutes, sum(w * (fit.coefficients @ fit.row(basis)) for w, fit in zip(weights, fits, strict=True)),
                        strict=True)
    )  # fmt: skip
    return Decay(verdict, end, level, level_half, rate, rate_half, leak, leak_half, more, why, curve, left_out)


def _chance_of_leak(fit: _Fit) -> float:
    """Chance that the straight part of one picture amounts to something, by its own spread."""
    straight = np.zeros(_FIRST_TAU + len(_TAUS))
    straight[1] = 1.0
    return _chance_of_climb(fit, straight)


def _chance_of_climb(fit: _Fit, slopes: Array) -> float:
    """Chance that what rises at those slopes, all that has not levelled off within the trace, could hide a leak."""
    row = fit.row(slopes)
    spread = sqrt(float(row @ fit.covariance @ row))
    return _normal((float(row @ fit.coefficients) - _CLEAR_LEAK_PA_MIN) / spread) if spread > 0 else 0.0


def _normal(z: float) -> float:
    return 0.5 * (1 + erf(z / sqrt(2)))


def _decide(
    end: float, level: float, level_half: float, rate: float, rate_half: float, leaks: float, climbing: float,
    wets: float, slow: float, end_point: EndPoint, straight: str, comes_to: str,
) -> tuple[Rise, str, int | None]:  # fmt: skip
    if leaks > _SURE and wets > _LIKELY:
        return (
            Rise.BOTH,
            f"Part of the rise slows down, and under it something climbs straight on{straight}: wet, and a leak.",
            None,
        )
    if leaks > _SURE and wets < 1 - _LIKELY:
        return Rise.LEAK, f"It climbs straight on{straight}. Water would slow down as it rises; a leak does not.", None
    if wets > _LIKELY and climbing < 1 - _SURE:
        return (
            Rise.MOISTURE,
            f"It slows down and levels off too high{comes_to}: water, or refrigerant still leaving the oil.",
            None,
        )
    if leaks > _SURE and end >= 1.5 * end_point.minutes:
        return Rise.LEAK, f"It climbs straight on{straight}; whether it is wet as well shows once the leak is mended.", None
    low = level + level_half <= end_point.limit_pa
    flat = rate - rate_half <= end_point.flat_pa_min
    if end >= end_point.minutes and low and flat and leaks < 0.1 and slow < 0.5:
        return Rise.TIGHT, "Low enough for long enough, and rising slower or not at all.", None
    if wets > _LIKELY:
        words = "It is slowing down, so it is wet; whether it leaks as well has not shown yet."
        return Rise.TOO_SOON, words, ceil(max(end_point.minutes - end, 0.5 * end))
    if end < end_point.minutes:
        # The next point has to come as well: a minute more than the clock alone asks.
        return Rise.TOO_SOON, "Straight and leveling rises still look alike.", ceil(end_point.minutes - end) + 1
    more = ceil(min(max(0.5 * end, 3.0), max(_LONGEST_WATCH_MINUTES - end, 3.0)))
    return Rise.TOO_SOON, "It could still be a slow leak or slow drying: the curve has not shown which.", more
