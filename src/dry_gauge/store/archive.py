"""Every row of a shop, out and in: which tables belong where, and which are left out and why.

Rows keep their ids; only the shop is another where they come in. A table that nobody names here fails a test.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Column, Connection, Table, func, insert, select, text, update

from dry_gauge.store import models
from dry_gauge.store.models import Base

LEFT_OUT: Mapping[str, str] = {
    "shop": "stands in the archive's own file; the shop that takes it in keeps its name",
    "person": "without passwords: a lead gives each a new one",
    "web_session": "whoever is signed in signs in again",
    "second_factor": "a secret",
    "recovery_code": "a secret",
    "rate_window": "counts of tries",
    "probe_token": "a secret",
    "probe_hub": "how far a hub had sent",
    "job": "work under way",
    "job_piece": "work under way",
}
OF_UNIT = ("component", "unit_change", "warranty", "photo")
OF_VISIT = (
    "entry",
    "follow_up",
    "sound_day",
    "control_chain",
    "control_finding",
    "board_code",
    "owner_report",
    "owner_link",
    "proposal",
    "decision",
    "visit_result",
    "visit_held",
)
FIRST = ("site", "instrument", "cylinder", "price", "board_line")
LAST = ("movement", "part_order", "warranty_claim", "audit_event", "practice_case", "practice_game")
"""They point at visits and at each other's units: they come in after those."""
_BYTES = frozenset({"picture", "thumbnail", "clip"})
_PEOPLE = ("id", "login", "name", "role", "active", "temperature_unit", "pressure_unit", "weight_unit", "theme", "clock")
_PREFERENCES = _PEOPLE[5:]


def table(name: str) -> Table:
    """One table by its name."""
    return Base.metadata.tables[name]


def _columns(name: str) -> list[Column[Any]]:
    return [column for column in table(name).columns if column.name != "shop_id" and column.name not in _BYTES]


def _order(name: str) -> list[Any]:
    """So that the same shop makes the same archive: in the order of its keys, entries in theirs."""
    if name == "entry":
        return [table(name).c.sequence, table(name).c.id]
    return [column for column in table(name).primary_key.columns if column.name != "shop_id"]


def rows_of(connection: Connection, name: str, **where: Any) -> list[dict[str, Any]]:
    """Rows of a table as JSON has them, without their shop."""
    asked = select(*_columns(name)).order_by(*_order(name))
    for column, value in where.items():
        asked = asked.where(table(name).c[column] == value)
    return [{key: _plain(value) for key, value in row.items()} for row in connection.execute(asked).mappings()]


def _plain(value: Any) -> Any:
    if isinstance(value, datetime | date):
        return value.isoformat()
    return str(value) if isinstance(value, UUID) else value


def ids_of(connection: Connection, name: str) -> list[UUID]:
    """Ids of units or visits, in order."""
    asked = select(table(name).c.id).order_by(*([table(name).c.planned_for] if name == "visit" else []), table(name).c.id)
    return list(connection.execute(asked).scalars())


def people_rows(connection: Connection) -> list[dict[str, Any]]:
    """People without their passwords."""
    columns = [models.Person.__table__.c[name] for name in _PEOPLE]
    rows = connection.execute(select(*columns).order_by(models.Person.id)).mappings()
    return [{key: _plain(value) for key, value in row.items()} for row in rows]


def shop_row(connection: Connection) -> dict[str, Any]:
    """The shop itself."""
    asked = select(models.Shop.name, models.Shop.town, models.Shop.superheat_school, models.Shop.settings)
    return dict(connection.execute(asked).mappings().one())


def picture_of(connection: Connection, photo_id: UUID) -> dict[str, bytes]:
    """A photo's bytes by column: the photo, its small one, and the clip that it stands for where it does."""
    asked = select(*(table("photo").c[name] for name in sorted(_BYTES))).where(models.Photo.id == photo_id)
    found = connection.execute(asked).mappings().one()
    return {name: bytes(value) for name, value in found.items() if value is not None}


_SAMPLES = text(
    "SELECT at, hub, n, probe, quantity, circuit, value_si, state FROM sample WHERE visit_id = :visit ORDER BY at, hub, n, probe"
)
SAMPLE_COLUMNS = ("at", "hub", "n", "probe", "quantity", "circuit", "value_si", "state")


