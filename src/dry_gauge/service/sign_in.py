"""Who may come in: sessions, the limit on trying, and what is kept of a browser that has signed in before."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import timedelta
from hashlib import sha256
from ipaddress import ip_address, ip_network
from uuid import UUID

from sqlalchemy import Engine

from dry_gauge.core.errors import Refused
from dry_gauge.service.passwords import check_strength, hash_password, matches
from dry_gauge.store import people

SESSION_LIFETIME = timedelta(days=14)
"""A session ends after this, and after four days in which nobody used it (in the database)."""
TRIES_WINDOW_SECONDS = 15 * 60
TRIES_PER_LOGIN = 8
"""From one address, or from one browser that has signed in under this login before."""
TRIES_PER_ADDRESS = 40
TRIES_ANYWHERE = 100
"""For one login from everywhere together: many addresses guess together. It never stops a browser that is known."""


class TooManyTries(Exception):
    """More sign-ins were tried than a person would."""


@dataclass(frozen=True, slots=True)
class Caller:
    """Where a sign-in comes from."""

    address: str
    device: str = ""
    """In words, for the list of sessions."""
    known_as: str = ""
    """Set where this browser has signed in under this login before: its own random name."""


@dataclass(frozen=True, slots=True)
class Known:
    """Someone whose password was right, and who has a second step to go."""

    shop_id: UUID
    person_id: UUID
    login: str
    second_secret: str


def token_hash(token: str) -> bytes:
    """What the database keeps of a token: a stolen table opens no session."""
    return sha256(token.encode()).digest()


def network_of(address: str) -> str:
    """An address as tries are counted: of version 6 the first half, which one line has for itself."""
    try:
        found = ip_address(address)
    except ValueError:
        return address[:60]
    return str(ip_network((found, 64), strict=False)) if found.version == 6 else address


def _limits(login: str, caller: Caller) -> dict[str, int]:
    key = f"sign-in login {login[:80]} "
    if caller.known_as:
        return {f"{key}on {caller.known_as[:40]}": TRIES_PER_LOGIN}
    address = network_of(caller.address)
    return {
        f"{key}from {address}": TRIES_PER_LOGIN,
        f"sign-in address {address}": TRIES_PER_ADDRESS,
        f"{key}anywhere": TRIES_ANYWHERE,
    }


def sign_in(engine: Engine, login: str, password: str, caller: Caller) -> str | Known | None:
    """A new session's token; someone with a second step to go; or None for a wrong login or password.

    Raises
    ------
    TooManyTries
    """
    login = login.strip().lower()
    limits = _limits(login, caller)
    # Counted before the password is looked at, so that many tries at once cannot slip through; a right one is forgiven.
    with engine.begin() as connection:
        counts = {key: people.count_hit(connection, key, TRIES_WINDOW_SECONDS) for key in limits}
        if any(counts[key] == most + 1 for key, most in limits.items()):
            people.note_sign_in(connection, login, "sign_in_stopped", caller.device, caller.address)
    if any(counts[key] > most for key, most in limits.items()):
        raise TooManyTries
    with engine.begin() as connection:
        found = people.find_sign_in(connection, login)
    if not matches(found.password_hash if found else None, password) or found is None:
        with engine.begin() as connection:
            people.note_sign_in(connection, login, "sign_in_wrong", caller.device, caller.address)
        return None
    with engine.begin() as connection:
        for key in limits:
            people.forgive_hit(connection, key)
    known = Known(found.shop_id, found.person_id, login, found.second_secret or "")
    return known if known.second_secret else begin_session(engine, known, caller)


def begin_session(engine: Engine, known: Known, caller: Caller) -> str:
    """A session for someone who has proven who they are; its token."""
    token = secrets.token_urlsafe(32)
    with engine.begin() as connection:
        people.start_session(connection, token_hash(token), known.shop_id, known.person_id, SESSION_LIFETIME, caller.device)
        people.note_sign_in(connection, known.login, "sign_in", caller.device, caller.address)
    return token


def sign_out(engine: Engine, token: str) -> None:
    """End that session."""
    with engine.begin() as connection:
        people.end_session(connection, token_hash(token))


def check_own_password(engine: Engine, token: str, password: str, field: str) -> None:
    """Refuse whoever has that session and not its password.

    Raises
    ------
    Refused
    """
    key = token_hash(token)
    with engine.begin() as connection:
        if people.count_hit(connection, f"own password {key.hex()[:32]}", TRIES_WINDOW_SECONDS) > TRIES_PER_LOGIN:
            raise Refused("Too many tries. Wait 15 minutes.", field)
        found = people.own_password_hash(connection, key)
    if not matches(found, password):
        raise Refused("That is not your current password.", field)


def change_own(engine: Engine, token: str, old: str, new: str, *known: str) -> None:
    """A new password for whoever has that session, once they know the old one; their other sessions end.

    Raises
    ------
    Refused
    """
    check_own_password(engine, token, old, "old")
    check_strength(new, *known)
    with engine.begin() as connection:
        people.change_own_password(connection, token_hash(token), hash_password(new))


def within_rate(engine: Engine, key: str, per_minute: int) -> bool:
    """Whether one more call of `key` is within its rate a minute."""
    with engine.begin() as connection:
        return people.count_hit(connection, key, 60) <= per_minute
