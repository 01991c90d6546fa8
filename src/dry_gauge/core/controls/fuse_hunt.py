"""What opens a control fuse: loads lifted and put back by halves, with a breaker in the fuse's place (R49).

Control circuits only. A line-voltage fuse is never substituted and nothing is energised into a suspected short. A load whose ohms
are good stays a suspect until it has run alone.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.core.controls.chain import CONTROL_LIMIT_V
from dry_gauge.core.errors import Refused

_BAD_OHMS, _GOOD_OHMS = 8.0, 0.5  # how much more and less a load is suspected by its ohms
_SHORTED_SHARE = 0.5  # less than half of the ohms at which it would draw the whole fuse: shorted
_HOLDS_THOUGH = 0.03  # it held although the bad one was in: a short that comes and goes
_OPENS_THOUGH = 0.03  # it opened although no suspect was in: wiring that belongs to none
WIRING = "wiring that stays in"
SURE = 0.95


@dataclass(frozen=True, slots=True)
class Try:
    """What was connected, and whether it held."""

    connected: frozenset[str]
    held: bool


@dataclass(frozen=True, slots=True)
class Hunt:
    """Where the hunt stands: suspects by belief, what to connect next, and the one that is named once it is sure."""

    belief: Mapping[str, float]
    connect: tuple[str, ...]
    named: str
    words: str


def check_substitute(circuit_v: float, fuse_a: float, breaker_a: float) -> None:
    """Whether a breaker may stand in for a fuse.

    Raises
    ------
    Refused
    """
    if circuit_v > CONTROL_LIMIT_V:
        raise Refused(
            f"{circuit_v:g} V is line voltage: its fuses are never substituted. Isolate, lock out, and test it off, "
            "part by part, with ohms.",
            "circuit_v",
        )
    if breaker_a > fuse_a:
        raise Refused(
            f"A breaker of {breaker_a:g} A lets more through than the fuse of {fuse_a:g} A: take the same or less.", "breaker_a"
        )


def shorted(ohms: float, circuit_v: float, fuse_a: float) -> bool:
    """Whether so few ohms alone open the fuse."""
    return ohms < _SHORTED_SHARE * circuit_v / fuse_a


def hunt(loads: Sequence[str], tries: Sequence[Try], ohms: Mapping[str, float], circuit_v: float, fuse_a: float) -> Hunt:
    """Suspects after what was tried.

    Parameters
    ----------
    ohms : mapping of str to float
        Ohms measured off, by load. Good ones do not clear a load, they only make it a little less likely.
    """
    weights = dict.fromkeys(loads, 1.0) | {WIRING: 0.5}
    for name, value in ohms.items():
        if name in weights:
            weights[name] *= _BAD_OHMS if shorted(value, circuit_v, fuse_a) else _GOOD_OHMS
    for one in tries:
        for name in weights:
            inside = name == WIRING or name in one.connected
            if one.held:
                weights[name] *= _HOLDS_THOUGH if inside else 1.0
            else:
                weights[name] *= 1.0 if inside else _OPENS_THOUGH
    whole = sum(weights.values())
    belief = {name: weight / whole for name, weight in sorted(weights.items(), key=lambda item: -item[1])}
    lead = next(iter(belief))
    if belief[lead] >= SURE and tries:
        good = lead in ohms and not shorted(ohms[lead], circuit_v, fuse_a)
        words = f"{lead} opens it" + (", good ohms or not: it only shows under power." if good else ".")
        return Hunt(belief, (), lead, words)
    if not tries:
        return Hunt(belief, (), "", "Lift every load, then power with the breaker in: what is left is wiring.")
    return Hunt(belief, _half(belief), "", "Put these back, leave the rest lifted, and power once.")


def _half(belief: Mapping[str, float]) -> tuple[str, ...]:
    """Loads that together carry the half of the belief that is nearest to a half."""
    chosen: list[str] = []
    carried = belief.get(WIRING, 0.0)  # wiring is always in
    for name, share in belief.items():
        if name != WIRING and carried + share <= 0.5 + share / 2:
            chosen.append(name)
            carried += share
    rest = [name for name in belief if name != WIRING]
    return tuple(chosen) if chosen else (rest[0],)
