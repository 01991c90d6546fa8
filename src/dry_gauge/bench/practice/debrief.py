"""What is to be learnt from a play that is over: the truth beside what could be believed, and what each step was worth."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
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
    way = sound_way(call)
    return Debrief(
        frozenset(named) == truth_of(call),
        in_order(named),
        worker.unit.held,
        worker.minutes,
        worker.unit.harm,
        list(_worths(call, worker)),
        way,
        way[-1].end if way else 0.0,
    )


def sound_way(call: PracticeCall) -> Sequence[Logged]:
    """A way through the call that nobody would be ashamed of: its steps."""
    return _walked(call) if call.dead else follow_next_check(call, np.random.default_rng(0)).log


def _worths(call: PracticeCall, worker: Worker) -> Iterator[Worth]:
    truth = {one.fault for one in call.wrong}
    unread = assess(Sheet(call.facts, minutes_running=ARRIVED_MINUTES)).first.judgement
    measured: list[Volts] = []
    lamp: Lamp | None = None
    before = {fault.value: max(_LEAST, unread.probability(fault)) for fault in truth} | _link_belief(call, measured)
    ran, wrong = call.dead is None, truth
    for step in worker.log:
        goes_on = step.runs == ran and not _changes(step)
        measured, lamp = ([*measured, *step.volts], step.lamp or lamp) if goes_on else ([], None)
        after = {fault.value: before.get(fault.value, _LEAST) for fault in wrong} if ran else {}
        if step.readings or step.seen:
            judgement = assess(step.sheet).first.judgement
            after = {fault.value: max(_LEAST, judgement.probability(fault)) for fault in wrong}
        after |= {} if step.runs else _link_belief(call, measured, lamp)
        if _changes(step):
            left = {one.fault.value for one in step.wrong} | ({LINK} if not step.runs else set())
            before = {name: max(_LEAST, share) for name, share in {**before, **after}.items() if name in left}
            yield Worth(step, before, 0.0)
        else:
            bits = sum(log2(after[name] / before.get(name, _LEAST)) for name in after if name in before)
            parts = {sight for one in call.wrong if one.fault in wrong for sight in one.part.sights}
            weak = {one.part.weak for one in call.wrong if one.fault in wrong}
            showed = any(one.what in parts and one.state is State.YES for one in step.seen) or any(
                motor in weak for motor, _ in step.capacitors
            )
            yield Worth(step, after, bits, showed, proved=not wrong and step.runs and bool(truth or call.dead))
            before = {**before, **after}
        ran, wrong = step.runs, truth & {one.fault for one in step.wrong}


def _changes(step: Logged) -> bool:
    return step.name in set(Remedy) or step.name in set(Sealing) or step.name.startswith("mend_") or step.name in _RETRIES


def _link_belief(call: PracticeCall, measured: Sequence[Volts], lamp: Lamp | None = None) -> dict[str, float]:
    if call.dead is None:
        return {}
    chain = call.dead.chain
    belief = walk(chain, measured, {coil.name: False for coil in chain.coils}).belief
    if lamp is not None:  # what it does not fit is hardly the open one
        fits = {link: share * (1.0 if lamp_with(chain, link) == lamp else _LAMP_LIES) for link, share in belief.items()}
        belief = {link: share / sum(fits.values()) for link, share in fits.items()}
    return {LINK: max(_LEAST, belief[call.dead.link])}


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
