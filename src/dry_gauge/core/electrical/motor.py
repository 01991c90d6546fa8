"""Motors that are off: windings, ground, and old against new before a replacement goes in.

Good ohms do not clear a motor that opens a fuse under power, and an open winding does not rule out a short: evidence is weighed,
never one test (R41).
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.core.words import Phrase

GROUND_GOOD_OHM, GROUND_BAD_OHM = 20e6, 1e6
_SUM_WITHIN, _ALIKE_WITHIN = 0.05, 0.05
_GROUNDED_OHM = 1e4  # as good as a short to the shell


@dataclass(frozen=True, slots=True)
class OffTest:
    """One line of evidence from a motor that is off; `speaks` is ``for`` or ``against`` it, or ``asks``."""

    speaks: str
    phrase: Phrase


def horsepower(written: str) -> float:
    """Horsepower as plates write it: ``1/3``, ``1-1/2``, ``1 1/2``, ``0.75``, ``3``.

    Raises
    ------
    ValueError
    """
    text = written.strip().lower().removesuffix("hp").strip()
    match = re.fullmatch(r"(?:(\d{1,3})[\s-]+)?(\d{1,2})/(\d{1,2})", text)
    if match and int(match[3]):
        return int(match[1] or 0) + int(match[2]) / int(match[3])
    if re.fullmatch(r"\d{1,3}(?:\.\d{1,3})?", text):
        return float(text)
    raise ValueError(f"{written!r} is no horsepower. Write it as on the plate: 1/3, 3/4, 1-1/2.")


def windings(ohms: Mapping[str, float], *, three_phase: bool) -> OffTest:
    """Whether three ohms fit together: single phase, the two smaller add up to the largest; three phase, all alike."""
    values = sorted(ohms.values())
    if len(values) < 3:
        return OffTest("asks", Phrase("Three readings, wires off: each pair of terminals."))
    if any(value == float("inf") for value in values):
        return OffTest("against", Phrase("A winding is open. A hot overload opens too: wait an hour, then measure again."))
    if three_phase:
        middle = sum(values) / 3
        alike = max(abs(value - middle) for value in values) <= _ALIKE_WITHIN * middle
        unlike = "Windings that should be alike differ by more than 5 %: turns are shorted, or a wire is still on."
        words = "Three windings alike." if alike else unlike
        return OffTest("for" if alike else "against", Phrase(words))
    fits = abs(values[0] + values[1] - values[2]) <= _SUM_WITHIN * values[2]
    words = (
        "The two smaller add up to the largest."
        if fits
        else "The two smaller do not add up to the largest: a wire still on, a poor probe, or shorted turns."
    )
    return OffTest("for" if fits else "against", Phrase(words))


def to_ground(ohms: float, *, after_heater: bool = False) -> OffTest:
    """What resistance to the shell says. [ohm]"""
    if ohms < _GROUNDED_OHM:
        return OffTest("against", Phrase("Grounded: power stays off. Wires off, terminals clean, once more."))
    if ohms < GROUND_BAD_OHM:
        heater = "" if after_heater else " On a cold compressor: crankcase heater first, then again."
        return OffTest("asks", Phrase(f"{ohms / 1e6:.2f} megohm to ground is low.{heater} The maker's limit wins."))
    if ohms < GROUND_GOOD_OHM:
        return OffTest("asks", Phrase(f"{ohms / 1e6:.1f} megohm to ground: it may run; over 20 is good."))
    return OffTest("for", Phrase(f"{ohms / 1e6:.0f} megohm to ground: good."))


# -- old against new -------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class MatchLine:
    """One line of a match sheet: ``same``, ``allowed``, ``wrong`` or ``asks``, and why."""

    name: str
    old: str
    new: str
    verdict: str
    why: str


_LABELS = {
    "hp": "Power", "volts": "Volts", "phase": "Phases", "rpm": "Speed, rpm", "amps": "Full load amps", "frame": "Frame",
    "shaft": "Shaft", "rotation": "Turns, seen from the shaft", "enclosure": "Enclosure", "capacitor": "Capacitor, µF",
    "mount": "Mount",
}  # fmt: skip
MATCH_LABELS: Mapping[str, str] = _LABELS


def match_lines(old: Mapping[str, str], new: Mapping[str, str]) -> list[MatchLine]:
    """Every line of the old plate against the new one."""
    found = []
    for name, label in _LABELS.items():
        was, will = old.get(name, "").strip(), new.get(name, "").strip()
        if was or will:
            found.append(MatchLine(label, was, will, *_compared(name, was, will)))
    return found


def _numbers(was: str, will: str) -> tuple[float, float] | None:
    try:
        return float(was), float(will)
    except ValueError:
        return None


def _compared(name: str, was: str, will: str) -> tuple[str, str]:
    if not was or not will:
        return "asks", "read it from the " + ("old" if not was else "new") + " plate"
    if was.casefold() == will.casefold():
        return "same", ""
    if name == "hp":
        return _power(was, will)
    numbers = _numbers(was, will)
    if name == "rpm" and numbers:
        old, new = numbers
        if min(old, new) <= 0:
            return "asks", "no motor turns so"
        if abs(new / old - 1) <= 0.03:
            return "allowed", "the same number of poles"
        return "wrong", (
            "a faster motor overloads the blade: power goes by the cube" if new > old else "a slower motor moves too little air"
        )
    if name == "amps" and numbers:
        more = numbers[1] > numbers[0] * 1.05
        return ("wrong", "wire, overload and contactor were chosen for less") if more else ("allowed", "draws no more")
    return _RULES.get(name, ("asks", "differs: does it fit?"))


_RULES: Mapping[str, tuple[str, str]] = {
    "volts": ("wrong", "the supply stays what it is"),
    "phase": ("wrong", "the supply stays what it is"),
    "rotation": ("wrong", "seen from the same end? Some are reversed by two wires"),
    "capacitor": ("asks", "the new motor's own value goes in with it, a new one"),
    "shaft": ("wrong", "blade and hub were bored for the old one"),
    "enclosure": ("asks", "rain, drain plugs out at the low end"),
    "frame": ("asks", "holes and length: hold it beside"),
    "mount": ("asks", "band, studs or base: hold it beside"),
}


def _power(was: str, will: str) -> tuple[str, str]:
    try:
        old, new = horsepower(was), horsepower(will)
    except ValueError as error:
        return "asks", str(error)
    if abs(new - old) < 0.01:
        return "same", ""
    if new < old:
        return "wrong", "too weak for the blade or wheel"
    return ("allowed", "one size up, at the same speed") if new <= 1.5 * old else ("asks", "far stronger: amps and blade?")


def fits(lines: Sequence[MatchLine]) -> str:
    """The worst of all lines: ``wrong``, ``asks`` or ``fits``."""
    verdicts = {line.verdict for line in lines}
    return "wrong" if "wrong" in verdicts else "asks" if "asks" in verdicts or not lines else "fits"
