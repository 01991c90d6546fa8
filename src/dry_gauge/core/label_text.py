"""What a photo of a label may say, field by field, from words that a text recognizer saw and codes that were decoded.

Nothing here is taken over: each field comes with how surely it was read, where on the photo it stands, and what to
compare before it is believed. A label names things in its own words and order; both English and Spanish are known.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import reduce

from dry_gauge.core.charge.mass import WEIGHT_UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.refrigerants.catalogue import find

CLEAR, DOUBTFUL = 0.9, 0.7
"""From which share a word counts as read clearly, and below which as hardly read at all. Chosen, from a few made plates: right
words came with 0.81 to 0.96, a serial with one letter mistaken for its look-alike with 0.79 to 0.88; those are named besides."""
_SAME_WEIGHT = 0.02  # pounds and kilograms of one label are rounded each for itself


@dataclass(frozen=True, slots=True)
class Box:
    """Where something stands on a photo, in pixels from its upper left corner."""

    left: int
    top: int
    right: int
    bottom: int

    def with_(self, other: Box) -> Box:
        """The box around both."""
        return Box(
            min(self.left, other.left), min(self.top, other.top), max(self.right, other.right), max(self.bottom, other.bottom)
        )

    @property
    def height(self) -> int:
        """Its height. [px]"""
        return self.bottom - self.top


@dataclass(frozen=True, slots=True)
class Word:
    """A word as it was recognised; `line` numbers the words that stand in one line."""

    text: str
    sure: float
    box: Box
    line: int


@dataclass(frozen=True, slots=True)
class Code:
    """A bar or QR code as it was decoded; its check digits make it sure."""

    text: str
    box: Box


@dataclass(frozen=True, slots=True)
class Field:
    """One field of the card as a label may have it.

    Parameters
    ----------
    name : str
        The card's field: model, serial, maker, refrigerant, charge, rated_load_amps, seer, size or made_year.
    text : str
        As the card's form takes it.
    sure : float
        Share from 0 to 1: the recogniser's own for the least sure word, or 1 where a code says the same.
    compare : tuple of str
        What to look at twice.
    """

    name: str
    text: str
    sure: float
    box: Box
    compare: tuple[str, ...] = ()

    @property
    def word(self) -> str:
        """How surely it was read, in words."""
        return "clear" if self.sure >= CLEAR and not self.compare else "look twice" if self.sure >= DOUBTFUL else "hardly read"


_NUMBER_SIGN = r"(?:\s*(?:NO|N[°ºO0]|NUM(?:BER|ERO)?|NRO|DE|#)\b[.,]?)*[\s.,:#°º]*"
# A number with a digit in it; makers set a few letters before it, or a run of digits behind, with a blank between.
_VALUE = r"(?P<value>(?:[A-Z]{2,4} )?(?=\S*\d)[A-Z0-9][A-Z0-9/.\-]{3,}(?: \d[A-Z0-9]{3,}(?!\S))?)"
_NUMERAL = r"(?P<value>\d+(?:[.,]\d+)?)"
_DIGIT = r"[0-9OIQ]"
_POUNDS = r"(?:LBS?|POUNDS?|LIBRAS?)(?![A-Z])"
_OUNCES = r"(?:[O0]ZS?|ONZAS?)"  # the unit's first letter is often read as a nought
# Field by field, the likeliest writing first.
_WRITTEN: dict[str, tuple[re.Pattern[str], ...]] = {
    name: tuple(re.compile(pattern, re.IGNORECASE) for pattern in patterns)
    for name, patterns in {
        "model": (rf"\b(?:MODELO?|MOD\b|M/N|M\.N\.){_NUMBER_SIGN}{_VALUE}",),
        "serial": (rf"\b(?:SERIAL|SERIES?|SER\b|S/N|S\.N\.){_NUMBER_SIGN}{_VALUE}",),
        "refrigerant": (rf"\b(?P<value>(?:R|HFC|HCFC|HFO)[\s-]?{_DIGIT}{{2,4}}[A-Z]{{0,2}})\b",),
        "charge": (
            rf"(?P<value>\d+(?:[.,]\d+)?\s*{_POUNDS}\.?,?\s*\d+(?:[.,]\d+)?\s*{_OUNCES}\b)",
            rf"(?P<value>\d+(?:[.,]\d+)?\s*{_POUNDS})",
            rf"(?:CHARGE|CARGA).*?(?P<value>\d+(?:[.,]\d+)?\s*(?:{_OUNCES}|KGS?|G)\b)",
            r"(?P<value>\d+[.,]\d+\s*KGS?\b)",
        ),
        "rated_load_amps": (rf"\bR\.?\s?L\.?\s?A\b[\s.:]*{_NUMERAL}", rf"\bRATED LOAD (?:AMPS|CURRENT)[\s.:]*{_NUMERAL}"),
        "seer": (rf"\bSEER2?[\s.:]*{_NUMERAL}",),
        "size": (r"(?P<value>\d{4,6}\s*(?:BTU/?H?R?))\b", r"(?P<value>\d+(?:[.,]\d+)?\s*TONS?)\b"),
        "made_year": (r"\b(?:MFD|MFR|MFG|MANUFACTURED|DATE|FECHA|FABRICA\w*)\b.{0,24}?\b(?P<value>(?:19|20)\d\d)\b",),
        "maker": (r"\b(?:MANUFACTURED BY|MADE BY|FABRICADO POR|HECHO POR)[\s:]*(?P<value>\S.*)",),
    }.items()
}
_KILOGRAMS = re.compile(r"(?P<value>\d+[.,]\d+)\s*KGS?\b", re.IGNORECASE)
_ALIKE = ("0OQD", "1IL", "5S", "8B", "2Z", "6G")
# Outside of these a decimal point was lost. Chosen wide.
_USUAL = {"seer": (6.0, 45.0), "rated_load_amps": (0.5, 400.0)}


@dataclass(frozen=True, slots=True)
class _Line:
    """Words side by side, and where each begins in their common text."""

    words: tuple[Word, ...]

    @property
    def text(self) -> str:
        return " ".join(word.text for word in self.words)

    def of(self, start: int, end: int) -> list[Word]:
        """The words that stand between two places of the text."""
        found, at = [], 0
        for word in self.words:
            if at < end and at + len(word.text) > start:
                found.append(word)
            at += len(word.text) + 1
        return found


def fields_in(words: Sequence[Word], codes: Sequence[Code], this_year: int) -> tuple[Field, ...]:
    """Fields of the card that a label seems to name, each once, in the card's order.

    Parameters
    ----------
    this_year : int
        Nothing is made later.
    """
    lines = _lines(words)
    found: dict[str, Field] = {}
    # What stands behind its name goes before what stands beside it or below.
    for near in (lines, list(_joined(lines))):
        for name, pattern in ((name, pattern) for name, patterns in _WRITTEN.items() for pattern in patterns):
            fields = (_field(name, pattern, line, this_year) for line in near)
            if name not in found and (field := next(filter(None, fields), None)) is not None:
                found[name] = field
    if "charge" in found:
        found["charge"] = _weighed_twice(found["charge"], lines)
    _confirm(found, codes)
    return tuple(found[name] for name in _WRITTEN if name in found)


def _lines(words: Sequence[Word]) -> list[_Line]:
    by_number: dict[int, list[Word]] = {}
    for word in words:
        by_number.setdefault(word.line, []).append(word)
    return [_Line(tuple(sorted(of_line, key=lambda word: word.box.left))) for of_line in by_number.values()]


def _joined(lines: Sequence[_Line]) -> Iterator[_Line]:
    """Each line with the one to its right, and with the one right below: a table's name and value."""
    for line in lines:
        last, first = line.words[-1].box, line.words[0].box
        right = [
            other
            for other in lines
            if other is not line
            and other.words[0].box.left >= last.right
            and abs(other.words[0].box.top - last.top) < max(last.height, 1)
        ]
        below = [
            other
            for other in lines
            if 0 < other.words[0].box.top - first.top < 4 * max(first.height, 1)
            and abs(other.words[0].box.left - first.left) < 3 * max(first.height, 1)
        ]
        for others, near in ((right, lambda other: other.words[0].box.left), (below, lambda other: other.words[0].box.top)):
            if others:
                yield _Line((*line.words, *min(others, key=near).words))


