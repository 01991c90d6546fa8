"""What is to be learnt from a play that is over: the truth beside what could be believed, and what each step was worth."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import log2

import numpy as np

from dry_gauge.bench.practice import game
from dry_gauge.bench.practice.dead import Lamp, lamp_with
from dry_gauge.bench.practice.hidden import Remedy, Sealing
from dry_gauge.bench.practice.policies import follow_next_check
from dry_gauge.bench.practice.unit import PracticeCall
from dry_gauge.bench.practice.worker import ARRIVED_MINUTES, Logged, Worker
from dry_gauge.core.controls.walker import How, Volts, walk
from dry_gauge.core.judgement.assess import assess
from dry_gauge.core.sheet import Sheet
from dry_gauge.core.vocabulary import AIR_FAULTS, State

LINK = "link"
"""Stands among the causes for the link that kept a unit from running."""
_LEAST = 1e-3
_LAMP_LIES = 0.02  # how often a board flashes what is not so. Chosen.
_MOST_WALKED = 40
_RETRIES = frozenset({game.RESET.name, game.BRIDGE.name, game.COMEBACK.name})


@dataclass(frozen=True, slots=True)
class Worth:
    """One step in hindsight: what was believed of each true cause after it, and what it taught for its minutes.

    Parameters
    ----------
    believed : mapping of str to float
        Probability of each cause that was wrong then, by the judgement or the walker, from what was known.
    bits : float
        By how much it brought the truth nearer; below zero it led away.
    """

    step: Logged
    believed: Mapping[str, float]
    bits: float
    showed: bool = False
    """Whether it showed the very part that was wrong."""
    proved: bool = False
    """Whether nothing was wrong any more: then it is proof."""


@dataclass(frozen=True, slots=True)
class Debrief:
    """The truth, and the play beside it.

    Parameters
    ----------
    in_order : bool
        Whether what was named was named in the order of the work: what keeps it from running, then air, then the rest.
    shortest : sequence of Logged
        A sound way through the same call: what stands first among the next checks, step by step.
    """

    named_right: bool
    in_order: bool
    held: bool
    minutes: float
    harm: int
    worths: Sequence[Worth]
    shortest: Sequence[Logged]
    shortest_minutes: float


def truth_of(call: PracticeCall) -> frozenset[str]:
    """What is wrong, by name: causes, and the open link as ``link:`` and its name."""
    return frozenset([*(one.fault.value for one in call.wrong), *([link_named(call.dead.link)] if call.dead else ())])


def link_named(link: str) -> str:
    """An open link as it is named among causes."""
    return f"{LINK}:{link}"


def in_order(named: Sequence[str]) -> bool:
    """Whether causes are in the order of the work: what keeps it from running first, air before what is judged through it."""
    ranks = [0 if one.startswith(LINK) else 1 if one in AIR_FAULTS else 2 for one in named]
    return ranks == sorted(ranks)


def debrief(call: PracticeCall, worker: Worker, named: Sequence[str]) -> Debrief:
    """What is to be learnt from a play that is over; `named` in the order in which it was to be mended."""
    way, hindsight = sound_way(call), _Hindsight(call)
    return Debrief(
        frozenset(named) == truth_of(call),
        in_order(named),
        worker.unit.held,
        worker.minutes,
        worker.unit.harm,
        [hindsight.worth(step) for step in worker.log],
        way,
        way[-1].end if way else 0.0,
    )


def sound_way(call: PracticeCall) -> Sequence[Logged]:
    """A way through the call that nobody would be ashamed of: its steps."""
    return _walked(call) if call.dead else follow_next_check(call, np.random.default_rng(0)).log


class _Hindsight:
    """What was believed of the true causes, step by step, by the judgement and by the walker along the chain."""

    def __init__(self, call: PracticeCall) -> None:
        self.call = call
        self.truth = {one.fault for one in call.wrong}
        unread = assess(Sheet(call.facts, minutes_running=ARRIVED_MINUTES)).first.judgement
        self.measured: list[Volts] = []
        self.lamp: Lamp | None = None
        self.believed = {fault.value: max(_LEAST, unread.probability(fault)) for fault in self.truth} | self._of_link()
        self.ran, self.wrong = call.dead is None, self.truth

    def worth(self, step: Logged) -> Worth:
        """Of the next step in the log."""
        goes_on = step.runs == self.ran and not _changes(step)
        self.measured = [*self.measured, *step.volts] if goes_on else []
        self.lamp = (step.lamp or self.lamp) if goes_on else None
        after = self._of_causes(step) | ({} if step.runs else self._of_link())
        worth = self._of_change(step, after) if _changes(step) else self._of_look(step, after)
        self.ran, self.wrong = step.runs, self.truth & {one.fault for one in step.wrong}
        return worth

    def _of_causes(self, step: Logged) -> dict[str, float]:
        if step.readings or step.seen:
            judgement = assess(step.sheet).first.judgement
            return {fault.value: max(_LEAST, judgement.probability(fault)) for fault in self.wrong}
        return {fault.value: self.believed.get(fault.value, _LEAST) for fault in self.wrong} if self.ran else {}

    def _of_link(self) -> dict[str, float]:
        if self.call.dead is None:
            return {}
        chain = self.call.dead.chain
        belief = walk(chain, self.measured, {coil.name: False for coil in chain.coils}).belief
        if self.lamp is not None:  # what it does not fit is hardly the open one
            fits = {link: share * (1.0 if lamp_with(chain, link) == self.lamp else _LAMP_LIES) for link, share in belief.items()}
            belief = {link: share / sum(fits.values()) for link, share in fits.items()}
        return {LINK: max(_LEAST, belief[self.call.dead.link])}

    def _of_change(self, step: Logged, after: Mapping[str, float]) -> Worth:
        """A repair teaches nothing by itself; what is left wrong is believed on."""
        left = {one.fault.value for one in step.wrong} | ({LINK} if not step.runs else set())
        both = {**self.believed, **after}
        self.believed = {name: max(_LEAST, share) for name, share in both.items() if name in left}
        return Worth(step, self.believed, 0.0)

    def _of_look(self, step: Logged, after: Mapping[str, float]) -> Worth:
        bits = sum(log2(after[name] / self.believed.get(name, _LEAST)) for name in after if name in self.believed)
        parts = [one.part for one in self.call.wrong if one.fault in self.wrong]
        sights, weak = {sight for part in parts for sight in part.sights}, {part.weak for part in parts}
        seen = any(one.what in sights and one.state is State.YES for one in step.seen)
        showed = seen or any(motor in weak for motor, _ in step.capacitors)
        self.believed = {**self.believed, **after}
        proved = not self.wrong and step.runs and bool(self.truth or self.call.dead)
        return Worth(step, after, bits, showed, proved)


def _changes(step: Logged) -> bool:
    return step.name in set(Remedy) or step.name in set(Sealing) or step.name.startswith("mend_") or step.name in _RETRIES


def _walked(call: PracticeCall) -> list[Logged]:
    """The cheapest next point until the link is named, then what had opened it, then the link; proven by a reading."""
    worker, offers = Worker(call), game.offers_on(call)
    assert worker.unit.chain is not None
    chain, state = worker.unit.chain.dead.chain, worker.unit.chain
    at = {one.asks[0]: one for one in game.volts_on(call)}
    across = {one.asks[0]: one for one in game.across_on(call)}
    mends = {one.asks[0]: one for one in game.mends_on(call) if one.asks}
    still = {coil.name: False for coil in chain.coils}
    while len(worker.log) < _MOST_WALKED:
        found = walk(chain, worker.volts, still, here=worker.place)
        if found.next is None:
            break
        game.take(worker, (across if found.next.how is How.ACROSS else at)[found.next.link.name])
    link = found.named or found.lead
    if state.cure is not None:
        game.take(worker, offers[state.cure.value])
    if worker.unit.opened is not None:
        worker.seal_up()
    if not worker.unit.runs:
        game.take(worker, game.RESET if state.by_hand else mends[link.name])
    worker.wait(15, "wait_15")
    for offer in game.reads_on(call.facts)[:3]:
        game.take(worker, offer)
    return worker.log
