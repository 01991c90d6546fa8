"""What a label says: its size in any unit, and what a model or serial number may be saying.

Makers write size in thousands of Btu/h and dates as weeks, months and years in many orders. Every reading that is
possible is offered with the digits it came from; the technician chooses, and the card says so.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import BTU_PER_HOUR_W, TON_BTUH

_BTUH_OF = {
    "btu/h": 1.0,
    "btuh": 1.0,
    "btu": 1.0,
    "btu/hr": 1.0,
    "ton": TON_BTUH,
    "tons": TON_BTUH,
    "tr": TON_BTUH,
    "kw": 1000 / BTU_PER_HOUR_W,
    "w": 1 / BTU_PER_HOUR_W,
    "kbtu/h": 1000.0,
    "kbtuh": 1000.0,
    "mbh": 1000.0,
}
# Smaller and larger machines than these are not what this is for, and a lone number below the first is no Btu/h.
_LEAST_BTUH, _MOST_BTUH = 1_000.0, 6_000_000.0
_NOMINAL_KBTUH = (9, 12, 18, 24, 30, 36, 42, 48, 60, 72, 90, 102, 120, 150, 180, 240, 300)
_FIRST_YEAR = 1975
_MONTH_LETTERS = "ABCDEFGHJKLM"


@dataclass(frozen=True, slots=True)
class Candidate:
    """One way to read some of the digits."""

    digits: str
    words: str
    btuh: int | None = None
    year: int | None = None


def capacity_btuh(value: float, unit: str) -> float:
    """A size as a label or a technician says it. [Btu/h]

    Parameters
    ----------
    unit : str
        As written behind the number: Btu/h, ton, kW and their spellings; empty is Btu/h where it can be one.

    Raises
    ------
    Refused
        For a unit that is none of size, a lone small number, and what no such machine has.

    Examples
    --------
    >>> capacity_btuh(3, "ton")
    36000.0
    """
    plain = unit.lower().lstrip("-").replace(" ", "").rstrip(".")
    if not plain and 0 < value < _LEAST_BTUH:
        raise Refused(f"{value:g} of what? Write {value:g} ton, {value:g} kW, or Btu/h such as 36000.")
    if plain and plain not in _BTUH_OF:
        raise Refused(f"{unit!r} is no unit of size here. Write tons, kW or Btu/h: 3 ton, 10.5 kW, 36000.")
    btuh = value * _BTUH_OF[plain or "btu/h"]
    if not _LEAST_BTUH <= btuh <= _MOST_BTUH:
        raise Refused("A size lies between 1,000 Btu/h and 500 ton. Write 3 ton, 10.5 kW, or 36000.")
    return btuh


def sizes_in(model: str) -> tuple[Candidate, ...]:
    """Nominal sizes that the digits of a model number can stand for, in the order in which they appear."""
    found: dict[int, Candidate] = {}
    for digits in re.findall(r"(?=(\d{2,3}))", model):
        kbtuh = int(digits)
        # Two digits of a longer group are read only where the group is not a size itself.
        if kbtuh in _NOMINAL_KBTUH and kbtuh not in found:
            tons = f"{kbtuh * 1000 / TON_BTUH:g}"
            found[kbtuh] = Candidate(digits, f"{kbtuh},000 Btu/h, {tons} ton", btuh=kbtuh * 1000)
    return tuple(found.values())


def dates_in(serial: str, this_year: int) -> tuple[Candidate, ...]:
    """Build dates that the digits of a serial number can stand for, likeliest pattern first.

    Parameters
    ----------
    this_year : int
        Nothing is built later.
    """
    plain = re.sub(r"[\s-]", "", serial.upper())
    found: dict[str, Candidate] = {}

    def offer(digits: str, words: str, year: int) -> None:
        if _FIRST_YEAR <= year <= this_year:
            found.setdefault(words, Candidate(digits, words, year=year))

    for digits in re.findall(r"(?:19|20)\d\d", plain):
        offer(digits, f"{digits} (four digits of a year)", int(digits))
    for first, second in re.findall(r"(?=(\d\d)(\d\d))", plain)[:3]:
        if 1 <= int(second) <= 53:
            year = _century(int(first), this_year)
            offer(first + second, f"week {int(second)} of {year} (year, then week)", year)
        if 1 <= int(first) <= 53:
            year = _century(int(second), this_year)
            offer(first + second, f"week {int(first)} of {year} (week, then year)", year)
        if 1 <= int(second) <= 12:
            year = _century(int(first), this_year)
            offer(first + second, f"{year}, month {int(second)} (year, then month)", year)
    for letter, digits in re.findall(r"([A-M])(\d\d)", plain)[:1]:
        if letter in _MONTH_LETTERS:
            month, year = _MONTH_LETTERS.index(letter) + 1, _century(int(digits), this_year)
            offer(letter + digits, f"{year}, month {month} (letter is the month)", year)
    return tuple(found.values())


def _century(two_digits: int, this_year: int) -> int:
    """The latest year with those digits that is not in the future."""
    year = this_year - this_year % 100 + two_digits
    return year if year <= this_year else year - 100
