"""What someone may see and do, asked before anything is done."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.store.people import Someone
from dry_gauge.store.register import find_site
from dry_gauge.store.visits import find_unit


class NotHere(LookupError):
    """No such visit, unit or entry in this shop."""


class NotAllowed(Exception):
    """Someone's role does not do this."""


def writer(someone: Someone, does: str) -> Someone:
    """Someone whose role writes; `does` says what in a refusal, such as 'orders parts'.

    Raises
    ------
    NotAllowed
    """
    if not someone.may_write:
        raise NotAllowed(f"Your role reads along; a technician or lead {does}.")
    return someone


def trained(someone: Someone, does: str) -> Someone:
    """Someone who binds the shop; `does` as in `writer`.

    Raises
    ------
    NotAllowed
    """
    if writer(someone, does).helps:
        raise NotAllowed(f"A helper does not do this: a technician or lead {does}.")
    return someone


def site_here(connection: Connection, site_id: UUID) -> Any:
    """A site of the shop.

    Raises
    ------
    NotHere
    """
    site = find_site(connection, site_id)
    if site is None:
        raise NotHere("There is no such site in your shop.")
    return site


def unit_here(connection: Connection, unit_id: UUID) -> Any:
    """A unit of the shop with its card.

    Raises
    ------
    NotHere
    """
    unit = find_unit(connection, unit_id)
    if unit is None:
        raise NotHere("There is no such unit in your shop.")
    return unit
