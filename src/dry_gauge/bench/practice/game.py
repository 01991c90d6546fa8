"""A made-up call as it is played: what makes it, what can be done on such a unit, and a play from its steps."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dry_gauge.bench.practice.calls import draw_calls, draw_dead
from dry_gauge.bench.practice.dead import MEND_MINUTES, MEND_MINUTES_ELSE
from dry_gauge.bench.practice.hidden import REMEDIES, SEALING_MINUTES, Remedy, Sealing
from dry_gauge.bench.practice.policies import TEXTBOOK
from dry_gauge.bench.practice.unit import SEEN_RUNNING, PracticeCall
from dry_gauge.bench.practice.worker import BRIDGE_MINUTES, CAPACITOR_MINUTES, PANEL_MINUTES, RESET_MINUTES, VOLTS_MINUTES, Worker
from dry_gauge.core.controls.chain import PLACE_WORDS, LinkSort
from dry_gauge.core.controls.walker import How
from dry_gauge.core.judgement.checks import CHECKS, RESTART_MINUTES
from dry_gauge.core.roles import sight_at
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import AIR_FAULTS, QUANTITIES, Fault, Kind, Metering

VERSION = 8
"""Of everything that makes a call out of a seed: another version of it is another call."""
JUDGE_MINUTES = 5.0
"""What asking the judgement costs. Chosen: about what a call to the shop does."""
WAITS = (5, 15, 30)
MOST_STEPS = 80
_TRIES = 12  # a draw whose fault does not show is no call: the next one is
DEAD_LEVEL = 5


@dataclass(frozen=True, slots=True)
class Level:
    """How hard a call is."""

    words: str
    kinds: tuple[Kind, ...]
    truths: tuple[frozenset[Fault], ...] = ()


_COMFORT = (Kind.SPLIT_AC, Kind.PACKAGE_AC)
_ONE = tuple(frozenset({fault}) for fault in Fault if fault is not Fault.NONE)
_PAIRS = (
    (Fault.UNDERCHARGE, Fault.LOW_EVAPORATOR_AIRFLOW),
    (Fault.OVERCHARGE, Fault.LOW_CONDENSER_AIRFLOW),
    (Fault.OVERCHARGE, Fault.LIQUID_LINE_RESTRICTION),
    (Fault.UNDERCHARGE, Fault.INEFFICIENT_COMPRESSOR),
    (Fault.LOW_EVAPORATOR_AIRFLOW, Fault.LOW_CONDENSER_AIRFLOW),
    (Fault.LOW_EVAPORATOR_AIRFLOW, Fault.METERING_UNDERFEEDING),
)
LEVELS: Mapping[int, Level] = {
    1: Level("one thing, and it can be seen or heard", _COMFORT, tuple(frozenset({one}) for one in sorted(AIR_FAULTS))),
    2: Level("one thing", tuple(Kind), _ONE),
    3: Level("two things, one hiding the other", tuple(Kind), tuple(frozenset(pair) for pair in _PAIRS)),
    4: Level("anything, or nothing", tuple(Kind), (*_ONE, *(frozenset(pair) for pair in _PAIRS), *[frozenset[Fault]()] * 5)),
    DEAD_LEVEL: Level("it does not run", _COMFORT),
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
    if not level.truths:
        return next(draw_dead(_TRIES, chance, (spec.kind,) if spec.kind else level.kinds), None)
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

    @property
    def whole_minutes(self) -> float:
        """With the time until it has settled again, where it is stopped for that."""
        return self.minutes + (RESTART_MINUTES if self.stopped else 0.0)


_READS = {"airs": "Airs", "gauges": "Both pressures", "lines": "Suction and liquid line", "standing": "Standing pressure"}
_LOOKS = (
    "evaporator_air_proven", "condenser_air_proven", "filter_dirty", "evaporator_dirty", "blower_belt_slipping", "damper_closed",
    "door_open", "condenser_dirty", "condenser_air_recirculating", "discharge_air_pulsing", "oil_stain", "frost_after_drier",
    "sight_glass_bubbles", "compressor_hot", "unusual_sound", "recently_opened", "recently_charged",
)  # fmt: skip
_LOOKS_AT_DEAD = ("drain_blocked",)
_LOOK_WORDS = {
    "evaporator_air_proven": "Prove the indoor coil's air",
    "condenser_air_proven": "Prove the outdoor coil's air",
    "unusual_sound": "Listen to it",
}
_LOOK_WORDS_IN_A_BOX = {
    "evaporator_air_proven": "Prove the evaporator's air",
    "condenser_air_proven": "Prove the condenser's air",
}
_LOOK_MINUTES = {
    "evaporator_air_proven": 5.0,
    "condenser_air_proven": 4.0,
    "oil_stain": 4.0,
    "recently_opened": 1.0,
    "recently_charged": 1.0,
    "unusual_sound": 1.0,
}
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
        words = _READS.get(name) or asked[name].words.split(",")[0]
        offers.append(Offer(name, words, minutes, asks, stopped, running=not stopped))
    return [*offers, CAPACITORS]


def looks_on(call: PracticeCall) -> list[Offer]:
    """What can be looked at."""
    facts = call.facts
    left_out = {"sight_glass_bubbles"} if not facts.receiver else set()
    words = _LOOK_WORDS | (_LOOK_WORDS_IN_A_BOX if facts.kind.is_walk_in else {})
    left_out |= set(_NOT_ON_A_BOX) if facts.kind.is_walk_in else {"door_open"}
    listed = (*_LOOKS, *(_LOOKS_AT_DEAD if call.dead else ()))
    return [
        Offer(
            what,
            words.get(what, f"{sight_at(what, facts)}?"),
            _LOOK_MINUTES.get(what, 2.0),
            (what,),
            running=what in SEEN_RUNNING,
        )
        for what in listed
        if what not in left_out
    ]


def remedies_on(call: PracticeCall) -> list[Offer]:
    """What can be done to it."""
    left_out = set(_BOX_DOES_NOT) if call.facts.kind.is_walk_in else {Remedy.DOOR}
    if call.dead is None:
        left_out |= {Remedy.DRAIN, Remedy.SHORT}
    return [Offer(one.value, row.words, row.minutes) for one, row in REMEDIES.items() if one not in left_out]


JUDGE = Offer("judge", "Ask the judgement", JUDGE_MINUTES, running=False)
RESET = Offer("reset", "Reset what has opened, and start it", RESET_MINUTES)
BRIDGE = Offer("bridge", "Bridge the safeties to make it run", BRIDGE_MINUTES)
CAPACITORS = Offer("capacitors", "Run capacitors, discharged, on the meter", CAPACITOR_MINUTES, stopped=True, running=False)
LAMP = Offer("lamp", "Watch the board's lamp", 1.0)
COMEBACK = Offer("comeback", "Three weeks later", 0)
PANEL_OFF = Offer("panel_off", "Take the panel off", PANEL_MINUTES)
PANEL_ON = Offer("panel_on", "Put the panel back", PANEL_MINUTES)
_WAITING = tuple(Offer(f"wait_{minutes}", f"Wait {minutes} min", minutes) for minutes in WAITS)


SEALED = tuple(
    Offer(one.value, words, SEALING_MINUTES[one])
    for one, words in (
        (Sealing.HOLD, "Hold it under nitrogen"),
        (Sealing.JOINT, "Redo the joint"),
        (Sealing.EVACUATE, "Evacuate, and watch the rise"),
        (Sealing.WEIGH_IN, "Weigh in by the label, and start it"),
    )
)
"""What follows once the system was opened."""


def waits_on(facts: UnitFacts) -> list[Offer]:
    """What can be done besides: wait, and take a panel off or put it back."""
    return [*_WAITING, *(() if facts.kind.is_walk_in else (PANEL_OFF, PANEL_ON)), RESET]


def volts_on(call: PracticeCall) -> list[Offer]:
    """Points of the control chain of a unit that does not run."""
    if call.dead is None:
        return []
    return [
        Offer(f"volts_{i}", f"{link.name}, {PLACE_WORDS[link.place]}", VOLTS_MINUTES, (link.name,))
        for i, link in enumerate(call.dead.chain.links)
    ]


def lamp_on(call: PracticeCall) -> list[Offer]:
    """The lamp of a board in the way of the compressor's coil."""
    return [LAMP] if call.dead and any(link.sort is LinkSort.BOARD for link in call.dead.chain.links) else []


