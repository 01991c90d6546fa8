"""The pictures that a rising vacuum is fitted with, each a sum of a level, a straight rise and what levels off.

All are linear but for their time constants, which stand on a grid: one solve a picture, no search.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import erf, log, sqrt

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.dimensions import MICRON_PA

Array = NDArray[np.float64]

# A gauge repeats itself to about this share of its reading, and no better than its last digit.
NOISE_SHARE, NOISE_PA = 0.012, 1.5 * MICRON_PA
# Noise of neighbouring points is alike for about this long: more points in it say nothing new. [min]
_ALIKE_MINUTES = 0.15
# Slowest and fastest levelling that is looked for. [min]
_TAUS = np.geomspace(0.7, 45.0, 19)
_CLEAR_LEAK_PA_MIN = 8 * MICRON_PA
"""A straight rise slower than this is within what clean systems do in the first minutes."""


@dataclass(frozen=True, slots=True)
class Picture:
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
        given = [
            float(self.coefficients[i])
            for i, c in enumerate(self.columns)
            if c >= _FIRST_TAU and _TAUS[c - _FIRST_TAU] < end_minutes
        ]
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
_STRAIGHT = np.eye(_FIRST_TAU + len(_TAUS))[1]
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


def _fitted(t: Array, p: Array) -> list[Picture]:
    apart = max(float(np.median(np.diff(t))), 1e-3)
    # Points closer together than noise forgets itself count as fewer.
    share = min(1.0, apart / _ALIKE_MINUTES)
    weight = share / _honest_noise(t, p) ** 2
    basis = _basis(t)
    gram, cross, square = (basis * weight) @ basis.T, (basis * weight) @ p, float(weight @ p**2)
    points = max(t.size * share, 2.0)
    pictures = []
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
            pictures.append(Picture(family[i], solved[i], inverse[i], evidence))
    return pictures


def _honest_noise(t: Array, p: Array) -> Array:
    """Noise as the trace shows it, where that is more than a good gauge makes: a coarse last digit, a shaky hose. [Pa]"""
    sigma = np.hypot(NOISE_SHARE * p, NOISE_PA)
    if t.size <= 8:
        return sigma
    residual = (p - np.polyval(np.polyfit(t, p, 5), t)) / sigma
    shown = float(np.sqrt(residual @ residual / (t.size - 6)))
    return sigma * max(shown, 1.0)


@dataclass(frozen=True, slots=True)
class Pictures:
    """All pictures of one trace, each by its weight."""

    each: Sequence[Picture]
    weights: Array
    end: float

    @staticmethod
    def of(t: Array, p: Array) -> Pictures:
        """Fitted to a trace in minutes, in order, and Pa; weighed by their evidence."""
        each = _fitted(t, p)
        evidence = np.array([picture.log_evidence for picture in each])
        weights = np.exp(evidence - evidence.max())
        return Pictures(each, weights / weights.sum(), float(t[-1]))

    def mixed(self, column: Array) -> tuple[float, float]:
        """Mean and 95 % half-width of a linear figure."""
        rows = [picture.row(column) for picture in self.each]
        means = np.array([float(row @ picture.coefficients) for row, picture in zip(rows, self.each, strict=True)])
        variances = np.array([float(row @ picture.covariance @ row) for row, picture in zip(rows, self.each, strict=True)])
        mean = float(self.weights @ means)
        return mean, 2 * sqrt(float(self.weights @ (variances + (means - mean) ** 2)))

    def chance(self, of: Callable[[Picture], float | bool]) -> float:
        """Chance of what a picture says for itself."""
        return float(sum(w * of(picture) for w, picture in zip(self.weights, self.each, strict=True)))

    def level(self) -> tuple[float, float]:
        """Where the trace ends, smoothed. [Pa]"""
        return self.mixed(_basis(np.array([self.end]))[:, 0])

    def rate(self) -> tuple[float, float]:
        """How fast it rises there. [Pa/min]"""
        return self.mixed(_slopes(self.end))

    def straight(self) -> tuple[float, float]:
        """The part that climbs straight on. [Pa/min]"""
        return self.mixed(_STRAIGHT)

    def levels_off_pa(self) -> float | None:
        """Where the likeliest picture comes to rest; None where it climbs on. [Pa]"""
        best = max(self.each, key=lambda picture: picture.log_evidence)
        return best.rest_pa(self.end) if best.leak_pa_min == 0 else None

    def chance_of_leak(self) -> float:
        """Chance that the straight part amounts to something. [1]"""
        return self.chance(lambda picture: _chance_of_climb(picture, _STRAIGHT))

    def chance_of_climb(self) -> float:
        """Chance that what has not levelled off within the trace could hide such a part. [1]"""
        slopes = _slopes(self.end)
        slopes[_FIRST_TAU:] = np.where(0.5 * self.end <= _TAUS, slopes[_FIRST_TAU:], 0.0)
        return self.chance(lambda picture: _chance_of_climb(picture, slopes))

    def curve(self) -> tuple[tuple[float, float], ...]:
        """Minutes and pressure, mixed. [min, Pa]"""
        minutes = np.linspace(0.0, self.end, 41)
        basis = _basis(minutes)
        mixed = sum(w * (picture.coefficients @ picture.row(basis)) for w, picture in zip(self.weights, self.each, strict=True))
        return tuple((float(x), float(y)) for x, y in zip(minutes, mixed, strict=True))


def _chance_of_climb(picture: Picture, slopes: Array) -> float:
    """Chance that what rises at those slopes could be a leak."""
    row = picture.row(slopes)
    spread = sqrt(float(row @ picture.covariance @ row))
    return _normal((float(row @ picture.coefficients) - _CLEAR_LEAK_PA_MIN) / spread) if spread > 0 else 0.0


def _normal(z: float) -> float:
    return 0.5 * (1 + erf(z / sqrt(2)))
