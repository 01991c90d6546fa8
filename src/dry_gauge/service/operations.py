"""What whoever runs an installation does from the command line: tables, shops, forgotten passwords, and whether all is well."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import UTC, datetime

import uuid6
from sqlalchemy import Engine, delete, insert, select, text, update
from sqlalchemy.exc import SQLAlchemyError

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import zones
from dry_gauge.exchange.label_photo import can_read
from dry_gauge.service.apart import can_work_apart
from dry_gauge.service.passwords import hash_password
from dry_gauge.service.people import check_login
from dry_gauge.store.database import WrongRole, check_role, connect, newest_revision, revision_of
from dry_gauge.store.models import Person, SecondFactor, Shop
from dry_gauge.store.people import note_sign_in

_MOST_SKEW_SECONDS = 30.0
LEAST_SECRET = 32


def is_weak(secret_key: str) -> bool:
    """Whether a secret could be guessed: short, or of a few characters only."""
    return len(secret_key) < LEAST_SECRET or len(set(secret_key)) < LEAST_SECRET // 4


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that was looked at, and what to do where it is not in order."""

    good: bool
    words: str


def create_shop(owner: Engine, name: str, login: str, person: str, time_zone: str = "") -> str:
    """A shop with its first lead; the lead's first password.

    Raises
    ------
    Refused
        For a name, login or time zone that cannot be, or a login that is taken.
    """
    if not name.strip() or len(name) > 80:
        raise Refused("A shop needs a name, at most 80 characters.")
    check_login(login, person)
    if time_zone and time_zone not in zones():
        raise Refused(f"'{time_zone}' is no time zone we know: name it by a place, such as America/Denver.")
    password = secrets.token_urlsafe(12)
    with owner.begin() as connection:
        if connection.execute(select(Person.id).where(Person.login == login)).first():
            raise Refused(f"The login '{login}' is taken.")
        shop_id = uuid6.uuid7()
        set_at_once = {"time_zone": time_zone} if time_zone else {}
        connection.execute(insert(Shop).values(id=shop_id, name=name.strip(), settings=set_at_once))
        connection.execute(text("SELECT set_config('dry_gauge.shop_id', :shop, true)"), {"shop": str(shop_id)})
        connection.execute(
            insert(Person).values(
                shop_id=shop_id,
                id=uuid6.uuid7(),
                login=login,
                name=person.strip(),
                role="lead",
                password_hash=hash_password(password),
            )
        )
    return password


def reset_password(owner: Engine, login: str, *, second_step_too: bool = False) -> str:
    """A new password for somebody; whoever is signed in under that login is signed out.

    Parameters
    ----------
    second_step_too : bool
        Whether the second step goes as well: the phone is lost, and so are the recovery codes.

    Raises
    ------
    Refused
        For a login that nobody has.
    """
    password = secrets.token_urlsafe(12)
    with owner.begin() as connection:
        found = connection.execute(text("SELECT shop_id, person_id FROM find_sign_in(:login)"), {"login": login}).first()
        if found is None:
            raise Refused(f"Nobody who may sign in has the login '{login}'.")
        connection.execute(text("SELECT set_config('dry_gauge.shop_id', :shop, true)"), {"shop": str(found.shop_id)})
        connection.execute(update(Person).where(Person.id == found.person_id).values(password_hash=hash_password(password)))
        connection.execute(text("DELETE FROM web_session WHERE person_id = :person"), {"person": found.person_id})
        if second_step_too:
            connection.execute(delete(SecondFactor).where(SecondFactor.person_id == found.person_id))
        note_sign_in(connection, login, "password_reset", "by command" + (", second step too" if second_step_too else ""), "")
    return password


def check(application_url: str, secret_key: str) -> list[Finding]:
    """Whether an installation is fit to serve, one thing after the other."""
    found = [
        Finding(not is_weak(secret_key), f"SECRET_KEY: at least {LEAST_SECRET} random characters"),
        Finding(can_read(), "A text recognizer for labels: tesseract-ocr with English and Spanish"),
        Finding(can_work_apart(), "Photos and PDFs are made apart: /dev/shm is there and may be written"),
    ]
    engine = connect(application_url, pool_size=1)
    try:
        with engine.connect() as connection:
            found.append(Finding(True, "The database answers"))
            at, wanted = revision_of(connection), newest_revision()
            found.append(Finding(at == wanted, f"Tables at revision {at or 'none'}, {wanted} wanted: dry-gauge migrate"))
            skew = abs((connection.execute(text("SELECT clock_timestamp()")).scalar_one() - datetime.now(UTC)).total_seconds())
            found.append(Finding(skew < _MOST_SKEW_SECONDS, f"Clocks of database and application {skew:.0f} s apart"))
        check_role(engine)
        found.append(Finding(True, "The application's role sees one shop at a time"))
    except WrongRole as problem:
        found.append(Finding(False, str(problem)))
    except SQLAlchemyError as problem:
        found.append(Finding(False, f"The database does not answer: {str(problem.__cause__ or problem).splitlines()[0]}"))
    finally:
        engine.dispose()
    return found
