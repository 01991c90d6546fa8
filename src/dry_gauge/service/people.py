"""Who works in a shop: a lead adds people, changes their role, gives a new password, or ends their access."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.service import audit
from dry_gauge.service.passwords import LEAST_PASSWORD, check_strength, hash_password
from dry_gauge.store import people
from dry_gauge.store.people import Someone

ROLES = ("technician", "lead", "helper", "read_only")
_LOGIN = re.compile(r"[a-z0-9][a-z0-9._-]{1,38}")


def check_login(login: str, name: str) -> None:
    """Refuse a login or a person's name that cannot be.

    Raises
    ------
    Refused
    """
    if not _LOGIN.fullmatch(login):
        raise Refused("A login is 2 to 39 small letters, digits, dots or dashes.", "login")
    if not name.strip() or len(name) > 80:
        raise Refused("A name is needed, at most 80 characters.", "name")


def everyone(connection: Connection) -> Any:
    """People of the shop, active ones first."""
    return people.everyone(connection)


def with_second_step(connection: Connection) -> frozenset[UUID]:
    """Who of the shop has a second step."""
    return people.with_second_factor(connection)


def change(connection: Connection, someone: Someone, fields: Mapping[str, str]) -> str:
    """Add or change someone, as a form asks; what was done, in words.

    Raises
    ------
    Refused
    """
    if fields.get("do"):
        return _helped(connection, someone, fields)
    role, password = fields.get("role", ""), fields.get("password", "")
    if role not in ROLES:
        raise Refused("Choose a role.", "role")
    if password:
        check_strength(password, fields.get("login", ""), fields.get("name", ""), someone.shop_name)
    if fields.get("person"):
        return _changed(connection, someone, fields, role, password)
    login, name = fields.get("login", "").strip().lower(), fields.get("name", "").strip()
    check_login(login, name)
    if not password:
        raise Refused(f"Give a first password of at least {LEAST_PASSWORD} characters.", "password")
    added = people.add_person(connection, someone.person_id, uuid6.uuid7(), login, name, role, hash_password(password))
    if not added:
        raise Refused("That login is taken.", "login")
    audit.note(connection, someone, "person_added", f"{name} ({login}), {role}")
    return f"{name} can sign in as '{login}'."


def _person(connection: Connection, fields: Mapping[str, str]) -> Any:
    found = next((one for one in people.everyone(connection) if str(one.id) == fields.get("person")), None)
    if found is None:
        raise Refused("There is no such person in your shop.", "person")
    return found


def _helped(connection: Connection, someone: Someone, fields: Mapping[str, str]) -> str:
    """A lost phone, or too many tries."""
    person = _person(connection, fields)
    if fields["do"] == "end_second_step":
        if people.end_second_factor_of(connection, someone.person_id, person.id):
            audit.note(connection, someone, "second_step_ended", person.name)
        return f"{person.name} signs in with the password alone."
    if fields["do"] == "forgive_tries":
        people.forgive_tries(connection, someone.person_id, person.id)
        audit.note(connection, someone, "tries_forgiven", person.name)
        return f"{person.name} may try again."
    raise Refused("Choose what to do.", "do")


def _changed(connection: Connection, someone: Someone, fields: Mapping[str, str], role: str, password: str) -> str:
    person = _person(connection, fields)
    person_id = person.id
    active = fields.get("active", "yes") == "yes"
    if person_id == someone.person_id and (role != "lead" or not active):
        raise Refused("You cannot take your own lead away: another lead does that.", "role")
    hashed = hash_password(password) if password else None
    if not people.change_person(connection, someone.person_id, person_id, role, active, hashed):
        raise Refused("There is no such person in your shop.", "person")
    what = [f"{person.role} to {role}"] if role != person.role else []
    what += ["access ended" if person.active else "access given"] if active != person.active else []
    what += ["new password"] if password else []
    audit.note(connection, someone, "person_changed", f"{person.name}: {', '.join(what) or 'nothing'}")
    return "Changed." if active else "Changed: they can no longer sign in."
