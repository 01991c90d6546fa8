"""Who works in a shop: a lead adds people, changes their role, gives a new password, or ends their access."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.service.sign_in import LEAST_PASSWORD, check_strength, hash_password
from dry_gauge.store import people
from dry_gauge.store.people import Someone

ROLES = ("technician", "lead", "read_only")
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


def change(connection: Connection, someone: Someone, fields: Mapping[str, str]) -> str:
    """Add or change someone, as a form asks; what was done, in words.

    Raises
    ------
    Refused
    """
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
    return f"{name} can sign in as '{login}'."


def _changed(connection: Connection, someone: Someone, fields: Mapping[str, str], role: str, password: str) -> str:
    try:
        person_id = UUID(fields["person"])
    except ValueError:
        raise Refused("There is no such person in your shop.", "person") from None
    active = fields.get("active", "yes") == "yes"
    if person_id == someone.person_id and (role != "lead" or not active):
        raise Refused("You cannot take your own lead away: another lead does that.", "role")
    hashed = hash_password(password) if password else None
    if not people.change_person(connection, someone.person_id, person_id, role, active, hashed):
        raise Refused("There is no such person in your shop.", "person")
    return "Changed." if active else "Changed: they can no longer sign in."
