"""What one gap should be: a band with its middle, its rule and what it rests on; and how a gap that was read stands to it."""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot

from dry_gauge.core.circuit import Derived
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.vocabulary import School
from dry_gauge.core.words import Phrase


@dataclass(frozen=True, slots=True)
class Target:
    """A band in which one gap should land.

    Parameters
    ----------
    name : str
        The derived quantity it is for.
    low_k, high_k, aim_k : float
        The band and its middle, differences. [K]
    rule : str
    source : Phrase
        What the rule rests on.
    assumed : bool
        Whether a habit stands in for something not known of this unit.
    uncertainty_k : float
        What the readings behind the target leave open, 95 % half-width. [K]
    indication_only : Phrase or None
        Why it may not be charged by, where the rule is outside the weather it holds for.
    high_side_only : bool
        Whether only 'too high' may be judged by it.
    """

    name: str
    low_k: float
    high_k: float
    aim_k: float
    rule: str
    source: Phrase
    school: School | None = None
    assumed: bool = False
    uncertainty_k: float = 0.0
    indication_only: Phrase | None = None
    high_side_only: bool = False


@dataclass(frozen=True, slots=True)
class NotApplicable:
    """A target that this unit, mode or weather does not have, and why."""

    target: str
    why: Phrase


OF_LABEL_OR_MAKER = frozenset({"label_subcooling", "label_superheat", "maker_chart"})
"""Rules whose figure was written for this very unit."""


def not_applicable(target: str, why: str) -> NotApplicable:
    """A target that there is not, with the words why."""
    return NotApplicable(target, Phrase(why))


def band_f(name: str, low_f: float, high_f: float, rule: str, source: str, *, assumed: bool = False) -> Target:
    """A band of a rule as the trade states it, aimed at its middle. [F]"""
    low, high = low_f * FAHRENHEIT_K, high_f * FAHRENHEIT_K
    return Target(name, low, high, (low + high) / 2, rule, Phrase(source), assumed=assumed)


def around_k(name: str, aim_k: float, half_f: float, rule: str, source: str | Phrase, *, assumed: bool = False) -> Target:
    """A figure [K] with its tolerance as the trade states it. [F]"""
    half = half_f * FAHRENHEIT_K
    said = Phrase(source) if isinstance(source, str) else source
    return Target(name, aim_k - half, aim_k + half, aim_k, rule, said, assumed=assumed)


def standing(gap: Derived, target: Target) -> str:
    """How a gap stands to its target: ``right``, ``short``, ``long``, ``close`` or ``check``.

    ``close`` is outside by less than 0.9 of its own error: it cannot be called. ``check`` is a superheat, subcooling
    or split below zero by more than its error: a probe, not a unit. ``unjudged`` is low where only 'too high' may be
    judged.
    """
    error = hypot(gap.uncertainty, target.uncertainty_k)
    if gap.value + gap.uncertainty < 0:
        return "check"
    excess = max(target.low_k - gap.value, gap.value - target.high_k)
    if excess <= 0:
        return "right"
    if excess < 0.9 * error:
        return "close"
    if gap.value < target.low_k:
        return "unjudged" if target.high_side_only else "short"
    return "long"


def outside(gap: Derived, target: Target) -> float:
    """How far a gap lies outside its band, signed; zero inside. [K]"""
    if gap.value < target.low_k:
        return gap.value - target.low_k
    return max(0.0, gap.value - target.high_k)