def across_on(call: PracticeCall) -> list[Offer]:
    """The same links, each to be measured across."""
    if call.dead is None:
        return []
    return [
        Offer(f"across_{i}", f"Across {link.name}", VOLTS_MINUTES, (link.name,))
        for i, link in enumerate(call.dead.chain.links)
        if link.sort not in (LinkSort.SOURCE, LinkSort.COMMON)
    ]


def mends_on(call: PracticeCall) -> list[Offer]:
    """Links of that chain, to be mended or changed; and the wire around a safety that tempts."""
    if call.dead is None:
        return []
    offers = [
        Offer(
            f"mend_{i}",
            f"{_MENDED.get(link.sort, 'Change: {}').format(link.name)}",
            MEND_MINUTES.get(link.sort, MEND_MINUTES_ELSE),
            (link.name,),
        )
        for i, link in enumerate(call.dead.chain.links)
    ]
    return [*offers, BRIDGE]


_MENDED: Mapping[LinkSort, str] = {LinkSort.PLUG: "Mend: {}", LinkSort.COMMON: "Mend: {}"}


def offers_on(call: PracticeCall) -> dict[str, Offer]:
    """Everything that can be done, by name."""
    facts = call.facts
    listed = (
        *reads_on(facts),
        *looks_on(call),
        *remedies_on(call),
        *waits_on(facts),
        *lamp_on(call),
        *volts_on(call),
        *across_on(call),
        *mends_on(call),
        *SEALED,
        JUDGE,
        COMEBACK,
    )
    return {one.name: one for one in listed}


