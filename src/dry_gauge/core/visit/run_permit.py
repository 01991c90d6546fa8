"""Before the compressor starts: fans proven, nothing bypassed, and the lines at which it is stopped again."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from dry_gauge.core.quantities import PSI_PA, to_kelvin
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import State

# Condensing mean at which to stop where the cut-out is not known. Assumed; a habit of the trade.
_STOP_CONDENSING_K = to_kelvin(140)
# Below this a low side draws air through any leak. Gauge.
_STOP_SUCTION_PA = 2.0 * PSI_PA
SHORT_CYCLE_STARTS, SHORT_CYCLE_MINUTES = 3, 15


@dataclass(frozen=True, slots=True)
class RunPermit:
    """What stands in the way of a start, and where to stop. Pressures are absolute [Pa]; no head line near critical."""

    missing: tuple[str, ...]
    stop_head_pa: float | None
    stop_suction_pa: float
    short_cycling: bool

    @property
    def granted(self) -> bool:
        """Whether nothing stands in the way."""
        return not self.missing


def run_permit(
    facts: UnitFacts, states: Mapping[str, State], open_changes: Collection[str], locked: Collection[str],
    minutes_between_starts: Collection[float], system_open: bool = False,
) -> RunPermit:  # fmt: skip
    """What to see to before a start.

    Parameters
    ----------
    states : mapping of str to State
        Observations by name.
    open_changes : collection of str
        Kinds of temporary changes still in place.
    locked : collection of str
        Disconnects locked out.
    minutes_between_starts : collection of float
        How long before now each start on record was.
    system_open : bool
        Whether the refrigerant side stands open, under nitrogen or in a vacuum.
    """
    missing = []
    if states.get("condenser_fan_stopped") is State.YES or states.get("condenser_fan_reversed") is State.YES:
        missing.append(
            "The outdoor fan is dead or backwards: a compressor run against it proves nothing and costs a trip."
        )
    elif states.get("condenser_air_proven") is not State.YES:
        missing.append("Prove the condenser's fan first: fan before compressor.")
    if states.get("blower_stopped") is State.YES:
        missing.append("The evaporator's fan stands still.")
    if states.get("blade_unsafe") is State.YES:
        missing.append("A damaged blade stays off and locked out until it is replaced.")
    if "safety" in open_changes:
        missing.append("A safety is bypassed. Run only as a test, attended, and take the bypass out.")
    if system_open:
        missing.append("The system is open, under nitrogen or in a vacuum: it must not start.")
    if locked:
        missing.append(f"Locked out: {', '.join(sorted(locked))}.")
    recent = sum(minutes <= SHORT_CYCLE_MINUTES for minutes in minutes_between_starts)
    saturation = saturation_of(facts.refrigerant)
    head = None
    if saturation.temperature_range_k[1] > _STOP_CONDENSING_K:
        head = (saturation.dew_pressure_pa(_STOP_CONDENSING_K) + saturation.bubble_pressure_pa(_STOP_CONDENSING_K)) / 2
    return RunPermit(tuple(missing), head, facts.atmosphere_pa + _STOP_SUCTION_PA, recent >= SHORT_CYCLE_STARTS)
