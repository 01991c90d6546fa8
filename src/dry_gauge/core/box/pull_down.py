"""Where a box is going: its air, or a product's core, fitted as it falls, and when it will be where it should (R54).

T = floor + a e^(-t/tau1) + b e^(-t/tau2): the air of a box falls fast at first, then with what stands in it. Both times are laid
over a grid, the rest is linear; each pair counts by how well it fits. What an open door or a defrost did is left out.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.quantities import FAHRENHEIT_K

LEAST_MINUTES = 20.0
LEAST_SHARE = 1 / 3
"""No time is stated before so many minutes and so much of the fall (domain)."""
_JUST_AFTER_MIN = 1.0  # between the points on both sides of a door or a defrost
LONGEST_SILENCE_MIN = 90.0
_DRAWN_MIN = 720.0
_RATE_MIN = 3.0  # two points closer than this give no rate
_ALARM_MIN = 60.0  # no alarm before so many minutes of undisturbed fall
_FAST_MIN = np.array([4.0, 8.0, 14.0, 24.0, 40.0])
_SLOW_MIN = np.array([60.0, 90.0, 140.0, 220.0, 340.0, 520.0, 800.0, 1250.0, 2000.0])
LONGEST_MIN = 1440.0
"""What takes longer than a day is not going to get there as it is."""
_AHEAD_MIN = np.concatenate([np.arange(0.0, 240.0, 2.0), np.arange(240.0, LONGEST_MIN + 1, 10.0)])
# A sound box could go on to so far below design (habit); readings soon say more than that.
_FLOOR_BELOW_K, _FLOOR_SPREAD_K = 5.0, 5.0
_FALL_SPREAD_K = 15.0
_READING_K = 0.3 * FAHRENHEIT_K  # what a point is worth beside the curve: probe, cycling, air that stirs
_STIRS_MIN, _LEAST_MEMORY_MIN, _MEMORY = 6.0, 30.0, 0.5
_AT_DESIGN_K = 1.0 * FAHRENHEIT_K
_JUMP_K = 12.0 * FAHRENHEIT_K  # from one point to the next within ten minutes: a probe that fell out
_JUMP_MIN = 10.0
_LOW, _HIGH = 0.05, 0.95
_SURE_NEVER = 0.985  # an alarm is no guess


@dataclass(frozen=True, slots=True)
class Span:
    """A door that stood open or a defrost, minutes from the first point; `until` is None while it lasts. [min]"""

    start: float
    until: float | None
    what: str = "door"


@dataclass(frozen=True, slots=True)
class Forecast:
    """Where it is going.

    Parameters
    ----------
    state : str
        ``few`` points, ``early`` (a rate only), ``falling`` (a time), ``not_enough`` (its floor lies above the aim), ``warming``,
        ``recovering`` (from a door or a defrost), ``there``, or ``odd`` (a jump that no box makes).
    rate_k_h : float or None
        How fast it falls now; below zero while it warms. [K/h]
    minutes, low, high : float or None
        From the last point until the aim, and the interval that holds in nine of ten; None for more than a day. [min]
    floor_k, floor_half_k : float or None
        Where it would end, and half the interval of that. [K]
    left_out : int
        Points that a door or a defrost spoiled.
    """

    state: str
    words: str
    rate_k_h: float | None = None
    minutes: float | None = None
    low: float | None = None
    high: float | None = None
    floor_k: float | None = None
    floor_half_k: float | None = None
    left_out: int = 0
    curve: tuple[tuple[float, float], ...] = ()


def is_there(temp_k: float, aim_k: float) -> bool:
    """Whether a temperature is where it should be. [K]"""
    return temp_k <= aim_k + _AT_DESIGN_K


def forecast(points: Sequence[tuple[float, float]], aim_k: float, spans: Sequence[Span] = ()) -> Forecast:
    """When it will be at the aim, or what is in the way.

    Parameters
    ----------
    points : sequence of (float, float)
        Minutes from the first, and temperature. [min, K]
    aim_k : float
        Design, or a limit. [K]
    """
    listed = _one_stretch(sorted(points))
    clean, lost = _undisturbed(listed, spans)
    left_out = len(listed) - len(clean)
    if left_out and (not clean or clean[-1][0] + lost < listed[-1][0]):
        words = "A door or a defrost: it goes on once the box is back where it was."
        return Forecast("recovering", words, left_out=left_out)
    clean = _from_its_top(clean)
    if len(clean) < 2:
        return Forecast("few", "Two points at least, a few minutes apart.", left_out=left_out)
    at = np.array([one for one, _ in clean])
    temp = np.array([one for _, one in clean])
    elapsed, last = float(at[-1] - at[0]), float(temp[-1])
    jump = _jump(clean)
    if jump is not None:
        return Forecast("odd", f"A jump at {jump:.0f} min that no box makes: is the probe where it was?", left_out=left_out)
    rate = _rate(at, temp)
    if is_there(last, aim_k):
        return Forecast("there", "It is where it should be.", rate, left_out=left_out)
    if elapsed >= LEAST_MINUTES and rate < -_READING_K * 60 / max(elapsed, 30.0):
        return Forecast("warming", "It warms: nothing pulls it down, or more comes in than goes out.", rate, left_out=left_out)
    fallen = (float(temp[0]) - last) / max(float(temp[0]) - aim_k, 1e-6)
    stuck = elapsed >= 2 * LEAST_MINUTES and len(clean) >= 5
    if elapsed < LEAST_MINUTES or (fallen < LEAST_SHARE and not stuck):
        words = "Falling; no time is promised before 20 minutes and a third of the fall."
        return Forecast("early", words, rate, left_out=left_out)
    return _fitted(
        at - at[0],
        temp,
        aim_k,
        rate,
        left_out,
        lost + float(at[0]),
        promised=fallen >= LEAST_SHARE,
        may_alarm=elapsed >= _ALARM_MIN,
    )


def _one_stretch(listed: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """The points since the last long silence: what was hours before is another story."""
    start = next((i for i in range(len(listed) - 1, 0, -1) if listed[i][0] - listed[i - 1][0] > LONGEST_SILENCE_MIN), 0)
    return list(listed[start:])


def _from_its_top(clean: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """From the warmest point on, unless it is one of the last: there the fall begins."""
    if len(clean) < 4:
        return clean
    top = max(range(len(clean)), key=lambda i: clean[i][1])
    return clean[top:] if top < len(clean) - 2 else clean


def _undisturbed(listed: Sequence[tuple[float, float]], spans: Sequence[Span]) -> tuple[list[tuple[float, float]], float]:
    """The fall as if no door had opened and no defrost had run, and the minutes that they cost. [min, K], [min]

    What is read from the start of one until the box is back where it was then is left out, and the clock stands meanwhile.
    """
    left = list(listed)
    lost = 0.0
    for span in sorted(spans, key=lambda one: one.start):
        before = [temp for at, temp in left if at + lost < span.start]
        after = [(at, temp) for at, temp in left if at + lost >= span.start]
        if not after:
            continue
        over = [(at, temp) for at, temp in after if span.until is not None and at + lost >= span.until]
        back = next((i for i, (_, temp) in enumerate(over) if not before or temp <= before[-1]), None)
        kept = left[: len(before)]
        if back is None:
            return kept, lost
        resumes = over[back][0]
        cost = resumes - kept[-1][0] - _JUST_AFTER_MIN if kept else 0.0
        left = [*kept, *((at - cost, temp) for at, temp in over[back:])]
        lost += cost
    return left, lost


def _jump(clean: Sequence[tuple[float, float]]) -> float | None:
    for (before, first), (at, second) in pairwise(clean):
        if abs(second - first) > _JUMP_K and at - before <= _JUMP_MIN:
            return at
    return None


def _rate(at: NDArray[np.float64], temp: NDArray[np.float64]) -> float:
    """How fast it falls over the last part. [K/h]"""
    late = at >= at[-1] - max(15.0, 0.4 * (at[-1] - at[0]))
    if late.sum() < 2 or float(np.ptp(at[late])) < _RATE_MIN:
        late[:] = True
    if float(np.ptp(at)) < _RATE_MIN:
        return 0.0
    return float(-60 * np.polyfit(at[late], temp[late], 1)[0])


def _fitted(
    at: NDArray[np.float64],
    temp: NDArray[np.float64],
    aim_k: float,
    rate: float,
    left_out: int,
    began: float,
    *,
    promised: bool,
    may_alarm: bool,
) -> Forecast:
    fast, slow = (one.ravel() for one in np.meshgrid(_FAST_MIN, _SLOW_MIN))
    means, halves, weights = [], [], []
    prior = np.array([aim_k - _FLOOR_BELOW_K, 0.0, 0.0])
    spread = np.array([_FLOOR_SPREAD_K, _FALL_SPREAD_K, _FALL_SPREAD_K])
    # Points close together tell little more than one: air stirs over minutes. Old ones tell of a coil that had less frost.
    worth = np.minimum(1.0, _spacing(at) / _STIRS_MIN) * np.exp(-(at[-1] - at) / max(_LEAST_MEMORY_MIN, _MEMORY * at[-1]))
    for tau_1, tau_2 in zip(fast, slow, strict=True):
        rows = np.stack([np.ones_like(at), np.exp(-at / tau_1), np.exp(-at / tau_2)], axis=1)
        mean, covariance, evidence = _linear(rows, temp, worth, prior, spread)
        means.append(mean)
        halves.append(np.linalg.cholesky(covariance + 1e-12 * np.eye(3)))
        weights.append(evidence)
    share = np.exp(np.array(weights) - max(weights))
    share /= share.sum()
    now = at[-1]
    crossings, floors, carried, curve = [], [], [], np.zeros(len(_AHEAD_MIN))
    offsets = np.concatenate([np.zeros((1, 3)), np.sqrt(3.0) * np.eye(3), -np.sqrt(3.0) * np.eye(3)])
    for mean, half, one, tau_1, tau_2 in zip(means, halves, share, fast, slow, strict=True):
        if one < 1e-5:
            continue
        ahead = now + _AHEAD_MIN
        rows = np.stack([np.ones_like(ahead), np.exp(-ahead / tau_1), np.exp(-ahead / tau_2)], axis=1)
        # Seven points that stand for the spread of the three numbers (unscented, n = 3: centre 0, each side a sixth).
        for offset, part in zip(offsets, [0.0, *[1 / 6] * 6], strict=True):
            if part == 0.0:
                curve += one * (rows @ mean)
                continue
            path = rows @ (mean + half @ offset)
            below = np.nonzero(path <= aim_k + _AT_DESIGN_K)[0]
            crossings.append(_AHEAD_MIN[below[0]] if len(below) else np.inf)
            floors.append(mean[0] + (half @ offset)[0])
            carried.append(one * part)
    low, middle, high = _quantiles(np.array(crossings), np.array(carried), (_LOW, 0.5, _HIGH))
    floor_low, floor, floor_high = _quantiles(np.array(floors), np.array(carried), (_LOW, 0.5, _HIGH))
    drawn = tuple(
        (float(began + now + ahead), float(value)) for ahead, value in zip(_AHEAD_MIN, curve, strict=True) if ahead <= _DRAWN_MIN
    )
    floor_half = (floor_high - floor_low) / 2
    never = float(np.array(carried)[~np.isfinite(np.array(crossings))].sum() / np.sum(carried))
    if may_alarm and never >= _SURE_NEVER:
        words = "Not within a day as it is: " + (
            "its floor lies above the aim. Capacity is short, or heat comes in."
            if floor > aim_k
            else "it falls too slowly, by what stands in it."
        )
        return Forecast("not_enough", words, rate, None, None, None, floor, floor_half, left_out, drawn)
    if not promised:
        words = "Falling, slower than a third of the fall: no time is promised yet."
        return Forecast("early", words, rate, floor_k=floor, floor_half_k=floor_half, left_out=left_out, curve=drawn)
    middle_or_never, high_or_never = (None if not np.isfinite(one) else one for one in (middle, high))
    words = "Falling; it may take over a day as it is." if high_or_never is None else "Falling."
    return Forecast("falling", words, rate, middle_or_never, low, high_or_never, floor, floor_half, left_out, drawn)


def _spacing(at: NDArray[np.float64]) -> NDArray[np.float64]:
    gaps = np.diff(at, prepend=at[0] - 4.0)
    return np.maximum(gaps, 0.05)


def _linear(
    rows: NDArray[np.float64],
    temp: NDArray[np.float64],
    worth: NDArray[np.float64],
    prior: NDArray[np.float64],
    spread: NDArray[np.float64],
) -> tuple[NDArray[np.float64], NDArray[np.float64], float]:
    """Mean and covariance of the three numbers, and how well the pair of times explains the points (log)."""
    weight = worth / _READING_K**2
    precision = rows.T @ (rows * weight[:, None]) + np.diag(1 / spread**2)
    covariance = np.linalg.inv(precision)
    mean = covariance @ (rows.T @ (weight * temp) + prior / spread**2)
    off = temp - rows @ mean
    fit = float(np.sum(weight * off**2) + np.sum(((mean - prior) / spread) ** 2))
    evidence = -0.5 * fit - 0.5 * float(np.linalg.slogdet(precision)[1])
    return mean, np.asarray(covariance, dtype=np.float64), evidence


def _quantiles(values: NDArray[np.float64], shares: NDArray[np.float64], at: Sequence[float]) -> list[float]:
    order = np.argsort(values)
    summed = np.cumsum(shares[order]) / shares.sum()
    return [float(values[order][min(int(np.searchsorted(summed, one)), len(order) - 1)]) for one in at]
