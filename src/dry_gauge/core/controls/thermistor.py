"""Thermistors: ohms to temperature and back, for named curves or any three points (Steinhart and Hart, 1968).

1/T = A + B ln R + C (ln R)^3, with T in kelvin and R in ohms; the three points fix A, B and C exactly.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import cbrt, exp, log, sqrt

import numpy as np

from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import ZERO_CELSIUS_K


@dataclass(frozen=True, slots=True)
class Thermistor:
    """One curve by its coefficients. [K, ohm]"""

    a: float
    b: float
    c: float

    def temperature_k(self, ohms: float) -> float:
        """Temperature at a resistance above nothing. [K]

        Raises
        ------
        Refused
        """
        if ohms <= 0:
            raise Refused("Ohms are above nothing.", "ohms")
        x = log(ohms)
        return 1 / (self.a + self.b * x + self.c * x**3)

    def ohms(self, temperature_k: float) -> float:
        """Resistance at a temperature, by Cardano's formula. [ohm]"""
        x = (self.a - 1 / temperature_k) / self.c
        y = sqrt((self.b / (3 * self.c)) ** 3 + x * x / 4)
        return exp(cbrt(y - x / 2) - cbrt(y + x / 2))


def through(points: Sequence[tuple[float, float]]) -> Thermistor:
    """The curve through three points of (K, ohm).

    Raises
    ------
    Refused
        For points that are not three, or that no thermistor shows.
    """
    if len(points) != 3 or len({ohms for _, ohms in points}) < 3 or min(ohms for _, ohms in points) <= 0:
        raise Refused("Three different points are needed: temperature and ohms.", "points")
    logs = np.array([log(ohms) for _, ohms in points])
    rows = np.stack([np.ones(3), logs, logs**3], axis=1)
    a, b, c = np.linalg.solve(rows, np.array([1 / kelvin for kelvin, _ in points]))
    if c <= 0 or b <= 0:
        raise Refused("No thermistor goes through these three points.", "points")
    return Thermistor(float(a), float(b), float(c))


def _celsius(*points: tuple[float, float]) -> Thermistor:
    return through([(celsius + ZERO_CELSIUS_K, ohms) for celsius, ohms in points])


CURVES: Mapping[str, Thermistor] = {
    "10k type II": _celsius((0, 32_650), (25, 10_000), (50, 3_603)),
    "10k type III": _celsius((0, 29_490), (25, 10_000), (50, 3_893)),
}
"""By name, as usual on controls (habit); others by three typed points."""
