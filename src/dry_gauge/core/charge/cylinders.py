"""Cylinders: what may go into one and come out of it, and a book of movements that always adds up to nothing.

Every movement takes grams from one place to another: a supplier, a cylinder, a unit, a reclaimer, the air. So whatever
was bought is either in a cylinder, in a unit, returned, or lost, and the sum over all places is zero.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from uuid import UUID

from dry_gauge.core.charge.amounts import fill_limit_kg
from dry_gauge.core.charge.mass import GRAM_KG, forms
from dry_gauge.core.errors import OutOfRange, Refused
from dry_gauge.core.quantities import PSI_PA, STANDARD_ATMOSPHERE_PA, to_kelvin
from dry_gauge.core.refrigerants.catalogue import Refrigerant
from dry_gauge.core.refrigerants.saturation import saturation_of


class CylinderKind(StrEnum):
    """What a cylinder is for."""

    NEW = "new"
    IN_USE = "in_use"
    RECOVERY = "recovery"


KIND_WORDS = {CylinderKind.NEW: "new, sealed", CylinderKind.IN_USE: "in use", CylinderKind.RECOVERY: "recovery"}


class Account(StrEnum):
    """Where refrigerant can be: what the book adds up by."""

    SUPPLIER = "supplier"
    CYLINDER = "cylinder"
    UNIT = "unit"
    RECLAIMER = "reclaimer"
    AIR = "air"
    COUNT = "count"
    """Differences that a weighing found: gone, or there, for no known reason."""


@dataclass(frozen=True, slots=True)
class Cylinder:
    """One cylinder as it is stamped and as the shop knows it. SI; None is not known.

    Parameters
    ----------
    refrigerant : Refrigerant or None
        None for a recovery cylinder whose content is mixed or unknown.
    service_pressure_pa : float or None
        Gauge, stamped on it.
    """

    name: str
    kind: CylinderKind
    refrigerant: Refrigerant | None
    tare_kg: float | None = None
    water_capacity_kg: float | None = None
    service_pressure_pa: float | None = None
    retest_by: date | None = None
    for_flammables: bool = False
    refillable: bool = True


# A cylinder's content at 131 F may stand at no more than 5/4 of its service pressure (49 CFR 173.301(a)(8)).
_HOT_K, _OVER_SERVICE = to_kelvin(131), 5 / 4
# What a scale and two weighings leave open: a draw this much beyond the book is not refused.
_SLACK_KG, _SLACK_SHARE = 0.06, 0.01


def limit_kg(cylinder: Cylinder) -> float | None:
    """Most that it may hold; None where its water capacity is not known. [kg]"""
    if cylinder.water_capacity_kg is None:
        return None
    return fill_limit_kg(cylinder.water_capacity_kg, [cylinder.refrigerant] if cylinder.refrigerant else ())


def needed_service_pa(refrigerant: Refrigerant) -> float | None:
    """Service pressure that a refrigerant asks of its cylinder, gauge; None near or beyond critical. [Pa]"""
    try:
        return (saturation_of(refrigerant).bubble_pressure_pa(_HOT_K) - STANDARD_ATMOSPHERE_PA) / _OVER_SERVICE
    except OutOfRange:
        return None


@dataclass(frozen=True, slots=True)
class Held:
    """A cylinder and what it holds by the book, in grams."""

    id: UUID
    cylinder: Cylinder
    holds_g: int
    keeper: str
    retired: bool

    @property
    def tare_g(self) -> int | None:
        """Empty weight, grams; None where it is not known."""
        return None if self.cylinder.tare_kg is None else round(self.cylinder.tare_kg / GRAM_KG)


def check_fill(
    cylinder: Cylinder, holds_kg: float, adds_kg: float, of: Refrigerant, today: date, *, supplier: bool = False
) -> None:
    """Whether refrigerant may go into a cylinder.

    Parameters
    ----------
    holds_kg, adds_kg : float
        By the book, and what would come on top. [kg]
    supplier : bool
        Filled by its supplier: its own limits are the supplier's.

    Raises
    ------
    Refused
        With what is wrong and what to do.
    """
    if supplier:
        return
    if cylinder.kind is CylinderKind.NEW or not cylinder.refillable:
        raise Refused(f"{cylinder.name} is not refillable: recovered refrigerant goes into a recovery cylinder.", "cylinder")
    if cylinder.refrigerant is not None and cylinder.refrigerant is not of:
        raise Refused(
            f"{cylinder.name} holds {cylinder.refrigerant.name}; {of.name} in it would make both waste. Take another, "
            "or mark it as mixed.",
            "cylinder",
        )
    if cylinder.retest_by is not None and cylinder.retest_by < today:
        raise Refused(f"{cylinder.name} was due for its test on {cylinder.retest_by:%d %b %Y}: it is not filled.", "cylinder")
    if of.flammable and not cylinder.for_flammables:
        raise Refused(f"{of.name} burns, and {cylinder.name} is not rated for that. Take one that is.", "cylinder")
    needed = needed_service_pa(of)
    if needed is None:
        raise Refused(
            f"What pressure {of.name} asks of its cylinder is not in our tables: only its supplier fills one marked "
            f"for {of.name}.",
            "cylinder",
        )
    if cylinder.service_pressure_pa is not None and cylinder.service_pressure_pa < 0.98 * needed:
        raise Refused(
            f"{cylinder.name} is stamped {cylinder.service_pressure_pa / PSI_PA:.0f} psi; {of.name} needs a class of "
            f"at least {needed / PSI_PA:.0f} psi.",
            "cylinder",
        )
    most = limit_kg(cylinder)
    if most is None:
        raise Refused(
            f"The water capacity of {cylinder.name} is not on record: without it nobody knows when it is full.", "cylinder"
        )
    if holds_kg + adds_kg > most + GRAM_KG:
        room = max(0.0, most - holds_kg)
        raise Refused(
            f"{cylinder.name} may hold {forms(most).lb_oz} and has room for {forms(room).lb_oz}: "
            f"{forms(adds_kg).lb_oz} would fill it beyond 80 %. Change cylinders.",
            "cylinder",
        )


def check_draw(cylinder: Cylinder, holds_kg: float, takes_kg: float, into: Refrigerant, *, converting: bool = False) -> None:
    """Whether refrigerant may come out of a cylinder into a unit.

    Parameters
    ----------
    into : Refrigerant
        What the unit's card says.
    converting : bool
        Whether the unit is being changed over to what the cylinder holds.

    Raises
    ------
    Refused
    """
    if cylinder.refrigerant is None:
        raise Refused(f"What {cylinder.name} holds is mixed or unknown: it goes to the reclaimer, not into a unit.", "cylinder")
    if cylinder.refrigerant is not into and not converting:
        raise Refused(
            f"{cylinder.name} holds {cylinder.refrigerant.name}, the unit {into.name}. If the unit is being changed "
            "over, say so.",
            "cylinder",
        )
    if takes_kg > holds_kg + _SLACK_KG + _SLACK_SHARE * takes_kg:
        raise Refused(
            f"By the book {cylinder.name} holds {forms(max(holds_kg, 0)).lb_oz}, less than "
            f"{forms(takes_kg).lb_oz}. Is it another cylinder? "
            "Otherwise weigh it: its gross weight sets the book right.",
            "cylinder",
        )


# -- the book --------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Movement:
    """Whole grams from one place to another. Cylinders and units go by a key of their own, other places have none."""

    grams: int
    origin: Account
    goal: Account
    origin_key: str = ""
    goal_key: str = ""
    refrigerant: str = ""


def balances(movements: Iterable[Movement]) -> Mapping[tuple[Account, str], int]:
    """Grams in each place after all movements; they add up to zero, since a supplier goes below it."""
    found: dict[tuple[Account, str], int] = {}
    for one in movements:
        for key, grams in (((one.origin, one.origin_key), -one.grams), ((one.goal, one.goal_key), one.grams)):
            found[key] = found.get(key, 0) + grams
    return found


@dataclass(frozen=True, slots=True)
class YearBook:
    """One refrigerant's movements over a time, as an auditor reads them. Grams."""

    refrigerant: str
    opening: int
    bought: int
    recovered: int
    charged: int
    reclaimed: int
    lost: int
    counted: int
    closing: int

    @property
    def adds_up(self) -> bool:
        """Whether opening and everything in and out make the closing stock."""
        moved = self.bought + self.recovered - self.charged - self.reclaimed - self.lost + self.counted
        return self.opening + moved == self.closing


def year_book(refrigerant: str, before: Iterable[Movement], during: Iterable[Movement]) -> YearBook:
    """Stock of all cylinders at the start, what moved, and stock at the end.

    Parameters
    ----------
    before, during : iterable of Movement
        Those of that refrigerant up to the start, and within the time.
    """
    listed = list(during)

    def stock(movements: Iterable[Movement]) -> int:
        return sum(grams for (place, _), grams in balances(movements).items() if place is Account.CYLINDER)

    def moved(origin: Account, goal: Account) -> int:
        return sum(one.grams for one in listed if one.origin is origin and one.goal is goal)

    opening = stock(before)
    return YearBook(
        refrigerant,
        opening,
        moved(Account.SUPPLIER, Account.CYLINDER),
        moved(Account.UNIT, Account.CYLINDER),
        moved(Account.CYLINDER, Account.UNIT),
        moved(Account.CYLINDER, Account.RECLAIMER),
        moved(Account.CYLINDER, Account.AIR),
        moved(Account.COUNT, Account.CYLINDER) - moved(Account.CYLINDER, Account.COUNT),
        opening + stock(listed),
    )
