"""`make accuracy`, its part on lower stages: the same sorts of calls read in full, in low and said so, in low and not said.

On comfort units of makes that the judgement was not taught, as in `accuracy`; writes its section of docs/accuracy.md.
"""

from __future__ import annotations

import pickle
from dataclasses import replace
from pathlib import Path

from dry_gauge.bench.makes import FOLDS
from scripts.fold import counted
from scripts.section import put

HEADING = "Read in a lower stage"
LOW = (0.62, 0.75)  # what two-stage compressors of comfort units are built for, of the full stage
CALLS, SEED = 700, 2_600_009
FULL, SAID, UNSAID = "in the full stage", "in low, and said so", "in low, and not said"


def count(fold: int, target: str) -> None:
    """One fold's tallies; to be called once the fold's calibration is in use."""
    from dry_gauge.bench import field
    from dry_gauge.bench.cases import Draw
    from dry_gauge.core.vocabulary import Kind
    from scripts.tally import Run, Tally, cases

    how = Draw(field.elsewhere(fold), kinds=tuple(kind for kind in Kind if not kind.is_walk_in))
    tallies = {words: Tally() for words in (FULL, SAID, UNSAID)}
    for case in cases(Run(FULL, CALLS, SEED, how), fold):
        tallies[FULL].add(case)
    for case in cases(Run(SAID, CALLS, SEED, replace(how, stage=LOW)), fold):
        tallies[SAID].add(case)
        unsaid = tuple(replace(one, stage=None) for one in case.sheet.readings)
        tallies[UNSAID].add(replace(case, sheet=replace(case.sheet, readings=unsaid)))
    Path(target).write_bytes(pickle.dumps(tallies))


def write() -> None:
    """The table of all folds."""
    from scripts.tally import share

    whole, *others = counted("accuracy_stage", "count")
    for more in others:
        for words, tally in more.items():
            whole[words].join(tally)
    rows = [f"| {words} | {tally.top_1:.1%} | {share(tally.second):.1%} | {share(tally.false_alarms):.1%} | "
            f"{share(tally.undecided):.1%} | {share(tally.sure):.1%} |" for words, tally in whole.items()]  # fmt: skip
    put(HEADING, [
        "Written by `scripts/accuracy_stage.py`.",
        f"{FOLDS * CALLS} calls each, to comfort units of makes held out. In low the compressor runs at {LOW[0]:.0%} to "
        f"{LOW[1]:.0%} of its full stage; fans slow down with it on some units and not on others. What a sound unit shows then "
        "is learnt apart from the full stage; what a fault moves is taken to be the same. A stage that nobody says passes for "
        "the full one: that is why the sheet asks for it.",
        "\n".join(["| read | single fault first | among the first two | healthy called faulty | healthy, not enough to say | "
                   "right at 90 % and more |", "| --- | --- | --- | --- | --- | --- |", *rows]),
    ])  # fmt: skip


if __name__ == "__main__":
    write()
