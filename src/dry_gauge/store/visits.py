"""Queries about sites, units, visits and their notebooks. The shop is set on the connection; rows of others do not exist."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, Integer, Row, Select, Uuid, bindparam, exists, func, or_, select, text, tuple_
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP, distinct_on
from sqlalchemy.orm import aliased

from dry_gauge.notebook.entries import BODY
from dry_gauge.notebook.kind import Entry
from dry_gauge.present.visit import VisitRow
from dry_gauge.store.models import EntryRow, Person, Site, Unit, Visit, of_model
from dry_gauge.store.once import add_once
from dry_gauge.store.sound_days import EARLIER_OF_VISIT

_Along = aliased(Person)
_ALONG = (
    select(_Along.name).where(_Along.shop_id == Visit.shop_id, _Along.id == Visit.along_id).correlate(Visit).scalar_subquery()
)
_VISITS = (
    select(
        Visit.id, Visit.status, Visit.planned_for, Visit.complaint, Visit.summary, Visit.sequence, Visit.state,
        Visit.technician_id, Person.name, Visit.unit_id, Unit.tag, Unit.serves, Unit.facts, Site.name, Visit.call_id,
        Visit.closed_at, Visit.outcome, Visit.fold_version, Visit.at_work, Visit.opened_after, Unit.circuits,
        EARLIER_OF_VISIT, Visit.bring, _ALONG,
    )
    .join(Unit, (Unit.shop_id == Visit.shop_id) & (Unit.id == Visit.unit_id))
    .join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
    .join(Person, (Person.shop_id == Visit.shop_id) & (Person.id == Visit.technician_id))
)  # fmt: skip
# A call that was called off is planned no more; one that was begun all the same stands.
STANDS = or_(Visit.called_off.is_(None), Visit.status != "planned")
_FED = text(
    "SELECT visit.id, visit.at_work, unit.facts, unit.tag FROM visit JOIN unit ON unit.shop_id = visit.shop_id "
    "AND unit.id = visit.unit_id WHERE visit.id = :visit_id"
)
_ONE_VISIT = _VISITS.where(Visit.id == text(":visit_id"))
_ONE_VISIT_LOCKED = _ONE_VISIT.with_for_update(of=Visit)


def find_visit(connection: Connection, visit_id: UUID, *, lock: bool = False) -> VisitRow | None:
    """One visit; locked, its notebook stays as it is until the transaction ends."""
    row = connection.execute(_ONE_VISIT_LOCKED if lock else _ONE_VISIT, {"visit_id": visit_id}).one_or_none()
    return None if row is None else VisitRow(*row)


@dataclass(frozen=True, slots=True)
class FedVisit:
    """What a hub needs of the visit that it feeds; never its state."""

    id: UUID
    at_work: dict[str, str]
    facts: dict[str, Any]
    tag: str


def find_fed(connection: Connection, visit_id: UUID) -> FedVisit | None:
    """The visit that a hub feeds."""
    row = connection.execute(_FED, {"visit_id": visit_id}).one_or_none()
    return None if row is None else FedVisit(*row)


def visits_between(connection: Connection, start: datetime, end: datetime) -> list[VisitRow]:
    """Visits planned within a time, in order."""
    rows = connection.execute(
        _VISITS.where(Visit.planned_for >= start, Visit.planned_for < end, STANDS).order_by(Visit.planned_for)
    )
    return [VisitRow(*row) for row in rows]


def open_visits_before(connection: Connection, moment: datetime, limit: int = 20) -> list[VisitRow]:
    """Visits still open from before, latest first."""
    rows = connection.execute(
        _VISITS.where(Visit.status == "open", Visit.planned_for < moment).order_by(Visit.planned_for.desc()).limit(limit)
    )
    return [VisitRow(*row) for row in rows]


def closed_with_something_open(connection: Connection, limit: int = 12) -> list[VisitRow]:
    """Closed visits in which something came to stand open afterwards: what cannot be let go first, then the latest."""
    rows = connection.execute(
        _VISITS.where(Visit.status == "closed", Visit.opened_after != [])
        .order_by(Visit.opened_after[0]["firm"].as_boolean().desc(), Visit.closed_at.desc())
        .limit(limit)
    )
    return [VisitRow(*row) for row in rows]


def visits_of_unit(connection: Connection, unit_id: UUID, limit: int = 40) -> list[VisitRow]:
    """Visits to one unit, latest first."""
    rows = connection.execute(_VISITS.where(Visit.unit_id == unit_id, STANDS).order_by(Visit.planned_for.desc()).limit(limit))
    return [VisitRow(*row) for row in rows]


def find_unit(connection: Connection, unit_id: UUID) -> Row[Any] | None:
    """A unit with its site."""
    return connection.execute(
        select(
            Unit.id,
            Unit.tag,
            Unit.serves,
            Unit.maker,
            Unit.model,
            Unit.serial,
            Unit.made_year,
            Unit.facts,
            Unit.card_notes,
            Unit.partner,
            Unit.partner_id,
            Unit.disconnects,
            Unit.circuits,
            Unit.stages,
            Unit.label_from,
            Unit.label_photo,
            Unit.site_id,
            Site.access,
            Site.name.label("site_name"),
            Site.address,
        )
        .join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
        .where(Unit.id == unit_id)
    ).one_or_none()


def all_units(connection: Connection, ids: Sequence[UUID] | None = None) -> Sequence[Row[Any]]:
    """Units with their sites, by site and tag: those of `ids`, or all."""
    asked = (
        select(Unit.id, Unit.tag, Unit.serves, Unit.facts, Unit.site_id, Site.name.label("site_name"))
        .join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
        .order_by(Site.name, Unit.tag)
    )
    return connection.execute(asked if ids is None else asked.where(Unit.id.in_(ids))).all()


_AS_A_FOOT = EntryRow.body["kind"].as_string() == "new_unit"
_MODEL, _MAKER = (func.lower(EntryRow.body[name].as_string()) for name in ("model", "maker"))
_VOIDS = aliased(EntryRow)
_FEET = (
    select(EntryRow.body, EntryRow.written_at, Person.name)
    .join(Person, (Person.shop_id == EntryRow.shop_id) & (Person.id == EntryRow.person_id))
    .where(_AS_A_FOOT, _MODEL != "")
    .where(~exists().where(_VOIDS.shop_id == EntryRow.shop_id, _VOIDS.voids == EntryRow.id))
    .ext(distinct_on(_MAKER, _MODEL))
    .order_by(_MAKER, _MODEL, EntryRow.written_at.desc())
    .limit(60)
)


def feet_of_models(connection: Connection) -> Sequence[Any]:
    """Of every model whose foot was put down on some visit, the latest that stands."""
    return connection.execute(_FEET).all()


def tables_of_model(connection: Connection, unit_id: UUID, but: UUID, kinds: Sequence[str]) -> Sequence[dict[str, Any]]:
    """Tables of those kinds that stand in other visits to this unit or to one of its model, the oldest first."""
    own, other = aliased(Unit), aliased(Unit)
    return list(
        connection.execute(
            select(EntryRow.body)
            .join(Visit, (Visit.shop_id == EntryRow.shop_id) & (Visit.id == EntryRow.visit_id))
            .join(other, (other.shop_id == Visit.shop_id) & (other.id == Visit.unit_id))
            .join(own, (own.shop_id == other.shop_id) & ((own.id == other.id) | of_model(own, other.model)))
            .where(own.id == unit_id, Visit.id != but, EntryRow.body["kind"].as_string().in_(kinds))
            .where(~exists().where(_VOIDS.shop_id == EntryRow.shop_id, _VOIDS.voids == EntryRow.id))
            .order_by(EntryRow.written_at, EntryRow.sequence)
        ).scalars()
    )


def find_entries(connection: Connection, ids: Sequence[UUID]) -> dict[UUID, tuple[UUID, Entry]]:
    """The entries of those ids that are on record, each with the visit it stands in."""
    rows = connection.execute(_ENTRIES.where(EntryRow.id.in_(ids)))
    return {row.id: (row.visit_id, _entry(row)) for row in rows}


def find_entry(connection: Connection, entry_id: UUID) -> tuple[UUID, Entry] | None:
    """The entry of that id, and the visit it stands in."""
    row = connection.execute(_ONE_ENTRY, {"entry_id": entry_id}).one_or_none()
    return None if row is None else (row.visit_id, _entry(row))


# Statements on the way of every posted entry are built once: building one costs more than running it. This one adds the
# entries and writes the state they fold to: together or not at all, in one round trip.
_KEEP = text("""
    WITH added AS (
        INSERT INTO entry (shop_id, id, visit_id, sequence, person_id, written_at, received_at, device_time, sender, voids,
                           body)
        SELECT :shop_id, id, :visit_id, sequence, person_id, written_at, received_at, device_time, sender, voids, body
        FROM jsonb_to_recordset(:entries) AS sent (id uuid, sequence integer, person_id uuid, written_at timestamptz,
             received_at timestamptz, device_time timestamptz, sender varchar, voids uuid, body jsonb)
        ON CONFLICT DO NOTHING RETURNING id
    ), told AS (
        SELECT pg_notify('dry_gauge', json_build_object('visit', :visit_id, 'sequence', :sequence)::text)
        FROM (SELECT count(*) AS n FROM added) AS counted WHERE n = :n
    )
    UPDATE visit SET sequence = :sequence, state = :state, fold_version = :fold_version, rule_set = :rule_set,
                     status = :status, summary = :summary, outcome = :outcome, closed_at = :closed_at, at_work = :at_work,
                     opened_after = :opened_after
    WHERE shop_id = :shop_id AND id = :visit_id AND EXISTS (SELECT 1 FROM told) RETURNING id
