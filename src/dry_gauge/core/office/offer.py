"""Options offered side by side: what each costs, leaves open and hinges on. As they are stored, and as they are weighed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from dry_gauge.core.efficiency import eer_of_seer
from dry_gauge.core.office.money import MOST_CENTS, Line, LineSort, Per, total
from dry_gauge.core.office.replacement import (
    Course,
    Outlook,
    PayBack,
    Running,
    ShareSchool,
    energy_cents_a_year,
    life_left,
    outlook,
    pay_back,
)
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.vocabulary import Kind

MOST_OPTIONS, MOST_LINES = 3, 40
_FROZEN = ConfigDict(frozen=True, extra="ignore")
_Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
_Range = tuple[Annotated[float, Field(ge=0, allow_inf_nan=False)], Annotated[float, Field(ge=0, allow_inf_nan=False)]]


class OptionSort(StrEnum):
    """What an option is: the least that mends it, more than that, a whole assembly for a part, or a new unit."""

    REPAIR = "repair"
    REPAIR_MORE = "repair_more"
    ASSEMBLY = "assembly"
    REPLACE = "replace"


class OfferLine(BaseModel):
    """One line of an option."""

    model_config = _FROZEN
    sort: LineSort
    what: Annotated[str, Field(min_length=1, max_length=200)]
    per: Per
    thousandths: Annotated[int, Field(gt=0, le=100_000_000)]
    cents_each: Annotated[int, Field(ge=-MOST_CENTS, le=MOST_CENTS)]

    @property
    def line(self) -> Line:
        """To be summed."""
        return Line(self.sort, self.what, self.per, self.thousandths, self.cents_each)


class Option(BaseModel):
    """One option. `leaves` is what it leaves open, in somebody's own words; `new_seer` of a new unit."""

    model_config = _FROZEN
    sort: OptionSort
    name: Annotated[str, Field(max_length=120)] = ""
    lines: tuple[OfferLine, ...] = ()
    leaves: Annotated[str, Field(max_length=600)] = ""
    new_seer: _Positive | None = None

    @property
    def cents(self) -> int:
        """What it comes to.

        Raises
        ------
        Refused
        """
        return total(one.line for one in self.lines)


class OfferFacts(BaseModel):
    """What the unit was when the options were made: they are weighed by this, whatever the card says later.

    Parameters
    ----------
    capacity_btuh, seer : float or None
        Nominal. [Btu/h], [Btu/Wh]
    failures : int
        Repairs of the last three years.
    hours, cents_kwh : tuple of float
        Full-load hours a year and the price of a kilowatt-hour, low and high; zeros where nobody said a price.
    risks : tuple of str
        What was found that stays a risk unless the unit is replaced.
    """

    model_config = _FROZEN
    kind: Kind
    refrigerant: str
    age_years: float | None = None
    capacity_btuh: float | None = None
    seer: float | None = None
    failures: int = 0
    by_the_sea: bool = False
    school: ShareSchool = ShareSchool.HALF
    hours: _Range = (0.0, 0.0)
    cents_kwh: _Range = (0.0, 0.0)
    risks: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Weighed:
    """One option beside the others.

    Parameters
    ----------
    share_of_new : float or None
        Of the cheapest new unit among them.
    energy : tuple of int or None
        A year's, low and high; None where the card or the prices do not say. [hundredths]
    """

    option: Option
    cents: int
    share_of_new: float | None
    energy: tuple[int, int] | None

    @property
    def course(self) -> Course | None:
        """What it costs over the years; None where nobody knows its energy."""
        return None if self.energy is None else Course(self.cents, self.energy)

    @property
    def is_new(self) -> bool:
        """Whether it is a new unit."""
        return self.option.sort is OptionSort.REPLACE


@dataclass(frozen=True, slots=True)
class Offer:
    """Options weighed against each other. `hinge` compares the cheapest repair with the cheapest new unit."""

    options: Sequence[Weighed]
    facts: OfferFacts
    left_years: tuple[float, float] | None
    outlook: Outlook
    hinge: PayBack | None

    @property
    def repair(self) -> Weighed | None:
        """The cheapest that keeps the unit."""
        return min((one for one in self.options if not one.is_new), key=lambda one: one.cents, default=None)

    @property
    def replacement(self) -> Weighed | None:
        """The cheapest new unit."""
        return min((one for one in self.options if one.is_new), key=lambda one: one.cents, default=None)


def weighed(options: Sequence[Option], facts: OfferFacts) -> Offer:
    """Weigh options against each other.

    Raises
    ------
    Refused
        Where an option's discounts are more than the rest of it.
    """
    sums = [option.cents for option in options]
    new = [cents for option, cents in zip(options, sums, strict=True) if option.sort is OptionSort.REPLACE and cents]
    found = []
    for option, cents in zip(options, sums, strict=True):
        share = cents / min(new) if new and option.sort is not OptionSort.REPLACE else None
        found.append(Weighed(option, cents, share, _energy(option, facts)))
    left = None if facts.age_years is None else life_left(facts.kind, facts.age_years, facts.by_the_sea)
    offer = Offer(found, facts, left, outlook(find(facts.refrigerant)), None)
    old, fresh = offer.repair, offer.replacement
    if old and fresh and old.course and fresh.course and fresh.cents > old.cents:
        return Offer(found, facts, left, offer.outlook, pay_back(old.course, fresh.course))
    return offer


def _energy(option: Option, facts: OfferFacts) -> tuple[int, int] | None:
    seer = option.new_seer if option.sort is OptionSort.REPLACE else facts.seer
    if seer is None or facts.capacity_btuh is None or not facts.hours[1] or not facts.cents_kwh[1]:
        return None
    eer = eer_of_seer(seer)
    return energy_cents_a_year(facts.capacity_btuh, eer, Running(facts.hours, facts.cents_kwh)) if eer > 0 else None
