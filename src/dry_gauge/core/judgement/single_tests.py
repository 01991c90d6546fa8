"""Tests made for one fault: a drop along the liquid line, and the pressure of the unit off and equalized.

They do not follow a bell: a restriction shows a drop only once the liquid behind it flashes, and only if the clamps
stand each side of it. So each is a mixture of 'shows' and 'does not show'.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.hypotheses import FAULT_ORDER, SEVERITY, felt
from dry_gauge.core.judgement.stops import find_no_liquid
from dry_gauge.core.quantities import FAHRENHEIT_K, Measured
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.vocabulary import Fault

Array = NDArray[np.float64]

_RESTRICTION = SEVERITY[FAULT_ORDER.index(Fault.LIQUID_LINE_RESTRICTION)]
_FOREIGN = felt(Fault.NON_CONDENSABLES, SEVERITY[FAULT_ORDER.index(Fault.NON_CONDENSABLES)])
_OTHER = SEVERITY[FAULT_ORDER.index(Fault.WRONG_REFRIGERANT)]
_SHORT = SEVERITY[FAULT_ORDER.index(Fault.UNDERCHARGE)]

# Drop across a restriction at full size, and how often it shows at all: growing with size as the liquid flashes.
_FULL_DROP_K = 22.0
_HIDDEN = 0.25 + 0.5 * np.clip(1 - _RESTRICTION / 0.4, 0, 1)
_HEALTHY_DROP_K = 0.6  # along a sound line, one sigma
_STANDING_DOUBT_K = 1.0  # how nearly coils and air really agree, one sigma
_FULL_GAS_K = 9.0  # bubble above ambient with all the foreign gas the bench knows


# No liquid anywhere is lack of refrigerant beyond measure, whatever else the empty unit's gaps look like; or the gauges
# are read by another refrigerant.
NO_LIQUID = np.log(np.where(_SHORT > 0.6, 0.9, np.where(_OTHER > 0, 0.02, 1e-5)))


def _normal(x: Array | float, sigma: Array | float) -> Array:
    result: Array = np.exp(-0.5 * np.square(np.clip(np.asarray(x) / sigma, -8.0, 8.0))) / np.asarray(sigma)
    return result


def standing_gap(view: CircuitView) -> Measured | None:
    """Unit off and equalized: bubble at the standing pressure less ambient. [K]"""
    pressure, ambient = view.in_table("standing_pressure"), view.get("equalized_ambient_temp")
    if not (pressure and ambient):
        return None
    saturation = view.unit.saturation
    p = pressure.value
    return pressure.through(saturation.bubble_temperature_k(p), saturation.bubble_slope_k_per_pa(p)) - ambient


def line_drops(view: CircuitView, derived: Mapping[str, Derived]) -> dict[str, Measured]:
    """Temperature drops along the liquid line that were measured, by the reading behind the part."""
    found = {}
    if "drier_drop" in derived:
        found["drier_outlet_temp"] = derived["drier_drop"].measured
    before, after = view.get("liquid_line_temp"), view.get("valve_inlet_temp")
    if before and after:
        found["valve_inlet_temp"] = before - after
    return found


def log_likelihood_of_tests(view: CircuitView, derived: Mapping[str, Derived]) -> Array:
    """Of the tests that were made, under each hypothesis; zero where none was."""
    total = np.zeros(SEVERITY.shape[1])
    drops = line_drops(view, derived)
    if drops:
        # Two places of one drop are one test: the larger counts.
        drop = max(drops.values(), key=lambda measured: measured.value)
        total += drop_log_likelihood(drop.value, drop.uncertainty / 2)
    if find_no_liquid(view, derived):
        total += NO_LIQUID
    gap = standing_gap(view)
    if gap:
        total += standing_log_likelihood(gap.value, gap.uncertainty / 2)
    return total


def drop_log_likelihood(drop_k: float, error_k: float) -> Array:
    """Of a drop along the liquid line, under each hypothesis; where it warms on its way there is none."""
    drop_k = max(drop_k, 0.0)
    sound = np.hypot(_HEALTHY_DROP_K, error_k)
    mean = 1.5 + _FULL_DROP_K * _RESTRICTION
    showing = _normal(drop_k - mean, np.hypot(sound, 0.5 * mean))
    quiet = _normal(drop_k, sound) + 1e-4
    hidden = np.where(_RESTRICTION > 0, _HIDDEN, 0.985)
    result: Array = np.log(hidden * quiet + (1 - hidden) * showing)
    return result


def standing_log_likelihood(gap_k: float, error_k: float) -> Array:
    """Of the standing gap, under each hypothesis."""
    sigma = np.hypot(_STANDING_DOUBT_K, error_k)
    mean = np.where(_FOREIGN > 0, 1.0 + _FULL_GAS_K * _FOREIGN, 0.0)
    spread = np.hypot(sigma, np.where(_FOREIGN > 0, 0.8 + 0.35 * _FULL_GAS_K * _FOREIGN, 0.0))
    spread = np.where(_OTHER > 0, 10 * FAHRENHEIT_K, spread)
    plain = _normal(gap_k - mean, spread)
    # Below dew no liquid is left: a nearly empty system reads far low.
    empty = np.where(_SHORT > 0.6, 0.1, 0.005) * (gap_k < 0) / 10.0
    result: Array = np.log(plain + empty + 1e-5)
    return result


__all__ = ["drop_log_likelihood", "line_drops", "log_likelihood_of_tests", "standing_gap", "standing_log_likelihood"]
