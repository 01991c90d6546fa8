"""Trim: how much to add next, in small damped steps, and when to stop adding.

How far a gap moves for a share of the charge comes from the bench, for this sort of unit; half of what would be needed
is proposed, never more than a twentieth of the label (a tenth where it is far off).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from dry_gauge.core.charge.mass import OUNCE_KG
from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.judgement.calibration import group_names, group_of
from dry_gauge.core.judgement.features import FEATURES
from dry_gauge.core.judgement.hypotheses import HYPOTHESES, SINGLE_SEVERITIES, Hypothesis
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.visit.run_permit import RunPermit
from dry_gauge.core.vocabulary import Fault, Kind, Mode, State
from dry_gauge.core.words import Phrase


class Move(StrEnum):
    """What to do next."""

    ADD = "add"
    HOLD = "hold"
    STOP = "stop"
    REMOVE = "remove"


@dataclass(frozen=True, slots=True)
class Trim:
    """The next step.

    Parameters
    ----------
    move : Move
    step_kg : float
        To add, or to recover; 0 for hold and stop. [kg]
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


# What the bench loses at full severity, without a receiver's reserve (`bench.machine.Machine.charge_kg`).
_LOST_AT_FULL, _LOST_POWER = 0.52, 1.5
_DAMPED, _CAP, _CAP_FAR, _FAR = 0.5, 0.05, 0.10, 0.2
_LEAST_KG, _SMALL_STEP_KG = 1 * OUNCE_KG, 3 * OUNCE_KG
_ASSUMED_CHARGE_KG = 3.0
_SETTLE_MINUTES, _SETTLE_BOX_MINUTES = 10, 15
# Superheat below which liquid reaches the compressor. [K]
_LEAST_SUPERHEAT_K = 5 * FAHRENHEIT_K
_LEAST_COIL_K = {Kind.WALK_IN_COOLER: 4 * FAHRENHEIT_K, Kind.WALK_IN_FREEZER: 3 * FAHRENHEIT_K}
_LEAST_INLET_K = 20 * FAHRENHEIT_K
_LEAST_DISCHARGE_K = 20 * FAHRENHEIT_K


def school_of(facts: UnitFacts) -> tuple[str, str | None]:
    """What this unit is charged by, in words, and the gap that shows it; None for the sight glass."""
    if facts.receiver:
        return "a clear sight glass, then the weight", None
    if facts.mode is Mode.HEATING:
        return "the weight; check by subcooling in cooling weather", "subcooling"
    if facts.metering is None:
        return "subcooling; the metering device is not on the card", "subcooling"
    if facts.metering.is_fixed:
        return "superheat, from the chart of wet bulb and outdoor air", "superheat"
    return "subcooling at the liquid line", "subcooling"


def missing_share(facts: UnitFacts, gap: str, change_k: float) -> float:
    """Share of the charge that moves a gap by that much, by the bench. [1]

    Parameters
    ----------
    change_k : float
        How far the gap is from its aim in the direction of a shortage, above zero. [K]
    """
    group = group_of(group_names(facts)[0])
    rows = [HYPOTHESES.index(Hypothesis(((Fault.UNDERCHARGE, s),))) for s in SINGLE_SEVERITIES]
    moved = np.abs(group.shifts[rows, FEATURES.index(gap)])
    lost = _LOST_AT_FULL * np.array(SINGLE_SEVERITIES) ** _LOST_POWER
    # Only the rising part answers: an empty condenser has no subcooling left to lose.
    rising = np.maximum.accumulate(np.concatenate([[0.0], moved]))
    return float(np.interp(change_k, rising + np.arange(rising.size) * 1e-6, np.concatenate([[0.0], lost])))


