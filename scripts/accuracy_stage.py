"""`make accuracy-parts`, lower stages: the same sorts of calls read in full, in low and said so, in low and not said.

On comfort units of makes that the judgement was not taught, as in `accuracy`; writes its section of docs/accuracy.md.
"""

from __future__ import annotations

import pickle
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from dry_gauge.bench.makes import FOLDS
from dry_gauge.core.vocabulary import CompressorControl
from scripts.fold import counted
from scripts.section import put

if TYPE_CHECKING:
    from dry_gauge.bench.cases import Case

HEADING = "Read in a lower stage"
LOW = (0.62, 0.75)  # what two-stage compressors of comfort units are built for, of the full stage
CALLS, SEED = 700, 2_600_009
FULL, SAID, UNSAID = "in the full stage", "in low, and said so", "in low, and not said"
FULL_BY_CARD, LOW_BY_CARD = "in full, not said, two stages by its card", "in low, not said, two stages by its card"


def _by_card(case: Case) -> Case:
    """The same call to a unit whose card says two stages."""
    unit = replace(case.sheet.unit, compressor_control=CompressorControl.TWO_STAGE)
    return replace(case, sheet=replace(case.sheet, unit=unit))


def count(fold: int, target: str) -> None:
    """One fold's tallies; to be called once the fold's calibration is in use."""
    from dry_gauge.bench import field
    from dry_gauge.bench.cases import Draw
    from dry_gauge.core.vocabulary import Kind
    from scripts.tally import Run, Tally, cases

    how = Draw(field.elsewhere(fold), kinds=tuple(kind for kind in Kind if not kind.is_walk_in))
    tallies = {words: Tally() for words in (FULL, FULL_BY_CARD, SAID, LOW_BY_CARD, UNSAID)}
    for case in cases(Run(FULL, CALLS, SEED, how), fold):
        tallies[FULL].add(case)
        tallies[FULL_BY_CARD].add(_by_card(case))
    for case in cases(Run(SAID, CALLS, SEED, replace(how, stage=LOW)), fold):
        tallies[SAID].add(case)
        unsaid = tuple(replace(one, stage=None) for one in case.sheet.readings)
        silent = replace(case, sheet=replace(case.sheet, readings=unsaid))
        tallies[UNSAID].add(silent)
        tallies[LOW_BY_CARD].add(_by_card(silent))
    Path(target).write_bytes(pickle.dumps(tallies))


def write() -> None:
    """The table of all folds."""
    from scripts.tally import joined, share

    whole = joined(counted("accuracy_stage", "count"))
    rows = [
        f"| {words} | {tally.top_1:.1%} | {share(tally.second):.1%} | {share(tally.false_alarms):.1%} | "
        f"{share(tally.undecided):.1%} | {share(tally.sure):.1%} |"
        for words, tally in whole.items()
    ]
    put(
        HEADING,
        [
            "Written by `scripts/accuracy_stage.py`.",
            f"{FOLDS * CALLS} calls each, to comfort units of makes held out. In low the compressor runs at {LOW[0]:.0%} to "
            f"{LOW[1]:.0%} of its full stage; fans slow down with it on some units and not on others. What a sound unit shows "
            "then is learnt apart from the full stage; what a fault moves is taken to be the same. Where a card says two "
            "stages and nobody says which, both are weighed; without either it passes for the full one.",
            "\n".join(
                [
                    "| read | single fault first | among the first two | healthy called faulty | healthy, not enough to say | "
                    "right at 90 % and more |",
                    "| --- | --- | --- | --- | --- | --- |",
                    *rows,
                ]
            ),
        ],
    )


if __name__ == "__main__":
    write()
