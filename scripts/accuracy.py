"""`make accuracy`: how often the judgement is right, on units it has never seen; writes docs/accuracy.md.

Ten thousand calls drawn with seeds that nothing was tuned on, from a field with other habits than the calibration's;
again with the instruments' errors doubled and the units' spread 1.6 times; hand-written pictures; and next checks
followed from three readings to a settled answer.
"""

from __future__ import annotations

import platform
import sys
import time
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import replace
from itertools import pairwise
from pathlib import Path
from statistics import median
from typing import TypeVar

import numpy as np

from dry_gauge.bench import field
from dry_gauge.bench.cases import LEAST_SEVERITY, Case, Draw, draw_cases, with_more
from dry_gauge.bench.trends import SHOWN, SORTS, moved
from dry_gauge.bench.vignettes import VIGNETTES
from dry_gauge.core.circuit import derive
from dry_gauge.core.judgement.assess import CALIBRATION_ID, RULE_SET, assess
from dry_gauge.core.judgement.inference import weigh
from dry_gauge.core.sheet import Sheet
from dry_gauge.core.vocabulary import Fault, Kind
from scripts import trade

TARGET = Path(__file__).resolve().parent.parent / "docs/accuracy.md"
HELD_OUT_SEED, ROUGH_SEED, SETTLING_SEED, KNOWN_SEED = 2_600_001, 2_600_002, 2_600_003, 2_600_004
KNOWN_CASES = 2_500
TRADE_CASES, TRADE_SEED = 3_000, 2_600_005
CASES = 10_000
BLOCK = 500
SETTLING_CASES = 400
SETTLED_FROM = 0.8
FIRST_THREE = ("suction_pressure", "liquid_pressure", "outdoor_air_temp")
ALIKE = {Fault.LIQUID_LINE_RESTRICTION, Fault.METERING_UNDERFEEDING}
T = TypeVar("T")


def progress(words: str, done: int, total: int) -> None:
    filled = 30 * done // total
    end = "\n" if done >= total else ""
    print(f"\r{words:28} [{'#' * filled}{'.' * (30 - filled)}] {done}/{total}", end=end, file=sys.stderr, flush=True)


def blocks(words: str, n: int, seed: int, how: Draw) -> Iterator[Case]:
    """Cases by the block, until `n` have come."""
    chance = np.random.default_rng(seed)
    given = 0
    while given < n:
        for case in draw_cases(BLOCK, chance, how):
            if given == n:
                return
            given += 1
            yield case
        progress(words, min(given, n), n)


def alike(sheet: Sheet, one: Fault, other: Fault) -> bool:
    """Whether two answers count as one: nothing on this sheet could tell a restriction from an underfeeding valve."""
    if one is other:
        return True
    had = {reading.quantity for reading in sheet.readings} | {seen.what for seen in sheet.observations}
    return {one, other} == ALIKE and not had & {"drier_outlet_temp", "sight_glass_bubbles"}


class Tally:
    """Counts of one run."""

    def __init__(self) -> None:
        self.first: dict[object, list[bool]] = defaultdict(list)
        self.second: list[bool] = []
        self.by_kind: dict[Kind, list[bool]] = defaultdict(list)
        self.kind_fault: dict[tuple[Kind, Fault], list[bool]] = defaultdict(list)
        self.false_alarms: list[bool] = []
        self.alarms_by_kind: dict[Kind, list[bool]] = defaultdict(list)
        self.pairs: dict[frozenset[Fault], list[bool]] = defaultdict(list)
        self.confused: Counter[tuple[Fault, Fault]] = Counter()
        self.said: list[float] = []
        self.was: list[bool] = []

    def add(self, case: Case) -> None:
        view = case.sheet.circuit(1)
        judgement = weigh(view, derive(view))
        said = {fault: judgement.probability(fault) for fault in Fault}
        ranked = sorted(Fault, key=lambda fault: -said[fault])
        truth = frozenset(case.truth)
        for fault in Fault:
            self.said.append(said[fault])
            self.was.append(fault in truth if fault is not Fault.NONE else not truth)
        kind = case.sheet.unit.kind
        if not truth:
            self.false_alarms.append(ranked[0] is not Fault.NONE)
            self.alarms_by_kind[kind].append(ranked[0] is not Fault.NONE)
            if ranked[0] is not Fault.NONE:
                self.confused[Fault.NONE, ranked[0]] += 1
        elif len(truth) == 1:
            (fault,) = truth
            right = alike(case.sheet, ranked[0], fault)
            self.first[fault].append(right)
            self.second.append(right or alike(case.sheet, ranked[1], fault))
            self.by_kind[kind].append(right)
            self.kind_fault[kind, fault].append(right)
            if not right:
                self.confused[fault, ranked[0]] += 1
        else:
            one, other = truth
            named = ranked[:2]
            self.pairs[truth].append(
                any(alike(case.sheet, a, one) and alike(case.sheet, b, other) for a, b in (named, named[::-1]))
            )

    @property
    def top_1(self) -> float:
        return share(right for rights in self.first.values() for right in rights)

    @property
    def pairs_right(self) -> float:
        return share(right for rights in self.pairs.values() for right in rights)


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
        sum(
            (bins == b).mean() * abs(p[bins == b].mean() - hit[bins == b].mean())
            for b in range(10)
            if (bins == b).any()
        )
    )


