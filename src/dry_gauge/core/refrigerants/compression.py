"""How hot discharge gas comes out of a compressor: what sound compression of barely dry gas gives, for one refrigerant."""

from __future__ import annotations

from functools import cache, lru_cache

import numpy as np

from dry_gauge.core.refrigerants.catalogue import Refrigerant
from dry_gauge.core.refrigerants.properties import Properties
from dry_gauge.core.refrigerants.saturation import saturation_of

# docs/rules.md, R7: of the work of a sound compressor, and what its shell gives away of it.
ISENTROPIC, LOST_AS_HEAT = 0.70, 0.10


@cache
def _properties(refrigerant: Refrigerant) -> Properties:
    return Properties([refrigerant])


@lru_cache(maxsize=256)
def discharge_superheat_k(
    refrigerant: Refrigerant, suction_pa: float, discharge_pa: float, suction_superheat_k: float = 0.0
) -> float:
    """Superheat of the discharge gas that sound compression gives, none below dew. [K]

    Parameters
    ----------
    suction_pa, discharge_pa : float
        Absolute, both within the refrigerant's table. [Pa]
    suction_superheat_k : float
        At the compressor's inlet, not below zero. [K]

    Raises
    ------
    OutOfRange
        For a pressure outside the table.

    References
    ----------
    .. [1] docs/rules.md, R7.
    """
    for pressure_pa in (suction_pa, discharge_pa):
        saturation_of(refrigerant).dew_temperature_k(pressure_pa)
    properties = _properties(refrigerant)
    low, high = properties.at_each(*properties.position(np.array([[suction_pa], [discharge_pa]])))
    superheat = np.array([suction_superheat_k])
    ideal = high.superheat_at_entropy_k(low.vapour_entropy(superheat))
    entering = low.vapour_enthalpy(superheat)
    work = (high.vapour_enthalpy(np.maximum(ideal, 0.0)) - entering) / ISENTROPIC
    leaving = high.vapour_superheat_k(entering + (1 - LOST_AS_HEAT) * work)
    return max(float(leaving[0]), 0.0)


@lru_cache(maxsize=256)
def inlet_quality(refrigerant: Refrigerant, liquid_pa: float, liquid_line_k: float, suction_pa: float) -> float:
    """Share of vapour behind the metering device, 0 to 1: liquid of that temperature let down to the suction pressure.

    Raises
    ------
    OutOfRange
        For a pressure outside the refrigerant's table.
    """
    bubble_k = saturation_of(refrigerant).bubble_temperature_k(liquid_pa)
    properties = _properties(refrigerant)
    low, high = properties.at_each(*properties.position(np.array([[suction_pa], [liquid_pa]])))
    liquid = high.liquid_enthalpy(np.array([max(bubble_k - liquid_line_k, 0.0)]))
    return min(max(float(((liquid - low.bubble_enthalpy) / low.latent)[0]), 0.0), 1.0)
