"""Repair or replace, worked out and not decided: share of new, age, the refrigerant's future, energy, and what it hinges on.

Every figure with its range; habits and schools say that they are (docs/rules.md, R60 to R62).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from dry_gauge.core.refrigerants.catalogue import Refrigerant
from dry_gauge.core.vocabulary import Kind

# Years after which a unit of that sort is usually replaced, the early and the late (habit, R60).
USUAL_LIFE: Mapping[Kind, tuple[int, int]] = {
    **dict.fromkeys((Kind.SPLIT_AC, Kind.PACKAGE_AC, Kind.SPLIT_HEAT_PUMP, Kind.PACKAGE_HEAT_PUMP), (12, 18)),
    **dict.fromkeys((Kind.WALK_IN_COOLER, Kind.WALK_IN_FREEZER), (10, 15)),
}
SEA_TAKES_YEARS = 3
"""By how much salt air shortens that (habit)."""


class ShareSchool(StrEnum):
    """From which share of a new unit's price a repair is said to be worth a second thought."""

    HALF = "half"
    TWO_THIRDS = "two_thirds"

    @property
    def share(self) -> float:
        """The share."""
        return 0.5 if self is ShareSchool.HALF else 2 / 3


class Outlook(StrEnum):
    """What lies ahead for a refrigerant."""

    GONE = "gone"
    SHRINKING = "shrinking"
    STAYS = "stays"


# Ozone-depleting: no longer made for service in most places (Montreal Protocol). Above that GWP supplies are being cut
# step by step (Kigali amendment; US and EU rules have drawn lines at 700 and 750 for new equipment).
_OZONE = frozenset({"R-22", "R-12", "R-502", "R-11", "R-123", "R-408A", "R-409A", "R-401A", "R-402A"})
_LASTING_GWP = 750


def outlook(refrigerant: Refrigerant) -> Outlook:
    """What lies ahead for it; the local rule decides."""
    if refrigerant.name in _OZONE:
        return Outlook.GONE
    return Outlook.SHRINKING if refrigerant.gwp_100 > _LASTING_GWP else Outlook.STAYS


def age_years(made_year: int | None, this_year: int) -> float | None:
    """A unit's age by the year on its label; None where that is unknown."""
    return None if made_year is None else max(0.0, this_year - made_year)


def life_left(kind: Kind, age_years: float, by_the_sea: bool) -> tuple[float, float]:
    """Years that such a unit usually has left, the fewest and the most; none below zero."""
    early, late = USUAL_LIFE[kind]
    sea = SEA_TAKES_YEARS if by_the_sea else 0
    return max(0.0, early - sea - age_years), max(0.0, late - sea - age_years)


@dataclass(frozen=True, slots=True)
class Running:
    """How long a unit runs at full load in a year and what its energy costs: a low and a high of each.

    Parameters
    ----------
    hours : tuple of float
        Full-load hours a year.
    cents_kwh : tuple of float
        Hundredths of the currency for a kilowatt-hour.
    """

    hours: tuple[float, float]
    cents_kwh: tuple[float, float]


def energy_cents_a_year(capacity_btuh: float, eer: float, running: Running) -> tuple[int, int]:
    """What the energy of a year costs, from little to much. [hundredths]

    Parameters
    ----------
    capacity_btuh : float
        Nominal capacity. [Btu/h]
    eer : float
        At full load. [Btu/Wh]
    """
    kilowatts = capacity_btuh / eer / 1000
    low, high = (kilowatts * hours * cents for hours, cents in zip(running.hours, running.cents_kwh, strict=True))
    return _whole(low), _whole(high)


def _whole(cents: float) -> int:
    """An estimate is said in whole units of a currency."""
    return round(cents / 100) * 100


@dataclass(frozen=True, slots=True)
class Course:
    """What an option costs over the years: at once, and then each year from little to much. [hundredths]"""

    at_once: int
    a_year: tuple[int, int]

    def after(self, years: float) -> tuple[float, float]:
        """What it has cost after some years."""
        return self.at_once + years * self.a_year[0], self.at_once + years * self.a_year[1]


@dataclass(frozen=True, slots=True)
class PayBack:
    """What the dearer option costs more at once, what it saves a year, and when that is paid back.

    Parameters
    ----------
    saves : tuple of int
        A year, from little to much; below zero it costs more each year as well. [hundredths]
    years : tuple of float or None
        From soonest to latest; None where it may never be.
    """

    more: int
    saves: tuple[int, int]
    years: tuple[float, float | None] | None


def pay_back(cheap: Course, dear: Course) -> PayBack:
    """How the dearer of two options pays itself back.

    The same hours and prices hold for both, so little goes with little and much with much.
    """
    more = dear.at_once - cheap.at_once
    low, high = sorted(c - d for c, d in zip(cheap.a_year, dear.a_year, strict=True))
    if high <= 0:
        return PayBack(more, (low, high), None)
    return PayBack(more, (low, high), (max(0.0, more / high), max(0.0, more / low) if low > 0 else None))
