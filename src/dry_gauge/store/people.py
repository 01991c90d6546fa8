"""Sign-in, sessions and preferences, through functions that work before the shop is known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, select, text, update

from dry_gauge.store.models import Person


@dataclass(frozen=True, slots=True)
class Someone:
    """Who is signed in, of which shop, in what role, and how they read numbers."""

    shop_id: UUID
    shop_name: str
    superheat_school: str
    person_id: UUID
    name: str
    role: str
    temperature_unit: str
    pressure_unit: str
    theme: str
    weight_unit: str = "lb_oz"
    hints_seen: Sequence[str] = ()

    @property
    def may_write(self) -> bool:
        """Whether their role adds entries."""
        return self.role in ("technician", "lead")


_FIND = text("SELECT shop_id, person_id, password_hash FROM find_sign_in(:login)")
_START = text("SELECT start_session(:hash, :shop, :person, :lifetime)")
_END = text("SELECT end_session(:hash)")
_OPEN = text(
    "SELECT shop_id, shop_name, superheat_school, person_id, name, role, temperature_unit, pressure_unit, theme, weight_unit,"
    " hints_seen FROM open_session(:hash)"
)
_FORGIVE = text("SELECT forgive_hit(:key)")
_HIT = text("SELECT count_hit(:key, :seconds)")


def find_sign_in(connection: Connection, login: str) -> tuple[UUID, UUID, str] | None:
    """Shop, person and password hash of an active login."""
    row = connection.execute(_FIND, {"login": login}).one_or_none()
    return None if row is None else (row.shop_id, row.person_id, row.password_hash)


def start_session(
    connection: Connection, token_hash: bytes, shop_id: UUID, person_id: UUID, lifetime: timedelta
) -> None:
    """Remember a signed-in browser."""
    connection.execute(_START, {"hash": token_hash, "shop": shop_id, "person": person_id, "lifetime": lifetime})


def end_session(connection: Connection, token_hash: bytes) -> None:
    """Forget a signed-in browser; does no harm twice."""
    connection.execute(_END, {"hash": token_hash})


def open_session(connection: Connection, token_hash: bytes) -> Someone | None:
    """Whose token that is; the rest of the transaction then sees that shop's rows."""
    row = connection.execute(_OPEN, {"hash": token_hash}).one_or_none()
    return None if row is None else Someone(*row)


def count_hit(connection: Connection, key: str, seconds: int) -> int:
    """Count one hit of `key`; how many there were within this window."""
    return int(connection.execute(_HIT, {"key": key, "seconds": seconds}).scalar_one())


def forgive_hit(connection: Connection, key: str) -> None:
    """Take one hit of `key` back."""
    connection.execute(_FORGIVE, {"key": key})


_ADD = text("SELECT add_person(:actor, :id, :login, :name, :role, :hash)")
_CHANGE = text("SELECT change_person(:actor, :id, :role, :active, :hash)")


def everyone(connection: Connection) -> Sequence[Any]:
    """People of the shop, active ones first."""
    return connection.execute(
        select(Person.id, Person.login, Person.name, Person.role, Person.active).order_by(
            Person.active.desc(), Person.name
        )
    ).all()


def add_person(
    connection: Connection, actor: UUID, person_id: UUID, login: str, name: str, role: str, password_hash: str
) -> bool:
    """Add someone, as a lead; False if the login is taken or the actor is no lead."""
    asked = {"actor": actor, "id": person_id, "login": login, "name": name, "role": role, "hash": password_hash}
    return bool(connection.execute(_ADD, asked).scalar())


def change_person(
    connection: Connection, actor: UUID, person_id: UUID, role: str, active: bool, password_hash: str | None
) -> bool:
    """Change someone, as a lead; False if there is no such person or the actor is no lead."""
    asked = {"actor": actor, "id": person_id, "role": role, "active": active, "hash": password_hash}
    return bool(connection.execute(_CHANGE, asked).scalar())


_OWN_HASH = text("SELECT own_password_hash(:hash)")
_CHANGE_OWN = text("SELECT change_own_password(:hash, :changed)")
_END_OTHERS = text("SELECT end_other_sessions(:hash)")
_OWN_SESSIONS = text("SELECT expires_at, is_this FROM own_sessions(:hash)")


def own_password_hash(connection: Connection, token_hash: bytes) -> str | None:
    """The password hash of whoever has that session."""
    found: str | None = connection.execute(_OWN_HASH, {"hash": token_hash}).scalar()
    return found


def change_own_password(connection: Connection, token_hash: bytes, password_hash: str) -> None:
    """A new password for whoever has that session; their other sessions end."""
    connection.execute(_CHANGE_OWN, {"hash": token_hash, "changed": password_hash})


def end_other_sessions(connection: Connection, token_hash: bytes) -> int:
    """End every other session of the same person; how many there were."""
    return int(connection.execute(_END_OTHERS, {"hash": token_hash}).scalar_one())


def own_sessions(connection: Connection, token_hash: bytes) -> Sequence[Any]:
    """When each session of the same person ends, latest first, and which is this one."""
    return connection.execute(_OWN_SESSIONS, {"hash": token_hash}).all()


_HINT = text(
    "UPDATE person SET hints_seen = hints_seen || to_jsonb(cast(:hint AS text)) "
    "WHERE shop_id = :shop AND id = :person AND NOT hints_seen ? :hint"
)


def put_hint_away(connection: Connection, someone: Someone, hint: str) -> None:
    """Somebody has read a hint and does not want to see it again."""
    connection.execute(_HINT, {"hint": hint, "shop": someone.shop_id, "person": someone.person_id})


def set_preferences(connection: Connection, someone: Someone, changes: dict[str, Any]) -> None:
    """Change how someone reads numbers."""
    connection.execute(
        update(Person).where(Person.shop_id == someone.shop_id, Person.id == someone.person_id).values(changes)
    )
