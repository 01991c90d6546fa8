"""A visit is opened where one stands: to a unit that is known, or to one that is put on a card with a few facts."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any, TypeVar
from uuid import UUID, uuid5

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import local, local_at
from dry_gauge.core.vocabulary import Kind
from dry_gauge.notebook.kind import KINDS, Body
from dry_gauge.notebook.subjects.remarks import NoteBody
from dry_gauge.service.allowed import unit_here, writer
from dry_gauge.service.append import Sent, append_all
from dry_gauge.service.today import today_here
from dry_gauge.store import register
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import add_visit, find_visit

T = TypeVar("T")
_TAG = {
    Kind.SPLIT_AC: "AC",
    Kind.PACKAGE_AC: "RTU",
    Kind.SPLIT_HEAT_PUMP: "HP",
    Kind.PACKAGE_HEAT_PUMP: "RTU",
    Kind.WALK_IN_COOLER: "Cooler",
    Kind.WALK_IN_FREEZER: "Freezer",
}
# "RTU-3, waiting hall": a short name with a number in it before the first comma is the unit's own.
_TAGGED = re.compile(r"\s*([A-Za-z][\w.-]{0,11}[ -]?\d{1,3}[A-Za-z]?)\s*(?:,\s*(.*))?", re.DOTALL)
# What belongs to the place and not to the model.
_OF_THE_PLACE = frozenset({"elevation_ft", "design_box_temp_f", "head_setting_f", "mode"})


@dataclass(frozen=True, slots=True)
class Alike:
    """A unit of the same model in the shop: what its card says and its own name."""

    unit_id: UUID
    said: str
    maker: str
    facts: Mapping[str, Any]


def alike(connection: Connection, model: str) -> Alike | None:
    """A unit of that very model, whose card fills another's; None where the shop has none."""
    found = register.unit_of_model(connection, model)
    if found is None:
        return None
    facts = {name: value for name, value in found.facts.items() if name not in _OF_THE_PLACE}
    return Alike(found.id, f"{found.tag}, {found.site_name}", found.maker or "", facts)


@dataclass(frozen=True, slots=True)
class Next:
    """A visit that someone may open next; its id is known before, so that its page can be kept for where there is no signal."""

    visit_id: UUID
    unit_id: UUID
    facts: Mapping[str, Any]


def next_visits(connection: Connection, someone: Someone) -> dict[UUID, Next]:
    """Visits to the units beside somebody's calls of the day, by unit; each has the same id until it is opened."""
    if not someone.may_write:
        return {}
    beside = register.units_beside(connection, someone.person_id, local_at(today_here()))
    return {unit.id: Next(uuid5(unit.id, f"{someone.person_id} {unit.last_visit}"), unit.id, unit.facts) for unit in beside}


def as_opened(connection: Connection, someone: Someone, unit_id: UUID, visit_id: UUID, look: Callable[[], T]) -> T:
    """What `look` finds of a visit as it will be once it is opened; nothing of it stays.

    Raises
    ------
    NotHere, NotAllowed
    """
    with connection.begin_nested() as trial:
        open_known(connection, someone, unit_id, visit_id)
        found = look()
        trial.rollback()
    return found


def open_known(connection: Connection, someone: Someone, unit_id: UUID, visit_id: UUID, waited: timedelta = timedelta(0)) -> None:
    """Open a visit to a unit of the register, now or when it was begun; the same id again opens no second one.

    Parameters
    ----------
    waited : timedelta
        How long it waited for a connection.

    Raises
    ------
    NotHere, NotAllowed
    """
    may_open(someone)
    unit_here(connection, unit_id)
    add_visit(
        connection,
        shop_id=someone.shop_id,
        id=visit_id,
        unit_id=unit_id,
        technician_id=someone.person_id,
        planned_for=local(datetime.now(UTC) - waited),
        status="open",
    )


def open_new(
    connection: Connection,
    someone: Someone,
    visit_id: UUID,
    site: str,
    unit: str,
    facts: Mapping[str, Any],
    card: Mapping[str, Any],
) -> None:
    """Put a unit on a card at a site, known or new, and open a visit to it; the same id again adds nothing.

    Parameters
    ----------
    unit : str
        Its tag and what it serves as they were typed; a tag that is not given is made from its sort.
    facts, card : mapping
        The `unit` block of a reading sheet, and the card's other columns.

    Raises
    ------
    NotAllowed
    """
    may_open(someone)
    if find_visit(connection, visit_id) is not None:
        return
    site_id = register.site_named(connection, site)
    if site_id is None:
        site_id = uuid6.uuid7()
        register.add_site(connection, shop_id=someone.shop_id, id=site_id, name=site)
    tag, serves = _named(unit, Kind(facts["kind"]), [one.tag for one in register.units_of_site(connection, site_id)])
    unit_id = uuid6.uuid7()
    register.add_unit(
        connection, shop_id=someone.shop_id, id=unit_id, site_id=site_id, tag=tag, serves=serves, facts=dict(facts), **card
    )
    open_known(connection, someone, unit_id, visit_id)


def put_down(connection: Connection, someone: Someone, visit_id: UUID, bodies: Sequence[Body], unread: Sequence[str]) -> None:
    """Enter what was typed before there was a visit. Twice does no harm; what the visit does not take stays as a note.

    Raises
    ------
    NotHere, NotAllowed
    """
    now = local(datetime.now(UTC))
    sent = [Sent(uuid5(visit_id, body.model_dump_json()), body) for body in bodies]
    after = append_all(connection, someone, visit_id, sent, now)
    refused = [
        ": ".join((*KINDS[body.kind].said(body, after.state), outcome.message))
        for body, outcome in zip(bodies, after.found, strict=True)
        if isinstance(outcome, Refused)
    ]
    if unread or refused:
        note = NoteBody(text="\n".join(["Of one sheet:", *unread, *refused]))
        append_all(connection, someone, visit_id, [Sent(uuid5(visit_id, note.text), note)], now)


def _named(typed: str, kind: Kind, taken: Sequence[str]) -> tuple[str, str]:
    tagged = _TAGGED.fullmatch(typed)
    if tagged:
        return tagged[1], (tagged[2] or "").strip()
    free = next(number for number in range(1, len(taken) + 2) if f"{_TAG[kind]}-{number}" not in taken)
    return f"{_TAG[kind]}-{free}", typed.strip()


def may_open(someone: Someone) -> None:
    """Whether someone opens visits.

    Raises
    ------
    NotAllowed
    """
    writer(someone, "opens visits")
