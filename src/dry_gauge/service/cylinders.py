"""The refrigerant book: what a visit's entries move, what the shop buys, returns and weighs, and what it adds up to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.cylinders import Place, YearBook, available_kg, check_draw, check_fill, year_book
from dry_gauge.core.errors import Refused
from dry_gauge.core.leak_rate import Addition, LeakRate, Threshold, leak_rates, threshold_of
from dry_gauge.core.mass import GRAM_KG
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.sealed import INTO_UNIT, OUT_OF_UNIT, ChargeTargetBody, Way
from dry_gauge.notebook.sealed_state import Moved, SealedState
from dry_gauge.notebook.sealed_work import target_from
from dry_gauge.service.settings import ShopSettings, use_of
from dry_gauge.store import cylinders as store
from dry_gauge.store import visits
from dry_gauge.store.cylinders import Held, Line
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import VisitRow


@dataclass(frozen=True, slots=True)
class Booking:
    """What an entry does to the book, checked and ready to be written: new movements, and entries whose are taken back."""

    rows: tuple[dict[str, Any], ...] = ()
    gone: tuple[UUID, ...] = ()

    def write(self, connection: Connection, now: datetime) -> None:
        """Write it, in the transaction of the entry."""
        store.take_back(connection, self.gone, now)
        store.book(connection, self.rows)


def prepare(
    connection: Connection, someone: Someone, visit: VisitRow, facts: UnitFacts, before: SealedState, after: SealedState,
    now: datetime, poured_because: str = "",
) -> Booking:  # fmt: skip
    """What brings the book in step with one visit's notebook. Nothing is written yet.

    A recovery cylinder that was overfilled is booked with a reason: what is in it already has to be on record.

    The cylinders concerned stay locked until the transaction ends, so that two technicians who draw on one see each
    other's draws.

    Raises
    ------
    Refused
        If a cylinder may not give, or take, that.
    """
    gone = {key: one for key, one in before.moved.items() if key not in after.moved}
    new = [one for key, one in after.moved.items() if key not in before.moved]
    if not gone and not new:
        return Booking()
    store.lock(connection, [one.cylinder for one in (*new, *gone.values())])
    rows: list[dict[str, Any]] = []
    for one in new:
        held = _held(connection, one.cylinder)
        try:
            _check(held, one, facts, now.date())
        except Refused as refusal:
            if one.way not in OUT_OF_UNIT or str(one.entry_id) not in _ended(before, after):
                raise
            if len(poured_because.strip()) < _LEAST_REASON:
                raise Refused(f"{refusal.message} If it is in already, say so as the reason, then take the surplus out at "
                              "once.", "reason") from None  # fmt: skip
        rows += _rows(someone, visit, facts, held, one)
    return Booking(tuple(rows), tuple(UUID(key) for key in gone))


def _ended(before: SealedState, after: SealedState) -> set[str]:
    """Movements that a pour's end made: their cylinder was looked at when the pour began."""
    ended = {
        key for key, pour in after.pours.items() if not pour.open and key in before.pours and before.pours[key].open
    }
    return set(after.moved) - set(before.moved) if ended else set()


def check_cylinder(
    connection: Connection, cylinder: UUID, way: Way, facts: UnitFacts, converting: bool, today: date
) -> None:
    """Whether a pour may begin: the cylinder's kind and dates, not yet how much.

    Raises
    ------
    Refused
    """
    held = _held(connection, cylinder)
    moved = Moved(entry_id=cylinder, at=datetime.now(UTC), way=way, cylinder=cylinder, grams=1, converting=converting)
    _check(held, moved, facts, today)


def _held(connection: Connection, cylinder: UUID) -> Held:
    found = store.all_held(connection, [cylinder])
    if not found:
        raise Refused("Choose the cylinder: what is not weighed against one is not on the book.", "cylinder")
    if found[0].retired:
        raise Refused(f"{found[0].cylinder.name} is retired.", "cylinder")
    return found[0]


def _check(held: Held, moved: Moved, facts: UnitFacts, today: date) -> None:
    holds_kg, kg = held.holds_g * GRAM_KG, moved.grams * GRAM_KG
    if moved.way in OUT_OF_UNIT:
        check_fill(held.cylinder, holds_kg, kg, facts.refrigerant, today)
    else:
        check_draw(held.cylinder, holds_kg, kg, facts.refrigerant, converting=moved.converting or moved.way is Way.LOST)


