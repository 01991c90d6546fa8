"""The second step at sign-in: a code from an application on one's phone (TOTP, RFC 6238), or one of ten recovery codes."""

from __future__ import annotations

import secrets
import time
from base64 import urlsafe_b64encode
from collections.abc import Sequence
from hashlib import sha256

import pyotp
from cryptography.fernet import Fernet, InvalidToken
from sqlalchemy import Connection, Engine

from dry_gauge.core.errors import Refused
from dry_gauge.service.sign_in import TRIES_PER_LOGIN, TRIES_WINDOW_SECONDS, Caller, Known, TooManyTries, token_hash
from dry_gauge.store import people

RECOVERY_CODES = 10
_STEP_SECONDS = 30
_ALPHABET = "23456789abcdefghjkmnpqrstuvwxyz"  # nothing that reads like something else
WRONG_CODE = "That code is not right. Codes change every half minute; look at the newest."


class Keeper:
    """Keeps secrets encrypted with the installation's own: a stolen table alone makes no codes."""

    def __init__(self, secret_key: str) -> None:
        self._lock = Fernet(urlsafe_b64encode(sha256(f"second step|{secret_key}".encode()).digest()))

    def hide(self, secret: str) -> str:
        """As it is kept."""
        return self._lock.encrypt(secret.encode()).decode()

    def show(self, kept: str) -> str | None:
        """As it was; None where it was kept under another SECRET_KEY."""
        try:
            return self._lock.decrypt(kept.encode()).decode()
        except InvalidToken:
            return None


def new_secret() -> str:
    """A secret for somebody's phone."""
    return pyotp.random_base32()


def address_of(secret: str, login: str, shop: str) -> str:
    """What the phone's application reads from a QR code."""
    return pyotp.TOTP(secret).provisioning_uri(name=login, issuer_name=f"Dry Gauge, {shop}")


def step_of(secret: str, code: str, now: float | None = None) -> int | None:
    """The half minute for which a code is right, up to one before and after; None where it is not."""
    digits = "".join(code.split())
    middle = int((time.time() if now is None else now) // _STEP_SECONDS)
    totp = pyotp.TOTP(secret)
    return next(
        (
            step
            for step in (middle, middle - 1, middle + 1)
            if secrets.compare_digest(totp.at(step * _STEP_SECONDS).encode(), digits.encode())
        ),
        None,
    )


def _code_hash(code: str) -> bytes:
    return sha256("".join(letter for letter in code.lower() if letter in _ALPHABET).encode()).digest()


def known_by(engine: Engine, login: str) -> Known | None:
    """Someone whose password was right a moment ago; None where they may not sign in, or need no second step, by now."""
    with engine.begin() as connection:
        found = people.find_sign_in(connection, login)
    if found is None or not found.second_secret:
        return None
    return Known(found.shop_id, found.person_id, login, found.second_secret)


def pass_second_step(engine: Engine, keeper: Keeper, known: Known, code: str, caller: Caller) -> bool:
    """Whether a code lets that person in; each is good once.

    Raises
    ------
    TooManyTries
    """
    secret = keeper.show(known.second_secret)
    with engine.begin() as connection:
        key = f"second step {known.person_id}"
        if people.count_hit(connection, key, TRIES_WINDOW_SECONDS) > TRIES_PER_LOGIN:
            raise TooManyTries
        step = step_of(secret, code) if secret else None
        if step is not None:
            good = people.use_step(connection, known.shop_id, known.person_id, step)
        else:
            good = people.use_recovery_code(connection, known.shop_id, known.person_id, _code_hash(code))
            what = "recovery_code_used" if good else "sign_in_wrong"
            people.note_sign_in(connection, known.login, what, caller.device, caller.address)
        if good:
            people.forgive_hit(connection, key)
    return good


def turn_on(connection: Connection, keeper: Keeper, token: str, secret: str, code: str) -> Sequence[str]:
    """Set whoever has that session a second step, once a code shows that their phone has it; the recovery codes.

    Raises
    ------
    Refused
    """
    step = step_of(secret, code)
    if step is None:
        raise Refused(WRONG_CODE, "code")
    codes = ["-".join("".join(secrets.choice(_ALPHABET) for _ in range(4)) for _ in range(3)) for _ in range(RECOVERY_CODES)]
    people.set_own_second_factor(connection, token_hash(token), keeper.hide(secret), step, [_code_hash(one) for one in codes])
    return codes