def follow(case: Case) -> tuple[int, bool, bool]:
    """Checks after three readings until settled, whether it settled, and whether the answer was then right."""
    sheet = replace(case.sheet, readings=(), observations=())
    pressure = sheet.unit.atmosphere_pa
    sheet = with_more(replace(case, sheet=sheet), FIRST_THREE, pressure)
    for checks in range(13):
        found = assess(sheet).first
        lead = found.causes[0]
        if found.verdict in ("fault", "healthy") and lead.probability >= SETTLED_FROM:
            truth = set(case.truth) or {Fault.NONE}
            return checks, True, any(alike(sheet, lead.fault, fault) for fault in truth)
        had = {r.quantity for r in sheet.readings} | {seen.what for seen in sheet.observations}
        asks = next((check.asks for check in found.next_checks if not set(check.asks) <= had), None)
        if asks is None:
            return checks, False, False
        sheet = with_more(replace(case, sheet=sheet), asks, pressure)
    return 13, False, False


WHY_CONFUSED = {
    frozenset(
        {Fault.NONE, Fault.METERING_OVERFEEDING}
    ): "a valve that gives a little too much keeps superheat just above "
    "nothing; the discharge line and the bulb's own place separate them",
    frozenset(
        {Fault.NONE, Fault.OVERCHARGE}
    ): "a receiver, or a label that is not known, hides the first of it; the glass, "
    "the label and the amount last added separate them",
    frozenset(
        {Fault.NONE, Fault.UNDERCHARGE}
    ): "until subcooling is gone little else moves; the glass and a second look at subcooling separate them",
    frozenset({Fault.NONE, Fault.LOW_EVAPORATOR_AIRFLOW}): "a quarter less air is within what installations differ by; "
    "static, airflow and the filter separate them",
    frozenset(
        {Fault.NONE, Fault.LOW_CONDENSER_AIRFLOW}
    ): "an efficient or small condenser looks like a dirty large one; "
    "leaving air and a light through the coil separate them",
    frozenset(
        {Fault.NONE, Fault.LIQUID_LINE_RESTRICTION}
    ): "a valve with room to open hides it; the drop across the drier shows it once liquid flashes",
    frozenset(
        {Fault.NONE, Fault.HIGH_EVAPORATOR_LOAD}
    ): "more air moves every number a little; measured airflow, and on a box the door, separate them",
    frozenset({Fault.OVERCHARGE, Fault.NON_CONDENSABLES}): "both raise head and apparent subcooling; the unit off and "
    "equalised separates them",
    frozenset(
        ALIKE
    ): "both starve the coil with liquid to spare; a drop or frost behind the drier separates them, as long "
    "as the liquid there flashes",
    frozenset(
        {Fault.UNDERCHARGE, Fault.METERING_UNDERFEEDING}
    ): "both starve the coil; subcooling and the glass separate them",
}


def main() -> None:
    started = time.time()
    fair, rough, new, known = Tally(), Tally(), Tally(), Tally()
    for case in blocks("held-out calls", CASES, HELD_OUT_SEED, Draw(field.ELSEWHERE)):
        fair.add(case)
    wild = replace(field.ELSEWHERE, spread=1.6)
    for case in blocks("noise x 2, spread x 1.6", CASES, ROUGH_SEED, Draw(wild, noise=2.0)):
        rough.add(case)
    # Units that differ by more than the bench's own, as other makes do: alone, and with two sound days on the sheet.
    for tally, days in ((new, 0), (known, 2)):
        for case in blocks(f"spread x 1.6, {days} sound days", KNOWN_CASES, KNOWN_SEED, Draw(wild, earlier=days)):
            tally.add(case)
    followed = [follow(case) for case in blocks("following next checks", SETTLING_CASES, SETTLING_SEED, Draw())]
    pictures = []
    for vignette in VIGNETTES:
        found = assess(vignette.sheet).first.causes
        pictures.append((vignette, found[0].fault, found[0].probability))
    TARGET.write_text(report(fair, rough, (new, known), followed, pictures, time.time() - started))
    right = sum(fault in vignette.right for vignette, fault, _ in pictures)
    print(
        f"top-1 {fair.top_1:.1%}, top-2 {share(fair.second):.1%}, false alarms {share(fair.false_alarms):.1%}, pairs "
        f"{fair.pairs_right:.1%}; rough: {rough.top_1:.1%}, {share(rough.false_alarms):.1%}; vignettes {right} of "
        f"{len(pictures)}; written to {TARGET.name}",
        file=sys.stderr,
    )


