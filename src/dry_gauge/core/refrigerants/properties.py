"""Enthalpy, entropy and density along and beside the saturation curves, for many cases at once.

Pressure enters as the curves' own x, the normalised ln p, because Newton's method and polynomials both like it. Every
array broadcasts; the last axis runs over cases, each with its own refrigerant. The numbers come from CoolProp by
`scripts/make_property_tables.py`; docs/properties.md says how well they agree.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.refrigerants.catalogue import Refrigerant
from dry_gauge.core.refrigerants.curves import CURVES
from dry_gauge.core.refrigerants.tables import TABLES

Array = NDArray[np.float64]

# Distance over which a vapour's heat capacity falls off beside saturation; fits all fluids within a tenth of a per
# cent over 90 K, and keeps the way back in closed form. [K]
BEND_K = 40.0

_SATURATED = ("h_bubble", "h_dew", "s_bubble", "s_dew", "lnrho_bubble", "lnrho_dew")
_DEPARTURES = ("h_vapour", "s_vapour", "lnrho_vapour", "h_liquid")


def _departure(a: Array, b: Array, distance_k: Array) -> Array:
    return distance_k * (a + b / (1 + distance_k / BEND_K))


def _distance(a: Array, b: Array, change: Array) -> Array:
    """The way back: distance from saturation at which a property has changed by `change`. [K]"""
    middle = a + b - change / BEND_K
    return 2 * change / (middle + np.sqrt(np.maximum(middle * middle + 4 * a * change / BEND_K, 0.0)))


@dataclass(frozen=True, slots=True)
class Saturated:
    """Both saturated states at one pressure, and the way from them into vapour and liquid. SI: K, J/kg, J/(kg K), kg/m3."""

    bubble_k: Array
    dew_k: Array
    bubble_enthalpy: Array
    dew_enthalpy: Array
    bubble_entropy: Array
    dew_entropy: Array
    bubble_density: Array
    dew_density: Array
    departures: Array

    def vapour_enthalpy(self, superheat_k: Array) -> Array:
        """Enthalpy of vapour that far above dew. [J/kg]"""
        return self.dew_enthalpy + _departure(self.departures[0], self.departures[1], superheat_k)

    def vapour_superheat_k(self, enthalpy: Array) -> Array:
        """Superheat of vapour of that enthalpy; negative and without meaning inside the dome. [K]"""
        return _distance(self.departures[0], self.departures[1], enthalpy - self.dew_enthalpy)

    def vapour_entropy(self, superheat_k: Array) -> Array:
        """Entropy of vapour that far above dew. [J/(kg K)]"""
        return self.dew_entropy + _departure(self.departures[2], self.departures[3], superheat_k)

    def superheat_at_entropy_k(self, entropy: Array) -> Array:
        """Superheat of vapour of that entropy. [K]"""
        return _distance(self.departures[2], self.departures[3], entropy - self.dew_entropy)

    def vapour_density(self, superheat_k: Array) -> Array:
        """Density of vapour that far above dew. [kg/m3]"""
        return self.dew_density * np.exp(_departure(self.departures[4], self.departures[5], superheat_k))

    def liquid_enthalpy(self, subcooling_k: Array) -> Array:
        """Enthalpy of liquid that far below bubble. [J/kg]"""
        return self.bubble_enthalpy + _departure(self.departures[6], self.departures[7], subcooling_k)

    @property
    def latent(self) -> Array:
        """Enthalpy from bubble to dew. [J/kg]"""
        return self.dew_enthalpy - self.bubble_enthalpy


_FIELDS = tuple(name for name in Saturated.__slots__ if name != "departures")


@cache
def _rows(refrigerant: Refrigerant) -> tuple[Array, Array, float, float]:
    """Coefficients of one refrigerant: eight saturated, eight departures; middle and half width of ln p."""
    middle, half, _, _, _, dew, _, _, _, bubble, _, _, _ = CURVES[refrigerant.name]
    table = TABLES[refrigerant.name]
    saturated = np.zeros((len(dew), 8))
    for i, row in enumerate((bubble, dew, *(table[name] for name in _SATURATED))):
        saturated[: len(row), i] = row
    departures = np.array([table[f"{name}_{letter}"] for name in _DEPARTURES for letter in "ab"]).T
    return saturated, departures, middle, half


def _horner(coefficients: Array, x: Array) -> Array:
    """Polynomials over `x`: coefficients (power, property, case), x (..., case) -> (property, ..., case)."""
    shape = (coefficients.shape[1],) + (1,) * (x.ndim - 1) + (coefficients.shape[2],)
    total = np.broadcast_to(coefficients[-1].reshape(shape), (coefficients.shape[1], *x.shape)).copy()
    for row in coefficients[-2::-1]:
        total *= x
        total += row.reshape(shape)
    return total


def _saturated(rows: list[Array], departures: Array) -> Saturated:
    return Saturated(rows[0], rows[1], rows[2], rows[3], rows[4], rows[5], rows[6], rows[7], departures)


class Properties:
    """Property tables of a row of cases.

    Parameters
    ----------
    refrigerants : sequence of Refrigerant
        One a case; the last axis of every array that follows.
    """

    __slots__ = ("_departures", "_half", "_middle", "_saturated")

    def __init__(self, refrigerants: Sequence[Refrigerant]) -> None:
        rows = [_rows(refrigerant) for refrigerant in refrigerants]
        self._saturated = np.stack([row[0] for row in rows], axis=-1)
        self._departures = np.stack([row[1] for row in rows], axis=-1)
        self._middle = np.array([row[2] for row in rows])
        self._half = np.array([row[3] for row in rows])

    def position(self, pressure_pa: Array) -> Array:
        """x of an absolute pressure; -1 and 1 are the ends of its table."""
        position: Array = (np.log(pressure_pa) - self._middle) / self._half
        return position

    def pressure_pa(self, position: Array) -> Array:
        """Absolute pressure at x. [Pa]"""
        pressure: Array = np.exp(position * self._half + self._middle)
        return pressure

    def at_each(self, *positions: Array) -> list[Saturated]:
        """`at` for several positions in one pass, which costs little more than one."""
        together = self.at(np.stack(positions))
        return [
            _saturated([getattr(together, name)[i] for name in _FIELDS], together.departures[:, i]) for i in range(len(positions))
        ]

    def take(self, which: NDArray[np.intp]) -> Properties:
        """The tables of some of the cases."""
        taken = Properties.__new__(Properties)
        taken._saturated, taken._departures = self._saturated[..., which], self._departures[..., which]
        taken._middle, taken._half = self._middle[which], self._half[which]
        return taken

    def at(self, position: Array) -> Saturated:
        """Everything saturated at x; beyond the ends of a table its end is taken."""
        x = np.clip(position, -1.0, 1.0)
        rows = _horner(self._saturated, x)
        np.exp(rows[6:], out=rows[6:])
        return _saturated(list(rows), _horner(self._departures, x))

    def both_temperatures(self, pressure_pa: Array) -> tuple[Array, Array]:
        """Bubble and dew temperature, (..., cases), at pressures (..., 1) that all cases share. [K]"""
        rows = _horner(self._saturated[:, :2], np.clip(self.position(pressure_pa), -1.0, 1.0))
        return rows[0], rows[1]

    def position_of_temperature(self, temperature_k: Array, dew_share: float = 0.5) -> Array:
        """x at which the mean of bubble and dew, weighted by `dew_share`, is that temperature."""
        x = np.zeros_like(temperature_k)
        for _ in range(9):  # Newton; the curves bend only gently
            rows = _horner(self._saturated[:, :2], np.stack([x, x + 1e-4]))
            there = rows[0] + dew_share * (rows[1] - rows[0])
            x = np.clip(x + (temperature_k - there[0]) * 1e-4 / (there[1] - there[0]), -1.0, 1.0 - 1e-4)
        return x
