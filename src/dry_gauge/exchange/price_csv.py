"""A shop's price list out of a file, and into one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Protocol

from dry_gauge.core.errors import Refused
from dry_gauge.core.office.money import LineSort, Per, cents_of, check_sign
from dry_gauge.exchange.sheets_csv import RefusedLine, cell, read_table, table_text

COLUMNS = {
    "code": ("number", "part number", "código", "codigo"),
    "what": ("description", "name", "descripción", "descripcion", "part"),
    "sort": ("kind", "type", "tipo"),
    "per": ("unit", "unidad"),
    "price": ("cost", "precio", "sell price"),
    "on_hand": ("stock", "existencia"),
}
_PER = {
    **dict.fromkeys(("", "ea", "each", "pc", "pcs", "pza"), Per.EACH),
    **dict.fromkeys(("h", "hr", "hour", "hora"), Per.HOUR),
    **dict.fromkeys(("lb", "lbs", "pound"), Per.LB),
    **dict.fromkeys(("kg", "kilogram"), Per.KG),
}


class PriceLike(Protocol):
    """What stands in a price list."""

    code: str
    what: str
    sort: str
    per: str
    cents: int
    on_hand: int | None


@dataclass(frozen=True, slots=True)
class Price:
    """One price out of a file."""

    code: str
    what: str
    sort: str
    per: str
    cents: int
    on_hand: int | None


def prices_from(raw: bytes, currency: str) -> tuple[list[Price], list[RefusedLine]]:
    """Prices, and the lines that were refused, each with its number and why.

    Raises
    ------
    Refused
        For a file that is no table at all.
    """
    taken: dict[str, Price] = {}
    refused = []
    for line in read_table(raw, COLUMNS):
        try:
            price = _price(line.cells, currency)
            if price.code.casefold() in taken:
                raise Refused(f"{price.code} stands twice; the first counts.")
            taken[price.code.casefold()] = price
        except Refused as refusal:
            refused.append(RefusedLine(line.number, "; ".join(line.cells.values())[:120], refusal.message))
    return list(taken.values()), refused


def _price(cells: Mapping[str, str], currency: str) -> Price:
    code, what = (cells.get(name, "").removeprefix("'") for name in ("code", "what"))
    if not code or not what:
        raise Refused("A price needs a code and what it is for.")
    if len(code) > 60 or len(what) > 200:
        raise Refused("The code has at most 60 characters, what it is for at most 200.")
    named = cells.get("sort", "").casefold() or LineSort.PART.value
    try:
        sort = LineSort(named)
    except ValueError:
        raise Refused(f"{named[:30]!r} is none of {', '.join(LineSort)}.") from None
    per = _PER.get(cells.get("per", "").casefold().strip("./ "))
    if per is None:
        raise Refused(f"A price is for {', '.join(Per)}, not {cells['per'][:30]!r}.")
    cents = cents_of(cells.get("price", ""), currency)
    check_sign(sort, cents)
    stock = cells.get("on_hand", "")
    if stock and not stock.isdecimal():
        raise Refused(f"{stock[:20]!r} is no number on hand.")
    return Price(code, what, sort.value, per.value, cents, int(stock) if stock else None)


def prices_to(prices: Iterable[PriceLike]) -> str:
    """The list as CSV, as it is read again."""
    return table_text(
        COLUMNS,
        [
            (
                cell(one.code),
                cell(one.what),
                one.sort,
                one.per,
                f"{one.cents / 100:.2f}",
                "" if one.on_hand is None else one.on_hand,
            )
            for one in prices
        ],
    )
