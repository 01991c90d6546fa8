"""How an iced coil is cleared: which way, for how long before looking again, and what to protect meanwhile.

Source: docs/rules.md, R17: the time is a first look, the coil decides.
"""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind
from dry_gauge.core.words import to_anyone

# Air colder than this does not clear a coil in useful time.
_AIR_THAWS_FROM_K, _BOX_THAWS_FROM_K = to_kelvin(38), to_kelvin(35)


@dataclass(frozen=True, slots=True)
class ThawPlan:
    """What to do, in order; `minutes` until the first look; `method` is what the record says."""

    coil: str
    method: str
    minutes: int
    steps: tuple[str, ...]
    why: str
    fan_on: bool = False


def plan_thaw(facts: UnitFacts, air_k: float | None) -> ThawPlan:
    """The plan for this unit's iced evaporator (by role: in heating that is the outdoor coil).

    Parameters
    ----------
    air_k : float or None
        Air that would be blown over the coil; None if not read. [K]
    """
    coil = "outdoor coil" if facts.heating else "evaporator in the box" if facts.kind.is_walk_in else "indoor coil"
    protect = "Drain open, pan and ceiling below looked at, electrics covered"
    after = "Coil clear and drained on both faces, then run 20 minutes before anything is read"
    sensors = ("Defrost sensors and board first, while the ice is there",) if facts.heating or facts.kind.is_walk_in else ()
    least_k = _BOX_THAWS_FROM_K if facts.kind is Kind.WALK_IN_COOLER else _AIR_THAWS_FROM_K
    if air_k is None and facts.kind is Kind.WALK_IN_COOLER:
        air_k = facts.box_target_k
    if facts.kind is Kind.WALK_IN_FREEZER or (air_k is not None and air_k < least_k) or (facts.heating and air_k is None):
        if facts.kind is Kind.WALK_IN_FREEZER or air_k is not None:
            why = "The air over this coil is too cold to clear it."
        else:
            why = "Outdoor air is not read: its own defrost clears the coil in any weather."
        return ThawPlan(
            coil,
            "own defrost",
            25,
            (
                *sensors,
                "Evaporator fans off until the coil is clear",
                "Start the unit's own defrost; warm water only with electrics isolated and product protected",
                protect,
                after,
            ),
            why,
        )
    return ThawPlan(
        coil,
        "fan only",
        40,
        (
            *sensors,
            "Compressor off, fan on",
            "Filter out if it is plugged: put it on the ledger",
            protect,
            "Look every 20 minutes; do not chip at it",
            after,
        ),
        f"Air above {to_anyone('limit', least_k)} clears a coil by itself{'.' if air_k is not None else ': read it first.'}",
        fan_on=True,
    )
