"""Power of a machine from its meters, and electric heat by its steps; what cannot be asks about the set-up first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

from dry_gauge.core.words import Phrase, in_percent

_USUAL_FACTOR = (0.5, 1.0)
_FACTOR_DOUBT = 0.03


def power_factor(watts: float, volts: float, amps: float, *, three_phase: bool) -> float:
    """True over apparent power. [1]

    Raises
    ------
    ValueError
        For volts or amps that are not above nothing.
    """
    if volts <= 0 or amps <= 0:
        raise ValueError("Volts and amps above nothing are needed.")
    return watts / (volts * amps * (sqrt(3.0) if three_phase else 1.0))


def odd_factor(factor: float) -> Phrase | None:
    """What a factor that no machine has says about how it was measured."""
    if factor > _USUAL_FACTOR[1] + _FACTOR_DOUBT:
        return Phrase(f"A power factor of {factor:.2f} cannot be: watts of the whole, volts and amps of one leg of three?")
    if factor < _USUAL_FACTOR[0]:
        return Phrase(f"A power factor of {factor:.2f} is no running motor's: which side of the contactor, one leg of three?")
    return None


@dataclass(frozen=True, slots=True)
class StripHeat:
    """Electric heat as it was measured: kilowatts, the share of what is installed, steps that are in."""

    kilowatts: float
    share: float
    phrase: Phrase


def strip_heat(
    amps: float, blower_amps: float, volts: float, installed_kw: float, installed_v: float, *, three_phase: bool = False
) -> StripHeat:
    """Heat that comes in, against what the banks give at these volts: resistance stays, so power goes by volts squared.

    Raises
    ------
    ValueError
        For volts or a nameplate that are not above nothing, or a blower that draws more than the whole.
    """
    if min(volts, installed_kw, installed_v) <= 0:
        raise ValueError("Volts and the nameplate's kilowatts are needed.")
    if blower_amps > amps:
        raise ValueError("The blower cannot draw more than the whole.")
    kilowatts = (amps - blower_amps) * volts * (sqrt(3.0) if three_phase else 1.0) / 1000
    expected = installed_kw * (volts / installed_v) ** 2
    share = kilowatts / expected
    if share < 0.9:
        missing = f"about {in_percent(1 - share)} is missing: a link, limit, sequencer or fuse of a bank"
    elif share > 1.08:
        missing = "more than the banks can give: clamp around one wire, the blower's amps taken off?"
    else:
        missing = "all of it is in"
    words = f"{kilowatts:.1f} kW of {expected:.1f} kW that {volts:.0f} V would give: {missing}."
    return StripHeat(kilowatts, share, Phrase(words))


_HARDLY = 0.25  # of the largest step: below it a step brings nothing (habit)


def strip_steps(
    steps_a: Sequence[float], volts: float, blower_amps: float = 0.0, *, three_phase: bool = False
) -> tuple[tuple[float, ...], Phrase | None]:
    """What each step brought, by the amps after it, and what is wrong with one. [kW]

    Parameters
    ----------
    steps_a : sequence of float
        Amps of the whole after each step, in the order in which the sequencers brought them in. [A]
    blower_amps : float
        Of the whole, what the blower drew before the first step. [A]
    """
    before = (blower_amps, *steps_a[:-1])
    brought = tuple(
        (after - was) * volts * (sqrt(3.0) if three_phase else 1.0) / 1000 for was, after in zip(before, steps_a, strict=True)
    )
    largest = max((abs(one) for one in brought), default=0.0)
    idle = [str(i) for i, one in enumerate(brought, 1) if abs(one) < _HARDLY * largest]
    if not idle:
        return brought, None
    which = f"Step{'s' if len(idle) > 1 else ''} {' and '.join(idle)} add{'' if len(idle) > 1 else 's'} hardly any amps"
    return brought, Phrase(f"{which}: its sequencer's contact, link, limit or element.")
