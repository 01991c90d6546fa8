"""What an owner reads, in their language: one file of sentences each, and numbers, dates and money as they are written there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from functools import cache
from pathlib import Path

from babel.core import UnknownLocaleError
from babel.dates import format_date
from babel.numbers import format_currency, format_decimal, format_percent
from fluent.runtime import FluentBundle, FluentResource

from dry_gauge.core.statements import Amount, Money, Share, Statement, Value
from dry_gauge.core.words import Reader

FOLDER = Path(__file__).parent / "languages"
USUAL = "en"
"""The language of a shop that says none."""


@dataclass(frozen=True, slots=True)
class Language:
    """One language: its sentences, and how numbers, dates and money are written in it."""

    code: str
    name: str
    locale: str
    bundle: FluentBundle

    def tell(self, statement: Statement, reader: Reader | None = None, currency: str = "") -> str:
        """A sentence with everything in it.

        Raises
        ------
        KeyError
            For a sentence that the file does not have, or that lacks something it needs: a mistake of ours, not of data.
        """
        reader = reader or Reader()
        values = {name: self._said(value, reader, currency) for name, value in statement.values.items()}
        message = self.bundle.get_message(statement.key) if self.bundle.has_message(statement.key) else None
        if message is None or message.value is None:
            raise KeyError(f"{self.code}.ftl has no '{statement.key}'")
        text, errors = self.bundle.format_pattern(message.value, values)
        if errors:
            raise KeyError(f"{self.code}.ftl, '{statement.key}': {errors[0]}")
        return str(text)

    def say(self, key: str, **values: Value) -> str:
        """A sentence by its name."""
        return self.tell(Statement(key, values))

    def amount(self, amount: Amount, reader: Reader) -> str:
        """A number by itself, with what is open about it."""
        return str(self._said(amount, reader, ""))

    def day(self, day: date | datetime) -> str:
        """A day as it is written out."""
        return str(format_date(day, "long", locale=self.locale))

    def money(self, cents: int, currency: str, *, short: bool = False) -> str:
        """An amount of money; without a currency the bare number. `short` leaves out hundredths that are none."""
        amount = Decimal(cents) / 100
        if len(currency) == 3 and currency.isalpha():
            whole = short and cents % 100 == 0
            return str(
                format_currency(
                    amount, currency.upper(), "¤#,##0" if whole else None, locale=self.locale, currency_digits=not whole
                )
            )
        return f"{format_decimal(amount, '#,##0.00', locale=self.locale)} {currency}".strip()

    def _said(self, value: Value, reader: Reader, currency: str) -> str | int:
        match value:
            case Amount(dimension, value_si, plus_minus, bare):
                said = _bare(reader, dimension, value_si) if bare else reader.say(dimension, value_si)
                return said if plus_minus is None else f"{said} ±{_bare(reader, dimension, plus_minus)}"
            case Share(share):
                return str(format_percent(share, "#,##0%", locale=self.locale))
            case Money(cents):
                return self.money(cents, currency, short=True)
            case Statement():
                return self.tell(value, reader, currency)
            case date():
                return self.day(value)
            case _:
                return value


def _bare(reader: Reader, dimension: str, value_si: float) -> str:
    """A difference without its unit, which stands beside it; other numbers as they are said."""
    return f"{reader.difference(value_si):.1f}" if dimension == "difference" else reader.say(dimension, value_si)


@cache
def languages() -> Mapping[str, Language]:
    """Every language that has a file, the usual one first."""
    files = sorted(FOLDER.glob("*.ftl"), key=lambda one: (one.stem != USUAL, one.stem))
    return {one.stem: _read(one) for one in files}


def language_named(code: str) -> Language:
    """A language; the usual one for a code without a file."""
    return languages().get(code, languages()[USUAL])


def _read(file: Path) -> Language:
    resource = FluentResource(file.read_text(encoding="utf-8"))
    bundle = FluentBundle([file.stem], use_isolating=False)
    bundle.add_resource(resource)

    def plain(key: str) -> str:
        message = bundle.get_message(key)
        return str(bundle.format_pattern(message.value)[0]) if message.value else ""

    locale = plain("locale")
    try:
        format_date(date(2000, 1, 1), locale=locale)
    except (UnknownLocaleError, ValueError):
        raise ValueError(f"{file.name}: '{locale}' is no locale") from None
    return Language(file.stem, plain("language"), locale, bundle)
