"""Who may come in: passwords, sessions and the limit on trying."""

from __future__ import annotations

import secrets
from datetime import timedelta
from functools import lru_cache
from hashlib import sha256

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import Engine

from dry_gauge.core.errors import Refused
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


LEAST_PASSWORD = 10
_LEAST_DIFFERENT = 5


def check_strength(password: str, *known: str) -> None:
    """Whether a password is fit to be one.

    Parameters
    ----------
    known : str
        What anyone would try first: login, name, shop.

    Raises
    ------
    Refused
    """
    if len(password) < LEAST_PASSWORD or len(password) > 200:
        raise Refused(f"A password has at least {LEAST_PASSWORD} characters; three or four words do well.", "password")
    plain = password.casefold()
    if len(set(plain)) < _LEAST_DIFFERENT or any(len(word) > 3 and word.casefold() in plain for word in known):
        raise Refused("That is what anyone would try first. Take words that have nothing to do with you or the shop.", "password")


def change_own(engine: Engine, token: str, old: str, new: str, *known: str) -> None:
    """A new password for whoever has that session, once they know the old one; their other sessions end.

    Raises
    ------
    Refused
    """
    key = token_hash(token)
    with engine.begin() as connection:
        if people.count_hit(connection, f"own password {key.hex()[:32]}", TRIES_WINDOW_SECONDS) > TRIES_PER_LOGIN:
            raise Refused("Too many tries. Wait 15 minutes.", "old")
        found = people.own_password_hash(connection, key)
    if found is None or not _matches(found, old):
        raise Refused("That is not your present password.", "old")
    check_strength(new, *known)
    with engine.begin() as connection:
        people.change_own_password(connection, key, hash_password(new))


def within_rate(engine: Engine, key: str, per_minute: int) -> bool:
    """Whether one more call of `key` is within its rate a minute."""
    with engine.begin() as connection:
        return people.count_hit(connection, key, 60) <= per_minute


__all__ = [
    "LEAST_PASSWORD", "SESSION_LIFETIME", "Someone", "TooManyTries", "change_own", "check_strength", "hash_password", "sign_in",
    "sign_out", "token_hash", "within_rate",
]  # fmt: skip
