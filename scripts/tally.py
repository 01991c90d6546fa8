"""Judges calls to units of makes that a fold has never seen, and counts; `accuracy` runs it once a fold and reports.

Every count is a plain list, so that the folds' tallies can be joined.
"""

from __future__ import annotations

import pickle
import sys
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from dataclasses import field as of
from itertools import pairwise
from pathlib import Path

import numpy as np

from dry_gauge.bench import field
from dry_gauge.bench.cases import SLIGHT, Case, Draw, draw_cases, with_more
from dry_gauge.core.judgement.assess import assess
from dry_gauge.core.judgement.remedies import SURE_FROM
from dry_gauge.core.sheet import Sheet
from dry_gauge.core.vocabulary import Fault, Kind

ALIKE = {Fault.LIQUID_LINE_RESTRICTION, Fault.METERING_UNDERFEEDING}
SETTLED_FROM = (0.8, SURE_FROM)
_MOST_CHECKS = 12
FIRST_THREE = ("suction_pressure", "liquid_pressure", "outdoor_air_temp")
_BLOCK = 250


def alike(sheet: Sheet, one: Fault, other: Fault) -> bool:
    """Whether two answers count as one: nothing on this sheet could tell a restriction from an underfeeding valve."""
    if one is other:
        return True
    had = {reading.quantity for reading in sheet.readings} | {seen.what for seen in sheet.observations}
    return {one, other} == ALIKE and not had & {"drier_outlet_temp", "sight_glass_bubbles"}


@dataclass
class Tally:
    """Counts of one run."""

    first: dict[Fault, list[bool]] = of(default_factory=lambda: defaultdict(list))
    second: list[bool] = of(default_factory=list)
    called_sound: list[bool] = of(default_factory=list)
    """Of units with a single fault, whether 'nothing wrong' led."""
    by_kind: dict[Kind, list[bool]] = of(default_factory=lambda: defaultdict(list))
    kind_fault: dict[tuple[Kind, Fault], list[bool]] = of(default_factory=lambda: defaultdict(list))
    false_alarms: list[bool] = of(default_factory=list)
    alarms_by_kind: dict[Kind, list[bool]] = of(default_factory=lambda: defaultdict(list))
    alarms_said: list[float] = of(default_factory=list)
    """Of sound units, how likely the leading fault was called; nothing where none led."""
    undecided: list[bool] = of(default_factory=list)
    """Of sound units, whether the verdict was 'not enough'."""
    wrongly_healthy: list[bool] = of(default_factory=list)
    """Of units with a fault, whether the verdict was 'healthy'."""
    sure: list[bool] = of(default_factory=list)
    """Of leading causes at 90 % and more, whether they were so."""
    pairs: dict[frozenset[Fault], list[bool]] = of(default_factory=lambda: defaultdict(list))
    triples: list[bool] = of(default_factory=list)
    """Of units with three faults, whether the first three named are those."""
    confused: Counter[tuple[Fault, Fault]] = of(default_factory=Counter)
    said: list[float] = of(default_factory=list)
    was: list[bool] = of(default_factory=list)

    def add(self, case: Case) -> None:
        found = assess(case.sheet).first
        judgement = found.judgement
        said = {fault: judgement.probability(fault) for fault in Fault}
        ranked = sorted(Fault, key=lambda fault: -said[fault])
        truth = frozenset(case.truth)
        for fault in Fault:
            self.said.append(said[fault])
            self.was.append(fault in truth if fault is not Fault.NONE else not truth)
        if said[ranked[0]] >= 0.9:
            self.sure.append(any(alike(case.sheet, ranked[0], fault) for fault in truth or {Fault.NONE}))
        kind = case.sheet.unit.kind
        if not truth:
            wrong = ranked[0] is not Fault.NONE
            self.false_alarms.append(wrong)
            self.alarms_by_kind[kind].append(wrong)
            self.alarms_said.append(said[ranked[0]] if wrong else 0.0)
            self.undecided.append(found.verdict == "not_enough")
            if wrong:
                self.confused[Fault.NONE, ranked[0]] += 1
            return
        self.wrongly_healthy.append(found.verdict == "healthy")
        if len(truth) == 1:
            (fault,) = truth
            right = alike(case.sheet, ranked[0], fault)
            self.first[fault].append(right)
            self.second.append(right or alike(case.sheet, ranked[1], fault))
            self.called_sound.append(ranked[0] is Fault.NONE)
            self.by_kind[kind].append(right)
            self.kind_fault[kind, fault].append(right)
            if not right:
                self.confused[fault, ranked[0]] += 1
        elif len(truth) == 3:
            self.triples.append(truth == set(ranked[:3]))
        else:
            one, other = truth
            named = ranked[:2]
            self.pairs[truth].append(
                any(alike(case.sheet, a, one) and alike(case.sheet, b, other) for a, b in (named, named[::-1]))
            )

    def join(self, other: Tally) -> None:
        """The counts of another run as well."""
        for name, mine in vars(self).items():
            theirs = getattr(other, name)
            if isinstance(mine, Counter):
                mine.update(theirs)
            elif isinstance(mine, list):
                mine += theirs
            else:
                for key, counted in theirs.items():
                    mine[key] += counted

    @property
    def top_1(self) -> float:
        return share(right for rights in self.first.values() for right in rights)

    @property
    def pairs_right(self) -> float:
        return share(right for rights in self.pairs.values() for right in rights)


