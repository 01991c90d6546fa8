"""A made-up call as it is played: what can be done on such a unit, a play from its steps, and what is to be learnt from it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import log2

import numpy as np

from dry_gauge.bench.practice.calls import draw_calls
from dry_gauge.bench.practice.hidden import REMEDIES, Remedy
from dry_gauge.bench.practice.policies import TEXTBOOK, follow_next_check
from dry_gauge.bench.practice.unit import PracticeCall
from dry_gauge.bench.practice.worker import ARRIVED_MINUTES, PROVEN, Logged, Worker
from dry_gauge.core.judgement.assess import assess
from dry_gauge.core.judgement.checks import CHECKS
from dry_gauge.core.sheet import Sheet, UnitFacts
from dry_gauge.core.vocabulary import AIR_FAULTS, QUANTITIES, SIGHTS, Fault, Kind, Metering, State

VERSION = 1
"""Of everything that makes a call out of a seed: another version of it is another call."""
JUDGE_MINUTES = 5.0
"""What asking the judgement costs. Chosen: about what a call to the shop does."""
MOST_STEPS = 80
_TRIES = 12  # a draw whose fault does not show is no call: the next one is


@dataclass(frozen=True, slots=True)
class Level:
    """How hard a call is."""

    words: str
    kinds: tuple[Kind, ...]
    truths: tuple[frozenset[Fault], ...]


_COMFORT = (Kind.SPLIT_AC, Kind.PACKAGE_AC)
_ONE = tuple(frozenset({fault}) for fault in Fault if fault is not Fault.NONE)
_PAIRS = (
    (Fault.UNDERCHARGE, Fault.LOW_EVAPORATOR_AIRFLOW), (Fault.OVERCHARGE, Fault.LOW_CONDENSER_AIRFLOW),
    (Fault.OVERCHARGE, Fault.LIQUID_LINE_RESTRICTION), (Fault.UNDERCHARGE, Fault.INEFFICIENT_COMPRESSOR),
    (Fault.LOW_EVAPORATOR_AIRFLOW, Fault.LOW_CONDENSER_AIRFLOW), (Fault.LOW_EVAPORATOR_AIRFLOW, Fault.METERING_UNDERFEEDING),
)  # fmt: skip
LEVELS: Mapping[int, Level] = {
    1: Level("one thing, and it can be seen", _COMFORT, tuple(frozenset({one}) for one in sorted(AIR_FAULTS))),
    2: Level("one thing", tuple(Kind), _ONE),
    3: Level("two things, one hiding the other", tuple(Kind), tuple(frozenset(pair) for pair in _PAIRS)),
    4: Level("anything, or nothing", tuple(Kind), (*_ONE, *(frozenset(pair) for pair in _PAIRS), *[frozenset[Fault]()] * 5)),
}


@dataclass(frozen=True, slots=True)
class CaseSpec:
    """What makes a call: a seed, how hard, and what a lead chose, if one did."""

    seed: int
    level: int
    faults: frozenset[Fault] | None = None
    kind: Kind | None = None


def call_for(spec: CaseSpec, chance: np.random.Generator) -> PracticeCall | None:
    """The call of a case; None where nothing of that sort shows on any unit that was drawn.

    Parameters
    ----------
    chance : Generator
        Made from the case's seed: the same seed is the same call.
    """
    level = LEVELS[spec.level]
    truth = level.truths[int(chance.integers(len(level.truths)))] if spec.faults is None else spec.faults
    kinds = (spec.kind,) if spec.kind else level.kinds
    return next(draw_calls(_TRIES, chance, kinds=kinds, truths=[truth] * _TRIES), None)


@dataclass(frozen=True, slots=True)
class Offer:
    """One thing that can be done: its name, words, minutes, and how the unit stands meanwhile."""

    name: str
    words: str
    minutes: float
    asks: tuple[str, ...] = ()
    stopped: bool = False
    running: bool = True


_READS = {"airs": "Airs: outdoor, return or box, supply, wet bulb", "gauges": "Both pressures",
          "lines": "Suction and liquid line"}  # fmt: skip
_LOOKS = (
    "evaporator_air_proven", "condenser_air_proven", "filter_dirty", "evaporator_dirty", "blower_belt_slipping", "damper_closed",
    "door_open", "condenser_dirty", "condenser_air_recirculating", "discharge_air_pulsing", "oil_stain", "frost_after_drier",
    "sight_glass_bubbles", "compressor_hot", "recently_opened", "recently_charged",
)  # fmt: skip
_LOOK_WORDS = {"evaporator_air_proven": "Prove the evaporator's air", "condenser_air_proven": "Prove the condenser's air"}
_LOOK_MINUTES = {"evaporator_air_proven": 5.0, "condenser_air_proven": 4.0, "oil_stain": 4.0, "recently_opened": 1.0,
                 "recently_charged": 1.0}  # fmt: skip
_SEEN_RUNNING = frozenset({*PROVEN, "sight_glass_bubbles"})
_NOT_ON_A_BOX = frozenset({"filter_dirty", "blower_belt_slipping", "damper_closed", "static", "airflow", "wet_split"})
_BOX_DOES_NOT = frozenset({Remedy.FILTER, Remedy.BLOWER, Remedy.DAMPER, Remedy.AIR_DOWN})


def reads_on(facts: UnitFacts) -> list[Offer]:
    """What can be read."""
    asked = {check.name: check for check in CHECKS}
    offers = []
    for name, asks, minutes, stopped in TEXTBOOK:
        if not set(asks) <= set(QUANTITIES) or (facts.kind.is_walk_in and name in _NOT_ON_A_BOX):
            continue
        if name == "suction_bulb" and facts.metering in (Metering.ORIFICE, Metering.CAPILLARY):
            continue
        words = _READS.get(name) or asked[name].words
        offers.append(Offer(name, words, minutes, asks, stopped, running=not stopped))
    return offers


def looks_on(facts: UnitFacts) -> list[Offer]:
    """What can be looked at."""
    left_out = {"sight_glass_bubbles"} if not facts.receiver else set()
    left_out |= set(_NOT_ON_A_BOX) if facts.kind.is_walk_in else {"door_open"}
    return [Offer(what, _LOOK_WORDS.get(what, f"{SIGHTS[what].label}?"), _LOOK_MINUTES.get(what, 2.0), (what,),
                  running=what in _SEEN_RUNNING) for what in _LOOKS if what not in left_out]  # fmt: skip


def remedies_on(facts: UnitFacts) -> list[Offer]:
    """What can be done to it."""
    left_out = _BOX_DOES_NOT if facts.kind.is_walk_in else {Remedy.DOOR}
    return [Offer(one.value, row.words, row.minutes) for one, row in REMEDIES.items() if one not in left_out]


JUDGE = Offer("judge", "Ask the judgement", JUDGE_MINUTES, running=False)


def played(call: PracticeCall, steps: Sequence[str]) -> Worker:
    """The call after those steps, from its start; a step that such a unit does not have is left out."""
    worker = Worker(call)
    offers = {one.name: one for one in (*reads_on(call.facts), *looks_on(call.facts), JUDGE)}
    remedies = {one.name for one in remedies_on(call.facts)}
    for step in steps:
        if step in remedies:
            worker.do(Remedy(step))
        elif step in offers:
            offer = offers[step]
            if offer.running and worker.readings:
                worker.judge()
            worker.ask(step, offer.asks, offer.minutes, stopped=offer.stopped, running=offer.running)
    return worker


@dataclass(frozen=True, slots=True)
class Worth:
    """One step in hindsight: what was believed of each true cause after it, and what it taught for its minutes.

    Parameters
    ----------
    believed : mapping of Fault to float
        Probability of each cause that was wrong then, by the judgement, from what was known.
    bits : float
        By how much it brought the truth nearer; below zero it led away.
    """

    step: Logged
    believed: Mapping[Fault, float]
    bits: float
    showed: bool = False
    """Whether it showed the very part that was wrong."""
    proved: bool = False
    """Whether nothing was wrong any more: then it is proof."""


_LEAST = 1e-3


@dataclass(frozen=True, slots=True)
class Debrief:
    """The truth, and the play beside it.

    Parameters
    ----------
    shortest : sequence of Logged
        A sound way through the same call: what stands first among the next checks, step by step.
    """

    named_right: bool
    held: bool
    minutes: float
    harm: int
    worths: Sequence[Worth]
    shortest: Sequence[Logged]
    shortest_minutes: float


def debrief(call: PracticeCall, worker: Worker, named: frozenset[Fault]) -> Debrief:
    """What is to be learnt from a play that is over."""
    truth = frozenset(one.fault for one in call.wrong)
    unread = assess(Sheet(call.facts, minutes_running=ARRIVED_MINUTES)).first.judgement
    worths, before = [], {fault: max(_LEAST, unread.probability(fault)) for fault in truth}
    for i, step in enumerate(worker.log):
        wrong = truth if i == 0 else truth & {one.fault for one in worker.log[i - 1].wrong}
        if step.name in REMEDIES:
            before = {fault: max(_LEAST, before.get(fault, _LEAST)) for fault in truth & {one.fault for one in step.wrong}}
            worths.append(Worth(step, dict(before), 0.0))
            continue
        judgement = assess(step.sheet).first.judgement
        after = {fault: max(_LEAST, judgement.probability(fault)) for fault in wrong}
        bits = sum(log2(after[fault] / before.get(fault, _LEAST)) for fault in wrong if fault in before)
        parts = {sight for one in call.wrong if one.fault in wrong for sight in one.part.sights}
        showed = any(one.what in parts and one.state is State.YES for one in step.seen)
        worths.append(Worth(step, after, bits, showed, proved=bool(truth) and not wrong))
        before = after
    way = follow_next_check(call, np.random.default_rng(0))
    minutes = way.checking + way.mending
    return Debrief(named == truth, worker.unit.held, worker.minutes, worker.unit.harm, worths, way.log, minutes)


_SAID: Mapping[Fault, str] = {
    Fault.UNDERCHARGE: "It got weaker from week to week.", Fault.OVERCHARGE: "Since somebody worked on it, it hums and trips.",
    Fault.LOW_EVAPORATOR_AIRFLOW: "Hardly any cold comes out of it.",
    Fault.HIGH_EVAPORATOR_LOAD: "It never gets down to temperature.",
    Fault.LOW_CONDENSER_AIRFLOW: "At noon it gives up, in the evening it is fine.",
    Fault.LIQUID_LINE_RESTRICTION: "It runs all day and does not do much.",
    Fault.METERING_UNDERFEEDING: "It used to be better; it just runs and runs.",
    Fault.METERING_OVERFEEDING: "There is frost on the pipe outside.",
    Fault.NON_CONDENSABLES: "It was repaired in spring, and the bill has gone up since.",
    Fault.INEFFICIENT_COMPRESSOR: "It makes another noise than it did, and is not cold.",
    Fault.WRONG_REFRIGERANT: "A cousin filled it up; now it is worse.",
}  # fmt: skip
_SAID_WRONG = ("The filter was changed last week.", "Nobody has touched it in years.", "It must be the gas, it always is.",
               "The thermostat is new.")  # fmt: skip
_NOTHING_SAID = "Nothing is wrong with it, but the neighbours' is colder."


def complaint_of(call: PracticeCall, chance: np.random.Generator) -> tuple[str, str]:
    """What the customer says, and what they claim besides: half of those claims are wrong."""
    said = _SAID[call.wrong[int(chance.integers(len(call.wrong)))].fault] if call.wrong else _NOTHING_SAID
    return said, _SAID_WRONG[int(chance.integers(len(_SAID_WRONG)))]


def size_said(size: float) -> str:
    """How badly, in words."""
    return "slight" if size < 0.4 else "plain" if size < 0.7 else "bad"


