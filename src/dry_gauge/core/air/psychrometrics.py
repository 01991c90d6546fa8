"""Moist air: what psychrolib computes, with a guard in front that refuses air which cannot exist.

psychrolib answers impossible air (a wet bulb above the dry bulb, no pressure, above boiling) with near-zero humidity
and passes NaN through; both would reach a technician as a number.
"""

from __future__ import annotations

from functools import lru_cache
from math import isfinite

import psychrolib

from dry_gauge.core.errors import ImpossibleAir, OutOfRange
from dry_gauge.core.quantities import (
    BTU_PER_LB_J_KG,
    CFM_PER_TON,
    FAHRENHEIT_K,
    FOOT_M,
    POUND_KG,
    STANDARD_ATMOSPHERE_PA,
    TON_BTUH,
    ZERO_CELSIUS_K,
    to_fahrenheit,
)
from dry_gauge.core.words import in_percent, to_anyone

psychrolib.SetUnitSystem(psychrolib.SI)  # global in that library; nothing else here uses it

# The 4.5 of the trade's total-heat formula, 60 min/h * 0.075 lb/ft3, as a density: sea-level standard air.
STANDARD_AIR_KG_M3 = 0.075 * POUND_KG / FOOT_M**3
AIR_HEAT_J_KG_K = 0.24 * BTU_PER_LB_J_KG / FAHRENHEIT_K
"""Heat of air as the trade writes it: its 1.08 is 4.5 times 0.24 Btu/(lb F)."""

_LOWEST_K, _HIGHEST_K = 200.0, 365.0  # below boiling down to 0.75 atmospheres, and far beyond any duct


def _check(temperature_k: float, pressure_pa: float) -> None:
    if not (isfinite(temperature_k) and _LOWEST_K <= temperature_k <= _HIGHEST_K):
        raise OutOfRange(
            f"Air at {to_anyone('limit', temperature_k)} is outside {to_anyone('limit', _LOWEST_K)} to "
            f"{to_anyone('limit', _HIGHEST_K)}, where moist air is computed."
        )
    if not 40_000 <= pressure_pa <= 120_000:
        raise OutOfRange(f"A barometer of {pressure_pa:.0f} Pa is outside 40,000 to 120,000 Pa.")


def humidity_ratio(dry_bulb_k: float, wet_bulb_k: float, pressure_pa: float) -> float:
    """Water per dry air. [kg/kg]

    Parameters
    ----------
    dry_bulb_k, wet_bulb_k : float
        200 to 365 K; the wet bulb not above the dry bulb. [K]
    pressure_pa : float
        Barometric pressure, 40,000 to 120,000. [Pa]

    Raises
    ------
    OutOfRange, ImpossibleAir

    References
    ----------
    .. [1] ASHRAE Handbook Fundamentals 2017, chapter 1, equations 33 and 35 (psychrolib 2.5).
    """
    _check(dry_bulb_k, pressure_pa)
    _check(wet_bulb_k, pressure_pa)
    if wet_bulb_k > dry_bulb_k:
        raise ImpossibleAir(
            f"Wet bulb {to_anyone('temperature', wet_bulb_k)} is above dry bulb {to_anyone('temperature', dry_bulb_k)}."
        )
    ratio = float(psychrolib.GetHumRatioFromTWetBulb(dry_bulb_k - ZERO_CELSIUS_K, wet_bulb_k - ZERO_CELSIUS_K, pressure_pa))
    # psychrolib floors a negative ratio at 1e-7 without a word: that air would be drier than dry.
    if ratio <= 1.0001e-7:
        raise ImpossibleAir(
            f"Wet bulb {to_anyone('temperature', wet_bulb_k)} is too far below dry bulb "
            f"{to_anyone('temperature', dry_bulb_k)}: not even perfectly dry air reads that."
        )
    return ratio


def wet_bulb_k(dry_bulb_k: float, relative_humidity: float, pressure_pa: float) -> float:
    """Wet bulb from relative humidity, 0 to 1. [K]

    Raises
    ------
    OutOfRange
    """
    _check(dry_bulb_k, pressure_pa)
    if not 0 <= relative_humidity <= 1:
        raise OutOfRange(f"A relative humidity of {in_percent(relative_humidity)} is outside 0 to 100 %.")
    return float(psychrolib.GetTWetBulbFromRelHum(dry_bulb_k - ZERO_CELSIUS_K, relative_humidity, pressure_pa)) + (ZERO_CELSIUS_K)


