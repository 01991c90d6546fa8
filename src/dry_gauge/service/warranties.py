"""Warranties as clocks, the evidence that a claim needs, and claims."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import day_of
from dry_gauge.core.office.warranty import EVIDENCE, KNOWN_BY_US, MOST_MONTHS, Cover, StartFrom, cover
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.service.allowed import NotHere, trained, unit_here
from dry_gauge.service.notebooks import load
from dry_gauge.store import warranties
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import find_visit
from dry_gauge.store.warranties import Claim, Warranty

ANSWERS = ("granted", "refused", "in part")


@dataclass(frozen=True, slots=True)
class Clock:
    """One warranty with how far each of its covers reaches; None where it covers nothing of that."""

    warranty: Warranty
    parts: Cover | None
    labour: Cover | None
    claims: Sequence[Claim]


def clocks_of(connection: Connection, unit_id: UUID, today: date) -> list[Clock]:
    """Every warranty of a unit as it stands today."""
    claims = warranties.claims_of(connection, unit_id)
    return [
        Clock(
            one,
            cover(one.starts_on, one.parts_months, today),
            cover(one.starts_on, one.labour_months, today),
            [claim for claim in claims if claim.warranty_id == one.id],
        )
        for one in warranties.warranties_of(connection, unit_id)
    ]


def add(
    connection: Connection,
    someone: Someone,
    unit_id: UUID,
    texts: Mapping[str, str],
    starts_on: date | None,
    start_from: str,
    months: tuple[int, int],
    today: date,
    warranty_id: UUID,
) -> None:
    """Put a warranty on record; the same one twice does no harm.

    Parameters
    ----------
    texts : mapping of str to str
        ``what``, ``whose`` and ``terms``.
    months : tuple of int
        Of parts and of labour.

    Raises
    ------
    NotHere, NotAllowed, Refused
    """
    trained(someone, "keeps warranties")
    unit_here(connection, unit_id)
    if start_from not in set(StartFrom):
        raise Refused("Say what its first day rests on.", "start_from")
    if starts_on is None:
        raise Refused("A warranty needs its first day: the installation, else the making.", "starts_on")
    if starts_on > today:
        raise Refused("It cannot begin after today.", "starts_on")
    if not any(months) or max(months) > MOST_MONTHS:
        raise Refused(f"It covers parts or labor for 1 to {MOST_MONTHS} months.", "parts_months")
    warranties.add_warranty(
        connection,
        shop_id=someone.shop_id,
        id=warranty_id,
        unit_id=unit_id,
        starts_on=starts_on,
        start_from=start_from,
        parts_months=months[0],
        labour_months=months[1],
        **texts,
    )


def drop(connection: Connection, someone: Someone, unit_id: UUID, warranty_id: UUID) -> None:
    """Take a warranty off that was entered by mistake."""
    trained(someone, "keeps warranties")
    _of_unit(connection, unit_id, warranty_id)
    warranties.drop_warranty(connection, warranty_id)


def claim(
    connection: Connection,
    someone: Someone,
    unit_id: UUID,
    warranty_id: UUID,
    failed: str,
    why: str,
    visit_id: UUID | None,
    now: datetime,
    claim_id: UUID,
) -> None:
    """Begin a claim; the same one twice does no harm.

    Raises
    ------
    NotHere, NotAllowed, Refused
        Also for a warranty of which every cover is over.
    """
    trained(someone, "keeps warranties")
    one = _of_unit(connection, unit_id, warranty_id)
    covers = [cover(one.starts_on, months, day_of(now)) for months in (one.parts_months, one.labour_months)]
    if not any(found and found.holds for found in covers):
        raise Refused("Every cover of this warranty is over.", f"claim-{warranty_id}")
    if visit_id is not None:
        visit = find_visit(connection, visit_id)
        if visit is None or visit.unit_id != unit_id:
            raise NotHere("There is no such visit to this unit.")
    warranties.add_claim(
        connection,
        shop_id=someone.shop_id,
        id=claim_id,
        warranty_id=warranty_id,
        visit_id=visit_id,
        person_id=someone.person_id,
        made_at=now,
        failed=failed,
        why=why,
        evidence={},
    )


def change_claim(
    connection: Connection,
    someone: Someone,
    unit_id: UUID,
    claim_id: UUID,
    ticked: Sequence[str],
    answer: str,
    cents: Mapping[str, int | None],
    today: date,
    *,
    sent: bool,
) -> None:
    """Tick its evidence, say its amounts, note that it went out, or what came back.

    Parameters
    ----------
    cents : mapping of str to int or None
        ``parts_cents`` and ``labour_cents`` it asks for, ``granted_cents`` that came back.

    Raises
    ------
    NotHere, NotAllowed, Refused
    """
    trained(someone, "keeps warranties")
    found = claim_of(connection, unit_id, claim_id)
    if (below := next((name for name, amount in cents.items() if amount is not None and amount < 0), None)) is not None:
        raise Refused("A claim asks for no less than nothing.", f"{below}-{claim_id}")
    if cents.get("granted_cents") is not None and not answer:
        raise Refused("Say with the amount what came back.", f"granted_cents-{claim_id}")
    has = {name: True for name in ticked if name in EVIDENCE and name not in KNOWN_BY_US}
    changes: dict[str, Any] = {"evidence": has, **cents}
    if sent and found.sent_on is None:
        changes["sent_on"] = today
    if answer and answer != found.answer:
        if answer not in ANSWERS:
            raise Refused(f"An answer is {', '.join(ANSWERS)}.", "answer")
        changes |= {"answer": answer, "answered_on": today}
    warranties.change_claim(connection, claim_id, **changes)


def claim_of(connection: Connection, unit_id: UUID, claim_id: UUID) -> Claim:
    """One claim on a unit's warranty.

    Raises
    ------
    NotHere
    """
    found = warranties.find_claim(connection, claim_id)
    if found is None or _of_unit(connection, unit_id, found.warranty_id) is None:
        raise NotHere("There is no such claim.")
    return found


def evidence_of(connection: Connection, someone: Someone, unit: Any, found: Claim) -> dict[str, bool]:
    """What a claim has: as it was ticked, and as the card and the notebook show it."""
    has = {name: bool(found.evidence.get(name)) for name in EVIDENCE}
    has["serial"], has["label_photo"] = bool(unit.model and unit.serial), unit.label_photo is not None
    if found.visit_id is not None:
        readings = load(connection, someone, found.visit_id).state[Readings]
        has["readings"] = bool(readings.latest or readings.before)
    return has


def _of_unit(connection: Connection, unit_id: UUID, warranty_id: UUID) -> Warranty:
    found = warranties.find_warranty(connection, warranty_id)
    if found is None or found.unit_id != unit_id:
        raise NotHere("There is no such warranty of this unit.")
    return found