def sizes() -> list[str]:
    """What the steps of the severity scale mean, on two sorts of unit."""
    sorts = [sort for sort in SORTS if sort.name in ("split_ac, cooling, txv", "split_ac, cooling, orifice")]
    parts = [
        "## What a size means\n",
        "How far the gaps move at the least size counted here and at the step to 'severe'; F, suction, head and amps in"
        " per cent.\n",
    ]
    for sort in sorts:
        steps = {severity: moved(sort, severity) for severity in (LEAST_SEVERITY, 0.7)}
        rows = [
            f"| {words(fault)} | {severity:g} | " + " | ".join(f"{found[fault][name]:+.0f}" for name in SHOWN) + " |"
            for fault in sort.signs
            for severity, found in steps.items()
        ]
        head = f"| {sort.plate.refrigerant.name}, {sort.plate.metering.value} | size | " + " | ".join(
            name.replace("_", " ") for name in SHOWN
        )
        parts.append(table(f"{head} |", rows))
    return parts


def table(head: str, rows: Iterable[str]) -> str:
    columns = head.count("|") - 1
    return head + "\n" + "|" + " --- |" * columns + "\n" + "\n".join(rows) + "\n"


def words(fault: Fault) -> str:
    return fault.value.replace("_", " ")


def own_rows(new: Tally, known: Tally) -> list[str]:
    """What a unit's own sound days change."""
    return [
        f"| single fault first | {new.top_1:.1%} | {known.top_1:.1%} |",
        f"| single fault among the first two | {share(new.second):.1%} | {share(known.second):.1%} |",
        f"| healthy called faulty | {share(new.false_alarms):.1%} | {share(known.false_alarms):.1%} |",
        f"| both of two faults named first | {new.pairs_right:.1%} | {known.pairs_right:.1%} |",
        f"| expected calibration error | {calibration_error(new.said, new.was):.2%} |"
        f" {calibration_error(known.said, known.was):.2%} |",
    ]


def trade_rows() -> list[str]:
    """How it does on calls that the bench did not make."""
    alone, known = (trade.figures(TRADE_CASES, TRADE_SEED, days) for days in (0, 2))
    words = ("single fault first", "single fault among the first two", "healthy called faulty",
             "right, of what is stated at 90 % or more")  # fmt: skip
    return [f"| {word} | {one:.1%} | {other:.1%} |" for word, one, other in zip(words, alone, known, strict=True)]