def wet_bulb_of_ratio_k(dry_bulb_k: float, ratio: float, pressure_pa: float) -> float:
    """Wet bulb of air that holds so much water per dry air [kg/kg]; saturated where it cannot hold that. [K]

    Raises
    ------
    OutOfRange
    """
    _check(dry_bulb_k, pressure_pa)
    at_c = dry_bulb_k - ZERO_CELSIUS_K
    held = min(max(ratio, 1e-6), psychrolib.GetSatHumRatio(at_c, pressure_pa))
    return float(psychrolib.GetTWetBulbFromHumRatio(at_c, held, pressure_pa)) + ZERO_CELSIUS_K


def enthalpy_j_kg(dry_bulb_k: float, wet_bulb_k: float, pressure_pa: float) -> float:
    """Moist-air enthalpy per dry air, zero for dry air at 0 C. [J/kg]

    Raises
    ------
    OutOfRange, ImpossibleAir
    """
    ratio = humidity_ratio(dry_bulb_k, wet_bulb_k, pressure_pa)
    return float(psychrolib.GetMoistAirEnthalpy(dry_bulb_k - ZERO_CELSIUS_K, ratio))


_BYPASS = 0.12


def apparatus_temperature_k(
    entering_wet_bulb_k: float, entering_enthalpy_j_kg: float, outdoor_k: float, pressure_pa: float
) -> float:
    """Apparatus dew point of a nominal comfort coil: the temperature its air would leave at without bypass. [K]

    Total heat per ton follows the entering wet bulb and the outdoor air around the 80/67/95 F rating point; 400 cfm a
    ton, bypass factor 0.12. Written in F and Btu because its coefficients are.

    References
    ----------
    .. [1] docs/rules.md, R14; bypass form: ASHRAE Handbook HVAC Systems and
           Equipment 2016, chapter 23.
    """
    total_btuh = TON_BTUH * (1 + 0.013 * (to_fahrenheit(entering_wet_bulb_k) - 67) - 0.006 * (to_fahrenheit(outdoor_k) - 95))
    # The 4.5 is sea level's: thinner air carries less heat a cubic foot, and the same coil cools it further.
    per_cfm = 4.5 * pressure_pa / STANDARD_ATMOSPHERE_PA
    drop_j_kg = total_btuh / (per_cfm * CFM_PER_TON * (1 - _BYPASS)) * BTU_PER_LB_J_KG
    wanted = entering_enthalpy_j_kg - drop_j_kg
    low, high = 230.0, entering_wet_bulb_k + 1
    for _ in range(24):  # bisection to 5 microkelvin; saturated enthalpy only rises
        middle = (low + high) / 2
        if float(psychrolib.GetSatAirEnthalpy(middle - ZERO_CELSIUS_K, pressure_pa)) < wanted:
            low = middle
        else:
            high = middle
    return (low + high) / 2


@lru_cache(maxsize=512)  # the air of a visit stays while its pressures are read
def expected_air_split_k(entering_dry_bulb_k: float, entering_wet_bulb_k: float, outdoor_k: float, pressure_pa: float) -> float:
    """Air split that a healthy comfort unit shows at nominal airflow, a difference. [K]

    Raises
    ------
    OutOfRange, ImpossibleAir
    """
    enthalpy = enthalpy_j_kg(entering_dry_bulb_k, entering_wet_bulb_k, pressure_pa)
    apparatus_k = apparatus_temperature_k(entering_wet_bulb_k, enthalpy, outdoor_k, pressure_pa)
    return (1 - _BYPASS) * (entering_dry_bulb_k - apparatus_k)


def air_mass_flow_kg_s(airflow_m3_s: float, pressure_pa: float) -> float:
    """Dry-air mass flow of a volume flow, by the trade's standard air corrected for the barometer. [kg/s]"""
    return airflow_m3_s * STANDARD_AIR_KG_M3 * pressure_pa / STANDARD_ATMOSPHERE_PA


def sensible_heat_w(airflow_m3_s: float, difference_k: float, pressure_pa: float) -> float:
    """Sensible heat of an air stream: the trade's 1.08 * cfm * difference, corrected for the barometer. [W]"""
    return air_mass_flow_kg_s(airflow_m3_s, pressure_pa) * AIR_HEAT_J_KG_K * difference_k
