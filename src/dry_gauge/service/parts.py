"""Parts on their way: wanted, ordered, arrived, booked, put in; each step with its day."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, datetime
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.office.two_pieces import other_piece
from dry_gauge.service.allowed import NotHere, trained
from dry_gauge.service.planning import Wanted, add_call, call_off, change_call
from dry_gauge.store import parts
from dry_gauge.store.parts import Ordered
from dry_gauge.store.people import Someone
from dry_gauge.store.planning import find_call
from dry_gauge.store.visits import find_unit, find_visit

STEPS = ("ordered", "arrived", "booked", "done", "dropped")


def want(
    connection: Connection,
    someone: Someone,
    unit_id: UUID,
    texts: Mapping[str, str],
    pieces: int,
    visit_id: UUID | None,
    now: datetime,
    part_id: UUID,
) -> None:
    """Note a part that a unit needs; the same one twice does no harm.

    Parameters
    ----------
    texts : mapping of str to str
        ``what``, ``number``, ``from_whom`` and ``other_piece``: what was said of the piece that belongs to it.

    Raises
    ------
    NotHere, NotAllowed, Refused
        For a part that comes in two while nothing was said of the other piece.
    """
    trained(someone, "orders parts")
    if find_unit(connection, unit_id) is None or (visit_id is not None and find_visit(connection, visit_id) is None):
        raise NotHere("There is no such unit or visit in your shop.")
    asks = other_piece(texts["what"])
    if asks and not texts["other_piece"]:
        raise Refused(f"Both? To a {texts['what'].lower()} usually belongs: {asks}. Say whether that comes too.", "other_piece")
    parts.add_part(
        connection,
        shop_id=someone.shop_id,
        id=part_id,
        unit_id=unit_id,
        visit_id=visit_id,
        pieces=pieces,
        person_id=someone.person_id,
        made_at=now,
        **texts,
    )


def step(
    connection: Connection, someone: Someone, part_id: UUID, to: str, day: date, expected_on: date | None, why: str
) -> Ordered:
    """Take a part a step on. Booking it plans a return on that day; the same step again changes its day.

    Raises
    ------
    NotHere, NotAllowed, Refused
    """
    trained(someone, "follows parts")
    part = parts.find_part(connection, part_id, lock=True)
    if part is None:
        raise NotHere("There is no such part in your shop.")
    match to:
        case "ordered":
            parts.change_part(connection, part_id, ordered_on=day, expected_on=expected_on)
        case "arrived":
            parts.change_part(connection, part_id, arrived_on=day, ordered_on=part.ordered_on or day)
        case "booked":
            known = find_call(connection, part.return_visit) if part.return_visit else None
            if known is not None and known.status == "planned":
                change_call(connection, someone, known.id, Wanted(day))
            else:
                wanted = Wanted(day, complaint=f"Put in: {part.what}", bring=_bring(part))
                call = add_call(connection, someone, uuid6.uuid7(), part.unit_id, wanted)
                parts.change_part(connection, part_id, return_visit=call.id)
        case "done":
            parts.change_part(connection, part_id, done_on=day)
        case "dropped":
            if not why:
                raise Refused("Say why it is not needed any more.", "why")
            parts.change_part(connection, part_id, dropped=why)
            _leave_return(connection, someone, part, why)
        case _:
            raise Refused(f"A part is {', '.join(STEPS)}.", "to")
    found = parts.find_part(connection, part_id)
    assert found is not None
    return found


def _leave_return(connection: Connection, someone: Someone, part: Ordered, why: str) -> None:
    """Call the return for a part off that is not needed any more, where it is only planned and theirs to move."""
    known = find_call(connection, part.return_visit) if part.return_visit else None
    if known is not None and known.status == "planned" and (someone.role == "lead" or known.technician_id == someone.person_id):
        call_off(connection, someone, known.id, f"{part.what} is not needed any more: {why}")


def _bring(part: Ordered) -> str:
    pieces = f"{part.pieces} x " if part.pieces > 1 else ""
    number = f" ({part.number})" if part.number else ""
    return f"{pieces}{part.what}{number}" + (f"; {part.other_piece}" if part.other_piece else "")