def report(
    fair: Tally, rough: Tally, own: tuple[Tally, Tally], followed: list[tuple[int, bool, bool]], pictures, seconds: float
) -> str:
    settled = [count for count, done, _ in followed if done]
    parts = [
        "# How often the judgement is right\n",
        f"Written by `make accuracy` in {seconds / 60:.0f} minutes ({platform.machine()}, Python"
        f" {platform.python_version()}): rule set {RULE_SET}, calibration {CALIBRATION_ID}.\n",
        f"**{CASES:,} held-out calls** from the simulated units, drawn with seeds nothing was tuned on and in another style"
        " than the calibration: unit departures and instrument errors with heavy tails (Student's t, 5 degrees of freedom),"
        " rarer refrigerants, label data missing one time in five. What is wrong is drawn by the judgement's own shares"
        f" (30 % nothing, 48 % one fault, 22 % two); sizes are even from {LEAST_SEVERITY} to 1 (moderate and severe: a slight"
        " fault is a finding that good technicians argue about). A fault that moves no reading by more than 1.5 times its"
        " instrument's accuracy is no case; with two faults each must show against the other alone. Sheets are those of a"
        " thorough visit, with gaps: both pressures, line and air temperatures always, the rest half to nine tenths of the"
        " time. Restriction and underfeeding count as one answer where neither drier temperatures nor a glass were read.\n",
        table(
            "| | asked for | held-out | noise x 2, spread x 1.6 |",
            [
                f"| single fault first | 95 % (85 %) | {fair.top_1:.1%} | {rough.top_1:.1%} |",
                f"| single fault among the first two | 99 % | {share(fair.second):.1%} | {share(rough.second):.1%} |",
                f"| healthy called faulty | at most 3 % (10 %) | {share(fair.false_alarms):.1%} |"
                f" {share(rough.false_alarms):.1%} |",
                f"| both of two faults named first | 93 % | {fair.pairs_right:.1%} | {rough.pairs_right:.1%} |",
                f"| expected calibration error | under 2 points | {calibration_error(fair.said, fair.was):.2%} |"
                f" {calibration_error(rough.said, rough.was):.2%} |",
                f"| checks after three readings until settled, median | at most 4 | {median(settled) if settled else '-'} | |",
            ],
        ),
        f"Settled means a verdict with its leading cause at {SETTLED_FROM:.0%} or more. Of {len(followed)} calls followed,"
        f" {len(settled) / len(followed):.0%} settled, and of those {share(r for _, d, r in followed if d):.1%} on something"
        " that was really wrong (or nothing, where nothing was); the others ran out of checks or of patience at twelve, most"
        " of them held by air that was not in order.\n",
        "## With two sound days of the same unit\n",
        f"{KNOWN_CASES:,} calls to units whose spread is 1.6 times the bench's, as other makes differ by more: judged alone, and"
        " with what the same unit showed on two other days on which it was sound.\n",
        table("| | alone | with two sound days |", own_rows(*own)),
        "## By the habits of the trade\n",
        f"{TRADE_CASES:,} calls that the bench did not make: gaps as the trade expects them, sound units 2 to 5 F apart as"
        " those of other makes are, faults moving them as tables of the trade say (`scripts/trade.py`). Here the judgement is"
        " a stranger.\n",
        table("| | alone | with two sound days |", trade_rows()),
        *sizes(),
        "## By fault\n",
        table(
            "| fault | first, held-out | calls | first, rough |",
            [
                f"| {words(fault)} | {share(fair.first[fault]):.1%} | {len(fair.first[fault])} |"
                f" {share(rough.first[fault]):.1%} |"
                for fault in Fault
                if fair.first[fault]
            ],
        ),
        "## By kind\n",
        table(
            "| kind | single faults first | calls | healthy called faulty | first, rough |",
            [
                f"| {kind.value.replace('_', ' ')} | {share(fair.by_kind[kind]):.1%} | {len(fair.by_kind[kind])} |"
                f" {share(fair.alarms_by_kind[kind]):.1%} | {share(rough.by_kind[kind]):.1%} |"
                for kind in Kind
            ],
        ),
        "## By kind and fault\n",
        table(
            "| fault | " + " | ".join(kind.value.replace("_", " ") for kind in Kind) + " |",
            [
                f"| {words(fault)} | "
                + " | ".join(
                    f"{share(fair.kind_fault[kind, fault]):.0%} of {len(fair.kind_fault[kind, fault])}"
                    if fair.kind_fault[kind, fault]
                    else "-"
                    for kind in Kind
                )
                + " |"
                for fault in Fault
                if fair.first[fault]
            ],
        ),
        "## Stated probability against frequency\n",
        "All twelve probabilities of every held-out call; tenths with fewer than 800 are merged.\n",
        table(
            "| said | how many | on average | was so |",
            [f"| {a:.0%} to {b:.0%} | {n:,} | {p:.1%} | {q:.1%} |" for a, b, n, p, q in tenths(fair.said, fair.was)],
        ),
        "## Two faults\n",
        table(
            "| pair | both first | calls |",
            [
                f"| {' + '.join(sorted(words(f) for f in pair))} | {share(rights):.0%} | {len(rights)} |"
                for pair, rights in sorted(fair.pairs.items(), key=lambda item: -len(item[1]))
            ],
        ),
        "## What is taken for what\n",
        table(
            "| really | called | times | why, and what separates them |",
            [
                f"| {words(truth)} | {words(called)} | {n} | {WHY_CONFUSED.get(frozenset({truth, called}), '')} |"
                for (truth, called), n in fair.confused.most_common(16)
            ],
        ),
        "## Textbook pictures\n",
        "Written by hand; they owe nothing to the bench.\n",
        table(
            "| picture | called | right |",
            [
                f"| {vignette.title} | {words(fault)}, {p:.0%} | {'yes' if fault in vignette.right else 'no'} |"
                for vignette, fault, p in pictures
            ],
        ),
    ]
    return "\n".join(parts)


if __name__ == "__main__":
    main()
