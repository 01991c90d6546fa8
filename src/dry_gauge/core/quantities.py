"""Constants of conversion, the local barometer, and numbers that carry their uncertainty.

Inside, everything is SI: absolute Pa, K, kg, m, s.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from math import fsum, sqrt

POUND_KG = 0.45359237  # exact by definition, as the next two
INCH_M = 0.0254
FOOT_M = 0.3048
PSI_PA = POUND_KG * 9.80665 / INCH_M**2  # [Pa] a pound at standard gravity on a square inch
BAR_PA = 1e5
INCH_MERCURY_PA = 3386.389  # [Pa] conventional, 32 F (NIST SP 811, table B.8)
INCH_WATER_PA = 249.08891  # [Pa] conventional, 4 C (NIST SP 811, table B.8)
STANDARD_ATMOSPHERE_PA = 101_325.0
CFM_M3_S = FOOT_M**3 / 60
BTU_J = 1055.05585262  # [J] international table
BTU_PER_HOUR_W = BTU_J / 3600
BTU_PER_LB_J_KG = 2326.0  # exact by definition of the international table BTU
TON_BTUH = 12_000.0  # [Btu/h] ton of refrigeration, by definition
TON_W = TON_BTUH * BTU_PER_HOUR_W
CFM_PER_TON = 400.0  # nominal airflow over a comfort evaporator: habit of the trade, 350 to 450 in use
FAHRENHEIT_K = 5 / 9  # [K] one Fahrenheit degree, as a difference
ZERO_CELSIUS_K = 273.15
ZERO_FAHRENHEIT_K = ZERO_CELSIUS_K - 32 * FAHRENHEIT_K


def to_kelvin(temperature_f: float) -> float:
    """Fahrenheit to kelvin, for a temperature (not a difference)."""
    return ZERO_FAHRENHEIT_K + temperature_f * FAHRENHEIT_K


def to_fahrenheit(temperature_k: float) -> float:
    """Kelvin to Fahrenheit, for a temperature (not a difference)."""
    return (temperature_k - ZERO_FAHRENHEIT_K) / FAHRENHEIT_K


def atmospheric_pressure_pa(elevation_m: float) -> float:
    """Local barometric pressure of the standard atmosphere. [Pa]

    Parameters
    ----------
    elevation_m : float
        Above sea level, -500 to 11,000. [m]

    References
    ----------
    .. [1] ASHRAE Handbook Fundamentals 2017, chapter 1, equation 3.

    Examples
    --------
    >>> round((atmospheric_pressure_pa(0) - atmospheric_pressure_pa(5000 * 0.3048)) / PSI_PA, 2)
    2.47
    """
    return STANDARD_ATMOSPHERE_PA * float((1 - 2.25577e-5 * elevation_m) ** 5.2559)


@dataclass(frozen=True, slots=True)
class Measured:
    """A number with where its doubt comes from.

    `parts` holds, for each independent source, the signed half-width (95 %, k = 2) it contributes. Two numbers that
    share a source are subtracted with that source counted once: the suction pressure's error does not widen the
    difference between two superheats taken from it.

    Examples
    --------
    >>> line = Measured.reading("suction_line_temp", 285.0, 0.8)
    >>> dew = Measured.reading("suction_pressure", 278.0, 0.6)
    >>> gap = line - dew
    >>> gap.value, round(gap.uncertainty, 3), gap.sources
    (7.0, 1.0, ('suction_line_temp', 'suction_pressure'))
    """

    value: float
    parts: Mapping[str, float] = field(default_factory=dict)

    @classmethod
    def reading(cls, source: str, value: float, half_width: float) -> Measured:
        """A number straight from one instrument."""
        return cls(value, {source: half_width})

    @property
    def uncertainty(self) -> float:
        """Half-width at 95 %, its sources combined root-sum-square."""
        return sqrt(fsum(part * part for part in self.parts.values()))

    @property
    def sources(self) -> tuple[str, ...]:
        """The readings it came from; a name in brackets is a doubt without a reading and is left out."""
        return tuple(source for source in self.parts if not source.startswith("("))

    def __sub__(self, other: Measured) -> Measured:
        return self.plus(other, -1.0)

    def __add__(self, other: Measured) -> Measured:
        return self.plus(other, 1.0)

    def plus(self, other: Measured, factor: float) -> Measured:
        """``self + factor * other``."""
        parts = dict(self.parts)
        for source, part in other.parts.items():
            parts[source] = parts.get(source, 0.0) + factor * part
        return Measured(self.value + factor * other.value, parts)

    def through(self, value: float, slope: float) -> Measured:
        """The number after a curve: its new value, and the curve's slope there."""
        return Measured(value, {source: slope * part for source, part in self.parts.items()})

    def doubted(self, why: str, half_width: float) -> Measured:
        """The same number with one more doubt that no reading stands for."""
        return Measured(self.value, {**self.parts, f"({why})": half_width})
