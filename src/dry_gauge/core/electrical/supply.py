"""The supply as its legs: what class it is, how far the pairs differ, which leg is lost.

Imbalance is by pairs, never by legs to ground: the high leg of a delta is no fault (R39). Over 2 % is a finding, over 5 % nothing
runs: motor heating rises by about twice the square of the imbalance (NEMA MG 1-2021, 14.36).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from statistics import mean

from dry_gauge.core.words import Phrase, in_percent

PAIRS = ("l1_l2", "l2_l3", "l3_l1")
LEGS = ("l1", "l2", "l3")
FINDING_SHARE, STOP_SHARE = 0.02, 0.05  # of imbalance
_DEAD_V = 20.0  # below it a leg to ground is dead, whatever a meter picks up
_BACKFED = (0.25, 0.8)  # of its class: a lost leg shows what comes back through a winding
_WITHIN = 0.10  # of the label: utilisation range of motors (NEMA MG 1-2021, 12.44)
_POLE_V = 1.0  # across a closed contactor pole or a sound fuse that carries load (habit)
_SAG = 0.08  # by which volts fall under load before conductors are looked at (habit)


@dataclass(frozen=True, slots=True)
class SupplyClass:
    """A usual supply: pair volts, and volts of its legs to ground."""

    name: str
    phases: int
    pair_v: float
    ground_v: tuple[float, ...]


CLASSES = (
    SupplyClass("120/240 V, single phase", 1, 240.0, (120.0,)),
    SupplyClass("208Y/120 V", 3, 208.0, (120.0,)),
    SupplyClass("240 V delta with a high leg", 3, 240.0, (120.0, 208.0)),
    SupplyClass("240 V delta", 3, 240.0, ()),
    SupplyClass("480Y/277 V", 3, 480.0, (277.0,)),
    SupplyClass("600Y/347 V", 3, 600.0, (347.0,)),
)


@dataclass(frozen=True, slots=True)
class SupplyFinding:
    """One thing to know about a supply; `stops` where nothing may run on it, `leg` which one it is about."""

    code: str
    phrase: Phrase
    stops: bool = False
    leg: str = ""


@dataclass(frozen=True, slots=True)
class Supply:
    """A supply as it was measured. Shares are of one."""

    supply_class: SupplyClass | None
    mean_v: float | None
    imbalance: float | None
    of_label: float | None
    findings: tuple[SupplyFinding, ...]


def imbalance(pairs_v: Sequence[float]) -> float:
    """Greatest deviation from the mean over the mean, of three pairs. [1]

    Raises
    ------
    ValueError
        Unless there are three, above nothing on average.
    """
    if len(pairs_v) != 3 or mean(pairs_v) <= 0:
        raise ValueError("Imbalance is of three pairs of a supply that is on.")
    middle = mean(pairs_v)
    return max(abs(v - middle) for v in pairs_v) / middle


def class_of(pair_v: float, ground_v: Sequence[float], three_phase: bool) -> SupplyClass | None:
    """The usual class that comes nearest, within 12 %; None for anything else."""

    def off(one: SupplyClass) -> float:
        ground = [min((abs(v - usual) / usual for usual in one.ground_v), default=0.0) for v in ground_v]
        spread = max(ground_v) - min(ground_v) if len(ground_v) == 3 else 0.0
        high_leg = len(one.ground_v) == 2
        return (
            abs(pair_v - one.pair_v) / one.pair_v
            + sum(ground) / max(len(ground), 1)
            + (0.2 if high_leg != (spread > 50) and one.phases == 3 and len(ground_v) == 3 else 0.0)
        )

    fitting = [one for one in CLASSES if (one.phases == 3) is three_phase and abs(pair_v - one.pair_v) <= 0.12 * one.pair_v]
    return min(fitting, key=off, default=None)


def judge_supply(
    pairs: Mapping[str, float],
    ground: Mapping[str, float],
    *,
    three_phase: bool,
    label_v: float | None = None,
    open_pairs: Mapping[str, float] | None = None,
    drops_v: Mapping[str, float] | None = None,
) -> Supply:
    """What a supply's numbers say.

    Parameters
    ----------
    pairs, ground : mapping of str to float
        Volts under load by pair (`PAIRS`) and to ground by leg (`LEGS`); what was not read is left out. [V]
    open_pairs : mapping, optional
        The same pairs with nothing running.
    drops_v : mapping, optional
        Across contactor poles and fuses that carry load, by name. [V]
    """
    volts = [pairs[name] for name in PAIRS if name in pairs]
    whole = mean(volts) if volts else None
    known = class_of(max(volts), [ground[name] for name in LEGS if name in ground], three_phase) if volts else None
    is_whole = three_phase and len(volts) == 3 and max(volts) > 0
    share = imbalance(volts) if is_whole else None
    of_label = None if whole is None or not label_v else whole / label_v
    by_pairs = _by_pairs(pairs, ground, volts, share, three_phase=three_phase)
    lost = any(one.code == "leg_lost" for one in by_pairs)  # that says why the mean lies low
    findings = (
        *by_pairs,
        *(_off_label(whole, label_v) if whole is not None and label_v and not lost else ()),
        *_sags(pairs, open_pairs or {}),
        *_drops(drops_v or {}),
    )
    return Supply(known, whole, share, of_label, findings)


def _by_pairs(
    pairs: Mapping[str, float], ground: Mapping[str, float], volts: Sequence[float], share: float | None, *, three_phase: bool
) -> list[SupplyFinding]:
    """What the pairs say beside each other."""
    if volts and max(volts) <= 0:
        words = "No volts on any pair. Zero proves nothing by itself: prove the meter on a live source, before and after."
        return [SupplyFinding("dead", Phrase(words))]
    if share is not None:
        return _lost_leg(pairs, ground) or _unbalanced(share)
    if not three_phase and len(volts) > 1:
        words = "Several pairs on a single-phase unit: the card says one phase. Which is it?"
        return [SupplyFinding("not_single", Phrase(words))]
    return []


def _off_label(whole: float, label_v: float) -> Iterator[SupplyFinding]:
    if abs(whole / label_v - 1) > _WITHIN:
        words = f"{whole:.0f} V is {in_percent(whole / label_v)} of the label's {label_v:.0f} V: motors need within 10 %."
        yield SupplyFinding("off_label", Phrase(words))


def _sags(pairs: Mapping[str, float], open_pairs: Mapping[str, float]) -> Iterator[SupplyFinding]:
    """Pairs that fall as soon as something runs."""
    for name, before in open_pairs.items():
        after = pairs.get(name)
        if after is not None and before > 0 and (before - after) / before > _SAG:
            words = f"{pair_words(name)} falls from {before:.0f} to {after:.0f} V under load: a poor joint, a clip, a long run."
            yield SupplyFinding("sags", Phrase(words))


def _drops(drops_v: Mapping[str, float]) -> Iterator[SupplyFinding]:
    for name, drop in drops_v.items():
        if drop > _POLE_V:
            words = f"{drop:.1f} V lost across {name} under load: over 1 V is a finding."
            yield SupplyFinding("drop", Phrase(words))


def _unbalanced(share: float) -> list[SupplyFinding]:
    if share <= FINDING_SHARE:
        return []
    heat = 2 * (share * 100) ** 2
    words = f"Pairs differ by {in_percent(share, 1)} of their mean; motors then run about {heat:.0f} % hotter."
    if share > STOP_SHARE:
        return [SupplyFinding("unbalanced", Phrase(f"{words} Over 5 % nothing runs on it: find the leg first."), stops=True)]
    return [SupplyFinding("unbalanced", Phrase(f"{words} Over 2 % is a finding."))]


def _lost_leg(pairs: Mapping[str, float], ground: Mapping[str, float]) -> list[SupplyFinding]:
    """The leg that both low pairs share, or that is dead or backfed to ground."""
    most = max(pairs.values())
    low = {name for name in PAIRS if pairs[name] < 0.85 * most}
    if len(low) < 2 and not any(v < _DEAD_V for v in ground.values()):
        return []
    shared = [leg for leg in LEGS if sum(leg in name.split("_") for name in low) == 2]
    dead = [leg for leg in LEGS if ground.get(leg, most) < _DEAD_V] or shared
    if not dead:
        return []
    leg = dead[0]
    back = ground.get(leg)
    backfed = f" Its {back:.0f} V to ground may come back through a winding." if back is not None and back >= _DEAD_V else ""
    cross = "Nothing runs on it; cross-test fuses from line to load side."
    words = f"{leg.upper()} is lost: both its pairs are low.{backfed} {cross}"
    return [SupplyFinding("leg_lost", Phrase(words), stops=True, leg=leg)]


def pair_words(name: str) -> str:
    """A pair as it is said: L1-L2."""
    return name.upper().replace("_", "-")