def played(call: PracticeCall, steps: Sequence[str]) -> Worker:
    """The call after those steps, from its start; a step that such a unit does not have is left out."""
    worker, offers = Worker(call), offers_on(call)
    for step in steps:
        if step in offers:
            take(worker, offers[step])
    return worker


def take(worker: Worker, offer: Offer) -> None:
    """Do one thing that is offered."""
    name = offer.name
    if name in set(Remedy):
        worker.do(Remedy(name))
    elif name in set(Sealing):
        worker.seal(Sealing(name))
    elif name.startswith("wait_"):
        worker.wait(offer.minutes, name)
    elif offer in (PANEL_OFF, PANEL_ON):
        worker.panel(name, off=offer is PANEL_OFF)
    elif offer is COMEBACK:
        worker.come_back(name)
    elif offer is RESET:
        worker.reset(name)
    elif offer is BRIDGE:
        worker.bridge(name)
    elif offer is CAPACITORS:
        worker.measure_capacitors(name, offer.minutes)
    elif offer is LAMP:
        worker.watch_lamp(name, offer.minutes)
    elif name.startswith(("volts_", "across_")):
        worker.measure(name, offer.asks[0], How.ACROSS if name.startswith("across_") else How.COMMON)
    elif name.startswith("mend_"):
        worker.mend_link(name, offer.asks[0])
    else:
        if offer.running and worker.readings:
            worker.judge()
        worker.ask(name, offer.asks, offer.minutes, stopped=offer.stopped, running=offer.running)


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
_SAID_WRONG = (
    "The filter was changed last week.",
    "Nobody has touched it in years.",
    "It must be the gas, it always is.",
    "The thermostat is new.",
)
_SAID_DEAD = (
    "It does nothing at all since yesterday.",
    "The fan inside blows, but outside nothing moves.",
    "It was fine, then it was off. Nobody switched anything.",
)
_NOTHING_SAID = "Nothing is wrong with it, but the neighbors' is colder."


def complaint_of(call: PracticeCall, chance: np.random.Generator) -> tuple[str, str]:
    """What the customer says, and what they claim besides: half of those claims are wrong."""
    if call.dead is not None:
        said = _SAID_DEAD[int(chance.integers(len(_SAID_DEAD)))]
    else:
        said = _SAID[call.wrong[int(chance.integers(len(call.wrong)))].fault] if call.wrong else _NOTHING_SAID
    return said, _SAID_WRONG[int(chance.integers(len(_SAID_WRONG)))]


def size_said(size: float) -> str:
    """How badly, in words."""
    return "slight" if size < 0.4 else "plain" if size < 0.7 else "bad"
