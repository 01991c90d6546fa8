"""Readings in words, as they are said with both hands busy: parsed, and read back before anything is kept.

Numbers are said in the trade's way: 'one eighteen' is 118, 'ninety eight point five' 98.5, 'minus four' below zero. What
can be heard two ways is marked, never guessed silently.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from dry_gauge.core.vocabulary import QUANTITIES

# Longest names first: 'suction line' is not 'suction'.
_NAMES = {
    "outdoor_air_temp": ("outdoor air", "outdoor", "outside air", "outside", "ambient"),
    "return_air_wet_bulb": ("return wet bulb", "wet bulb"),
    "return_air_temp": ("return air", "return dry bulb", "return"),
    "mixed_air_temp": ("mixed air", "mixed"),
    "supply_air_wet_bulb": ("supply wet bulb",),
    "supply_air_temp": ("supply air", "supply"),
    "box_air_temp": ("box air", "box"),
    "product_temp": ("product",),
    "space_temp": ("space", "room"),
    "suction_line_temp": ("suction line", "vapor line", "vapour line"),
    "coil_outlet_temp": ("coil outlet",),
    "compressor_suction_temp": ("compressor inlet",),
    "liquid_line_temp": ("liquid line",),
    "discharge_line_temp": ("discharge line", "hot gas line"),
    "drier_inlet_temp": ("before drier", "drier inlet", "drier in"),
    "drier_outlet_temp": ("after drier", "drier outlet", "drier out"),
    "suction_pressure": ("suction pressure", "suction", "low side"),
    "liquid_pressure": ("liquid pressure", "head pressure", "head", "liquid", "high side"),
    "discharge_pressure": ("discharge pressure",),
    "compressor_amps": ("compressor amps", "compressor"),
    "blower_amps": ("blower amps", "blower"),
    "condenser_fan_amps": ("condenser fan amps", "outdoor fan amps", "condenser fan", "outdoor fan"),
}
# Said beside readings, and none themselves: they are worked out, or belong to another desk.
_NO_READINGS = ("superheat", "subcooling", "sub cooling", "split", "delta t", "microns", "micron", "vacuum", "static")
_BY_NAME = {name: quantity for quantity, names in _NAMES.items() for name in names}
_ALL_NAMES = sorted(map(re.escape, (*_BY_NAME, *_NO_READINGS)), key=len, reverse=True)
_NAME = re.compile(r"\b(" + "|".join(_ALL_NAMES) + r")\b", re.I)
_UNITS = {
    "psi": "psig", "psig": "psig", "pounds": "psig", "kpa": "kPag", "bar": "barg", "f": "F", "fahrenheit": "F", "c": "C",
    "celsius": "C", "degrees": "", "degree": "", "amps": "A", "amp": "A", "a": "A",
}  # fmt: skip
_UP_TO_NINETEEN = (
    "zero", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve", "thirteen",
    "fourteen", "fifteen", "sixteen", "seventeen", "eighteen", "nineteen",
)  # fmt: skip
_FROM_TWENTY = ("twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety")
_SMALL = {word: i for i, word in enumerate(_UP_TO_NINETEEN)} | {"oh": 0}
_TENS = {word: 10 * i for i, word in enumerate(_FROM_TWENTY, 2)}
_SAID_WITHOUT = frozenset({"is", "at", "reads", "of", "the", "and", "a", "about", "temp", "temperature", "to"})


@dataclass(frozen=True, slots=True)
class SaidReading:
    """One reading as understood; `doubt` says what else it may have been."""

    quantity: str
    value: float
    unit: str
    words: str
    doubt: str = ""

    @property
    def label(self) -> str:
        """The quantity as the sheet names it."""
        known = QUANTITIES[self.quantity]
        return known.label + (" pressure" if known.dimension == "pressure" else "")


def understood(text: str, usual_units: dict[str, str]) -> tuple[tuple[SaidReading, ...], tuple[str, ...]]:
    """Readings in a text, and the pieces that were not understood.

    Parameters
    ----------
    usual_units : dict
        Unit of each dimension where none is said.
    """
    names = list(_NAME.finditer(text))
    found, lost = [], []
    head = text[: names[0].start()] if names else text
    if head.strip(" ,.;:\n"):
        lost.append(head.strip(" ,.;:\n"))
    for i, name in enumerate(names):
        end = names[i + 1].start() if i + 1 < len(names) else len(text)
        rest = text[name.end() : end].strip(" ,.;:\n")
        quantity = _BY_NAME.get(name[1].lower())
        reading, more = _longest(quantity, name[1], rest, usual_units) if quantity else (None, "")
        if reading is None:
            lost.append(f"{name[1]} {rest}".strip())
        else:
            found.append(reading)
            lost += [more] if more else []
    return tuple(found), tuple(lost)


def _longest(quantity: str, name: str, rest: str, usual_units: dict[str, str]) -> tuple[SaidReading | None, str]:
    """The reading in the first words of a phrase, as many as make one; and what is left of the phrase."""
    words = rest.split()
    for most in range(len(words), 0, -1):
        said, more = " ".join(words[:most]), " ".join(words[most:])
        if more and not said.endswith((",", ";")) and _is_of_a_number(words[most]):
            continue  # half a number is no number
        reading = _reading(quantity, said, f"{name} {said}".strip(), usual_units)
        if reading is not None:
            return reading, more.strip(" ,.;:")
    return None, ""


def _is_of_a_number(word: str) -> bool:
    word = word.lower().strip(",;.")
    return word in _SMALL or word in _TENS or word in ("hundred", "point") or word[:1].isdigit()


def _reading(quantity: str, rest: str, words: str, usual_units: dict[str, str]) -> SaidReading | None:
    dimension = QUANTITIES[quantity].dimension
    tokens = [token for token in re.findall(r"[-−]?\d+(?:\.\d+)?|[a-z°]+", rest.lower().replace("-", " -")) if token]
    unit = usual_units[dimension]
    numbers = []
    for token in tokens:
        if token.strip("°") in _UNITS:
            unit = _UNITS[token.strip("°")] or unit
        elif token not in _SAID_WITHOUT:
            numbers.append(token)
    spoken = _number(numbers)
    if spoken is None:
        return None
    value, doubt = spoken
    return SaidReading(quantity, value, unit, words, doubt)


def _number(tokens: list[str]) -> tuple[float, str] | None:
    """A number from its words, and what else it may mean; None if it is no number."""
    sign = 1.0
    if tokens and tokens[0] in ("minus", "negative", "below"):
        sign, tokens = -1.0, tokens[1:]
    if len(tokens) == 1 and re.fullmatch(r"[-−]?\d+(\.\d+)?", tokens[0]):
        return sign * float(tokens[0].replace("−", "-")), ""
    whole, _, fraction = " ".join(tokens).partition(" point ")
    parts = _groups(whole.split())
    if parts is None:
        return None
    digits = "".join(str(_SMALL[word]) if word in _SMALL and _SMALL[word] < 10 else word for word in fraction.split())
    if fraction and not digits.isdigit():
        return None
    doubt = ""
    number = parts[0]
    if len(parts) == 2 and 1 <= parts[0] <= 9 and 10 <= parts[1] <= 99:
        number = parts[0] * 100 + parts[1]  # 'one eighteen', 'three sixty five'
    elif len(parts) == 3 and all(part <= 9 for part in parts):
        number = parts[0] * 100 + parts[1] * 10 + parts[2]  # 'three six five'
    elif len(parts) == 2 and all(part <= 9 for part in parts):
        number = parts[0] * 10 + parts[1]
        doubt = f"or {parts[0]}.{parts[1]}?"
    elif len(parts) != 1:
        return None
    return sign * float(f"{number}.{digits}" if digits else number), doubt


def _groups(words: list[str]) -> list[int] | None:
    """Numbers said one after the other: tens take their units, 'hundred' multiplies."""
    groups: list[int] = []
    open_tens = False
    for word in words:
        if word.isdigit():
            groups.append(int(word))
            open_tens = False
        elif word == "hundred" and groups:
            groups[-1] *= 100
            open_tens = True
        elif word in _TENS:
            if open_tens and groups and groups[-1] % 100 == 0 and groups[-1]:
                groups[-1] += _TENS[word]
            else:
                groups.append(_TENS[word])
            open_tens = True
        elif word in _SMALL:
            if open_tens and groups and groups[-1] and groups[-1] % 10 == 0 and (_SMALL[word] < 10 or groups[-1] % 100 == 0):
                groups[-1] += _SMALL[word]
            else:
                groups.append(_SMALL[word])
            open_tens = False
        else:
            return None
    return groups or None
