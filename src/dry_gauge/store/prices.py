"""The shop's price list, with how many of each lie in the shop."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, func, insert, select, update

from dry_gauge.store.models import PriceRow


def all_prices(connection: Connection, *, retired: bool = False) -> Sequence[Any]:
    """The list by sort and code."""
    asked = select(PriceRow.id, PriceRow.code, PriceRow.what, PriceRow.sort, PriceRow.per, PriceRow.cents, PriceRow.on_hand)
    return connection.execute(asked.where(PriceRow.retired == retired).order_by(PriceRow.sort, PriceRow.code)).all()


def find_price(connection: Connection, price_id: UUID) -> Any:
    """One price."""
    return connection.execute(select(PriceRow).where(PriceRow.id == price_id)).one_or_none()


def price_of_code(connection: Connection, code: str) -> Any:
    """The price of that code, whatever its capitals."""
    return connection.execute(select(PriceRow).where(func.lower(PriceRow.code) == code.lower())).one_or_none()


def add_price(connection: Connection, **values: Any) -> None:
    """A new line."""
    connection.execute(insert(PriceRow).values(values))


def change_price(connection: Connection, price_id: UUID, **values: Any) -> None:
    """Another price, other words, another number on hand."""
    connection.execute(update(PriceRow).where(PriceRow.id == price_id).values(values))
