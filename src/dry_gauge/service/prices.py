"""The shop's price list: changed by leads, taken from files with a look before."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.office.money import LineSort, Per, check_sign
from dry_gauge.exchange.price_csv import Price, prices_from
from dry_gauge.exchange.sheets_csv import RefusedLine
from dry_gauge.service import audit
from dry_gauge.service.allowed import NotAllowed
from dry_gauge.service.settings import shop_settings
from dry_gauge.store import prices
from dry_gauge.store.people import Someone


@dataclass(frozen=True, slots=True)
class Import:
    """What a file would do to the list: nothing is changed until somebody says so."""

    new: Sequence[Price]
    changed: Sequence[tuple[Price, int]]
    """Each with the price that it has now."""
    same: int
    refused: Sequence[RefusedLine]


def looked_at(connection: Connection, raw: bytes, currency: str) -> Import:
    """What a file would do.

    Raises
    ------
    Refused
    """
    found, refused = prices_from(raw, currency)
    known = {one.code.casefold(): one for one in prices.all_prices(connection)}
    new, changed, same = [], [], 0
    for price in found:
        one = known.get(price.code.casefold())
        if one is None:
            new.append(price)
        elif (one.what, one.sort, one.per, one.cents) != (price.what, price.sort, price.per, price.cents) or (
            price.on_hand is not None and price.on_hand != one.on_hand
        ):
            changed.append((price, int(one.cents)))
        else:
            same += 1
    return Import(new, changed, same, refused)


def take(connection: Connection, someone: Someone, found: Import) -> None:
    """Take what a file holds into the list; what it does not name stays.

    Raises
    ------
    NotAllowed
    """
    _lead(someone)
    for price in (*found.new, *(price for price, _ in found.changed)):
        keep(connection, someone, price, quietly=True)
    audit.note(connection, someone, "prices_changed", f"from a file: {len(found.new)} new, {len(found.changed)} changed")


def keep(connection: Connection, someone: Someone, price: Price, *, quietly: bool = False) -> None:
    """Add a price, or change the one of that code.

    Raises
    ------
    NotAllowed, Refused
    """
    _lead(someone)
    if price.sort not in set(LineSort) or price.per not in set(Per):
        raise Refused("Choose what sort of price it is, and for one of what.", "sort")
    check_sign(price.sort, price.cents)
    values = {"what": price.what, "sort": price.sort, "per": price.per, "cents": price.cents, "retired": False}
    values |= {} if price.on_hand is None else {"on_hand": price.on_hand}
    known = prices.price_of_code(connection, price.code)
    if known is None:
        prices.add_price(connection, shop_id=someone.shop_id, id=uuid6.uuid7(), code=price.code, **values)
    else:
        prices.change_price(connection, known.id, **values)
    if not quietly:
        money = f"{price.cents / 100:.2f} {shop_settings(connection).currency}".strip()
        audit.note(connection, someone, "prices_changed", f"{price.code}: {money}")


def retire(connection: Connection, someone: Someone, price_id: UUID) -> None:
    """Take a price off the list; offers that hold it stay as they are.

    Raises
    ------
    NotAllowed, Refused
    """
    _lead(someone)
    price = prices.find_price(connection, price_id)
    if price is None:
        raise Refused("There is no such price any more: load the list again.", "price")
    prices.change_price(connection, price_id, retired=True)
    audit.note(connection, someone, "prices_changed", f"{price.code}: taken off the list")


def _lead(someone: Someone) -> None:
    if someone.role != "lead":
        raise NotAllowed("Only a lead changes the price list.")
