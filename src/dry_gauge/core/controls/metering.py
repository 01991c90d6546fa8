"""A metering device as it was seen: what that says of the causes (R53)."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.vocabulary import Fault

_SCREEN, _SCREEN_UPSTREAM, _BULB, _ORIFICE = 6.0, 2.0, 4.0, 5.0
"""By what factor each moves the odds of its cause (habit)."""


def orifice_size(number: str) -> float | None:
    """An orifice's number as a size: .059, 0.059, 59 and 059 are the same; None for what is no number."""
    digits = number.strip().lstrip("0").replace(",", ".")
    try:
        value = float(digits)
    except ValueError:
        return None
    return value if value < 1 else value / 1000 if value >= 20 else value


def same_orifice(one: str, other: str) -> bool:
    """Whether two numbers mean the same orifice, however they are stamped; words only where they are the same words."""
    sizes = orifice_size(one), orifice_size(other)
    if sizes[0] is None or sizes[1] is None:
        return one.strip().casefold() == other.strip().casefold()
    return abs(sizes[0] - sizes[1]) < 1e-6


def metering_odds(orifice_found: str, orifice_due: str, bulb: str, screen: str) -> Mapping[Fault, float]:
    """Factors on the odds of causes.

    Parameters
    ----------
    orifice_found, orifice_due : str
        Numbers as stamped, and by the outdoor unit's table.
    bulb : str
        ``sound``, ``loose``, ``bare`` or ``misplaced``: a bulb that feels too warm opens its valve.
    screen : str
        ``clean`` or ``blocked``.
    """
    odds: dict[Fault, float] = {}
    if screen == "blocked":
        odds = {Fault.METERING_UNDERFEEDING: _SCREEN, Fault.LIQUID_LINE_RESTRICTION: _SCREEN_UPSTREAM}
    if bulb in ("loose", "bare", "misplaced"):
        odds[Fault.METERING_OVERFEEDING] = _BULB
    found, due = orifice_size(orifice_found), orifice_size(orifice_due)
    if found and due and not same_orifice(orifice_found, orifice_due):
        fault = Fault.METERING_OVERFEEDING if found > due else Fault.METERING_UNDERFEEDING
        odds[fault] = odds.get(fault, 1.0) * _ORIFICE
    return odds
