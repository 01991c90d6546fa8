"""What a visit's owner may read without a sign-in, and for how long: signed links, each of one visit."""

from __future__ import annotations

from base64 import urlsafe_b64decode, urlsafe_b64encode
from binascii import Error as NotBase64
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime, timedelta
from hashlib import sha256
from uuid import UUID

import uuid6
from itsdangerous import BadSignature, Signer
from sqlalchemy import Connection, Engine

from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import by_clock, day_of
from dry_gauge.core.words import Reader
from dry_gauge.exchange.language import languages
from dry_gauge.notebook.subjects.remarks import Remarks
from dry_gauge.present.visit import VisitView
from dry_gauge.service import audit
from dry_gauge.service.allowed import NotHere, trained
from dry_gauge.service.notebooks import as_closed, load, view_of
from dry_gauge.service.settings import shop_settings
from dry_gauge.service.sign_in import network_of
from dry_gauge.store import owners, people
from dry_gauge.store.database import see_shop
from dry_gauge.store.owners import Chosen, OwnerLink
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import find_visit

DAYS_OPEN = (7, 30, 90, 365)
"""For how long a link can be made."""
MOST_WORDS = 2000
GUESSES, GUESS_SECONDS = 20, 15 * 60
"""Links that open nothing, from one address; then it waits."""
READINGS_OF_ONE = 300
"""How often one link is opened within that time, from everywhere: more than any family reads."""


class NoSuchLink(LookupError):
    """Nothing can be read there: it is over, was withdrawn, or never was."""


class TooManyLinks(Exception):
    """More links were tried from one address than anybody was sent, or one was opened more often than anybody reads."""


class LinkSigner:
    """Makes a link's address of its id, and knows its own again: only the installation's secret writes one."""

    def __init__(self, secret_key: str) -> None:
        self._signer = Signer(secret_key, salt="owner link", digest_method=sha256)

    def address(self, link_id: UUID) -> str:
        """The last part of the address."""
        return self._signer.sign(urlsafe_b64encode(link_id.bytes).rstrip(b"=")).decode()

    def link_in(self, address: str) -> UUID | None:
        """Whose address that is; None for one that we did not make."""
        try:
            return UUID(bytes=urlsafe_b64decode(self._signer.unsign(address.encode()) + b"=="))
        except (BadSignature, ValueError, NotBase64, UnicodeError):
            return None


@dataclass(frozen=True, slots=True)
class Opened:
    """A link that was opened: what it shows, and to whom."""

    shop_id: UUID
    link: OwnerLink
    view: VisitView
    chosen: Chosen
    reader: Reader


def choose(connection: Connection, someone: Someone, visit_id: UUID, words: str, pictures: list[str]) -> None:
    """Choose words and pictures for a visit's report.

    Raises
    ------
    NotHere, NotAllowed, Refused
    """
    view = _writer_of(connection, someone, visit_id)
    if len(words) > MOST_WORDS:
        raise Refused(f"That is too long: at most {MOST_WORDS} characters fit.", "words")
    kept = {str(one.body.photo): one.body.photo for one in view.state[Remarks].photos.values()}
    chosen = frozenset(kept[one] for one in pictures if one in kept)
    owners.choose(connection, someone.shop_id, visit_id, Chosen(words.strip(), chosen))


def make_link(connection: Connection, someone: Someone, visit_id: UUID, language: str, days: int, now: datetime) -> UUID:
    """A new link to a visit's report, in the units of whoever makes it.

    Raises
    ------
    NotHere, NotAllowed, Refused
    """
    _writer_of(connection, someone, visit_id)
    if language not in languages():
        raise Refused("Choose a language that there is.", "language")
    if days not in DAYS_OPEN:
        raise Refused(f"A link is open for {', '.join(map(str, DAYS_OPEN))} days.", "days")
    link_id = uuid6.uuid7()
    owners.add_link(
        connection,
        shop_id=someone.shop_id,
        id=link_id,
        visit_id=visit_id,
        person_id=someone.person_id,
        made_at=now,
        expires_at=now + timedelta(days=days),
        language=language,
        temperature_unit=someone.temperature_unit,
        pressure_unit=someone.pressure_unit,
        weight_unit=someone.weight_unit,
    )
    audit.note(connection, someone, "owner_link_made", f"{days} days, {language}")
    return link_id


def withdraw(connection: Connection, someone: Someone, visit_id: UUID, link_id: UUID, now: datetime) -> None:
    """Withdraw a link; does no harm twice.

    Raises
    ------
    NotHere, NotAllowed
    """
    _writer_of(connection, someone, visit_id)
    link = owners.find_link(connection, link_id)
    if link is None or link.visit_id != visit_id:
        raise NotHere("There is no such link to this visit.")
    owners.withdraw(connection, link_id, now)
    audit.note(connection, someone, "owner_link_withdrawn", f"made {day_of(link.made_at)}")


def _writer_of(connection: Connection, someone: Someone, visit_id: UUID) -> VisitView:
    trained(someone, "writes to owners")
    return load(connection, someone, visit_id)


@contextmanager
def opened(engine: Engine, signer: LinkSigner, address: str, caller: str, now: datetime) -> Iterator[tuple[Connection, Opened]]:
    """A transaction that sees what a link shows, and may write what its owner answers.

    Parameters
    ----------
    address : str
        The last part of the link, as it was asked for.
    caller : str
        From which network address.

    Raises
    ------
    NoSuchLink, TooManyLinks
    """
    link_id = signer.link_in(address)
    guesses = f"owner link from {network_of(caller)}"
    with engine.begin() as connection:
        shop_id = owners.shop_of_link(connection, link_id) if link_id else None
        key, most = (guesses, GUESSES) if shop_id is None else (f"owner link {link_id}", READINGS_OF_ONE)
        over = people.count_hit(connection, key, GUESS_SECONDS) > most
    if over:
        raise TooManyLinks
    if shop_id is None or link_id is None:
        raise NoSuchLink
    with engine.begin() as connection:
        see_shop(connection, shop_id)
        by_clock(shop_settings(connection).time_zone)
        link = owners.find_link(connection, link_id)
        visit = find_visit(connection, link.visit_id) if link else None
        if link is None or visit is None or not link.is_open(now):
            raise NoSuchLink
        school = link.superheat_school
        view = as_closed(connection, view_of(connection, visit, school), school)
        reader = Reader(link.temperature_unit, link.pressure_unit, view.facts.atmosphere_pa, link.weight_unit)
        yield connection, Opened(shop_id, link, view, owners.chosen_for(connection, link.visit_id), reader)
