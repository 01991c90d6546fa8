"""Moist air for rows of cases at once: what a coil takes from it. SI, per kg of dry air.

The application's own air (`core.air`) uses a library, one state at a time; the bench solves thousands of coils and
needs arrays. Both agree within 0.5 % in enthalpy over the bench's range (tests).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

ZERO_C_K = 273.15
DRY_AIR_J_KG_K = 1006.0
VAPOUR_J_KG_K = 1860.0
LATENT_ZERO_C_J_KG = 2.501e6
DRY_AIR_GAS_J_KG_K = 287.042


def saturation_pressure_pa(temperature_k: Array) -> Array:
    """Over water, below freezing over ice. [Pa]

    References
    ----------
    .. [1] O. A. Alduchov, R. E. Eskridge, J. Appl. Meteor. 35, 601 (1996): Magnus form, 0.4 % over -40 to 50 C.
    """
    t = temperature_k - ZERO_C_K
    over_ice = t < 0
    a, b = np.where(over_ice, 22.587, 17.625), np.where(over_ice, 273.86, 243.04)
    pressure: Array = np.where(over_ice, 611.21, 610.94) * np.exp(a * t / (b + t))
    return pressure


def saturated_humidity(temperature_k: Array, atmosphere_pa: Array) -> Array:
    """Humidity ratio of saturated air. [kg/kg]"""
    vapour = np.minimum(saturation_pressure_pa(temperature_k), 0.3 * atmosphere_pa)
    ratio: Array = 0.621945 * vapour / (atmosphere_pa - vapour)
    return ratio


def enthalpy(temperature_k: Array, humidity: Array) -> Array:
    """Of air and its vapour, from 0 C. [J/kg]"""
    t = temperature_k - ZERO_C_K
    total: Array = DRY_AIR_J_KG_K * t + humidity * (LATENT_ZERO_C_J_KG + VAPOUR_J_KG_K * t)
    return total


def heat_capacity(humidity: Array) -> Array:
    """Per kg of dry air. [J/(kg K)]"""
    return DRY_AIR_J_KG_K + VAPOUR_J_KG_K * humidity


def humidity_of_wet_bulb(dry_k: Array, wet_k: Array, atmosphere_pa: Array) -> Array:
    """Humidity ratio from both bulbs, never below zero. [kg/kg]"""
    t, wet = dry_k - ZERO_C_K, wet_k - ZERO_C_K
    at_wet = saturated_humidity(wet_k, atmosphere_pa)
    ratio = ((2501 - 2.326 * wet) * at_wet - 1.006 * (t - wet)) / (2501 + 1.86 * t - 4.186 * wet)
    return np.maximum(ratio, 1e-5)


def wet_bulb_k(dry_k: Array, humidity: Array, atmosphere_pa: Array) -> Array:
    """Wet bulb of air, by bisection. [K]"""
    low, high = dry_k - 60.0, dry_k.copy()
    for _ in range(26):
        middle = (low + high) / 2
        dry_enough = humidity_of_wet_bulb(dry_k, middle, atmosphere_pa) < humidity
        low, high = np.where(dry_enough, middle, low), np.where(dry_enough, high, middle)
    result: Array = (low + high) / 2
    return result


def density_kg_m3(temperature_k: Array, atmosphere_pa: Array) -> Array:
    """Of dry air. [kg/m3]"""
    density: Array = atmosphere_pa / (DRY_AIR_GAS_J_KG_K * temperature_k)
    return density
