"""Weights as the trade writes them: pounds and ounces, decimal pounds, ounces, kilograms; and the slips between them.

Inside, a weight is kilograms; in the notebook and the cylinder book it is whole grams, so that sums come out even.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import POUND_KG

OUNCE_KG = POUND_KG / 16
GRAM_KG = 1e-3
WEIGHT_UNITS = {"lb": POUND_KG, "oz": OUNCE_KG, "kg": 1.0, "g": GRAM_KG}
MOST_KG = 2000.0
"""More than any cylinder or unit this is for holds."""
_OUNCES_IN_POUND = 16
# Weights that are wrong by this factor were written in the neighbouring unit.
_SLIP_FACTORS = (("lb", "oz", 16.0), ("oz", "lb", 1 / 16), ("kg", "lb", 1 / POUND_KG), ("lb", "kg", POUND_KG))
_SLIP_TOLERANCE = 0.12
_SURELY_OFF = 1.8


@dataclass(frozen=True, slots=True)
class Weighed:
    """A weight as it was understood, and the other way in which it could be meant, if there is one (docs/rules.md, R24)."""

    kg: float
    instead_kg: float | None = None


_NUMBER = r"\d+(?:[.,]\d+)?|[.,]\d+"
_POUNDS_AND_OUNCES = re.compile(rf"(\d+)\s*(?:lbs?|pounds?)\.?\s*,?\s*({_NUMBER})\s*(?:oz|ounces?)?\.?", re.I)
_ONE_NUMBER = re.compile(rf"({_NUMBER})\s*([a-z]*)\.?", re.I)
_UNIT_WORDS = {
    "lb": "lb",
    "lbs": "lb",
    "pound": "lb",
    "pounds": "lb",
    "oz": "oz",
    "ounce": "oz",
    "ounces": "oz",
    "kg": "kg",
    "kgs": "kg",
    "kilo": "kg",
    "kilos": "kg",
    "g": "g",
    "gram": "g",
    "grams": "g",
}


def understood_weight(text: str, unit: str) -> Weighed:
    """A typed weight, such as ``6 lb 4 oz``, ``6.4 lb``, ``14.2 oz`` or ``2.9``.

    One or two digits behind the point of decimal pounds can be ounces written as decimals: 6.4 lb is 6 lb 6.4 oz, and
    whoever means 6 lb 4 oz often writes 6.4. Both are answered then. 6.40 and 6.25 can only be decimals.

    Parameters
    ----------
    unit : str
        What a bare number is in: lb, oz, kg or g.

    Raises
    ------
    Refused
        For nothing, words, a negative weight, or 16 ounces and more behind pounds.
    """
    typed = " ".join(text.split())
    if not typed:
        raise Refused("Type a weight, such as 6 lb 4 oz.", "weight")
    if typed[0] in "-−–":
        raise Refused("A weight cannot be negative: type it without the minus.", "weight")
    both = _POUNDS_AND_OUNCES.fullmatch(typed)
    if both:
        ounces = _number(both[2])
        if ounces >= _OUNCES_IN_POUND:
            raise Refused(f"{ounces:g} ounces is a pound or more: carry it over into the pounds.", "weight")
        return _within(Weighed(int(both[1]) * POUND_KG + ounces * OUNCE_KG))
    one = _ONE_NUMBER.fullmatch(typed)
    written = one[2].lower() if one else ""
    if one is None or (written and written not in _UNIT_WORDS):
        raise Refused(f"{typed[:24]!r} is not a weight. Write it as 6 lb 4 oz, 6.25 lb, 14.2 oz or 2.9 kg.", "weight")
    name = _UNIT_WORDS[written] if written else unit
    if name not in WEIGHT_UNITS:
        raise Refused(f"{unit!r} is no unit of weight: {', '.join(WEIGHT_UNITS)}.", "weight")
    kg = _number(_ungrouped(one[1], name)) * WEIGHT_UNITS[name]
    instead = _as_ounces(one[1]) if name == "lb" else None
    return _within(Weighed(kg, instead))


def _ungrouped(digits: str, unit: str) -> str:
    """Grams and ounces in the thousands are written with a comma: 2,900 g and 1,250 oz."""
    whole, comma, rest = digits.partition(",")
    return whole + rest if unit in ("g", "oz") and comma and len(rest) == 3 and whole else digits


def _number(digits: str) -> float:
    return float(digits.replace(",", "."))


def _as_ounces(digits: str) -> float | None:
    """Decimal pounds read as pounds and ounces, where that is another weight."""
    whole, _, rest = digits.replace(",", ".").partition(".")
    if not rest or len(rest) > 2 or not 1 <= int(rest) < _OUNCES_IN_POUND or rest.startswith("0"):
        return None
    return int(whole or 0) * POUND_KG + int(rest) * OUNCE_KG


def _within(weighed: Weighed) -> Weighed:
    if weighed.kg > MOST_KG:
        raise Refused(f"{weighed.kg:,.0f} kg is more than any cylinder holds. Check the unit.", "weight")
    return weighed


def slipped(kg: float, expected_kg: float | None) -> tuple[str, str] | None:
    """The units that were probably mixed up, (written, meant), where a weight misses what is expected by their factor.

    Examples
    --------
    >>> slipped(14 * OUNCE_KG, 14 * POUND_KG)
    ('oz', 'lb')
    """
    if not expected_kg or not kg or 1 / _SURELY_OFF < kg / expected_kg < _SURELY_OFF:
        return None
    for meant, written, factor in _SLIP_FACTORS:
        if abs(kg * factor / expected_kg - 1) < _SLIP_TOLERANCE:
            return written, meant
    return None


def pounds_and_ounces(kg: float) -> tuple[int, float]:
    """Whole pounds, and ounces to a tenth, carried: 15.96 oz is a pound. Not for negative weights."""
    tenths = round(kg / OUNCE_KG * 10)
    return tenths // (_OUNCES_IN_POUND * 10), tenths % (_OUNCES_IN_POUND * 10) / 10


@dataclass(frozen=True, slots=True)
class Forms:
    """One weight in every form, read back together so that a slip shows."""

    lb_oz: str
    lb: str
    oz: str
    kg: str


def forms(kg: float) -> Forms:
    """A weight in all its forms; negative ones with a minus in front.

    Examples
    --------
    >>> forms(6.4 * POUND_KG)
    Forms(lb_oz='6 lb 6.4 oz', lb='6.40 lb', oz='102.4 oz', kg='2.903 kg')
    """
    size, sign = abs(kg), "−" if kg < -GRAM_KG / 2 else ""
    pounds, ounces = pounds_and_ounces(size)
    return Forms(
        f"{sign}{pounds} lb {ounces:.1f} oz",
        f"{sign}{size / POUND_KG:.2f} lb",
        f"{sign}{size / OUNCE_KG:.1f} oz",
        f"{sign}{size:.3f} kg",
    )
