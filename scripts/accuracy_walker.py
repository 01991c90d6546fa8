"""How often the walk along a control chain names the open link, in how many measurements; writes its part of docs/accuracy.md.

Run by `make accuracy-parts`, or by itself: it takes a minute or two.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import log2
from statistics import mean, median

import numpy as np

from dry_gauge.bench.control_chain import DeadUnit, chance_chain, chance_open, dead_coils
from dry_gauge.core.controls.walker import Volts, walk
from scripts.section import put

HEADING = "The walk along a control chain"
SEED, UNITS = 2_611_600, 1000
_MOST = 40


@dataclass(frozen=True, slots=True)
class Found:
    """One open link: how many links could be it, how many measurements it took, what was named."""

    links: int
    measured: int
    right: bool
    named: bool


def found_in(unit: DeadUnit) -> list[Found]:
    """Each open link of a unit in turn, as the walker leads to it; each is put right in the end, whatever was named."""
    chain, results = unit.chain, []
    mended: list[str] = []
    while any(dead_coils(unit)):
        truth = unit.first_open(next(iter(dead_coils(unit))))
        assert truth is not None
        measured: list[Volts] = []
        stands = walk(chain, measured, unit.runs, mended)
        while stands.next is not None and len(measured) < _MOST:
            point = stands.next
            measured.append(Volts(point.link.name, unit.read(point.link.name, point.how), point.how))
            stands = walk(chain, measured, unit.runs, mended)
        named = stands.named.name if stands.named else None
        results.append(Found(len(chain.way_to(chain.coils[0].name)) + 1, len(measured), named == truth, named is not None))
        unit.open_links.discard(truth)
        mended.append(truth)
    return results


def row(words: str, found: list[Found]) -> str:
    wrong = sum(one.named and not one.right for one in found) / len(found)
    unnamed = sum(not one.named for one in found) / len(found)
    counts = [one.measured for one in found]
    over = median(one.measured - log2(one.links) for one in found)
    return f"| {words} | {len(found)} | {median(counts):.0f} | {mean(counts):.1f} | {over:+.1f} | {wrong:.1%} | {unnamed:.1%} |"


def units(ghost: float, slip: float, count: int = UNITS) -> list[Found]:
    chance = np.random.default_rng(SEED)
    results = []
    for _ in range(count):
        chain = chance_chain(int(chance.integers(6, 21)), chance)
        open_links = chance_open(chain, 1 + int(chance.random() < 0.3), chance)
        results += found_in(DeadUnit(chain, open_links, chance, ghost, slip))
    return results


def write() -> None:
    usual = units(0.05, 0.02)
    by_length = [
        row(f"{low} to {high} links", [one for one in usual if low <= one.links <= high])
        for low, high in ((6, 8), (9, 12), (13, 16), (17, 20))
    ]
    lines = [
        f"{UNITS} simulated dead units a row: chains of 6 to 20 links, half of them with a branch, one link open or (three in "
        "ten) two, each counted by itself after the one before is mended. Which is open: half by habit, half anywhere. A dead "
        "wire shows ghost volts in 5 % of the readings, 2 % are mistyped. 'Beyond' is the median of measurements less log2 of "
        "the links.",
        "",
        "| Units | Open links | Median | Mean | Beyond | Wrong part named | None named |",
        "|---|---|---|---|---|---|---|",
        row("all", usual),
        *by_length,
        row("no errors at all", units(0, 0)),
        row("twice the errors", units(0.10, 0.04)),
    ]
    put(HEADING, ["Written by `scripts/accuracy_walker.py`.", "\n".join(lines)])


if __name__ == "__main__":
    write()
