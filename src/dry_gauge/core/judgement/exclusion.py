"""What a sound unit is known not to have: each fault that matters, and how surely it is no more than slight.

'Nothing wrong' leads as soon as nothing else explains the readings better; that a fault can be excluded is more than that. A unit
is called healthy only where every fault that would matter is (R43).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.judgement.hypotheses import MECHANISMS
from dry_gauge.core.judgement.inference import Judgement
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Fault

EXCLUDED_FROM = 0.9
HEALTHY_FROM = 0.75
"""And from this probability of 'nothing wrong' on: many small doubts are a large one. Measured on made-up calls with the first
readings alone: of those called healthy that were not, it takes half away, and leaves one sound unit in twenty open."""


@dataclass(frozen=True, slots=True)
class Exclusion:
    """A fault, and the probability that it is not there or no more than slight."""

    fault: Fault
    probability: float
    at_most: str = "slight"

    @property
    def stands(self) -> bool:
        """Whether that is sure enough to call a unit healthy."""
        return self.probability >= EXCLUDED_FROM


def exclusions(judgement: Judgement, unit: UnitFacts) -> tuple[Exclusion, ...]:
    """Every fault that has a size, the least sure first."""
    # Nobody blows too much air through an outdoor coil.
    matter = [fault for fault in MECHANISMS if not (unit.heating and fault is Fault.HIGH_EVAPORATOR_LOAD)]
    found = (Exclusion(fault, judgement.at_most_slight(fault)) for fault in matter)
    return tuple(sorted(found, key=lambda one: one.probability))


def still_open(found: Sequence[Exclusion]) -> tuple[Fault, ...]:
    """Faults that are not excluded, the likeliest first."""
    return tuple(one.fault for one in found if not one.stands)
