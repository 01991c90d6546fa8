"""Units from another program's table: looked at first, then put on cards; what is here already stays as it is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import uuid6
from sqlalchemy import Connection

from dry_gauge.exchange.sheets_csv import RefusedLine
from dry_gauge.exchange.units_csv import UnitLine, units_from
from dry_gauge.service import audit
from dry_gauge.service.allowed import NotAllowed
from dry_gauge.store import register
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import all_units


@dataclass(frozen=True, slots=True)
class UnitImport:
    """What a table would do."""

    new: Sequence[UnitLine]
    known: Sequence[UnitLine]
    sites: Sequence[str]
    refused: Sequence[RefusedLine]


def looked_at(connection: Connection, raw: bytes, number: Callable[[str], tuple[float, str]], this_year: int) -> UnitImport:
    """What a table would do; nothing is changed.

    Raises
    ------
    Refused
    """
    found, refused = units_from(raw, number, this_year)
    here = {(unit.site_name.casefold(), unit.tag.casefold()) for unit in all_units(connection)}
    new, known = [one for one in found if one.key not in here], [one for one in found if one.key in here]
    sites = {one.site.casefold(): one.site for one in new}
    return UnitImport(new, known, [name for name in sites.values() if register.site_named(connection, name) is None], refused)


def take(connection: Connection, someone: Someone, found: UnitImport) -> None:
    """Put the new ones on cards, with their sites.

    Raises
    ------
    NotAllowed
    """
    if someone.role != "lead":
        raise NotAllowed("Only a lead imports units.")
    for one in found.new:
        site_id = register.site_named(connection, one.site)
        if site_id is None:
            site_id = uuid6.uuid7()
            register.add_site(connection, shop_id=someone.shop_id, id=site_id, name=one.site, address=one.address)
        register.add_unit(
            connection, shop_id=someone.shop_id, id=uuid6.uuid7(), site_id=site_id, facts=dict(one.facts), **one.card
        )
    audit.note(connection, someone, "units_from_table", f"{len(found.new)} units")