""").bindparams(
    bindparam("entries", type_=JSONB),
    bindparam("state", type_=JSONB),
    bindparam("at_work", type_=JSONB),
    bindparam("opened_after", type_=JSONB),
    bindparam("visit_id", type_=Uuid),
    bindparam("closed_at", type_=TIMESTAMP(timezone=True)),
)
_REFOLDED = text("""
    UPDATE visit SET state = :state, fold_version = :fold_version, at_work = :at_work
    WHERE id = :visit_id AND sequence = :sequence AND fold_version < :fold_version
""").bindparams(bindparam("state", type_=JSONB), bindparam("at_work", type_=JSONB))


@dataclass(frozen=True, slots=True)
class Head:
    """What the visit's own row says: open or closed, how it ended, by which rules it was judged, what is under way.

    Parameters
    ----------
    at_work : dict
        Pump and pour, for hubs that follow them.
    opened_after : list of dict
        What came to stand open by entries that arrived after the closing.
    """

    status: str
    summary: str
    outcome: str
    closed_at: datetime | None
    rule_set: str
    at_work: dict[str, str]
    opened_after: list[dict[str, Any]]


def keep(
    connection: Connection,
    shop_id: UUID,
    visit_id: UUID,
    entries: Sequence[Entry],
    state: dict[str, Any],
    fold_version: int,
    head: Head,
) -> bool:
    """Add entries, save the state after them, and tell whoever looks at the visit.

    False, with the visit as it was, if an id is taken already or an entry that one of them voids is voided already.
    """
    done = connection.execute(
        _KEEP,
        {
            "shop_id": shop_id,
            "visit_id": visit_id,
            "n": len(entries),
            "entries": [_row(entry) for entry in entries],
            "sequence": state["sequence"],
            "state": state,
            "fold_version": fold_version,
            "rule_set": head.rule_set,
            "status": head.status,
            "summary": head.summary,
            "outcome": head.outcome,
            "closed_at": head.closed_at,
            "at_work": head.at_work,
            "opened_after": head.opened_after,
        },
    )
    return done.first() is not None


def _row(entry: Entry) -> dict[str, Any]:
    row = entry.model_dump(mode="json", exclude={"body"})
    body = entry.body.model_dump(mode="json", exclude_none=True)
    return {**row, "body": body, "voids": body.get("voids")}


def save_refolded(
    connection: Connection, visit: VisitRow, state: dict[str, Any], fold_version: int, at_work: dict[str, str]
) -> None:
    """Keep a state that was folded anew from the entries, unless somebody was faster."""
    connection.execute(
        _REFOLDED,
        {"visit_id": visit.id, "sequence": visit.sequence, "state": state, "fold_version": fold_version, "at_work": at_work},
    )


_ENTRIES = select(
    EntryRow.id,
    EntryRow.visit_id,
    EntryRow.sequence,
    EntryRow.person_id,
    EntryRow.written_at,
    EntryRow.received_at,
    EntryRow.device_time,
    EntryRow.sender,
    EntryRow.body,
)


_ONE_ENTRY = _ENTRIES.where(EntryRow.id == bindparam("entry_id"))


def _entry(row: Row[Any]) -> Entry:
    return Entry(
        id=row.id,
        sequence=row.sequence,
        person_id=row.person_id,
        written_at=row.written_at,
        received_at=row.received_at,
        device_time=row.device_time,
        sender=row.sender,
        body=BODY.validate_python(row.body),
    )


def all_entries(connection: Connection, visit_id: UUID) -> list[Entry]:
    """A whole notebook, as it arrived."""
    rows = connection.execute(_ENTRIES.where(EntryRow.visit_id == visit_id).order_by(EntryRow.sequence))
    return [_entry(row) for row in rows]


@dataclass(frozen=True, slots=True)
class TimelineRow:
    """One entry as the timeline shows it."""

    entry: Entry
    person: str
    voided_by: str | None
    void_reason: str


_TAKEN_BACK, _VOIDER = aliased(EntryRow), aliased(Person)
_LINES = (
    _ENTRIES.add_columns(Person.name, _VOIDER.name.label("voider"), _TAKEN_BACK.body["reason"].astext.label("reason"))
    .join(Person, (Person.shop_id == EntryRow.shop_id) & (Person.id == EntryRow.person_id))
    .outerjoin(_TAKEN_BACK, (_TAKEN_BACK.shop_id == EntryRow.shop_id) & (_TAKEN_BACK.voids == EntryRow.id))
    .outerjoin(_VOIDER, (_VOIDER.shop_id == _TAKEN_BACK.shop_id) & (_VOIDER.id == _TAKEN_BACK.person_id))
    .where(EntryRow.visit_id == bindparam("visit_id"))
    .limit(bindparam("rows", type_=Integer))
)
_TIMELINE = _LINES.order_by(EntryRow.written_at.desc(), EntryRow.sequence.desc())
_RECORD = _LINES.order_by(EntryRow.written_at, EntryRow.sequence).offset(bindparam("skip", type_=Integer))
_PLACE = tuple_(EntryRow.written_at, EntryRow.sequence)
_MARK = aliased(EntryRow)
_MARKED_AT = select(_MARK.written_at).where(
    _MARK.visit_id == bindparam("visit_id"), _MARK.sequence == bindparam("before", type_=Integer)
)
_TIMELINE_BEFORE = _TIMELINE.where(tuple_(_MARKED_AT.scalar_subquery(), bindparam("before", type_=Integer)) > _PLACE)
_TIMELINE_AFTER = _TIMELINE.where(EntryRow.sequence > bindparam("after"))


def timeline(
    connection: Connection, visit_id: UUID, *, before: int | None = None, after: int | None = None, limit: int = 40
) -> list[TimelineRow]:
    """Entries in order, the last first, each with who wrote it and who voided it.

    Parameters
    ----------
    before : int or None
        Only what stands before the entry with that sequence.
    after : int or None
        Only what arrived after the entry with that sequence.
    """
    asked: dict[str, Any] = {"visit_id": visit_id, "rows": limit}
    statement = _TIMELINE
    if before is not None:
        statement, asked = _TIMELINE_BEFORE, asked | {"before": before}
    elif after is not None:
        statement, asked = _TIMELINE_AFTER, asked | {"after": after}
    return _lines(connection, statement, asked)


# An entry that was there before stands above one that came since: what came has to go further down.
_OVERTAKEN = text("""
    SELECT EXISTS (
        SELECT FROM entry WHERE visit_id = :visit_id AND sequence <= :after AND (written_at, sequence) > (
            SELECT written_at, sequence FROM entry WHERE visit_id = :visit_id AND sequence > :after
            ORDER BY written_at, sequence LIMIT 1
        )
    )
