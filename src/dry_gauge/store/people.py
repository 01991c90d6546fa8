"""Sign-in, sessions and preferences, through functions that work before the shop is known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, func, literal, select, text, update

from dry_gauge.store.database import see_shop
from dry_gauge.store.models import Person, Shop
from dry_gauge.store.usual_clock import usual_clock


@dataclass(frozen=True, slots=True)
class Practising:
    """A play that somebody is in: where its rows are, and how late it is there.

    Parameters
    ----------
    shop_id, person_id : UUID
        Their own shop and id, outside of the practice shop.
    visit_id : UUID or None
        Its notebook, once there is one.
    now : datetime
        By the play's own clock, which only goes on with what is done.
    help : str
        Whether the judgement is ``shown``, ``asked`` for or ``hidden``.
    """

    shop_id: UUID
    person_id: UUID
    game_id: UUID
    visit_id: UUID | None
    now: datetime
    help: str
    title: str


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
    second_step_due: bool = False
    """A lead of a shop whose leads have a second step, and has none yet."""
    time_zone: str = ""
    """Where the shop works, such as ``America/Denver``; where it set none, the machine's own."""
    clock: str = "24"
    """How they like hours said: ``24``, or ``12`` with am and pm."""
    practice: Practising | None = None

    def now(self) -> datetime:
        """How late it is for them: while they practise, by the play's clock."""
        return self.practice.now if self.practice else datetime.now(UTC)

    @property
    def may_write(self) -> bool:
        """Whether their role adds entries."""
        return self.role in ("technician", "lead", "helper")

    @property
    def is_trained(self) -> bool:
        """Whether they do, besides entries and cards, what binds the shop: book, plan, order, offer, claim."""
        return self.role in ("technician", "lead")

    @property
    def helps(self) -> bool:
        """Whether the shop sets limits to what they do alone."""
        return self.role == "helper"


_FIND = text("SELECT shop_id, person_id, password_hash, second_secret FROM find_sign_in(:login)")
_START = text("SELECT start_session(:hash, :shop, :person, :lifetime, :device)")
_END = text("SELECT end_session(:hash)")
_OPEN = text(
    "SELECT shop_id, shop_name, superheat_school, person_id, name, role, temperature_unit, pressure_unit, theme, weight_unit,"
    " hints_seen, second_step_due, time_zone, clock, practice_shop, practice_person, practice_game, practice_visit, practice_now,"
    " practice_help, practice_title FROM open_session(:hash)"
)
_ENTER = text("SELECT shop_id, person_id FROM enter_practice(:hash, :game)")
_LEAVE = text("SELECT leave_practice(:hash)")
_FORGIVE = text("SELECT forgive_hit(:key)")
_HIT = text("SELECT count_hit(:key, :seconds)")
_NOTE = text("SELECT note_sign_in(:login, :what, :about, :address)")


def find_sign_in(connection: Connection, login: str) -> Any:
    """Shop, person, password hash and kept second secret of an active login; None where there is none."""
    return connection.execute(_FIND, {"login": login}).one_or_none()


def note_sign_in(connection: Connection, login: str, what: str, about: str, address: str) -> None:
    """A sign-in that went well or not, in the trail of that login's shop; nothing for a login that nobody has."""
    connection.execute(_NOTE, {"login": login, "what": what, "about": about[:80], "address": address[:60]})


def start_session(
    connection: Connection, token_hash: bytes, shop_id: UUID, person_id: UUID, lifetime: timedelta, device: str = ""
) -> None:
    """Remember a signed-in browser."""
    asked = {"hash": token_hash, "shop": shop_id, "person": person_id, "lifetime": lifetime, "device": device[:80]}
    connection.execute(_START, asked)


def end_session(connection: Connection, token_hash: bytes) -> None:
    """Forget a signed-in browser; does no harm twice."""
    connection.execute(_END, {"hash": token_hash})


def open_session(connection: Connection, token_hash: bytes) -> Someone | None:
    """Whose token that is; the rest of the transaction then sees that shop's rows."""
    row = connection.execute(_OPEN, {"hash": token_hash}).one_or_none()
    if row is None:
        return None
    there, under, game, *play = row[_OWN_COLUMNS:]
    someone = _with_clock(Someone(*row[:_OWN_COLUMNS]))
    own = someone.shop_id, someone.person_id
    return someone if game is None else practising(someone, there, under, Practising(*own, game, *play))


_OWN_COLUMNS = 14


def _with_clock(someone: Someone) -> Someone:
    return someone if someone.clock else replace(someone, clock=usual_clock(someone.time_zone))


def practising(someone: Someone, shop_id: UUID, person_id: UUID, play: Practising) -> Someone:
    """The same person as whom the practice shop knows."""
    return replace(someone, shop_id=shop_id, person_id=person_id, practice=play)


def at_home(connection: Connection, someone: Someone) -> Someone:
    """The same person in their own shop, whose rows the rest of the transaction sees."""
    if someone.practice is None:
        return someone
    see_shop(connection, someone.practice.shop_id)
    return replace(someone, shop_id=someone.practice.shop_id, person_id=someone.practice.person_id)


