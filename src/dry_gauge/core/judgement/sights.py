"""How likely each thing seen is, given what is wrong and how badly: answers as likelihoods.

Each row gives how often a 'yes' comes on a unit with nothing wrong, and how often with each fault at full size; below
half size it fades to nothing in proportion. Several faults add up as independent causes would (noisy or). The figures
are habits of the trade, stated so that they can be argued with.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.judgement.hypotheses import FAULT_ORDER, SEVERITY
from dry_gauge.core.vocabulary import Fault

Array = NDArray[np.float64]

_U, _O, _LE, _HL, _LC, _LL, _MU, _MO, _NC, _IC, _WR = FAULT_ORDER


@dataclass(frozen=True, slots=True)
class SightModel:
    """How one observation answers: `base` without a fault, `full` with it, `early` those that show from the first."""

    base: float
    full: Mapping[Fault, float] = field(default_factory=dict)
    early: tuple[Fault, ...] = ()
    hides: Mapping[Fault, float] = field(default_factory=dict)
    """Share of its 'yes' that a fault takes away."""


_M = SightModel
SIGHT_MODELS: Mapping[str, SightModel] = {
    "sight_glass_bubbles": _M(0.06, {_U: 0.95, _LL: 0.55, _WR: 0.2}, early=(_U,), hides={_O: 0.8}),
    "sight_glass_streaming": _M(0.04, {_U: 0.75, _LL: 0.35}, hides={_O: 0.8}),
    "sight_glass_half_empty": _M(0.02, {_U: 0.5, _LL: 0.1}, hides={_O: 0.8}),
    "ice_on_evaporator_even": _M(0.01, {_LE: 0.45, _U: 0.10}),
    "ice_on_evaporator_patchy": _M(0.01, {_U: 0.25, _LL: 0.2, _MU: 0.2, _LE: 0.06}),
    "frost_after_drier": _M(0.004, {_LL: 0.45}),
    "frost_at_distributor": _M(0.04, {_U: 0.25, _MU: 0.3, _LL: 0.2, _LE: 0.2}),
    "suction_line_frosted_to_compressor": _M(0.04, {_MO: 0.5, _O: 0.15, _LE: 0.4}),
    "oil_stain": _M(0.05, {_U: 0.35}, early=(_U,)),
    "evaporator_dirty": _M(0.07, {_LE: 0.5}, early=(_LE,)),
    "condenser_dirty": _M(0.10, {_LC: 0.65}, early=(_LC,)),
    "condenser_air_recirculating": _M(0.02, {_LC: 0.15}),
    "discharge_air_pulsing": _M(0.01, {_LC: 0.15}),
    "condenser_fan_stopped": _M(0.004, {_LC: 0.3}),
    "condenser_fan_reversed": _M(0.003, {_LC: 0.1}),
    "filter_dirty": _M(0.10, {_LE: 0.55}, early=(_LE,)),
    "filter_missing": _M(0.02, {_HL: 0.25, _LE: 0.03}),
    "blower_stopped": _M(0.003, {_LE: 0.12}),
    "blower_belt_slipping": _M(0.01, {_LE: 0.14}),
    "damper_closed": _M(0.03, {_LE: 0.2}, early=(_LE,)),
    "door_open": _M(0.06, {_HL: 0.6}, early=(_HL,)),
    "compressor_not_pumping": _M(0.003, {_IC: 0.2}),
    "compressor_hot": _M(0.08, {_U: 0.3, _LL: 0.3, _MU: 0.3, _IC: 0.4, _LC: 0.25}),
    "superheat_hunting": _M(0.08, {_MU: 0.2, _MO: 0.3, _U: 0.2, _LL: 0.15}),
    "head_pressure_hunting": _M(0.03, {_NC: 0.35, _LC: 0.08}),
    "high_pressure_trip": _M(0.02, {_LC: 0.4, _O: 0.25, _NC: 0.3}),
    "low_pressure_trip": _M(0.02, {_U: 0.35, _LE: 0.2, _LL: 0.35, _MU: 0.3}),
    "recently_charged": _M(0.08, {_O: 0.4, _NC: 0.15, _WR: 0.35, _U: 0.2}, early=(_O, _U)),
    "recently_opened": _M(0.06, {_NC: 0.35, _LL: 0.2, _U: 0.2, _WR: 0.25, _MU: 0.12}, early=(_NC,)),
}
# Answered the other way round: how often a coil's air is *not* found in order.
_AIR_FAILS: Mapping[str, SightModel] = {
    "evaporator_air_proven": _M(0.06, {_LE: 0.91, _HL: 0.15}, early=(_LE,)),
    "condenser_air_proven": _M(0.06, {_LC: 0.91}, early=(_LC,)),
}
# Sights that name a place: in heating the indoor ones speak of the condenser and the outdoor ones of the evaporator.
PLACED_SIGHTS = (
    "filter_dirty", "filter_missing", "blower_stopped", "blower_belt_slipping", "damper_closed",
    "condenser_fan_stopped", "condenser_fan_reversed", "discharge_air_pulsing",
)  # fmt: skip
_SWAPPED: Mapping[Fault, Fault] = {_LE: _LC, _LC: _LE}


def sight_model(what: str, *, heating: bool) -> SightModel | None:
    """The model of an observation, by role; None where it says nothing about faults."""
    model = SIGHT_MODELS.get(what) or _AIR_FAILS.get(what)
    if model and heating and what in PLACED_SIGHTS:
        swapped = {_SWAPPED.get(fault, fault): share for fault, share in model.full.items()}
        return SightModel(model.base, swapped, tuple(_SWAPPED.get(fault, fault) for fault in model.early))
    return model


def chance_of_yes(what: str, severity: Array, *, heating: bool, freezer: bool) -> Array | None:
    """Probability of 'yes' for columns of severities, rows in `FAULT_ORDER`; None where it says nothing."""
    model = sight_model(what, heating=heating)
    if model is None or (freezer and what == "suction_line_frosted_to_compressor"):
        return None
    no = np.full(severity.shape[-1], 1 - model.base)
    for fault, full in model.full.items():
        ramp = np.minimum(severity[FAULT_ORDER.index(fault)] / (0.25 if fault in model.early else 0.6), 1.0)
        no *= 1 - max(full - model.base, 0.0) / (1 - model.base) * ramp
    yes = 1 - no
    for fault, hidden in model.hides.items():
        yes *= 1 - hidden * np.minimum(severity[FAULT_ORDER.index(fault)] / 0.4, 1.0)
    return 1 - yes if what in _AIR_FAILS else yes


@cache
def log_chances(what: str, heating: bool, freezer: bool) -> tuple[Array, Array] | None:
    """Logarithms of the probabilities of 'yes' and of 'no' under every hypothesis."""
    yes = chance_of_yes(what, SEVERITY, heating=heating, freezer=freezer)
    return None if yes is None else (np.log(yes), np.log1p(-yes))
