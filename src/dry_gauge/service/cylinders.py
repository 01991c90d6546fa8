"""Cylinders of the shop: what it buys, returns and weighs, and what its book of refrigerant adds up to."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.charge.cylinders import Account, CylinderKind, Held, YearBook, check_fill, year_book
from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import day_of
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.shop import ShopSettings
from dry_gauge.notebook.kind import LEAST_REASON, VisitState
from dry_gauge.notebook.subjects.movements import Charge, in_unit_g
from dry_gauge.present.visit import VisitRow
from dry_gauge.service.book import held_of
from dry_gauge.service.leak_rates import Losing, losing
from dry_gauge.service.notebooks import state_of
from dry_gauge.store import cylinders as store
from dry_gauge.store import visits
from dry_gauge.store.cylinders import Line
from dry_gauge.store.people import Someone

# -- what the shop does ----------------------------------------------------


@dataclass(frozen=True, slots=True)
class ByHand:
    """What the shop did with a cylinder outside of a visit.

    Parameters
    ----------
    what : str
        ``bought``, ``moved`` into another cylinder, ``reclaimed``, ``lost`` or ``weighed``.
    grams : int
        That moved; of a weighing, what it holds.
    into : UUID, optional
        The cylinder that it was moved into.
    movement_id : UUID, optional
        Of the form that it came with: the same twice is booked once.
    """

    what: str
    grams: int
    reason: str = ""
    into: UUID | None = None
    movement_id: UUID | None = None


# From where to where; a weighing goes either way.
_LEGS: Mapping[str, tuple[Account, Account]] = {
    "bought": (Account.SUPPLIER, Account.CYLINDER),
    "moved": (Account.CYLINDER, Account.CYLINDER),
    "reclaimed": (Account.CYLINDER, Account.RECLAIMER),
    "lost": (Account.CYLINDER, Account.AIR),
}
_EXPLAINED = frozenset({"reclaimed", "lost", "weighed"})


def book_by_hand(connection: Connection, someone: Someone, cylinder: UUID, done: ByHand, now: datetime) -> None:
    """Book what was done with `cylinder`.

    Raises
    ------
    Refused
        Where the book, a cylinder's limits or a missing reason stand against it, with what to do.
    """
    store.lock(connection, [one for one in (cylinder, done.into) if one])
    if done.movement_id is not None and store.is_booked(connection, done.movement_id):
        return
    held = held_of(connection, cylinder)
    refrigerant = held.cylinder.refrigerant
    if refrigerant is None:
        raise Refused("Say what it holds first: a mixed cylinder is booked out as what it mostly holds.", "cylinder")
    origin, goal, amount = _moved(done, held)
    if amount == 0:
        return
    _refuse_movement(done, held, origin, amount)
    filled = cylinder if goal is Account.CYLINDER else None
    if done.what == "moved":
        if done.into is None or done.into == cylinder:
            raise Refused("Choose the other cylinder that it went into.", "into")
        filled, other = done.into, held_of(connection, done.into)
        check_fill(other.cylinder, other.holds_g * GRAM_KG, amount * GRAM_KG, refrigerant, day_of(now))
    row = {
        "shop_id": someone.shop_id,
        "id": done.movement_id or uuid6.uuid7(),
        "entry_id": None,
        "visit_id": None,
        "unit_id": None,
        "person_id": someone.person_id,
        "at": now,
        "refrigerant": refrigerant.name,
        "grams": amount,
        "origin": origin.value,
        "goal": goal.value,
        "origin_cylinder": cylinder if origin is Account.CYLINDER else None,
        "goal_cylinder": filled,
        "way": done.what,
        "reason": done.reason.strip()[:200],
        "taken_back_at": None,
    }
    store.book(connection, [row])


def _moved(done: ByHand, held: Held) -> tuple[Account, Account, int]:
    """From where to where, and how many grams."""
    if done.what == "weighed":
        more = done.grams - held.holds_g
        return (Account.COUNT, Account.CYLINDER, more) if more > 0 else (Account.CYLINDER, Account.COUNT, -more)
    if done.what not in _LEGS:
        raise Refused("Choose what happened: bought, moved, returned, lost or weighed.", "what")
    return *_LEGS[done.what], done.grams


def _refuse_movement(done: ByHand, held: Held, origin: Account, amount: int) -> None:
    if done.what in _EXPLAINED and len(done.reason.strip()) < LEAST_REASON:
        raise Refused("Say why in a few words: an auditor will ask.", "reason")
    if origin is Account.CYLINDER and amount > held.holds_g:
        raise Refused("That is more than it holds by the book. Weigh it: gross weight less tare.", "weight")
    if done.what == "bought" and held.cylinder.kind is CylinderKind.RECOVERY:
        raise Refused("A recovery cylinder is not bought full. Register the new cylinder.", "what")


@dataclass(frozen=True, slots=True)
class Stock:
    """What the shop has of one refrigerant. Grams."""

    refrigerant: str
    virgin_g: int
    recovered_g: int
    cylinders: int


def stock(held: Sequence[Held]) -> list[Stock]:
    """By refrigerant; what is in recovery cylinders is apart."""
    found: dict[str, list[Held]] = {}
    for one in held:
        found.setdefault(one.cylinder.refrigerant.name if one.cylinder.refrigerant else "mixed", []).append(one)
    return [
        Stock(
            name,
            sum(one.holds_g for one in listed if one.cylinder.kind is not CylinderKind.RECOVERY),
            sum(one.holds_g for one in listed if one.cylinder.kind is CylinderKind.RECOVERY),
            len(listed),
        )
        for name, listed in sorted(found.items())
    ]


def year_books(connection: Connection, start: datetime, end: datetime) -> list[YearBook]:
    """Every refrigerant's book over a time; each adds up, or the book itself is wrong."""
    listed = [line for line in store.lines(connection, until=end, limit=1_000_000) if line.taken_back_at is None]
    names = sorted({line.movement.refrigerant for line in listed})
    return [
        year_book(
            name,
            [one.movement for one in listed if one.movement.refrigerant == name and one.at < start],
            [one.movement for one in listed if one.movement.refrigerant == name and one.at >= start],
        )
        for name in names
    ]


