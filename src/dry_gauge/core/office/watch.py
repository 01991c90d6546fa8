"""Which units to look at first, and why: what repeats, leaks, drifts from its own normal, waits or comes back (R66)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import IntEnum


class Urgency(IntEnum):
    """What comes first."""

    LEAKS_OVER = 0
    CAME_BACK = 1
    NOT_FIXED = 2
    REPEATS = 3
    DRIFTS = 4
    LEAKS = 5
    OVERDUE = 6
    OLD = 7


LEAST_POINTS, LEAST_DRIFT_K, LEAST_R2 = 3, 4.0, 0.8
"""What counts as a drift: so many visits, so far from one end to the other, and so straight (chosen)."""
REPEATS_FROM, REPEATS_WITHIN_DAYS = 2, 730
"""How often the same cause within so many days is no chance any more (habit)."""
OVERDUE_AFTER_DAYS = 7


@dataclass(frozen=True, slots=True)
class Drift:
    """One gap against what such a unit shows, along a line through its visits.

    Parameters
    ----------
    first_k, last_k : float
        Where the line begins and ends, as a difference from what its sort shows. [K]
    straight : float
        How much of the scatter the line explains, 0 to 1.
    """

    gap: str
    first_k: float
    last_k: float
    visits: int
    straight: float
    circuit: int = 1

    @property
    def goes_away(self) -> bool:
        """Whether it leaves what its sort shows, by enough visits, far enough and straight enough; not what comes back to it."""
        return (
            self.visits >= LEAST_POINTS
            and self.straight >= LEAST_R2
            and abs(self.last_k - self.first_k) >= LEAST_DRIFT_K
            and abs(self.last_k) > abs(self.first_k)
        )


@dataclass(frozen=True, slots=True)
class UnitSums:
    """What a shop's tables say of one unit.

    Parameters
    ----------
    leak_yearly : float or None
        Its latest leak rate by the shop's method, as a share of its charge, where the addition lies within a year.
    leaks_over : bool
        Whether that is above the shop's line.
    causes : mapping of str to int
        How often each was named lately.
    overdue, came_back : int
        Follow-ups past their day; repairs that did not hold within a year.
    overdue_what : str
        The follow-up that is past its day for longest.
    last_outcome : str
        Of the last closed visit.
    past_life : bool
        Whether it has passed the age at which such units are usually replaced.
    """

    leak_yearly: float | None = None
    leaks_over: bool = False
    causes: Mapping[str, int] | None = None
    drifts: tuple[Drift, ...] = ()
    overdue: int = 0
    came_back: int = 0
    last_outcome: str = ""
    past_life: bool = False
    overdue_what: str = ""


@dataclass(frozen=True, slots=True)
class Concern:
    """One reason to look at a unit; its words take their numbers from `value`."""

    urgency: Urgency
    name: str = ""
    value: float = 0.0
    count: int = 0
    circuit: int = 1


def concerns(sums: UnitSums) -> list[Concern]:
    """What speaks for looking at a unit, the most urgent first."""
    found = []
    if sums.leak_yearly:
        found.append(Concern(Urgency.LEAKS_OVER if sums.leaks_over else Urgency.LEAKS, value=sums.leak_yearly))
    if sums.came_back:
        found.append(Concern(Urgency.CAME_BACK, count=sums.came_back))
    if sums.last_outcome in ("not_fixed", "waiting"):
        found.append(Concern(Urgency.NOT_FIXED, sums.last_outcome))
    for cause, times in (sums.causes or {}).items():
        if times >= REPEATS_FROM:
            found.append(Concern(Urgency.REPEATS, cause, count=times))
    for drift in sums.drifts:
        if drift.goes_away:
            found.append(Concern(Urgency.DRIFTS, drift.gap, drift.last_k - drift.first_k, drift.visits, drift.circuit))
    if sums.overdue:
        found.append(Concern(Urgency.OVERDUE, sums.overdue_what, count=sums.overdue))
    if sums.past_life:
        found.append(Concern(Urgency.OLD))
    return sorted(found, key=lambda one: (one.urgency, -one.count, -abs(one.value)))
