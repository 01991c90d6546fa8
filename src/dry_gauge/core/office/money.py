"""Money as people type it, and lines of an offer summed without a fraction lost.

Amounts are whole hundredths of the shop's currency; quantities are thousandths.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from enum import StrEnum

from dry_gauge.core.errors import Refused

MOST_CENTS = 10_000_000_00
_SIGNS = {"$": "USD", "€": "EUR", "£": "GBP"}
_TYPED = re.compile(r"([A-Za-z]{3}|[$€£])?\s*(-|−)?\s*([A-Za-z]{3}|[$€£])?\s*([\d.,'’\s]*\d[\d.,'’\s]*)\s*([A-Za-z]{3}|[$€£])?")


class LineSort(StrEnum):
    """What a line of an offer is for."""

    PART = "part"
    REFRIGERANT = "refrigerant"
    LABOR = "labor"
    TRIP = "trip"
    DISPOSAL = "disposal"
    UNIT = "unit"
    DISCOUNT = "discount"
    OTHER = "other"

    @classmethod
    def _missing_(cls, value: object) -> LineSort | None:
        """As it is spelt elsewhere, and was here in offers that are kept."""
        return cls.LABOR if value == "labour" else None


class Per(StrEnum):
    """What a price is for one of."""

    EACH = "each"
    HOUR = "hour"
    LB = "lb"
    KG = "kg"


def cents_of(text: str, currency: str = "") -> int:
    """A price as it was typed or stands in a file: ``1,234.50``, ``1.234,50``, ``$ 12``, ``12 EUR``, ``-5``.

    Parameters
    ----------
    currency : str
        The shop's, three letters; another one written with the price is refused. Empty: any is taken.

    Raises
    ------
    Refused
        For what is no price, of another currency, finer than hundredths, or can be read in two ways.
    """
    found = _TYPED.fullmatch(text.strip())
    if found is None:
        raise Refused(f"{text.strip()[:30]!r} is no price: write it as 12.50.", "price")
    said = {_SIGNS.get(one, one.upper()) for one in (found[1], found[3], found[5]) if one}
    if currency and said and said != {currency.upper()}:
        raise Refused(f"{text.strip()[:30]!r} is not in {currency.upper()}, the shop's currency.", "price")
    number = _plain(found[4], text)
    cents = int((number * 100).to_integral_value(ROUND_HALF_UP))
    if abs(cents) > MOST_CENTS:
        raise Refused(f"{text.strip()[:30]!r} is more than any offer holds.", "price")
    return -cents if found[2] else cents


def _plain(digits: str, text: str) -> Decimal:
    """A number whatever its separators; a point or comma before exactly three digits alone is read in neither way."""
    bare = re.sub(r"[\s'’]", "", digits)
    points, commas = bare.count("."), bare.count(",")
    if points and commas:
        decimal = "." if bare.rindex(".") > bare.rindex(",") else ","
        bare = bare.replace("," if decimal == "." else ".", "").replace(decimal, ".")
    elif points + commas == 1:
        sign = "." if points else ","
        after = len(bare) - bare.index(sign) - 1
        if after == 3:
            whole, _, rest = bare.partition(sign)
            words = f"Is {text.strip()[:30]!r} {whole}{rest} or {whole}.{rest}? Write it without thousands: {whole}{rest}.00."
            raise Refused(words, "price")
        bare = bare.replace(sign, ".")
    elif points + commas > 1:
        bare = bare.replace(".", "").replace(",", "")
    if not re.fullmatch(r"\d+(\.\d{1,2})?", bare):
        raise Refused(f"{text.strip()[:30]!r} is no price: write it as 12.50.", "price")
    return Decimal(bare)


def check_sign(sort: str, cents: int) -> None:
    """Whether a price may have that sign.

    Raises
    ------
    Refused
    """
    if cents != 0 and (cents < 0) != (sort == LineSort.DISCOUNT):
        raise Refused("Only a discount is below zero; make it a line of its own.", "price")


@dataclass(frozen=True, slots=True)
class Line:
    """One line: so many thousandths at so many hundredths each."""

    sort: LineSort
    what: str
    per: Per
    thousandths: int
    cents_each: int

    def __post_init__(self) -> None:
        """A line takes money off only where it says that it does.

        Raises
        ------
        Refused
        """
        if self.thousandths <= 0:
            raise Refused("A quantity is above zero.", "quantity")
        check_sign(self.sort, self.cents_each)

    @property
    def cents(self) -> int:
        """What it comes to, the half cent up."""
        return int((Decimal(self.thousandths * self.cents_each) / 1000).to_integral_value(ROUND_HALF_UP))


def total(lines: Iterable[Line]) -> int:
    """What lines come to. [hundredths]

    Raises
    ------
    Refused
        Where discounts are more than all the rest.
    """
    found = sum(line.cents for line in lines)
    if found < 0:
        raise Refused("Discounts are more than everything else together.", "price")
    return found