def next_step(
    facts: UnitFacts, judged: CircuitAssessment | None, permit: RunPermit, states: Mapping[str, State],
    to_go_kg: float | None, head_pa: float | None, settled: bool, minutes_more: int | None = None, *,
    locked: bool = False,
) -> Trim:  # fmt: skip
    """How much to add now, or why not.

    Parameters
    ----------
    judged : CircuitAssessment or None
        The readings as they are judged now.
    permit : RunPermit
        Holds the head at which to stop.
    to_go_kg : float or None
        Left of the target total; None where none was made. [kg]
    head_pa : float or None
        Liquid or discharge pressure now, absolute. [Pa]
    settled : bool
        Whether the gauges have settled since the last step.
    locked : bool
        Whether the unit is locked out: nothing can be judged then, and liquid goes into the liquid line.
    """
    by, gap = school_of(facts)
    wait = _SETTLE_BOX_MINUTES if facts.kind.is_walk_in else _SETTLE_MINUTES
    label = facts.label_charge_kg or _ASSUMED_CHARGE_KG

    def say(move: Move, why: Phrase, step_kg: float = 0.0) -> Trim:
        return Trim(move, step_kg, by, gap, why, stops, wait)

    stops: tuple[Phrase, ...] = ()
    if locked:
        return say(Move.HOLD, Phrase("Off and locked out: weigh liquid into the liquid line. What does not go in is metered "
                                     "later, through the suction, running."))  # fmt: skip
    stops = _stops(facts, judged, permit, states, to_go_kg, head_pa)
    if stops:
        return say(Move.STOP, stops[0])
    if judged is None:
        return say(Move.HOLD, Phrase("Read pressures and line temperatures first."))
    if not settled:
        minutes = f", about {minutes_more} minutes more" if minutes_more else ""
        return say(Move.HOLD, Phrase(f"Not settled{minutes}: what was added has not arrived yet."))
    if gap is None:
        bubbling = any(states.get(name) is State.YES for name in ("sight_glass_bubbles", "sight_glass_streaming"))
        if not bubbling:
            return say(
                Move.HOLD, Phrase("Look at the glass: it decides. Under a closed valve or with fans off it lies.")
            )
        return say(Move.ADD, Phrase("The glass still bubbles."), _rounded(min(_SMALL_STEP_KG, _CAP * label), to_go_kg))
    target, now = judged.targets.get(gap), judged.derived.get(gap)
    if target is None or now is None or target.indication_only:
        why = next((one.why for one in judged.not_applicable if one.target == gap), "its readings are missing")
        return say(Move.STOP if gap == "superheat" else Move.HOLD,
                   Phrase(f"Not by {gap} today: {why}. Go by weight."))  # fmt: skip
    short = now.measured.value - target.aim_k if gap == "superheat" else target.aim_k - now.measured.value
    numbers = {"now": ("difference", now.measured.value), "aim": ("difference", target.aim_k)}
    label_words = gap.capitalize()
    if target.low_k <= now.measured.value <= target.high_k:
        return say(Move.STOP, Phrase(f"{label_words} is {{now}}, within its target. Done: prove it.", numbers))
    if short < 0:
        share = min(missing_share(facts, gap, -short) * _DAMPED, _CAP)
        words = f"{label_words} is {{now}}, aim {{aim}}: too much is in. Recover it by weight; never vent."
        return say(Move.REMOVE, Phrase(words, numbers), _rounded(share * label, None))
    share = missing_share(facts, gap, short)
    cap = _CAP_FAR if share > _FAR else _CAP
    words = f"{label_words} is {{now}}, aim {{aim}}."
    return say(Move.ADD, Phrase(words, numbers), _rounded(min(share * _DAMPED, cap) * label, to_go_kg))


def _rounded(kg: float, to_go_kg: float | None) -> float:
    """To half ounces, an ounce at least, and never past the target total."""
    step = max(round(kg / OUNCE_KG * 2) / 2 * OUNCE_KG, _LEAST_KG)
    return min(step, to_go_kg) if to_go_kg is not None and to_go_kg > 0 else step


def _stops(
    facts: UnitFacts, judged: CircuitAssessment | None, permit: RunPermit, states: Mapping[str, State],
    to_go_kg: float | None, head_pa: float | None,
) -> tuple[Phrase, ...]:  # fmt: skip
    found = []
    if head_pa is not None and permit.stop_head_pa is not None and head_pa >= permit.stop_head_pa:
        found.append(Phrase("Head {head} is at the stop line {line}: stop adding, clean the condenser, look at the fan.",
                            {"head": ("pressure", head_pa), "line": ("pressure", permit.stop_head_pa)}))  # fmt: skip
    if judged is not None:
        found += _flooding(facts, judged)
    if to_go_kg is not None and to_go_kg <= 0:
        found.append(Phrase("The target total is in. More would need a reason: is it another fault?"))
    if facts.receiver and states.get("sight_glass_bubbles") is State.NO:
        found.append(Phrase("The glass is clear: stop here."))
    return tuple(found)


def _flooding(facts: UnitFacts, judged: CircuitAssessment) -> Iterator[Phrase]:
    gaps = {name: derived.measured.value for name, derived in judged.derived.items()}
    inlet, dew = judged.view.get("compressor_suction_temp"), judged.derived.get("suction_saturation")
    least = {"discharge_superheat": ("Discharge superheat", _LEAST_DISCHARGE_K)}
    if facts.kind.is_walk_in:
        least["coil_superheat"] = ("Coil superheat", _LEAST_COIL_K[facts.kind])
        if inlet and dew:
            gaps["inlet"] = inlet.value - dew.measured.value
            least["inlet"] = ("Compressor inlet superheat", _LEAST_INLET_K)
    else:
        least["superheat"] = ("Superheat", _LEAST_SUPERHEAT_K)
    for name, (words, least_k) in least.items():
        if name in gaps and gaps[name] < least_k:
            yield Phrase(f"{words} is {{now}}, below {{least}}: liquid reaches the compressor. Stop.",
                         {"now": ("difference", gaps[name]), "least": ("difference", least_k)})  # fmt: skip
