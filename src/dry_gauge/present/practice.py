"""A made-up call as its player sees it, and in hindsight: names of steps in words, numbers as this reader reads them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.bench.practice import game
from dry_gauge.bench.practice.hidden import REMEDIES, Remedy
from dry_gauge.bench.practice.unit import HARM_WORDS, PracticeCall
from dry_gauge.bench.practice.worker import Logged, Worker
from dry_gauge.core.judgement.checks import CHECKS
from dry_gauge.core.judgement.faults import FAULT_WORDS
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS, Fault, State
from dry_gauge.core.words import Reader

_WORDS: Mapping[str, str] = {
    **{check.name: check.words for check in CHECKS}, **{name: sight.label for name, sight in SIGHTS.items()},
    **{f"look_{name}": sight.label for name, sight in SIGHTS.items()}, **{one.value: row.words for one, row in REMEDIES.items()},
    "judge": "Asked the judgement", "airs": "Airs", "gauges": "Both pressures", "lines": "Suction and liquid line",
    "air_unproven": "Proved the air on both coils", "too_few_readings": "Read what was missing",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class ShownStep:
    """One step as it is told: its words, when, how long, what it showed and harmed, and in hindsight what it was worth."""

    words: str
    at: float
    minutes: float
    shown: tuple[str, ...]
    harms: tuple[str, ...]
    is_remedy: bool
    worth: str = ""


def step_words(name: str) -> str:
    """A step in words."""
    return _WORDS.get(name, name.replace("_", " "))


def shown_step(step: Logged, reader: Reader, worth: str = "") -> ShownStep:
    """One step as it is told."""
    words = step_words(step.name)
    quantities = [(QUANTITIES[one.quantity], one.value_si) for one in step.readings]
    shown = [f"{quantity.label} {reader.say(quantity.dimension, value)}" for quantity, value in quantities]
    shown += [one.state.value if SIGHTS[one.what].label == words else f"{SIGHTS[one.what].label}: {one.state.value}"
              for one in step.seen]  # fmt: skip
    harms = tuple(HARM_WORDS[one.code] for one in step.harms)
    return ShownStep(words, step.at, step.minutes, tuple(shown), harms, step.name in set(Remedy), worth)


@dataclass(frozen=True, slots=True)
class Known:
    """What is known now: readings by label, and what was seen."""

    readings: Sequence[tuple[str, str]]
    seen: Sequence[tuple[str, bool]]


def known(worker: Worker, reader: Reader) -> Known:
    """What is known since the unit was last changed."""
    readings = [(QUANTITIES[one.quantity].label, reader.say(QUANTITIES[one.quantity].dimension, one.value_si))
                for one in worker.readings.values()]  # fmt: skip
    return Known(readings, [(SIGHTS[one.what].label, one.state is State.YES) for one in worker.seen.values()])


@dataclass(frozen=True, slots=True)
class Truth:
    """One thing that was wrong, in words; whether it was named, and whether it is mended."""

    fault: Fault
    words: str
    part: str
    size: str
    named: bool
    mended: bool


def truths(call: PracticeCall, worker: Worker, named: frozenset[Fault]) -> list[Truth]:
    """What was really wrong."""
    left = {one.fault for one in (*worker.unit.wrong, *worker.unit.eased)}
    return [Truth(one.fault, FAULT_WORDS[one.fault], one.part.words, game.size_said(one.size), one.fault in named,
                  one.fault not in left) for one in call.wrong]  # fmt: skip


def worth_said(worth: game.Worth) -> str:
    """What a step was worth, in words."""
    if worth.step.name in REMEDIES:
        return "harm" if worth.step.harms else ""
    if worth.step.name == "judge":
        return ""
    if worth.showed:
        return "showed what it is"
    if worth.proved:
        return "proof"
    if worth.bits < -_LED:
        return "led away"
    return "taught much" if worth.bits > 1 else "taught something" if worth.bits > _TAUGHT else "taught nothing"


_TAUGHT, _LED = 0.05, 0.5