def _field(name: str, pattern: re.Pattern[str], line: _Line, this_year: int) -> Field | None:
    seen = pattern.search(line.text)
    text = _as_typed(name, seen["value"]) if seen else None
    if seen is None or text is None or (name == "made_year" and int(text) > this_year):
        return None
    start, end = seen.span("value")
    words = line.of(start, end)
    box = reduce(Box.with_, (word.box for word in words))
    compare = _to_compare(name, text, line.text[:start].rstrip(), line.text[end:].lstrip())
    return Field(name, text, min(word.sure for word in words), box, tuple(dict.fromkeys(compare)))


def _as_typed(name: str, value: str) -> str | None:
    """A value as the card's form takes it, or nothing where it cannot be one."""
    value = value.strip(" .,:;|")
    if name in ("model", "serial"):
        return value.upper()
    if name == "refrigerant":
        digits = re.sub(r"^[A-Z]+[\s-]?", "", value.upper())
        head = "".join("0" if sign in "OQ" else "1" if sign == "I" else sign for sign in digits)
        try:
            return find(f"R-{head}").name
        except Refused:
            return None
    if name == "charge":
        value = re.sub(rf"(?i)\s*{_POUNDS}\.?,?\s*", " lb ", value.replace(",", ".")).strip()
        value = re.sub(rf"(?i)\s*{_OUNCES}\b", " oz", value)
        return re.sub(r"(?i)kgs?\b", "kg", re.sub(r"(?<=\d)(?=[a-zA-Z])", " ", value)).replace("G", "g")
    if name == "size":
        return re.sub(r"(?i)\s*btu.*", " Btu/h", re.sub(r"(?i)\s*tons?", " ton", value.replace(",", ".")))
    if name == "maker":
        return value.title() if value.isupper() else value
    return value.replace(",", ".")