def enter_practice(connection: Connection, token_hash: bytes, game_id: UUID) -> tuple[UUID, UUID] | None:
    """Whoever has that session goes on in a play of theirs: in which shop, and under which id. None where there is none."""
    row = connection.execute(_ENTER, {"hash": token_hash, "game": game_id}).one_or_none()
    return None if row is None else (row.shop_id, row.person_id)


def leave_practice(connection: Connection, token_hash: bytes) -> None:
    """Whoever has that session is in their own shop again; does no harm twice."""
    connection.execute(_LEAVE, {"hash": token_hash})


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
        select(Person.id, Person.login, Person.name, Person.role, Person.active).order_by(Person.active.desc(), Person.name)
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
_OWN_SESSIONS = text("SELECT id, device, created_at, seen_at, is_this FROM own_sessions(:hash)")
_END_OWN = text("SELECT end_own_session(:hash, :ended)")


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
    """The sessions of the same person, last used first, and which is this one."""
    return connection.execute(_OWN_SESSIONS, {"hash": token_hash}).all()


def end_own_session(connection: Connection, token_hash: bytes, ended: UUID) -> bool:
    """End one session of the same person; False where there is no such."""
    return bool(connection.execute(_END_OWN, {"hash": token_hash, "ended": ended}).scalar())


_USE_STEP = text("SELECT use_step(:shop, :person, :step)")
_USE_CODE = text("SELECT use_recovery_code(:shop, :person, :hash)")
_SET_SECOND = text("SELECT set_own_second_factor(:session, :secret, :step, :codes)")
_END_SECOND = text("SELECT end_own_second_factor(:session)")
_OWN_SECOND = text("SELECT own_second_factor(:session)")
_END_SECOND_OF = text("SELECT end_second_factor_of(:actor, :person)")
_WITH_SECOND = text("SELECT with_second_factor()")
_FORGIVE_TRIES = text("SELECT forgive_tries(:actor, :person)")


def use_step(connection: Connection, shop_id: UUID, person_id: UUID, step: int) -> bool:
    """Use the code of one half minute; False where it, or a later one, was used already."""
    return bool(connection.execute(_USE_STEP, {"shop": shop_id, "person": person_id, "step": step}).scalar())


def use_recovery_code(connection: Connection, shop_id: UUID, person_id: UUID, code_hash: bytes) -> bool:
    """Use a recovery code up; False where there is no such."""
    return bool(connection.execute(_USE_CODE, {"shop": shop_id, "person": person_id, "hash": code_hash}).scalar())


def set_own_second_factor(connection: Connection, session: bytes, secret: str, step: int, codes: Sequence[bytes]) -> None:
    """A second step for whoever has that session; their other sessions end."""
    connection.execute(_SET_SECOND, {"session": session, "secret": secret, "step": step, "codes": list(codes)})


def end_own_second_factor(connection: Connection, session: bytes) -> None:
    """No second step any more for whoever has that session."""
    connection.execute(_END_SECOND, {"session": session})


def own_second_factor(connection: Connection, session: bytes) -> int | None:
    """How many recovery codes are left; None without a second step."""
    found: int | None = connection.execute(_OWN_SECOND, {"session": session}).scalar()
    return found


def end_second_factor_of(connection: Connection, actor: UUID, person_id: UUID) -> bool:
    """Take somebody's second step away, as a lead of their shop; False where there was none."""
    return bool(connection.execute(_END_SECOND_OF, {"actor": actor, "person": person_id}).scalar())


def with_second_factor(connection: Connection) -> frozenset[UUID]:
    """Who of the shop has a second step."""
    return frozenset(connection.execute(_WITH_SECOND).scalars())


def forgive_tries(connection: Connection, actor: UUID, person_id: UUID) -> None:
    """Let somebody try to sign in again, as a lead of their shop."""
    connection.execute(_FORGIVE_TRIES, {"actor": actor, "person": person_id})


_HINT = text(
    "UPDATE person SET hints_seen = hints_seen || to_jsonb(cast(:hint AS text)) "
    "WHERE shop_id = :shop AND id = :person AND NOT hints_seen ? :hint"
)


def put_hint_away(connection: Connection, someone: Someone, hint: str) -> None:
    """Somebody has read a hint and does not want to see it again."""
    someone = at_home(connection, someone)
    connection.execute(_HINT, {"hint": hint, "shop": someone.shop_id, "person": someone.person_id})


def set_preferences(connection: Connection, someone: Someone, changes: dict[str, Any]) -> None:
    """Change how someone reads numbers."""
    someone = at_home(connection, someone)
    connection.execute(update(Person).where(Person.shop_id == someone.shop_id, Person.id == someone.person_id).values(changes))


def someone_of(connection: Connection, person_id: UUID) -> Someone | None:
    """Somebody of the shop that this transaction sees, for work that goes on without them."""
    row = connection.execute(
        select(
            Person.shop_id,
            Shop.name,
            Shop.superheat_school,
            Person.id,
            Person.name,
            Person.role,
            Person.temperature_unit,
            Person.pressure_unit,
            Person.theme,
            Person.weight_unit,
            Person.hints_seen,
            literal(False),
            func.coalesce(Shop.settings["time_zone"].astext, ""),
            Person.clock,
        )
        .join(Shop, Shop.id == Person.shop_id)
        .where(Person.id == person_id, Person.active)
    ).one_or_none()
    return None if row is None else _with_clock(Someone(*row))
