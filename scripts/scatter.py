"""How a hypothesis' shift varies, as few directions: from unit to unit, and with sizes that lie between the grid's.

Gaps that a fault moves on the way to another make move together: taken one by one they would say far less than they do.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.judgement.hypotheses import HYPOTHESES, Hypothesis
from dry_gauge.core.vocabulary import Fault

Array = NDArray[np.float64]

DIRECTIONS = 4
_PLACE = {hypothesis: k for k, hypothesis in enumerate(HYPOTHESES)}
_SIZES = {size for hypothesis in HYPOTHESES for _, size in hypothesis.faults}


def directions(means: Array, scatter: Array, shifts: Array, rows: NDArray[np.intp], scale: Array) -> tuple[Array, Array]:
    """What varies together, and what is left of each feature's own scatter.

    Parameters
    ----------
    means, scatter : ndarray, shape (hypotheses, features)
        Mean shift and its standard deviation.
    shifts : ndarray, shape (draws, features)
        Every draw's own; NaN where it was not seen.
    rows : ndarray of int, shape (draws,)
        Whose hypothesis each draw is.
    scale : ndarray, shape (features,)
        One sigma of sound units: what is much and little of a feature.

    Returns
    -------
    tuple of ndarray, shapes (`DIRECTIONS`, hypotheses, features) and (hypotheses, features)
    """
    found, left = np.zeros((DIRECTIONS, *means.shape)), scatter.copy()
    singles = {
        hypothesis.faults[0]: _correlation(shifts[rows == k])
        for k, hypothesis in enumerate(HYPOTHESES)
        if len(hypothesis.faults) == 1 and _is_drawn(hypothesis)
    }
    for k, hypothesis in enumerate(HYPOTHESES):
        if not hypothesis.faults or hypothesis.filling:  # another filling explains much already, and needs no more freedom
            continue
        whole = np.outer(scatter[k], scatter[k]) * _together(hypothesis, singles, means.shape[1])
        whole += sum(np.outer(step, step) for step in _steps(hypothesis, means))
        values, vectors = np.linalg.eigh(whole / np.outer(scale, scale))
        largest = np.argsort(-values)[:DIRECTIONS]
        found[:, k] = (vectors[:, largest] * np.sqrt(np.maximum(values[largest], 0.0))).T * scale
        left[k] = np.sqrt(np.maximum(np.diag(whole) - (found[:, k] ** 2).sum(axis=0), 0.0))
    return found, left


def _is_drawn(hypothesis: Hypothesis) -> bool:
    return not (hypothesis.by_habit or hypothesis.filling)


def _correlation(drawn: Array) -> Array:
    """Correlation of the features over the draws, those seen too seldom by themselves."""
    known = np.isfinite(drawn)
    off = np.where(known, drawn - np.nan_to_num(np.nanmean(np.where(known.any(axis=0), drawn, 0.0), axis=0)), 0.0)
    both = known.T.astype(float) @ known.astype(float)
    covariance = off.T @ off / np.maximum(both - 1, 1)
    own = np.sqrt(np.maximum(np.diag(covariance), 1e-12))
    found = np.where(both > 10, covariance / np.outer(own, own), 0.0)
    found[np.diag_indices_from(found)] = 1.0
    return found


def _together(hypothesis: Hypothesis, singles: dict[tuple[Fault, float], Array], n: int) -> Array:
    """Correlation of a hypothesis' scatter: a fault's own; of a pair, the mean of both faults' at the nearest sizes."""
    if not _is_drawn(hypothesis):
        return np.eye(n)
    nearest = [
        min((key for key in singles if key[0] is fault), key=lambda key: abs(key[1] - size)) for fault, size in hypothesis.faults
    ]
    return np.mean([singles[key] for key in nearest], axis=0)


def _steps(hypothesis: Hypothesis, means: Array) -> Sequence[Array]:
    """For each fault, one sigma of the shift over the sizes that are nearer to this one than to its neighbours."""
    found = []
    for at, (_, size) in enumerate(hypothesis.faults):
        grid = {other: _PLACE[resized] for other in _SIZES if (resized := _resized(hypothesis, at, other)) in _PLACE}
        sizes = sorted(grid)
        place = sizes.index(size)
        low, high = sizes[max(place - 1, 0)], sizes[min(place + 1, len(sizes) - 1)]
        # Below the first and above the last there is one neighbour; the cell is as wide as if there were two.
        width = means[grid[high]] - means[grid[low]]
        found.append(width / (2 if low < size < high else 1) / np.sqrt(12))
    return found


def _resized(hypothesis: Hypothesis, at: int, size: float) -> Hypothesis:
    """The same faults, the one at that place of another size."""
    faults = tuple((fault, size if k == at else own) for k, (fault, own) in enumerate(hypothesis.faults))
    return replace(hypothesis, faults=faults)