""")


def stands_on_top(connection: Connection, visit_id: UUID, after: int) -> bool:
    """Whether all that arrived after the entry with that sequence stands above all that was there: nothing came late."""
    return not connection.execute(_OVERTAKEN, {"visit_id": visit_id, "after": after}).scalar_one()


def record_lines(connection: Connection, visit_id: UUID, *, skip: int, rows: int) -> list[TimelineRow]:
    """Entries in order, the first first, each with who wrote it and who voided it."""
    return _lines(connection, _RECORD, {"visit_id": visit_id, "skip": skip, "rows": rows})


def _lines(connection: Connection, statement: Select[Any], asked: Mapping[str, Any]) -> list[TimelineRow]:
    return [TimelineRow(_entry(row), row.name, row.voider, row.reason or "") for row in connection.execute(statement, asked)]


def moments_of(connection: Connection, visit_id: UUID) -> list[datetime]:
    """When each entry was written, in order; also of those that were taken back: somebody was there."""
    asked = select(EntryRow.written_at).where(EntryRow.visit_id == visit_id).order_by(EntryRow.written_at, EntryRow.sequence)
    return list(connection.execute(asked).scalars())


def visits_of_call(connection: Connection, call_id: UUID) -> list[VisitRow]:
    """The visits of one call, one a unit, in the order in which they were begun."""
    rows = connection.execute(_VISITS.where(Visit.call_id == call_id).order_by(Visit.planned_for, Unit.tag))
    return [VisitRow(*row) for row in rows]


def add_visit(connection: Connection, **values: Any) -> None:
    """Plan a visit; without a `call_id` it is a call of its own. The same id again adds nothing."""
    add_once(connection, Visit, **{"call_id": values["id"], **values})


# The other paths are where states of before had it, until their visit is touched.
_LATEST_TARGETS = text("""
    SELECT DISTINCT ON (unit_id) unit_id, target FROM (
        SELECT unit_id, planned_for,
               coalesce(state #> '{parts,chargetarget,targets,1,body}', state #> '{parts,chargetarget,made,body}',
                        state #> '{parts,charge,target,body}', state #> '{sealed,target,body}') AS target
        FROM visit WHERE unit_id = ANY(:units)
    ) AS found WHERE target IS NOT NULL ORDER BY unit_id, planned_for DESC
""")


def latest_targets(connection: Connection, units: Sequence[UUID]) -> dict[UUID, dict[str, Any]]:
    """The charge target that was made last for each unit's first circuit, as its entry's body; those that ever had one."""
    return {row.unit_id: row.target for row in connection.execute(_LATEST_TARGETS, {"units": list(units)})} if units else {}


def people_of_visit(connection: Connection, visit_id: UUID) -> list[str]:
    """Names of those who wrote in a visit's notebook."""
    asked = (
        select(Person.name)
        .join(EntryRow, (EntryRow.shop_id == Person.shop_id) & (EntryRow.person_id == Person.id))
        .where(EntryRow.visit_id == visit_id)
        .distinct()
        .order_by(Person.name)
    )
    return list(connection.execute(asked).scalars())
