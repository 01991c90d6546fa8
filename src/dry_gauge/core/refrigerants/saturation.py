"""Where pressure becomes temperature, and back: dew and bubble curves of every catalogue refrigerant.

Pressures are absolute and in Pa, temperatures in K. Plain numbers and numpy arrays both work; a number costs about a
microsecond, an array some ten nanoseconds an element. The curves come from CoolProp by
`scripts/make_refrigerant_curves.py`, which says how they were made.

References
----------
.. [1] I. H. Bell et al., Ind. Eng. Chem. Res. 53, 2498 (2014), doi:10.1021/ie4033999 (CoolProp).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from math import exp, log
from typing import overload

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.errors import OutOfRange
from dry_gauge.core.refrigerants.catalogue import Refrigerant
from dry_gauge.core.refrigerants.curves import COOLPROP_VERSION, CURVES, Coefficients
from dry_gauge.core.words import to_anyone

__all__ = ["COOLPROP_VERSION", "EVAPORATING_DEW_SHARE", "Saturation", "saturation_of"]

Array = NDArray[np.float64]

# Dew share of the mean evaporating temperature: the coil is fed part vapour (quality 0.2-0.35), so its mean lies
# nearer dew than the middle. Within 0.6 F of the integral for glides to 12 F (domain rule).
EVAPORATING_DEW_SHARE = 0.6

# A block that stays in the second-level cache: Horner's rule then runs at the speed of arithmetic, not of memory.
_BLOCK = 16_384


def _horner(coefficients: Coefficients, x: float) -> float:
    total = 0.0
    for coefficient in reversed(coefficients):
        total = total * x + coefficient
    return total


def _horner_array(coefficients: Coefficients, x: Array) -> Array:
    total = np.full_like(x, coefficients[-1])
    for coefficient in coefficients[-2::-1]:
        total *= x
        total += coefficient
    return total


def _derivative(coefficients: Coefficients) -> Coefficients:
    return tuple(power * coefficient for power, coefficient in enumerate(coefficients))[1:]


def _compiled(coefficients: Coefficients) -> Callable[[float], float]:
    """Horner's rule written out as one expression: three times as fast as the loop, and single look-ups matter."""
    expression = repr(coefficients[-1])
    for coefficient in coefficients[-2::-1]:
        expression = f"({expression}) * x + {coefficient!r}"
    return eval(f"lambda x: {expression}")  # type: ignore[no-any-return]  # noqa: S307  our own generated numbers


@dataclass(frozen=True, slots=True)
class _Side:
    """One curve, dew or bubble, as temperature over x, the normalised ln p."""

    name: str
    coefficients: Coefficients
    slope_coefficients: Coefficients
    guess: Coefficients
    lowest_k: float
    highest_k: float
    temperature: Callable[[float], float]
    slope: Callable[[float], float]

    @classmethod
    def of(cls, name: str, forward: Coefficients, inverse: Coefficients, lowest_k: float, highest_k: float) -> _Side:
        slope = _derivative(forward)
        return cls(name, forward, slope, inverse, lowest_k, highest_k, _compiled(forward), _compiled(slope))