def joined(folds: Iterable[dict[str, Tally]]) -> dict[str, Tally]:
    """The counts of all folds, by what was measured."""
    whole, *others = folds
    for more in others:
        for name, tally in more.items():
            whole[name].join(tally)
    return whole


def share(rights: Iterable[bool]) -> float:
    listed = list(rights)
    return sum(listed) / len(listed) if listed else float("nan")


def tenths(said: list[float], was: list[bool], least: int = 800) -> list[tuple[float, float, int, float, float]]:
    """From, to, how many, said on average, true how often; tenths with fewer than `least` join their neighbour."""
    p, hit = np.array(said), np.array(was)
    edges = [0.0]
    for upper in np.arange(1, 11) / 10:
        inside = (p >= edges[-1]) & (p < upper + (upper == 1.0))
        rest = (p >= upper).sum()
        if inside.sum() >= least and (rest >= least or rest == 0 or upper == 1.0):
            edges.append(float(upper))
    if edges[-1] < 1.0:
        edges[-1 if len(edges) > 1 else 0] = 1.0
    rows = []
    for low, high in pairwise(edges):
        inside = (p >= low) & (p < high + (high == 1.0))
        rows.append((low, high, int(inside.sum()), float(p[inside].mean()), float(hit[inside].mean())))
    return rows


def calibration_error(said: list[float], was: list[bool]) -> float:
    p, hit = np.array(said), np.array(was)
    bins = np.minimum((p * 10).astype(int), 9)
    return float(
        sum((bins == b).mean() * abs(p[bins == b].mean() - hit[bins == b].mean()) for b in range(10) if (bins == b).any())
    )


Ended = tuple[int, bool]
"""After how many checks it settled, and whether the answer was then right."""


def follow(case: Case) -> dict[float, Ended]:
    """Checks followed from three readings: for each of `SETTLED_FROM` where it settled; left out where it never did."""
    sheet = replace(case.sheet, readings=(), observations=())
    pressure = sheet.unit.atmosphere_pa
    sheet = with_more(replace(case, sheet=sheet), FIRST_THREE, pressure)
    ended: dict[float, Ended] = {}
    for checks in range(_MOST_CHECKS + 1):
        found = assess(sheet).first
        lead = found.causes[0]
        for least in SETTLED_FROM:
            if least not in ended and found.verdict in ("fault", "healthy") and lead.probability >= least:
                truth = set(case.truth) or {Fault.NONE}
                ended[least] = checks, any(alike(sheet, lead.fault, fault) for fault in truth)
        had = {r.quantity for r in sheet.readings} | {seen.what for seen in sheet.observations}
        asks = next((check.asks for check in found.next_checks if not set(check.asks) <= had), None)
        if asks is None or len(ended) == len(SETTLED_FROM):
            break
        sheet = with_more(replace(case, sheet=sheet), asks, pressure)
    return ended


@dataclass(frozen=True)
class Run:
    """One column of the report: how its calls are drawn, and how many a fold."""

    name: str
    calls: int
    seed: int
    how: Draw


def runs(fold: int) -> tuple[Run, ...]:
    """What is measured in a fold, all of it on makes that its calibration has never seen."""
    fair = field.elsewhere(fold)
    wild = replace(fair, spread=1.6)
    return (
        Run("alone", 2_200, 2_600_001, Draw(fair)),
        Run("with two sound days", 1_100, 2_600_004, Draw(fair, earlier=2)),
        Run("the same instruments", 1_100, 2_600_004, Draw(fair, earlier=2, same_instruments=True)),
        Run("with two of its model", 1_100, 2_600_007, Draw(fair, alike=2)),
        Run("noise x 2, spread x 1.6", 1_100, 2_600_002, Draw(wild, noise=2.0)),
        Run("slight", 1_100, 2_600_006, Draw(fair, sizes=SLIGHT)),
        Run("followed", 400, 2_600_003, Draw(fair)),
    )


def cases(run: Run, fold: int) -> Iterator[Case]:
    """Cases by the block, until the run has its calls."""
    chance = np.random.default_rng((run.seed, fold))
    given = 0
    while given < run.calls:
        for case in draw_cases(_BLOCK, chance, run.how):
            if given == run.calls:
                break
            given += 1
            yield case
        print(f"makes of fold {fold}, {run.name}: {given} of {run.calls}", file=sys.stderr, flush=True)


def main(fold: int, target: str) -> None:
    """Everything of one fold, pickled to a file."""
    tallies: dict[str, Tally] = {}
    followed = []
    for run in runs(fold):
        if run.name == "followed":
            followed = [follow(case) for case in cases(run, fold)]
            continue
        tally = tallies[run.name] = Tally()
        for case in cases(run, fold):
            tally.add(case)
    Path(target).write_bytes(pickle.dumps((tallies, followed)))
