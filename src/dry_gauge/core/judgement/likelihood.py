"""How well each hypothesis explains one circuit: Gaussian in the features, heavy-tailed, all hypotheses abreast.

For a hypothesis h the features are ``expectation @ conditions + shift_h``. The shift depends on where the unit stands by itself
and on the conditions: of its own departure from the usual a share is left under h (none of the subcooling where the condenser is
empty), and so much of the spread between units, which is wider in some weather than in other (R81). To that spread and to what
is not known come ``instruments + scatter_h``, the last being by what a fault's shift differs from make to make and with sizes
between those of the row. Missing features are left out, which is the same as integrating over them. Shifts end where two phases
begin: no superheat or subcooling is expected below nothing.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.judgement.baseline import DAILY, Baseline, Drift
from dry_gauge.core.judgement.calibration import Group, group_of
from dry_gauge.core.judgement.features import FEATURE_ROWS, MOST_UNEVEN, Conditions, Observed
from dry_gauge.core.judgement.hypotheses import FIRST_FILLING, SEVERITY, SIZES_DRAWN

Array = NDArray[np.float64]

# Learnt on calibration draws of another style; `BEYOND_THE_BENCH`, `SHIFT_DOUBT` and `TAIL` on calls with seeds of their own to
# the makes that fold 0 leaves out, and tried on fold 1's (docs/accuracy.md says what came of it).
TRUST_IN_CORRELATION = 0.6  # how two gaps of sound units vary together is the bench's own more than their spread is
BEYOND_THE_BENCH = 1.3  # of the variance between sound units: those that nobody simulated differ more than the simulated ones
SHIFT_DOUBT = 0.15  # a fault's reach on another unit, as a share of its shift
SIDE_DOUBT = 0.4  # and where the bench sees no shift, in healthy spreads at full size
_SLIP = 5e-4  # density, per K, of a reading that is impossible for no good reason
TAIL = 8.0  # degrees of freedom of Student's t: gauges slip more often than a Gaussian admits
TEMPER = 0.95  # of the joint evidence: gaps of one circuit are never quite independent

_LEAST_SPREAD = np.array([row.least_spread for row in FEATURE_ROWS])
_LEAST_HEATING = np.array([row.least_heating for row in FEATURE_ROWS])
_IS_FLOORED = np.array([bool(row.floored) for row in FEATURE_ROWS])


@dataclass(frozen=True, slots=True)
class Picture:
    """What one sort of unit would show under every hypothesis, in the features that were read.

    `expected` and `sigma` are the healthy value and its spread; `shifts` is (hypotheses, features), and `scatter` (features,
    features, hypotheses) what is added to `covariance` under each: how shifts vary, less what a fault takes of the unit's own.
    """

    at: NDArray[np.intp]
    values: Array
    expected: Array
    covariance: Array
    shifts: Array
    scatter: Array
    drifts: tuple[Drift, ...]
    """What went one way through every visit of this unit."""
    slips: Array
    """Log likelihood of readings that are impossible on this refrigerant, under each hypothesis."""

    @property
    def sigma(self) -> Array:
        """Spread of each feature on healthy units, instruments included."""
        return np.sqrt(np.diag(self.covariance))

    @property
    def variances(self) -> Array:
        """What each adds to the variance of each feature on sound units; shape (hypotheses, features)."""
        result: Array = np.einsum("iin->ni", self.scatter)
        return result


@dataclass(frozen=True, slots=True)
class _Sort:
    """One sort of unit made ready.

    Parameters
    ----------
    spread : ndarray, shape (features, features)
        Covariance of sound units in usual conditions, as it is trusted.
    own, least : ndarray, shape (features,)
        How far they differ by the bench, one sigma, and below what that is never taken.
    scatter, taken : ndarray, shape (features, features, hypotheses)
        By what shifts vary; and what a hypothesis adds to the unit's own spread, as a share of it: -1 where none is left.
    """

    group: Group
    spread: Array
    own: Array
    least: Array
    scatter: Array
    taken: Array

    def unevenness(self, at: NDArray[np.intp], context: Conditions) -> Array:
        """How many times as far as in usual conditions sound units differ in these; shape (d,)."""
        times = np.exp(np.clip(self.group.uneven[at] @ context.values, -MOST_UNEVEN, MOST_UNEVEN))
        result: Array = np.maximum(self.own[at] * times, self.least[at]) / np.maximum(self.own, self.least)[at]
        return result


@cache
def _prepared(name: str) -> _Sort:
    """A sort of unit with its least spread and each hypothesis' scatter, made once."""
    group = group_of(name)
    own = np.sqrt(np.diag(group.unit_spread))
    least = np.maximum(_LEAST_SPREAD, _LEAST_HEATING) if name.startswith("heating") else _LEAST_SPREAD
    wide = np.maximum(own, least)
    correlation = TRUST_IN_CORRELATION * group.unit_spread / np.maximum(np.outer(own, own), 1e-12)
    correlation[np.diag_indices_from(correlation)] = 1.0
    spread = BEYOND_THE_BENCH * correlation * np.outer(wide, wide)
    size = SEVERITY.max(axis=0)[:, None]
    scatter = np.einsum("rni,rnj->ijn", group.directions, group.directions)
    # Where a fault ends a gap there is no doubt of how far it reaches either.
    in_doubt = np.where(_IS_FLOORED & (group.shifts < 0), np.clip(group.keeps, 0.0, 1.0), 1.0)
    alone = group.spreads**2 + in_doubt**2 * ((SHIFT_DOUBT * group.shifts) ** 2 + (SIDE_DOUBT * size * wide) ** 2)
    scatter[np.diag_indices(len(wide))] += alone.T
    return _Sort(group, spread, own, least, scatter, np.einsum("ni,nj->ijn", group.keeps, group.keeps) - 1)