def _to_compare(name: str, text: str, before: str, behind: str) -> Iterator[str]:
    """What a recogniser mixes up or loses: signs that look alike between the two sorts, decimal points, half a weight."""
    if name in ("model", "serial"):
        for left, sign, right in zip(" " + text, text, text[1:] + " ", strict=False):
            alike = next((group for group in _ALIKE if sign in group), "")
            if alike and any(other.isalnum() and other.isdigit() != sign.isdigit() for other in (left, right)):
                yield " or ".join(alike[:2]) if sign in alike[:2] else f"{alike[0]} or {sign}"
    elif name in _USUAL and not _USUAL[name][0] <= float(text) <= _USUAL[name][1]:
        yield "the decimal point seems lost"
    elif name == "charge":
        rest = before.rsplit(None, 2)[-2:]
        if any(part[0].isdigit() for part in rest):
            yield f"more stands before it: {' '.join(rest)}"
        if behind[:1].isdigit() and not _KILOGRAMS.match(behind):
            yield f"more stands behind it: {behind[:12]}"


def _weighed_twice(charge: Field, lines: Iterable[_Line]) -> Field:
    """Pounds and kilograms of one label check one another."""
    if not charge.text.endswith(("lb", "oz")) or "lb" not in charge.text:
        return charge
    for line in lines:
        if (seen := _KILOGRAMS.search(line.text)) is None:
            continue
        parts = [float(part) for part in re.findall(r"\d+(?:\.\d+)?", charge.text)]
        kg = parts[0] * WEIGHT_UNITS["lb"] + (parts[1] * WEIGHT_UNITS["oz"] if len(parts) > 1 else 0.0)
        beside = float(seen["value"].replace(",", "."))
        if abs(kg - beside) <= _SAME_WEIGHT * kg:
            return replace(charge, sure=max(charge.sure, CLEAR), compare=())
        return replace(charge, compare=(f"{beside:g} kg stands there too, and is not the same",))
    return charge


def _confirm(found: dict[str, Field], codes: Sequence[Code]) -> None:
    """A code that says what was read makes it sure; one that differs only in letters that look alike corrects it."""
    for code in codes:
        text = code.text.strip().upper()
        for name in ("serial", "model"):
            field = found.get(name)
            if field is not None and _folded(field.text) == _folded(text):
                found[name] = replace(field, text=text, sure=1.0, compare=())
                break
        else:
            if "serial" not in found and re.fullmatch(r"(?=.*\d)[A-Z0-9\-]{6,24}", text):
                found["serial"] = Field("serial", text, DOUBTFUL, code.box, ("from a bar code: it may be another number",))


def _folded(text: str) -> str:
    """A number with what looks alike made one."""
    return "".join(next((alike[0] for alike in _ALIKE if sign in alike), sign) for sign in text if sign.isalnum())
