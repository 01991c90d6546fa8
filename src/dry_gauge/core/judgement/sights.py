"""How likely each thing seen is, given what is wrong and how badly: answers as likelihoods.

Each row gives how often a 'yes' comes on a unit with nothing wrong, and how often with each fault at full size; below
half size it fades to nothing in proportion. Several faults add up as independent causes would (noisy or). The figures
stand in the rows of `faults`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.judgement.faults import FAULTS, SIGHT_BASES
from dry_gauge.core.judgement.hypotheses import FAULT_ORDER, SEVERITY
from dry_gauge.core.vocabulary import Fault

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class SightModel:
    """How one observation answers: `base` without a fault, `full` with it, `early` those that show from the first."""

    base: float
    full: Mapping[Fault, float] = field(default_factory=dict)
    early: tuple[Fault, ...] = ()
    hides: Mapping[Fault, float] = field(default_factory=dict)
    """Share of its 'yes' that a fault takes away."""


def _model(what: str) -> SightModel:
    showing = {fault: row.sights[what] for fault, row in FAULTS.items() if what in row.sights}
    return SightModel(
        SIGHT_BASES[what],
        {fault: shows.full for fault, shows in showing.items() if shows.full},
        tuple(fault for fault, shows in showing.items() if shows.early),
        {fault: shows.hides for fault, shows in showing.items() if shows.hides},
    )


SIGHT_MODELS: Mapping[str, SightModel] = {what: _model(what) for what in SIGHT_BASES}
# Answered the other way round: how often a coil's air is *not* found in order.
_AIR_PROVEN = frozenset({"evaporator_air_proven", "condenser_air_proven"})
# Sights that name a place: in heating the indoor ones speak of the condenser and the outdoor ones of the evaporator.
PLACED_SIGHTS = (
    "filter_dirty", "filter_missing", "blower_stopped", "blower_belt_slipping", "damper_closed",
    "condenser_fan_stopped", "condenser_fan_reversed", "discharge_air_pulsing",
)  # fmt: skip
_SWAPPED: Mapping[Fault, Fault] = {
    Fault.LOW_EVAPORATOR_AIRFLOW: Fault.LOW_CONDENSER_AIRFLOW,
    Fault.LOW_CONDENSER_AIRFLOW: Fault.LOW_EVAPORATOR_AIRFLOW,
}


def sight_model(what: str, *, heating: bool) -> SightModel | None:
    """The model of an observation, by role; None where it says nothing about faults."""
    model = SIGHT_MODELS.get(what)
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
    return 1 - yes if what in _AIR_PROVEN else yes


@cache
def log_chances(what: str, heating: bool, freezer: bool) -> tuple[Array, Array] | None:
    """Logarithms of the probabilities of 'yes' and of 'no' under every hypothesis."""
    yes = chance_of_yes(what, SEVERITY, heating=heating, freezer=freezer)
    return None if yes is None else (np.log(yes), np.log1p(-yes))
