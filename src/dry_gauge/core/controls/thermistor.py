"""Thermistors: ohms to temperature and back, for named curves or any three points (Steinhart and Hart, 1968).

1/T = A + B ln R + C (ln R)^3, with T in kelvin and R in ohms; the three points fix A, B and C exactly.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import cbrt, exp, log, sqrt

import numpy as np

from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import FAHRENHEIT_K, ZERO_CELSIUS_K


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

AGREES_K = 3 * FAHRENHEIT_K
"""A sensor within so much of a trusted thermometer is right (domain: +-3 F)."""
_OPEN_OHM, _SHORT_OHM = 2e6, 20.0
_OHMS_SHARE, _THERMOMETER_K = 0.02, 1.0 * FAHRENHEIT_K  # what an ohmmeter and a thermometer are worth


@dataclass(frozen=True, slots=True)
class SensorVerdict:
    """One sensor: ``good``, ``asks`` or ``wrong``, in words; its temperature by its curve, and what that is worth. [K]"""

    state: str
    words: str
    temperature_k: float | None = None
    uncertainty_k: float | None = None
    off_k: float | None = None


def best_curve(ohms: float, reference_k: float) -> str:
    """The named curve that comes nearest."""
    return min(CURVES, key=lambda name: abs(CURVES[name].temperature_k(ohms) - reference_k))


def judge_sensor(curve: Thermistor | None, ohms: float, reference_k: float | None, *, unplugged: bool = True) -> SensorVerdict:
    """Whether a sensor tells the truth.

    Parameters
    ----------
    curve : Thermistor or None
        None where it is not known: then the one that fits best is offered.
    reference_k : float or None
        A trusted thermometer beside it. [K]
    """
    if ohms >= _OPEN_OHM:
        return SensorVerdict("wrong", "Open: broken, or a wire off.")
    if ohms <= _SHORT_OHM:
        return SensorVerdict("wrong", "Shorted.")
    if not unplugged:
        return SensorVerdict("asks", "Ohms with its plug on read the board as well: pull it and read again.")
    if curve is None:
        if reference_k is None:
            return SensorVerdict("asks", "Its curve is not known: with a thermometer beside it the one that fits is named.")
        name = best_curve(ohms, reference_k)
        return judge_sensor(CURVES[name], ohms, reference_k)
    shown = curve.temperature_k(ohms)
    doubt = abs(curve.temperature_k(ohms * (1 - _OHMS_SHARE)) - curve.temperature_k(ohms * (1 + _OHMS_SHARE))) / 2
    if reference_k is None:
        return SensorVerdict("asks", "No thermometer beside it yet: its own word only.", shown, doubt)
    off = shown - reference_k
    worth = sqrt(doubt**2 + _THERMOMETER_K**2)
    if abs(off) <= AGREES_K:
        return SensorVerdict("good", "Agrees with the thermometer.", shown, worth, off)
    other = best_curve(ohms, reference_k)
    if abs(CURVES[other].temperature_k(ohms) - reference_k) <= AGREES_K and CURVES[other] != curve:
        return SensorVerdict("asks", f"Off by this curve; right by {other}. Which is it?", shown, worth, off)
    if abs(off) <= AGREES_K + worth:
        return SensorVerdict("asks", "Off, within what both meters are worth: read it again.", shown, worth, off)
    return SensorVerdict("wrong", "Off by more than both meters are worth.", shown, worth, off)
