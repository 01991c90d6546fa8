"""Free cooling now or not, by the outdoor sensor's letter; the plug before the sensor (R52)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dry_gauge.core.quantities import FAHRENHEIT_K, to_kelvin

LETTERS: Mapping[str, float] = {"A": to_kelvin(73), "B": to_kelvin(70), "C": to_kelvin(67), "D": to_kelvin(63)}
"""Outdoor dry bulb below which it cools free, at 50 % humidity. [K] (habit; the sensor's own sheet wins)"""
_PER_HUMIDITY_K = 0.12 * FAHRENHEIT_K  # an enthalpy line falls about so much for each point of humidity above 50 %
_DOUBT_K = 2.0 * FAHRENHEIT_K


@dataclass(frozen=True, slots=True)
class FreeCooling:
    """Whether it is expected: ``yes``, ``no`` or ``near``; up to which outdoor temperature, and what to look at. [K]"""

    expected: str
    up_to_k: float
    words: str
    then: tuple[str, ...]


_EXPECTED = {
    "yes": "Free cooling is due now: its damper opens before the compressor.",
    "no": "No free cooling now: outdoor air is too warm or too damp.",
    "near": "At the line: either is right.",
}


def free_cooling(
    outdoor_k: float, humidity: float | None, letter: str, *, damper_open: bool | None = None, plug: str = ""
) -> FreeCooling:
    """What the economiser should do now.

    Parameters
    ----------
    humidity : float or None
        Outdoors, 0 to 1; at 0.5 where it is not known.
    letter : str
        The set-point's letter, see `LETTERS`.
    plug : str
        ``sound``, ``loose``, or nothing where nobody looked.
    """
    up_to = LETTERS[letter] - (100 * ((humidity if humidity is not None else 0.5) - 0.5)) * _PER_HUMIDITY_K
    gap = up_to - outdoor_k
    expected = "near" if abs(gap) < _DOUBT_K else "yes" if gap > 0 else "no"
    words = _EXPECTED[expected]
    wrong = damper_open is not None and expected != "near" and damper_open is not (expected == "yes")
    then = []
    if wrong:
        words += " The damper does the other."
        if plug != "sound":
            then.append("Its plug first: pull it, look, push it home")
        then += ["Then the sensor, against a thermometer in shade", "Then the damper motor and its linkage"]
    if humidity is None:
        then.append("Humidity not read: 50 % is assumed")
    return FreeCooling(expected, up_to, words, tuple(then))