# -- one unit over the years -----------------------------------------------


@dataclass(frozen=True, slots=True)
class ChargeNow:
    """What is in a unit by weight: what it held after it was last emptied and weighed, and what went in and out since."""

    kg: float
    weighed_on: date


@dataclass(frozen=True, slots=True)
class UnitBook:
    """A unit's refrigerant: what went in and out, what is in it now, and how fast it loses it."""

    lines: tuple[Line, ...]
    losing: Losing
    now: ChargeNow | None


def unit_book(connection: Connection, unit_id: UUID, facts: UnitFacts, settings: ShopSettings) -> UnitBook:
    """The book of one unit."""
    lines = store.lines(connection, unit_id=unit_id)
    return UnitBook(tuple(lines), losing(connection, unit_id, facts, settings), _charge_now(connection, unit_id))


def _charge_now(connection: Connection, unit_id: UUID) -> ChargeNow | None:
    """What is in all circuits together; None where that of one is not known. Lines of the book name no circuit: entries do."""
    listed = visits.visits_of_unit(connection, unit_id)
    states = {visit.id: state_of(connection, visit) for visit in listed}
    numbers = {
        *range(1, max((visit.circuits for visit in listed), default=1) + 1),
        *(number for state in states.values() for number in state[Charge].circuits),
    }
    found = [_circuit_now(number, listed, states) for number in sorted(numbers)]
    known = [one for one in found if one is not None]
    if len(known) < len(found):
        return None
    return ChargeNow(sum(one.kg for one in known), max(one.weighed_on for one in known))


def _circuit_now(number: int, listed: Sequence[VisitRow], states: Mapping[UUID, VisitState]) -> ChargeNow | None:
    """What is in one circuit: as the latest visit that emptied it left it, and what moved since; None where none did."""
    since = 0
    for visit in listed:  # the latest first
        own = states[visit.id].of_circuit(number)
        inside, charge = in_unit_g(own), own[Charge]
        if inside is None:
            since += sum(one.into_unit_g for one in charge.moved.values())
            continue
        known = [one.at for one in charge.moved.values()] + ([charge.recovered_to.at] if charge.recovered_to else [])
        last = max(known, default=visit.planned_for)
        return ChargeNow((inside + since) * GRAM_KG, day_of(last))
    return None


def gained_g(line: Line) -> int:
    """What a unit gained by a movement, grams."""
    return line.movement.grams * ((line.movement.goal is Account.UNIT) - (line.movement.origin is Account.UNIT))