def _rows(someone: Someone, visit: VisitRow, facts: UnitFacts, held: Held, moved: Moved) -> list[dict[str, Any]]:
    """The legs of one movement: into the unit or out of it, what stayed in hoses, and what the book must find first."""
    refrigerant = held.cylinder.refrigerant or facts.refrigerant
    common = {
        "shop_id": someone.shop_id, "entry_id": moved.entry_id, "visit_id": visit.id, "unit_id": visit.unit_id,
        "person_id": someone.person_id, "at": moved.at, "refrigerant": refrigerant.name, "way": moved.way.value,
        "reason": moved.reason, "taken_back_at": None,
    }  # fmt: skip

    def leg(grams: int, origin: Place, goal: Place, **more: Any) -> dict[str, Any]:
        ends = {"origin_cylinder": held.id if origin is Place.CYLINDER else None,
                "goal_cylinder": held.id if goal is Place.CYLINDER else None}  # fmt: skip
        return {
            **common,
            "id": uuid6.uuid7(),
            "grams": grams,
            "origin": origin.value,
            "goal": goal.value,
            **ends,
            **more,
        }

    if moved.way in OUT_OF_UNIT:
        return [leg(moved.grams, Place.UNIT, Place.CYLINDER)]
    short = round(available_kg(held.cylinder, held.holds_g * GRAM_KG, moved.grams * GRAM_KG) / GRAM_KG)
    legs = [leg(short, Place.COUNT, Place.CYLINDER, reason="More came out than the book had.")] if short else []
    in_unit = moved.grams - moved.hose_g if moved.way in INTO_UNIT else 0
    if in_unit > 0:
        legs.append(leg(in_unit, Place.CYLINDER, Place.UNIT))
    if moved.grams - in_unit > 0:
        legs.append(leg(moved.grams - in_unit, Place.CYLINDER, Place.AIR))
    return legs


# -- what the shop does ----------------------------------------------------


def book_by_hand(
    connection: Connection, someone: Someone, cylinder: UUID, what: str, grams: int, reason: str, now: datetime,
    into: UUID | None = None,
) -> None:  # fmt: skip
    """Bought, returned, lost, moved into another cylinder, or weighed anew: `grams` is then what it holds.

    Raises
    ------
    Refused
    """
    store.lock(connection, [one for one in (cylinder, into) if one])
    held = _held(connection, cylinder)
    if held.cylinder.refrigerant is None:
        raise Refused("Say what it holds first: a mixed cylinder is booked out as what it mostly holds.", "cylinder")
    change = grams - held.holds_g
    ways = {
        "bought": (Place.SUPPLIER, Place.CYLINDER, grams),
        "moved": (Place.CYLINDER, Place.CYLINDER, grams),
        "reclaimed": (Place.CYLINDER, Place.RECLAIMER, grams),
        "lost": (Place.CYLINDER, Place.AIR, grams),
        "weighed": (Place.COUNT, Place.CYLINDER, change) if change > 0 else (Place.CYLINDER, Place.COUNT, -change),
    }
    if what not in ways:
        raise Refused("Choose what happened: bought, moved, returned, lost or weighed.", "what")
    origin, goal, amount = ways[what]
    if amount == 0:
        return
    if what not in ("bought", "moved") and len(reason.strip()) < _LEAST_REASON:
        raise Refused("Say why in a few words: an auditor will ask.", "reason")
    if origin is Place.CYLINDER and amount > held.holds_g:
        raise Refused("That is more than it holds by the book. Weigh it: gross weight less tare.", "weight")
    if what == "bought" and held.cylinder.kind.value == "recovery":
        raise Refused("A recovery cylinder is not bought full. Register the new cylinder.", "what")
    filled = cylinder if goal is Place.CYLINDER else None
    if what == "moved":
        if into is None or into == cylinder:
            raise Refused("Choose the other cylinder that it went into.", "into")
        other = _held(connection, into)
        check_fill(other.cylinder, other.holds_g * GRAM_KG, amount * GRAM_KG, held.cylinder.refrigerant, now.date())
        filled = into
    store.book(connection, [{
        "shop_id": someone.shop_id, "id": uuid6.uuid7(), "entry_id": None, "visit_id": None, "unit_id": None,
        "person_id": someone.person_id, "at": now, "refrigerant": held.cylinder.refrigerant.name, "grams": amount,
        "origin": origin.value, "goal": goal.value, "origin_cylinder": cylinder if origin is Place.CYLINDER else None,
        "goal_cylinder": filled, "way": what, "reason": reason.strip()[:200], "taken_back_at": None,
    }])  # fmt: skip


