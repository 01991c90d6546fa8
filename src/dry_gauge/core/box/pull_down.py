"""Where a box is going: its air, or a product's core, fitted as it falls, and when it will be where it should (R54).

T = floor + a e^(-t/tau1) + b e^(-t/tau2): the air of a box falls fast at first, then with what stands in it. Both times are laid
over a grid, the rest is linear; each pair counts by how well it fits. What an open door or a defrost did is left out.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.quantities import FAHRENHEIT_K

Array = NDArray[np.float64]

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
_NINE_OF_TEN = (0.05, 0.5, 0.95)
_LEAST_FIT = 1e-5  # share below which a pair of times is passed over
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
    fall = _Fall(at - at[0], temp, rate, left_out, began=lost + float(at[0]))
    ahead = _look_ahead(_fits(fall, aim_k), float(fall.at[-1]), aim_k)
    return _told(fall, ahead, aim_k, promised=fallen >= LEAST_SHARE, may_alarm=elapsed >= _ALARM_MIN)


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


def _rate(at: Array, temp: Array) -> float:
    """How fast it falls over the last part. [K/h]"""
    late = at >= at[-1] - max(15.0, 0.4 * (at[-1] - at[0]))
    if late.sum() < 2 or float(np.ptp(at[late])) < _RATE_MIN:
        late[:] = True
    if float(np.ptp(at)) < _RATE_MIN:
        return 0.0
    return float(-60 * np.polyfit(at[late], temp[late], 1)[0])


@dataclass(frozen=True, slots=True)
class _Fall:
    """An undisturbed fall: minutes from its first point, temperatures, and its `rate` at the end. [min, K, K/h]"""

    at: Array
    temp: Array
    rate: float
    left_out: int
    began: float


@dataclass(frozen=True, slots=True)
class _Fit:
    """Floor and both falls for one pair of times: their mean, the root of their covariance, how well they explain it (log)."""

    taus: tuple[float, float]
    mean: Array
    root: Array
    evidence: float

    def spread(self) -> Iterator[Array]:
        """Six points, each a sixth, that stand for the spread of the three numbers (unscented, n = 3)."""
        for step in np.concatenate([np.sqrt(3.0) * np.eye(3), -np.sqrt(3.0) * np.eye(3)]):
            yield self.mean + self.root @ step


@dataclass(frozen=True, slots=True)
class _Ahead:
    """What all fits together say: when it crosses and where it ends, at 5, 50 and 95 %, and the likeliest way there."""

    crossing: tuple[float, float, float]
    floor: tuple[float, float, float]
    never: float
    curve: Array


def _terms(at: Array, taus: tuple[float, float]) -> Array:
    return np.stack([np.ones_like(at), np.exp(-at / taus[0]), np.exp(-at / taus[1])], axis=1)


def _fits(fall: _Fall, aim_k: float) -> list[_Fit]:
    """The rest is linear once both times are given: one fit for each pair of the grid."""
    prior = np.array([aim_k - _FLOOR_BELOW_K, 0.0, 0.0])
    spread = np.array([_FLOOR_SPREAD_K, _FALL_SPREAD_K, _FALL_SPREAD_K])
    # Points close together tell little more than one: air stirs over minutes. Old ones tell of a coil that had less frost.
    at = fall.at
    worth = np.minimum(1.0, _spacing(at) / _STIRS_MIN) * np.exp(-(at[-1] - at) / max(_LEAST_MEMORY_MIN, _MEMORY * at[-1]))
    found = []
    for taus in ((fast, slow) for slow in _SLOW_MIN for fast in _FAST_MIN):
        mean, covariance, evidence = _linear(_terms(at, taus), fall.temp, worth, prior, spread)
        root = np.asarray(np.linalg.cholesky(covariance + 1e-12 * np.eye(3)), dtype=np.float64)
        found.append(_Fit(taus, mean, root, evidence))
    return found


def _look_ahead(fits: Sequence[_Fit], now: float, aim_k: float) -> _Ahead:
    """Where they lead from `now`, each by its share. [min, K]"""
    evidence = np.array([fit.evidence for fit in fits])
    shares = np.exp(evidence - evidence.max())
    shares /= shares.sum()
    crossings, floors, carried, curve = [], [], [], np.zeros(len(_AHEAD_MIN))
    for fit, share in zip(fits, shares, strict=True):
        if share < _LEAST_FIT:
            continue
        terms = _terms(now + _AHEAD_MIN, fit.taus)
        curve += share * (terms @ fit.mean)
        for numbers in fit.spread():
            below = np.nonzero(terms @ numbers <= aim_k + _AT_DESIGN_K)[0]
            crossings.append(_AHEAD_MIN[below[0]] if len(below) else np.inf)
            floors.append(numbers[0])
            carried.append(share / 6)
    at, weight = np.array(crossings), np.array(carried)
    never = float(weight[~np.isfinite(at)].sum() / weight.sum())
    return _Ahead(_quantiles(at, weight), _quantiles(np.array(floors), weight), never, curve)


def _told(fall: _Fall, ahead: _Ahead, aim_k: float, *, promised: bool, may_alarm: bool) -> Forecast:
    """What may be said of it yet."""
    floor_low, floor, floor_high = ahead.floor
    drawn = tuple(
        (float(fall.began + fall.at[-1] + minute), float(temp))
        for minute, temp in zip(_AHEAD_MIN, ahead.curve, strict=True)
        if minute <= _DRAWN_MIN
    )
    seen = Forecast(
        "early", "", fall.rate, floor_k=floor, floor_half_k=(floor_high - floor_low) / 2, left_out=fall.left_out, curve=drawn
    )
    if may_alarm and ahead.never >= _SURE_NEVER:
        short = "its floor lies above the aim. Capacity is short, or heat comes in."
        why = short if floor > aim_k else "it falls too slowly, by what stands in it."
        return replace(seen, state="not_enough", words=f"Not within a day as it is: {why}")
    if not promised:
        return replace(seen, words="Falling, slower than a third of the fall: no time is promised yet.")
    low, middle, high = (one if np.isfinite(one) else None for one in ahead.crossing)
    slow = "Falling, but hardly there within a day as it is." if low is None else "Falling; it may take over a day as it is."
    words = "Falling." if high is not None else slow
    return replace(seen, state="falling", words=words, minutes=middle, low=low, high=high)


def _spacing(at: Array) -> Array:
    gaps = np.diff(at, prepend=at[0] - 4.0)
    return np.maximum(gaps, 0.05)


def _linear(rows: Array, temp: Array, worth: Array, prior: Array, spread: Array) -> tuple[Array, Array, float]:
    """Mean and covariance of the three numbers, and how well the pair of times explains the points (log)."""
    weight = worth / _READING_K**2
    precision = rows.T @ (rows * weight[:, None]) + np.diag(1 / spread**2)
    covariance = np.linalg.inv(precision)
    mean = covariance @ (rows.T @ (weight * temp) + prior / spread**2)
    off = temp - rows @ mean
    fit = float(np.sum(weight * off**2) + np.sum(((mean - prior) / spread) ** 2))
    evidence = -0.5 * fit - 0.5 * float(np.linalg.slogdet(precision)[1])
    return mean, np.asarray(covariance, dtype=np.float64), evidence


def _quantiles(values: Array, weights: Array) -> tuple[float, float, float]:
    """At 5, 50 and 95 %."""
    order = np.argsort(values)
    summed = np.cumsum(weights[order]) / weights.sum()
    low, middle, high = (float(values[order][min(int(np.searchsorted(summed, at)), len(order) - 1)]) for at in _NINE_OF_TEN)
    return low, middle, high
