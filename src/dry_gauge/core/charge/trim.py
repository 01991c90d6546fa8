"""Trim: how much to add next, in small damped steps, and when to stop adding.

How far a gap moves for a share of the charge comes from the bench, for this sort of unit; half of what would be needed
is proposed, never more than a twentieth of the label (a tenth where it is far off).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from dry_gauge.core.charge.mass import OUNCE_KG
from dry_gauge.core.charge.waits import charge_waits
from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.assess import CALLED_FROM, CircuitAssessment
from dry_gauge.core.judgement.calibration import group_names, group_of
from dry_gauge.core.judgement.faults import fault_words
from dry_gauge.core.judgement.features import FEATURES
from dry_gauge.core.judgement.hypotheses import HYPOTHESES, SINGLE_SEVERITIES, Hypothesis, charge_added, charge_lost
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.target import Target
from dry_gauge.core.visit.run_permit import RunPermit
from dry_gauge.core.vocabulary import Fault, Kind, Mode, State
from dry_gauge.core.words import Phrase


class Move(StrEnum):
    """What to do next."""

    ADD = "add"
    HOLD = "hold"
    STOP = "stop"
    REMOVE = "remove"
    RECHARGE = "recharge"


@dataclass(frozen=True, slots=True)
class Trim:
    """The next step.

    Parameters
    ----------
    move : Move
    step_kg : float
        To add, or to recover; 0 for hold, stop and recharge (recover all and weigh in). [kg]
    by : str
        The school: what this metering device is charged by.
    gap : str or None
        The gap it looks at.
    why : Phrase
    stops : tuple of Phrase
        Every reason to stop that holds now.
    settle_minutes : int
        To wait after the step.
    """

    move: Move
    step_kg: float
    by: str
    gap: str | None
    why: Phrase
    stops: tuple[Phrase, ...]
    settle_minutes: int


_DAMPED, _CAP, _CAP_FAR, _FAR = 0.5, 0.05, 0.10, 0.2
_LEAST_KG, _SMALL_STEP_KG = 1 * OUNCE_KG, 3 * OUNCE_KG
_SETTLE_MINUTES, _SETTLE_BOX_MINUTES = 10, 15
# Superheat below which no more goes in: liquid is close to the compressor (docs/rules.md, R26 and R32). [K]
_LEAST_SUPERHEAT_K = 5 * FAHRENHEIT_K
_LEAST_COIL_K = {Kind.WALK_IN_COOLER: 4 * FAHRENHEIT_K, Kind.WALK_IN_FREEZER: 3 * FAHRENHEIT_K}
_LEAST_INLET_K = 10 * FAHRENHEIT_K
# From here a step leads nowhere: recover all and weigh in.
_FAR_OVER_K, _LOST_TOO_MUCH, _WIDE_GLIDE_K = 15 * FAHRENHEIT_K, 1 / 3, 4 * FAHRENHEIT_K
_EMPTIED = 0.95  # of all that a gap can move: from here on it no longer tells how much is missing
_EXCLUDED = 0.2  # a fault less probable than this does not explain such a subcooling


def school_of(facts: UnitFacts) -> tuple[str, str | None]:
    """What this unit is charged by, in words, and the gap that shows it; None for the sight glass."""
    if facts.receiver:
        return "a clear sight glass, then the weight", None
    if facts.mode is Mode.HEATING:
        return "the weight; check by subcooling in cooling weather", None
    if facts.metering is None:
        return "what its metering device asks for; that is not on the card", None
    if facts.metering.is_fixed:
        return "superheat, from the chart of wet bulb and outdoor air", "superheat"
    return "subcooling at the liquid line", "subcooling"


def share_off(facts: UnitFacts, gap: str, short_k: float, aim_k: float) -> float:
    """Share of the charge that moves a gap by that much, by the bench. [1]

    Parameters
    ----------
    short_k : float
        How far the gap is from its aim in the direction of a shortage; below zero too much is in. [K]
    aim_k : float
        What it shows when the charge is right: who has much subcooling to lose loses more of it to the same shortage (R81). [K]
    """
    group = group_of(group_names(facts)[0])
    # Superheat ends at nothing and hides how much too much is in: its answer to a shortage serves both ways.
    over = short_k < 0 and gap == "subcooling"
    fault, share = (Fault.OVERCHARGE, charge_added) if over else (Fault.UNDERCHARGE, charge_lost)
    rows = [HYPOTHESES.index(Hypothesis(((fault, s),))) for s in SINGLE_SEVERITIES]
    i = FEATURES.index(gap)
    moved = np.abs(group.shifts[rows, i] + (group.keeps[rows, i] - 1) * (aim_k - group.usual[i]))
    # Only the rising part answers: an empty condenser has no subcooling left to lose.
    rising = np.maximum.accumulate(np.concatenate([[0.0], moved]))
    shares = np.concatenate([[0.0], share(np.array(SINGLE_SEVERITIES))])
    if abs(short_k) >= _EMPTIED * rising[-1]:
        return float(shares[-1])
    return float(np.interp(abs(short_k), rising + np.arange(rising.size) * 1e-6, shares))


def next_step(
    facts: UnitFacts,
    judged: CircuitAssessment | None,
    permit: RunPermit,
    states: Mapping[str, State],
    to_go_kg: float | None,
    settled: bool,
    minutes_more: int | None = None,
    *,
    locked: bool = False,
) -> Trim:
    """How much to add now, or why not.

    Parameters
    ----------
    judged : CircuitAssessment or None
        The readings as they are judged now.
    permit : RunPermit
        Holds the head at which to stop adding.
    to_go_kg : float or None
        Left of the target total; None where none was made. [kg]
    settled : bool
        Whether the gauges have settled since the last step.
    locked : bool
        Whether the unit is locked out: nothing can be judged then, and liquid goes into the liquid line.

    References
    ----------
    .. [1] docs/rules.md, R32.
    """
    by, gap = school_of(facts)
    wait = _SETTLE_BOX_MINUTES if facts.kind.is_walk_in else _SETTLE_MINUTES

    def say(move: Move, why: Phrase, step_kg: float = 0.0, stops: tuple[Phrase, ...] = ()) -> Trim:
        return Trim(move, step_kg, by, gap, why, stops, wait)

    if locked:
        return say(
            Move.HOLD,
            Phrase(
                "Off and locked out: weigh liquid into the liquid line. What does not go in is metered "
                "later, through the suction, running."
            ),
        )
    if judged is None:
        return say(Move.HOLD, Phrase("Read pressures and line temperatures first."))
    if judged.stops:
        return _with_a_stop(facts, judged, gap, say)
    waits = charge_waits(facts, judged)
    if waits:
        return say(Move.HOLD, waits[0], stops=waits)
    if permit.missing:
        return say(Move.HOLD, permit.missing[0], stops=permit.missing)
    if not settled:
        minutes = f", about {minutes_more} minutes more" if minutes_more else ""
        return say(Move.HOLD, Phrase(f"Not settled{minutes}: what was added has not arrived yet."))
    stops = tuple(_stops(facts, judged, gap, permit, states, to_go_kg))
    if stops and not _too_much(judged, gap):
        return say(Move.STOP, stops[0], stops=stops)
    if gap is None:
        return _by_the_glass(facts, states, to_go_kg, say)
    return _by_its_gap(facts, judged, gap, to_go_kg, say)


Say = Callable[..., Trim]


def _by_its_gap(facts: UnitFacts, judged: CircuitAssessment, gap: str, to_go_kg: float | None, say: Say) -> Trim:
    """Whether the gap that this unit is charged by asks for a step at all."""
    target, now = judged.targets.get(gap), judged.derived.get(gap)
    if target is None or now is None or target.indication_only:
        why = next((one.why for one in judged.not_applicable if one.target == gap), None)
        why = why or (target.indication_only if target else None) or Phrase("its readings are missing")
        return say(Move.HOLD, Phrase(f"Not by {gap} today: {why.template}. Go by weight.", why.numbers))
    numbers = {"now": ("difference", now.measured.value)}
    is_now = f"{gap.capitalize()} is {{now}}"
    if now.value + now.uncertainty < 0:  # whoever put the warning aside: no weight is made of what cannot be
        return say(
            Move.HOLD,
            Phrase(
                f"{gap.capitalize()} cannot be {{now}}: clamp or gauge is off. Read both again before anything goes in or out.",
                numbers,
            ),
        )
    if _on_target(judged, gap):
        if judged.verdict != "fault":
            return say(Move.STOP, Phrase(f"{is_now}, within its target. Done: prove it.", numbers))
        leads = fault_words(judged.causes[0].fault, judged.view.unit).lower()
        return say(Move.HOLD, Phrase(f"{is_now}, on target, yet {leads} leads: find out why first.", numbers))
    if judged.verdict == "healthy":
        beside = (
            "assumed; nothing is wrong. Leave it, or find the label."
            if target.assumed
            else ("missed by less than its own error; nothing is wrong. Leave it.")
        )
        band = {"low": ("difference", target.low_k), "high": ("difference", target.high_k)}
        return say(Move.STOP, Phrase(f"{is_now}, its target {{low}} to {{high}}, {beside}", numbers | band))
    return _towards(target, now, facts, judged, to_go_kg, say)


def _towards(target: Target, now: Derived, facts: UnitFacts, judged: CircuitAssessment, to_go_kg: float | None, say: Say) -> Trim:
    """How large a step, and which way."""
    numbers = {"now": ("difference", now.measured.value), "aim": ("difference", target.aim_k)}
    off = f"{now.name.capitalize()} is {{now}}, aim {{aim}}"
    short_k = now.measured.value - target.aim_k if now.name == "superheat" else target.aim_k - now.measured.value
    share = share_off(facts, now.name, short_k, target.aim_k)
    lost = share > _LOST_TOO_MUCH or (share > _LOST_TOO_MUCH / 2 and _blend_has_shifted(judged))
    if lost or _too_much(judged, now.name):
        return say(Move.RECHARGE, Phrase(f"{off}: too far off for steps. Recover all, evacuate, weigh in.", numbers))
    if facts.label_charge_kg is None:
        return say(Move.HOLD, Phrase(f"{off}. No charge on the card, no step from a guess: weigh in.", numbers))
    if short_k < 0:
        step_kg = _rounded(min(share * _DAMPED, _CAP) * facts.label_charge_kg, None)
        return say(Move.REMOVE, Phrase(f"{off}: too much is in. Recover it by weight; never vent.", numbers), step_kg)
    cap = _CAP_FAR if share > _FAR else _CAP
    step_kg = _rounded(min(share * _DAMPED, cap) * facts.label_charge_kg, to_go_kg)
    return say(Move.ADD, Phrase(f"{off}.", numbers), step_kg)


def _with_a_stop(facts: UnitFacts, judged: CircuitAssessment, gap: str | None, say: Say) -> Trim:
    """The unit must not run: off first. What is too much comes out with it off, once fans and coil are proven."""
    stop = judged.stops[0]
    air = next(gate for gate in judged.gates if gate.name == "air_unproven")
    over = judged.causes[0].fault is Fault.OVERCHARGE
    if stop.code == "head_above_stop" and over and not air.holding and _is_over(judged, gap):
        words = "Off first. Fans and coil are proven and too much is in: recover with the unit off, by weight, then restart."
        step_kg = _rounded(_CAP * facts.label_charge_kg, None) if facts.label_charge_kg else 0.0
        return say(Move.REMOVE, Phrase(words), step_kg, (stop.phrase,))
    return say(Move.STOP, stop.phrase, stops=tuple(one.phrase for one in judged.stops))


def _is_over(judged: CircuitAssessment, gap: str | None) -> bool:
    target, now = judged.targets.get(gap or ""), judged.derived.get(gap or "")
    if target is None or now is None:
        return True  # nothing speaks against it
    return now.value < target.low_k if gap == "superheat" else now.value > target.high_k


def _on_target(judged: CircuitAssessment, gap: str | None) -> bool:
    """Whether what this unit is charged by lies within a target that counts."""
    target, now = judged.targets.get(gap or ""), judged.derived.get(gap or "")
    if target is None or now is None or target.indication_only:
        return False
    return target.low_k <= now.measured.value <= target.high_k


def _one_step_kg(facts: UnitFacts) -> float:
    """The most that one step moves, and by how much the total may be passed on target without a question. [kg]"""
    return _CAP * facts.label_charge_kg if facts.label_charge_kg else _LEAST_KG


def _too_much(judged: CircuitAssessment, gap: str | None) -> bool:
    """Whether subcooling lies so far above its target that only charge explains it."""
    target, now = judged.targets.get("subcooling"), judged.derived.get("subcooling")
    if gap != "subcooling" or target is None or now is None or now.value - target.aim_k <= _FAR_OVER_K:
        return False
    others = (Fault.LIQUID_LINE_RESTRICTION, Fault.NON_CONDENSABLES)
    return all(cause.probability < _EXCLUDED for cause in judged.causes if cause.fault in others)


def _blend_has_shifted(judged: CircuitAssessment) -> bool:
    """Whether a blend lost so much vapour that what is left has another composition."""
    dew, bubble = judged.derived.get("suction_saturation"), judged.derived.get("suction_bubble")
    return (
        dew is not None
        and bubble is not None
        and dew.value - bubble.value > _WIDE_GLIDE_K
        and any(
            cause.fault is Fault.UNDERCHARGE and cause.severity == "severe" and cause.probability >= CALLED_FROM
            for cause in judged.causes
        )
    )


def _by_the_glass(facts: UnitFacts, states: Mapping[str, State], to_go_kg: float | None, say: Say) -> Trim:
    bubbling = any(states.get(name) is State.YES for name in ("sight_glass_bubbles", "sight_glass_streaming"))
    if not bubbling:
        return say(Move.HOLD, Phrase("Look at the glass: it decides. Under a closed valve or with fans off it lies."))
    most = min(_SMALL_STEP_KG, _one_step_kg(facts))
    return say(Move.ADD, Phrase("The glass still bubbles."), _rounded(most, to_go_kg))


def _rounded(kg: float, to_go_kg: float | None) -> float:
    """To half ounces, an ounce at least, and never past the target total."""
    step = max(round(kg / OUNCE_KG * 2) / 2 * OUNCE_KG, _LEAST_KG)
    return min(step, to_go_kg) if to_go_kg is not None and to_go_kg > 0 else step


def _stops(
    facts: UnitFacts,
    judged: CircuitAssessment,
    gap: str | None,
    permit: RunPermit,
    states: Mapping[str, State],
    to_go_kg: float | None,
) -> Iterator[Phrase]:
    """Reasons to add no more."""
    head = judged.view.high_pressure
    if head is not None and permit.stop_head_pa is not None and head.value >= permit.stop_head_pa:
        yield Phrase(
            "Head {head} is at the stop line {line}: stop adding, clean the condenser, look at the fan.",
            {"head": ("pressure", head.value), "line": ("pressure", permit.stop_head_pa)},
        )
    yield from _flooding(facts, judged)
    if facts.receiver and states.get("sight_glass_bubbles") is State.NO:
        yield Phrase("The glass is clear: stop here.")
    if to_go_kg is not None and to_go_kg <= 0 and not (_on_target(judged, gap) and -to_go_kg <= _one_step_kg(facts)):
        yield Phrase("The target total is in. More would need a reason: is it another fault?")


def _flooding(facts: UnitFacts, judged: CircuitAssessment) -> Iterator[Phrase]:
    if facts.kind.is_walk_in:
        least = {
            "coil_superheat": ("Coil superheat", _LEAST_COIL_K[facts.kind]),
            "inlet_superheat": ("Compressor inlet superheat", _LEAST_INLET_K),
        }
    elif facts.metering is not None and facts.metering.is_fixed:
        least = {}  # its target is the line
    else:
        least = {"superheat": ("Superheat", _LEAST_SUPERHEAT_K)}
    for name, (words, least_k) in least.items():
        gap = judged.derived.get(name)
        if gap and gap.value < least_k:
            yield Phrase(
                f"{words} is {{now}}, below {{least}}: liquid reaches the compressor. Stop.",
                {"now": ("difference", gap.value), "least": ("difference", least_k)},
            )
    if not least or not any(name in judged.derived for name in least):
        yield from (oddity.phrase for oddity in judged.oddities if oddity.code == "flooding")
