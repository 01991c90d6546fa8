"""What a fault's shift hangs on besides its size: where the unit stood before, and the conditions; and where sound ones differ.

A gap that ends at nothing ends there wherever it began: who had more to lose loses more. What blocked air adds to a split is a
share of the split that was there, and how far a valve can open hangs on the head that the weather leaves it.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.judgement.features import CONDITIONS, FEATURES, MOST_UNEVEN
from dry_gauge.core.judgement.hypotheses import HYPOTHESES, MECHANISMS, SINGLE_SEVERITIES, SIZES_DRAWN, Hypothesis

Array = NDArray[np.float64]

_FEWEST = 60  # draws that show a feature, below which nothing is said of it
_FEWEST_SOUND = 500
# Ridge, as a share of what the draws say: of nothing moves more than they make sure of.
_OWN_HELD, _CONDITIONS_HELD, _UNEVEN_HELD = 0.02, 0.1, 0.05
_KEPT = (0.0, 1.3)  # chosen: nothing turns round, and where a fault widens differences it does so by no more than this


def bends(shifts: Array, off: Array, conditions: Array, rows: NDArray[np.intp]) -> tuple[Array, Array]:
    """What each hypothesis leaves of a unit's own departure, and how conditions bend what a fault does.

    Parameters
    ----------
    shifts, off : ndarray, shape (draws, features)
        What the fault moved, and by how much the unit stood off the usual before; NaN where it was not seen.
    conditions : ndarray, shape (draws, conditions)
    rows : ndarray of int, shape (draws,)
        Whose hypothesis each draw is.

    Returns
    -------
    tuple of ndarray, shapes (hypotheses, features) and (mechanisms, features, conditions)
        Of two faults together each leaves its share of what the other left.
    """
    middle = conditions.mean(axis=0)
    around = (conditions - middle)[:, 1:]
    leans = np.zeros((len(MECHANISMS), len(FEATURES), len(CONDITIONS)))
    curves = np.zeros((2, len(MECHANISMS), len(FEATURES)))
    held = np.array([0.0] * 3 + [_OWN_HELD] * 2 + [_CONDITIONS_HELD] * around.shape[1])
    for m, fault in enumerate(MECHANISMS):
        mine = [HYPOTHESES.index(Hypothesis(((fault, size),))) for size in SINGLE_SEVERITIES]
        drawn = np.flatnonzero(np.isin(rows, mine))
        for i in range(len(FEATURES)):
            known = drawn[np.isfinite(shifts[drawn, i]) & np.isfinite(off[drawn, i])]
            if len(known) < _FEWEST:
                continue
            size, own = SIZES_DRAWN[rows[known], m], off[known, i]
            x = np.column_stack([size, size**2, size**3, size * own, size**2 * own, size[:, None] * around[known]])
            ridge = np.diag(held * (x**2).sum(axis=0) + 1e-6)
            found = np.linalg.solve(x.T @ x + ridge, x.T @ shifts[known, i])
            curves[:, m, i] = found[3:5]
            leans[m, i, 0], leans[m, i, 1:] = -found[5:] @ middle[1:], found[5:]
    keeps = np.ones((len(HYPOTHESES), len(FEATURES)))
    for k, hypothesis in enumerate(HYPOTHESES):
        for fault, size in hypothesis.faults:
            if fault in MECHANISMS:
                curve = curves[:, MECHANISMS.index(fault)]
                keeps[k] *= np.clip(1 + size * curve[0] + size**2 * curve[1], *_KEPT)
    return keeps, leans


def unevenness(left: Array, conditions: Array) -> Array:
    """How much more or less than usual sound units differ, by the conditions: its logarithm is this times them.

    Parameters
    ----------
    left : ndarray, shape (units, features)
        What sound units stand off their expectation; NaN where it was not seen.
    """
    uneven = np.zeros((len(FEATURES), len(CONDITIONS)))
    for i in range(len(FEATURES)):
        known = np.isfinite(left[:, i])
        if known.sum() < _FEWEST_SOUND:
            continue
        far = np.abs(left[known, i])
        y = np.log(far + 0.1 * far.std())
        middle = conditions[known].mean(axis=0)
        around = (conditions[known] - middle)[:, 1:]
        ridge = _UNEVEN_HELD * np.diag((around**2).sum(axis=0)) + 1e-3 * known.sum() * np.eye(around.shape[1])
        slope = np.linalg.solve(around.T @ around + ridge, around.T @ (y - y.mean()))
        uneven[i, 0], uneven[i, 1:] = -middle[1:] @ slope, slope
    return uneven


def evened(left: Array, conditions: Array, uneven: Array) -> Array:
    """The same as it would stand off in usual conditions."""
    evened: Array = left / np.exp(np.clip(conditions @ uneven.T, -MOST_UNEVEN, MOST_UNEVEN))
    return evened