def samples_of(connection: Connection, visit_id: UUID) -> Iterator[tuple[Any, ...]]:
    """What live probes sent to a visit, as long as it is kept."""
    for row in connection.execute(_SAMPLES, {"visit": visit_id}):
        yield (row.at.isoformat(), *row[1:])


# -- in --------------------------------------------------------------------


def is_empty(connection: Connection) -> bool:
    """Whether the shop holds nothing yet: no site, no unit, no visit, no cylinder, no price."""
    return all(
        connection.execute(select(func.count()).select_from(table(name))).scalar_one() == 0
        for name in ("site", "unit", "visit", "cylinder", "price")
    )


def add_rows(connection: Connection, shop_id: UUID, name: str, rows: Sequence[Mapping[str, Any]]) -> None:
    """Rows as JSON has them, into that shop.

    Raises
    ------
    KeyError, ValueError, TypeError
        For a row that is none of this table's.
    """
    if not rows:
        return
    columns = {column.name: column for column in _columns(name)}
    values = []
    for row in rows:
        unknown = row.keys() - columns.keys()
        if unknown:
            raise KeyError(f"{name} has no {', '.join(sorted(unknown))}")
        values.append({"shop_id": shop_id, **{key: _typed(columns[key], value) for key, value in row.items()}})
    for keys in {frozenset(one) for one in values}:
        connection.execute(insert(table(name)), [one for one in values if frozenset(one) == keys])


def _typed(column: Column[Any], value: Any) -> Any:
    if value is None:
        return None
    sort = column.type.python_type if column.type.__class__.__name__ != "JSONB" else None
    if sort is datetime:
        return datetime.fromisoformat(value)
    if sort is date:
        return date.fromisoformat(value)
    return UUID(value) if sort is UUID else value


def add_photo(connection: Connection, shop_id: UUID, row: Mapping[str, Any], held: Mapping[str, bytes]) -> None:
    """A photo with its bytes by column."""
    columns = {column.name: column for column in _columns("photo")}
    values = {key: _typed(columns[key], value) for key, value in row.items()}
    connection.execute(insert(table("photo")).values(shop_id=shop_id, **held, **values))


_ADD_SAMPLE = text(
    "INSERT INTO sample (shop_id, visit_id, at, hub, n, probe, quantity, circuit, value_si, state) "
    "VALUES (:shop_id, :visit_id, :at, :hub, :n, :probe, :quantity, :circuit, :value_si, :state)"
)


def add_samples(connection: Connection, shop_id: UUID, visit_id: UUID, rows: Sequence[Mapping[str, Any]]) -> None:
    """Samples of one visit."""
    if rows:
        connection.execute(_ADD_SAMPLE, [{"shop_id": shop_id, "visit_id": visit_id, **row} for row in rows])


_ADD_PERSON = text("SELECT add_person(:actor, :id, :login, :name, :role, :hash)")
_SET_ACTIVE = text("SELECT change_person(:actor, :id, :role, :active, NULL)")


def add_person(connection: Connection, actor: UUID, row: Mapping[str, Any], password_hash: str) -> str:
    """Somebody of the archive, under a login that is free; nobody knows the password yet. The login that it became."""
    given = {"actor": actor, "id": UUID(row["id"]), "name": row["name"], "role": row["role"], "hash": password_hash}
    login, n = str(row["login"]), 1
    while not connection.execute(_ADD_PERSON, {**given, "login": login}).scalar():
        n += 1
        login = f"{row['login']}-{n}"
    if not row["active"]:
        connection.execute(_SET_ACTIVE, {"actor": actor, "id": UUID(row["id"]), "role": row["role"], "active": False})
    values = {name: row[name] for name in _PREFERENCES if name in row}  # an older release knew fewer
    connection.execute(update(models.Person).where(models.Person.id == UUID(row["id"])).values(values))
    return login


def set_settings(connection: Connection, settings: Mapping[str, Any]) -> None:
    """The shop's settings as they were."""
    connection.execute(update(models.Shop).values(settings=dict(settings)))