def spreads_of(name: str) -> Array:
    """How far two sound units of a sort differ in each feature in usual conditions, one sigma; shape (features,)."""
    return np.sqrt(np.diag(_prepared(name).spread))


def unevenness(name: str, at: NDArray[np.intp], context: Conditions) -> Array:
    """How many times as far as in usual conditions two sound units of a sort differ in these; shape (d,)."""
    return _prepared(name).unevenness(at, context)


def _shifts(group: Group, rows: NDArray[np.intp] | slice, at: NDArray[np.intp], expected: Array, context: Conditions) -> Array:
    """What hypotheses move features that would show `expected` on this unit, were it sound; shape (rows, d)."""
    own = (group.keeps[rows][:, at] - 1) * (expected - group.usual[at])
    result: Array = group.shifts[rows][:, at] + own + SIZES_DRAWN[rows] @ (group.leans[:, at] @ context.values)
    return result


def picture(
    name: str, observed: Observed, context: Conditions, fillings: Array, vapour_steps: Array, own: Baseline | None = None
) -> Picture:
    """The picture of one sort of unit for what was read and known.

    Parameters
    ----------
    fillings : ndarray, shape (fillings, features)
        By how much each feature would read more if the gauges were read by that filling, see `features.refilled`;
        NaN where its tables do not hold the pressures.
    vapour_steps : ndarray, shape (fillings,)
        `features.vapour_step` of each.
    own : Baseline or None
        What this very unit showed when it was sound.
    """
    sort, at = _prepared(name), observed.at
    group = sort.group
    slopes = group.expectation[at]
    expected = slopes @ context.values
    # Each independent source of doubt adds the square of what it moves: one product for all of them.
    columns = [slopes[:, i] * doubt for i, doubt in context.doubts.items()]
    errors = dict(observed.errors)
    for source, step in context.slopes.items():
        errors[source] = errors.get(source, 0.0) - slopes @ step
    uneven = sort.unevenness(at, context)
    drifts: tuple[Drift, ...] = ()
    if own is not None:
        habit, left, drifts = own.habit(group.expectation, at, spreads_of(name), observed.values - expected)
        errors |= {source: DAILY * errors[source] for source in own.same & errors.keys()}
        expected = expected + habit
        uneven = uneven * left
    own_spread = sort.spread[at[:, None], at] * np.outer(uneven, uneven) + _products(columns)
    shifts = _shifts(group, slice(None), at, expected, context)
    rows = slice(FIRST_FILLING, FIRST_FILLING + len(fillings))
    powers = np.stack([np.ones_like(vapour_steps), vapour_steps, vapour_steps**2], axis=1)
    shifts[rows] = powers @ group.fillings[:, at] - np.nan_to_num(fillings[:, at])
    floored = _IS_FLOORED[at]
    if floored.any():
        expected = np.where(floored, np.maximum(expected, 0.0), expected)
        limited = np.where(floored, np.maximum(shifts, -expected), shifts)
        limited[rows] = shifts[rows]  # a gauge read by another refrigerant may show less than nothing
        shifts = limited
    slips = _slips(group, observed, group.expectation @ context.values, powers, fillings, sort.scatter)
    covariance = own_spread + _products(list(errors.values()))
    scatter = sort.scatter[at[:, None], at] + own_spread[:, :, None] * sort.taken[at[:, None], at]
    return Picture(at, observed.values, expected, covariance, shifts, scatter, drifts, slips)


