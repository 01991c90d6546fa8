"""Who may come in: passwords, sessions and the limit on trying."""

from __future__ import annotations

import secrets
from datetime import timedelta
from functools import lru_cache
from hashlib import sha256

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import Engine

from dry_gauge.store import people
from dry_gauge.store.people import Someone

SESSION_LIFETIME = timedelta(days=14)
TRIES_WINDOW_SECONDS = 15 * 60
TRIES_PER_LOGIN = 8
TRIES_PER_ADDRESS = 40

_hasher = PasswordHasher()


class TooManyTries(Exception):
    """More sign-ins were tried than a person would."""


def hash_password(password: str) -> str:
    """Argon2id, with the library's current parameters."""
    return _hasher.hash(password)


@lru_cache(maxsize=1)
def _nobodys_hash() -> str:
    return _hasher.hash(secrets.token_hex(16))


def sign_in(engine: Engine, login: str, password: str, address: str) -> str | None:
    """A new session's token, or None for a wrong login or password.

    An unknown login takes as long as a wrong password, so that trying does not tell which logins exist.

    Raises
    ------
    TooManyTries
    """
    login = login.strip().lower()
    limits = {f"sign-in login {login[:80]}": TRIES_PER_LOGIN, f"sign-in address {address}": TRIES_PER_ADDRESS}
    # Counted before the password is looked at, so that many tries at once cannot slip through; a right one is forgiven.
    with engine.begin() as connection:
        over = [people.count_hit(connection, key, TRIES_WINDOW_SECONDS) > most for key, most in limits.items()]
    if any(over):
        raise TooManyTries
    with engine.begin() as connection:
        found = people.find_sign_in(connection, login)
    if not _matches(found[2] if found else _nobodys_hash(), password) or found is None:
        return None
    token = secrets.token_urlsafe(32)
    with engine.begin() as connection:
        people.start_session(connection, token_hash(token), found[0], found[1], SESSION_LIFETIME)
        for key in limits:
            people.forgive_hit(connection, key)
    return token


def _matches(password_hash: str, password: str) -> bool:
    try:
        return _hasher.verify(password_hash, password)
    except (VerificationError, InvalidHashError):
        return False


def token_hash(token: str) -> bytes:
    """What the database keeps of a token: a stolen table opens no session."""
    return sha256(token.encode()).digest()


def sign_out(engine: Engine, token: str) -> None:
    """End that session."""
    with engine.begin() as connection:
        people.end_session(connection, token_hash(token))


def within_rate(engine: Engine, key: str, per_minute: int) -> bool:
    """Whether one more call of `key` is within its rate a minute."""
    with engine.begin() as connection:
        return people.count_hit(connection, key, 60) <= per_minute


__all__ = ["SESSION_LIFETIME", "Someone", "TooManyTries", "hash_password", "sign_in", "sign_out", "token_hash",
           "within_rate"]  # fmt: skip