class Saturation:
    """The two saturation curves of one refrigerant; get it from `saturation_of`.

    Attributes
    ----------
    refrigerant : Refrigerant
    lowest_pressure_pa, highest_pressure_pa : float
        Range of both curves. [Pa, absolute]
    critical_temperature_k : float
        Of a blend: the top of its phase envelope. [K]
    """

    __slots__ = (
        "_bubble",
        "_dew",
        "_half",
        "_middle",
        "critical_temperature_k",
        "highest_pressure_pa",
        "lowest_pressure_pa",
        "refrigerant",
    )

    def __init__(self, refrigerant: Refrigerant) -> None:
        (
            self._middle,
            self._half,
            self.critical_temperature_k,
            self.lowest_pressure_pa,
            self.highest_pressure_pa,
            dew,
            dew_guess,
            dew_low,
            dew_high,
            bubble,
            bubble_guess,
            bubble_low,
            bubble_high,
        ) = CURVES[refrigerant.name]
        self.refrigerant = refrigerant
        self._dew = _Side.of("dew", dew, dew_guess, dew_low, dew_high)
        self._bubble = _Side.of("bubble", bubble, bubble_guess, bubble_low, bubble_high)

    @overload
    def dew_temperature_k(self, pressure_pa: float) -> float: ...
    @overload
    def dew_temperature_k(self, pressure_pa: Array) -> Array: ...
    def dew_temperature_k(self, pressure_pa: float | Array) -> float | Array:
        """Temperature at which vapour is just saturated; superheat counts from here. [K]

        Parameters
        ----------
        pressure_pa : float or ndarray of any shape
            Absolute, within `lowest_pressure_pa` to `highest_pressure_pa`. [Pa]

        Raises
        ------
        OutOfRange
            Outside that range, which it says; most often a gauge reading of another refrigerant.

        Examples
        --------
        >>> from dry_gauge.core.refrigerants.catalogue import find
        >>> round(saturation_of(find("R-134a")).dew_temperature_k(292_803), 2)
        273.15
        """
        if isinstance(pressure_pa, np.ndarray):
            return self._temperatures(self._dew, pressure_pa)
        return self._dew.temperature(self._position(pressure_pa))

    @overload
    def bubble_temperature_k(self, pressure_pa: float) -> float: ...
    @overload
    def bubble_temperature_k(self, pressure_pa: Array) -> Array: ...
    def bubble_temperature_k(self, pressure_pa: float | Array) -> float | Array:
        """Temperature at which liquid is just saturated; subcooling counts from here. As `dew_temperature_k`."""
        if isinstance(pressure_pa, np.ndarray):
            return self._temperatures(self._bubble, pressure_pa)
        return self._bubble.temperature(self._position(pressure_pa))

    @overload
    def dew_pressure_pa(self, temperature_k: float) -> float: ...
    @overload
    def dew_pressure_pa(self, temperature_k: Array) -> Array: ...
    def dew_pressure_pa(self, temperature_k: float | Array) -> float | Array:
        """Absolute pressure whose dew temperature is `temperature_k`. [Pa]

        Parameters
        ----------
        temperature_k : float or ndarray of any shape
            Within `temperature_range_k`. [K]

        Raises
        ------
        OutOfRange
            Outside that range, which it says.
        """
        return self._pressure(self._dew, temperature_k)

    @overload
    def bubble_pressure_pa(self, temperature_k: float) -> float: ...
    @overload
    def bubble_pressure_pa(self, temperature_k: Array) -> Array: ...
    def bubble_pressure_pa(self, temperature_k: float | Array) -> float | Array:
        """Absolute pressure whose bubble temperature is `temperature_k`. As `dew_pressure_pa`."""
        return self._pressure(self._bubble, temperature_k)

    def condensing_mean_k(self, pressure_pa: float) -> float:
        """Mean condensing temperature, halfway between dew and bubble. [K]"""
        x = self._position(pressure_pa)
        return (self._dew.temperature(x) + self._bubble.temperature(x)) / 2

    def evaporating_mean_k(self, pressure_pa: float) -> float:
        """Mean evaporating temperature: 0.4 bubble + 0.6 dew, see `EVAPORATING_DEW_SHARE`. [K]"""
        x = self._position(pressure_pa)
        bubble = self._bubble.temperature(x)
        return bubble + EVAPORATING_DEW_SHARE * (self._dew.temperature(x) - bubble)

    def glide_k(self, pressure_pa: float) -> float:
        """Dew less bubble temperature at one pressure, never negative: a difference. [K]"""
        x = self._position(pressure_pa)
        return max(0.0, self._dew.temperature(x) - self._bubble.temperature(x))

    def dew_slope_k_per_pa(self, pressure_pa: float) -> float:
        """How fast the dew temperature rises with pressure. [K/Pa]"""
        return self._dew.slope(self._position(pressure_pa)) / (self._half * pressure_pa)

    def bubble_slope_k_per_pa(self, pressure_pa: float) -> float:
        """How fast the bubble temperature rises with pressure. [K/Pa]"""
        return self._bubble.slope(self._position(pressure_pa)) / (self._half * pressure_pa)

    @property
    def temperature_range_k(self) -> tuple[float, float]:
        """Temperatures for which both curves have a pressure. [K]"""
        return max(self._dew.lowest_k, self._bubble.lowest_k), min(self._dew.highest_k, self._bubble.highest_k)

    def exported(self) -> tuple[object, ...]:
        """What another program needs to follow both curves: as `CURVES` has it, limits first."""
        return CURVES[self.refrigerant.name]

    def covers_pressure(self, pressure_pa: float) -> bool:
        """Whether both curves reach that absolute pressure. [Pa]"""
        return self.lowest_pressure_pa <= pressure_pa <= self.highest_pressure_pa

    def _position(self, pressure_pa: float) -> float:
        if not self.lowest_pressure_pa <= pressure_pa <= self.highest_pressure_pa:
            raise self._pressure_out_of_range(pressure_pa)
        return (log(pressure_pa) - self._middle) / self._half

    def _temperatures(self, side: _Side, pressures_pa: Array) -> Array:
        flat = np.ascontiguousarray(pressures_pa, dtype=np.float64).ravel()
        if flat.size and not (flat.min() >= self.lowest_pressure_pa and flat.max() <= self.highest_pressure_pa):
            wrong = flat[~((flat >= self.lowest_pressure_pa) & (flat <= self.highest_pressure_pa))]
            raise self._pressure_out_of_range(float(wrong[0]))
        result = np.empty_like(flat)
        for start in range(0, flat.size, _BLOCK):
            block = slice(start, start + _BLOCK)
            x = np.log(flat[block])
            x -= self._middle
            x *= 1 / self._half
            result[block] = _horner_array(side.coefficients, x)
        return result.reshape(pressures_pa.shape)

    def _pressure(self, side: _Side, temperature_k: float | Array) -> float | Array:
        if isinstance(temperature_k, np.ndarray):
            return self._pressures(side, temperature_k)
        if not side.lowest_k <= temperature_k <= side.highest_k:
            raise self._temperature_out_of_range(side, temperature_k)
        x = _horner(side.guess, (2 * temperature_k - side.lowest_k - side.highest_k) / (side.highest_k - side.lowest_k))
        # Newton from a guess within a few millikelvin: two steps reach the precision of the numbers themselves.
        x -= (side.temperature(x) - temperature_k) / side.slope(x)
        x -= (side.temperature(x) - temperature_k) / side.slope(x)
        return exp(x * self._half + self._middle)

    def _pressures(self, side: _Side, temperatures_k: Array) -> Array:
        flat = np.ascontiguousarray(temperatures_k, dtype=np.float64).ravel()
        inside = (flat >= side.lowest_k) & (flat <= side.highest_k)
        if not inside.all():
            raise self._temperature_out_of_range(side, float(flat[~inside][0]))
        result = np.empty_like(flat)
        for start in range(0, flat.size, _BLOCK):
            t = flat[start : start + _BLOCK]
            x = _horner_array(side.guess, (2 * t - side.lowest_k - side.highest_k) / (side.highest_k - side.lowest_k))
            for _ in range(2):
                x -= (_horner_array(side.coefficients, x) - t) / _horner_array(side.slope_coefficients, x)
            result[start : start + _BLOCK] = np.exp(x * self._half + self._middle)
        return result.reshape(temperatures_k.shape)

    def _pressure_out_of_range(self, pressure_pa: float) -> OutOfRange:
        return OutOfRange(
            f"{to_anyone('pressure', pressure_pa)} is outside the {self.refrigerant.name} table, which runs from "
            f"{to_anyone('pressure', self.lowest_pressure_pa)} to {to_anyone('pressure', self.highest_pressure_pa)}, gauge at "
            "sea level."
        )

    def _temperature_out_of_range(self, side: _Side, temperature_k: float) -> OutOfRange:
        return OutOfRange(
            f"{to_anyone('temperature', temperature_k)} is outside the {self.refrigerant.name} {side.name} curve, which runs "
            f"from {to_anyone('limit', side.lowest_k)} to {to_anyone('limit', side.highest_k)}."
        )


@cache
def saturation_of(refrigerant: Refrigerant) -> Saturation:
    """The saturation curves of a catalogue refrigerant."""
    return Saturation(refrigerant)
