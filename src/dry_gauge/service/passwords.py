"""Passwords: how they are kept, and which are fit to be one."""

from __future__ import annotations

import secrets
from functools import lru_cache

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from zxcvbn import zxcvbn

from dry_gauge.core.errors import Refused

LEAST_PASSWORD, MOST_PASSWORD = 10, 200
_LEAST_SCORE = 3
"""Of zxcvbn's 0 to 4: safe where tries are slowed down, and where the table of hashes was stolen not found in an afternoon."""
_SCORED = 72  # the library's time grows with the square of the length

_hasher = PasswordHasher()


def hash_password(password: str) -> str:
    """Argon2id, with the library's current parameters."""
    return _hasher.hash(password)


def matches(password_hash: str | None, password: str) -> bool:
    """Whether a password is the one; without a hash it takes as long, so that trying does not tell which logins exist."""
    try:
        return _hasher.verify(password_hash or nobodys_hash(), password) and password_hash is not None
    except (VerificationError, InvalidHashError):
        return False


@lru_cache(maxsize=1)
def nobodys_hash() -> str:
    """Of a password that nobody knows."""
    return _hasher.hash(secrets.token_hex(16))


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
    if not LEAST_PASSWORD <= len(password) <= MOST_PASSWORD:
        raise Refused(f"A password has at least {LEAST_PASSWORD} characters; three or four words do well.", "password")
    words = [word for text in known for word in (text, *text.split()) if len(word) > 2]
    if zxcvbn(password[:_SCORED], user_inputs=words)["score"] < _LEAST_SCORE:
        raise Refused(
            "That is what anyone would try first. Take three or four words that have nothing to do with you or the "
            "shop, nor with each other.",
            "password",
        )