_LEAST_REASON = 3


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
            sum(one.holds_g for one in listed if one.cylinder.kind.value != "recovery"),
            sum(one.holds_g for one in listed if one.cylinder.kind.value == "recovery"),
            len(listed),
        )
        for name, listed in sorted(found.items())
    ]


def year_books(connection: Connection, start: datetime, end: datetime) -> list[YearBook]:
    """Every refrigerant's book over a time; each adds up, or the book itself is wrong."""
    listed = [line for line in store.lines(connection, until=end, limit=1_000_000) if line.taken_back_at is None]
    names = sorted({line.movement.refrigerant for line in listed})
    return [
        year_book(name, [one.movement for one in listed if one.movement.refrigerant == name and one.at < start],
                  [one.movement for one in listed if one.movement.refrigerant == name and one.at >= start])
        for name in names
    ]  # fmt: skip


# -- one unit over the years -----------------------------------------------


@dataclass(frozen=True, slots=True)
class ChargeNow:
    """What is in a unit by weight: what it held after it was last emptied and weighed, and what went in and out since."""

    kg: float
    weighed_on: date


@dataclass(frozen=True, slots=True)
class UnitBook:
    """A unit's refrigerant: what went in and out, what is in it now, its leak rate and what the rule makes of it.

    Parameters
    ----------
    full_charge_kg : float or None
        Label, line set and accessories where a target was ever made; else the label; None where neither is known.
    label_only : bool
        No target was made, so line set and accessories are not counted.
    """

    lines: tuple[Line, ...]
    rates: tuple[LeakRate, ...]
    threshold: Threshold | None
    full_charge_kg: float | None
    label_only: bool
    now: ChargeNow | None

    @property
    def over(self) -> bool:
        """Whether the latest rate is above the rule's line."""
        return bool(self.threshold and self.rates and self.rates[-1].yearly > self.threshold.yearly)


def unit_book(connection: Connection, unit_id: UUID, facts: UnitFacts, settings: ShopSettings) -> UnitBook:
    """The book of one unit. What was put back after a recovery counts only beyond what had been recovered."""
    listed = store.lines(connection, unit_id=unit_id)
    standing = [line for line in listed if line.taken_back_at is None]
    made = visits.latest_target(connection, unit_id)
    full = target_from(ChargeTargetBody.model_validate(made), facts).kg if made else facts.label_charge_kg
    now = _charge_now(connection, unit_id, standing)
    if not full:
        return UnitBook(tuple(listed), (), None, None, True, now)
    rates = leak_rates(additions(standing), full, settings.method)
    threshold = threshold_of(settings.rule, use_of(facts.kind), facts.refrigerant, full)
    return UnitBook(tuple(listed), rates, threshold, full, made is None, now)


def _charge_now(connection: Connection, unit_id: UUID, standing: Sequence[Line]) -> ChargeNow | None:
    for visit in visits.visits_of_unit(connection, unit_id):
        sealed = SealedState.model_validate(visit.state.get("sealed", {}))
        inside = sealed.in_unit_g()
        if inside is None:
            continue
        known = [one.at for one in sealed.moved.values()] + ([sealed.recovered_to.at] if sealed.recovered_to else [])
        last = max(known, default=visit.planned_for)
        later = sum(_gained_g(line) for line in standing if line.visit_id != visit.id and line.at > last)
        return ChargeNow((inside + later) * GRAM_KG, last.date())
    return None


def _gained_g(line: Line) -> int:
    """What a unit gained by a movement, grams."""
    return line.movement.grams * ((line.movement.goal is Place.UNIT) - (line.movement.origin is Place.UNIT))


def additions(lines: Sequence[Line]) -> list[Addition]:
    """What each visit added over what it recovered: that is what had leaked."""
    by_visit: dict[object, list[Line]] = {}
    for line in lines:
        by_visit.setdefault(line.visit_id or line.id, []).append(line)
    found = []
    for group in by_visit.values():
        net = sum(_gained_g(one) for one in group)
        if net > 0:
            found.append(Addition(group[-1].at.date(), net * GRAM_KG))
    return found