def _products(moves: list[Array]) -> Array | float:
    """Covariance of features that independent doubts move, one sigma each."""
    moved = np.array(moves)
    return moved.T @ moved if moves else 0.0


def _slips(group: Group, observed: Observed, healthy: Array, powers: Array, fillings: Array, scatter: Array) -> Array:
    """Impossible readings: a rare slip under every hypothesis, but what another filling would well show."""
    total = np.zeros(group.shifts.shape[0])
    rows = slice(FIRST_FILLING, FIRST_FILLING + len(fillings))
    for i, value, error in observed.impossible:
        slip = np.full(total.shape, _SLIP)
        expected = healthy[i] + powers @ group.fillings[:, i] - np.nan_to_num(fillings[:, i])
        variance = scatter[i, i, rows] + error**2 + 1.0
        slip[rows] += np.exp(-0.5 * (value - expected) ** 2 / variance) / np.sqrt(2 * np.pi * variance)
        total += np.log(slip)
    return total


def log_likelihood(seen: Picture) -> Array:
    """Of what was read, under each hypothesis."""
    d, n = len(seen.at), seen.shifts.shape[0]
    if not d:
        return seen.slips
    residual = (seen.values - seen.expected - seen.shifts).T
    # Cholesky factors of every hypothesis' covariance at once; the residual goes along as one more row, which whitens
    # it on the way.
    lower = np.empty((d + 1, d, n))
    log_determinant = np.zeros(n)
    whole = seen.covariance[:, :, None] + seen.scatter
    for j in range(d):
        column = np.empty((d + 1 - j, n))
        column[:-1] = whole[j:, j]
        column[-1] = residual[j]
        if j:
            column -= np.einsum("ikn,kn->in", lower[j:, :j], lower[j, :j])
        pivot = np.sqrt(column[0])
        column /= pivot
        lower[j:, j] = column
        log_determinant += np.log(pivot)
    white = lower[d]
    distance = np.einsum("kn,kn->n", white, white)
    result: Array = -log_determinant - 0.5 * (TAIL + d) * np.log1p(distance / TAIL) + seen.slips
    return result


def forecast(
    name: str,
    context: Conditions,
    seen: Picture,
    wanted: NDArray[np.intp],
    kept: NDArray[np.intp],
    baseline: Baseline | None = None,
) -> tuple[Array, Array]:
    """Means and sigmas of features not read yet, under some hypotheses, given those that were read.

    Returns
    -------
    tuple of ndarray, each of shape (wanted, kept)
    """
    sort = _prepared(name)
    group = sort.group
    slopes = group.expectation[wanted]
    expected = slopes @ context.values
    if baseline is not None:
        expected = expected + baseline.habit(group.expectation, wanted, spreads_of(name))[0]
    floored = _IS_FLOORED[wanted]
    expected = np.where(floored, np.maximum(expected, 0.0), expected)
    shifts = _shifts(group, kept, wanted, expected, context)
    means = (expected + np.where(floored, np.maximum(shifts, -expected), shifts)).T
    uneven, uneven_seen = (sort.unevenness(at, context) for at in (wanted, seen.at))
    own = sort.spread[wanted, wanted] * uneven**2
    across = sort.spread[seen.at[:, None], wanted] * np.outer(uneven_seen, uneven)
    for i, doubt in context.doubts.items():
        column = slopes[:, i] * doubt
        own = own + column * column
        across = across + np.outer(group.expectation[seen.at, i] * doubt, column)
    keeps = group.keeps[kept][:, wanted].T
    if seen.at.size:
        gain = np.linalg.solve(seen.covariance + np.diag(seen.variances.mean(axis=0)), across)
        residual = seen.values - seen.expected - seen.shifts[kept]
        means = means + keeps * np.clip(gain.T @ residual.T, -20.0, 20.0)
        own = own - (gain * across).sum(axis=0)
    sigmas2 = sort.scatter[wanted[:, None], wanted[:, None], kept] + keeps**2 * own[:, None]
    return means, np.sqrt(np.maximum(sigmas2, _LEAST_SPREAD[wanted, None] ** 2 * 0.3))
