"""Made-up calls, drawn from a field of units: one to three things wrong, or nothing, each of which shows."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from dry_gauge.bench import field
from dry_gauge.bench.cases import WORSE, all_show, drawn_sizes, usual_truths
from dry_gauge.bench.instruments import NAMES, in_table, true_readings
from dry_gauge.bench.practice.dead import drawn_dead
from dry_gauge.bench.practice.hidden import Hidden, parts_behind
from dry_gauge.bench.practice.unit import PracticeCall
from dry_gauge.bench.solve import solve
from dry_gauge.core.judgement.hypotheses import MECHANISMS
from dry_gauge.core.vocabulary import SIGHTS, Fault, Kind

LOOSE = 0.15
"""How often the first joint made is not tight. Chosen."""
MISSED = 0.05
"""How often somebody looks at a thing and does not see what is wrong with it. Chosen."""
_RATED = 0.7  # how often the plate still says its amps


def draw_calls(
    n: int,
    chance: np.random.Generator,
    style: field.Style = field.ELSEWHERE,
    kinds: Sequence[Kind] = tuple(Kind),
    truths: Sequence[frozenset[Fault]] | None = None,
) -> Iterator[PracticeCall]:
    """About `n` calls; those that trip, or in which a fault does not show, are left out.

    Parameters
    ----------
    truths : sequence of sets of Fault, optional
        What is wrong in each; drawn as such calls are met if not given.
    """
    truths = truths or usual_truths(n, chance)
    foreign = np.array([Fault.WRONG_REFRIGERANT in truth for truth in truths])
    for which, mistaken in ((np.flatnonzero(~foreign), False), (np.flatnonzero(foreign), True)):
        if which.size:
            yield from _some([truths[int(i)] for i in which], chance, style, kinds, mistaken)


def _some(
    truths: Sequence[frozenset[Fault]], chance: np.random.Generator, style: field.Style, kinds: Sequence[Kind], mistaken: bool
) -> Iterator[PracticeCall]:
    n = len(truths)
    drawn = field.draw(n, chance, style, kinds, mistaken=mistaken)
    faults = drawn_sizes(truths, chance, WORSE)
    machine, labelled = drawn.built(), field.as_labelled(drawn).built()
    solution = solve(machine, drawn.weather, faults)
    true = true_readings(machine, drawn.weather, faults, solution)
    good = solution.solved & in_table(machine, true) & all_show(machine, drawn, faults, true)
    for i in np.flatnonzero(good).tolist():
        facts = drawn.facts[i]
        if Fault.HIGH_EVAPORATOR_LOAD in truths[i] and facts.heating:
            continue  # nobody blows too much air through an outdoor coil
        if chance.random() < _RATED:
            facts = field.with_rating(facts, float(true["rated_load_amps"][i]))
        wrong = []
        for fault in sorted(truths[i]):
            parts = parts_behind(fault, facts)
            size = float(faults.size(fault)[i]) if fault in MECHANISMS else 1.0
            wrong.append(Hidden(fault, parts[int(chance.integers(len(parts)))], size))
        errors = dict(zip(NAMES, chance.standard_normal(len(NAMES)).tolist(), strict=True))
        missed = frozenset(name for name in SIGHTS if chance.random() < MISSED)
        one = np.array([i])
        loose = bool(chance.random() < LOOSE)
        yield PracticeCall(
            facts, machine.take(one), labelled.take(one), drawn.weather.take(one), tuple(wrong), errors, missed, loose=loose
        )


def draw_dead(n: int, chance: np.random.Generator, kinds: Sequence[Kind]) -> Iterator[PracticeCall]:
    """About `n` calls to units that do not run."""
    for _ in range(n):
        kind = kinds[int(chance.integers(len(kinds)))]
        dead, faults = drawn_dead(kind, chance)
        for call in draw_calls(1, chance, kinds=(kind,), truths=[faults]):
            yield replace(call, dead=dead)
