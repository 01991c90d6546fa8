"""`make accuracy-parts`, what more readings are worth: the same calls judged without and with air, static, amps and power.

On units of makes that the judgement was not taught, as in `accuracy`; writes its section of docs/accuracy.md.
"""

from __future__ import annotations

import pickle
from dataclasses import replace
from pathlib import Path

from dry_gauge.bench.makes import FOLDS
from scripts.fold import counted
from scripts.section import put

HEADING = "What more readings are worth"
MORE = {
    "static": ("external_static_supply", "external_static_return"), "airflow": ("airflow", "supply_air_wet_bulb"),
    "amps": ("compressor_amps",), "power": ("input_power",),
}  # fmt: skip
_ALL = tuple(name for names in MORE.values() for name in names)
CALLS, SEED = 700, 2_600_008


def count(fold: int, target: str) -> None:
    """One fold's tallies, by what was read besides; to be called once the fold's calibration is in use."""
    from dry_gauge.bench import field
    from dry_gauge.bench.cases import Draw, with_more
    from scripts.tally import Run, Tally, cases

    sets = {"none of them": (), **MORE, "all of them": _ALL}
    tallies = {words: Tally() for words in sets}
    for case in cases(Run("with more readings", CALLS, SEED, Draw(field.elsewhere(fold))), fold):
        bare = tuple(one for one in case.sheet.readings if one.quantity not in _ALL)
        without = replace(case, sheet=replace(case.sheet, readings=bare))
        for words, names in sets.items():
            sheet = with_more(without, names, case.sheet.unit.atmosphere_pa)
            tallies[words].add(replace(case, sheet=sheet))
    Path(target).write_bytes(pickle.dumps(tallies))


def write() -> None:
    """The table of all folds."""
    from scripts.tally import joined, share

    whole = joined(counted("accuracy_read", "count"))
    rows = [
        f"| {words} | {tally.top_1:.1%} | {share(tally.second):.1%} | {share(tally.false_alarms):.1%} | {share(tally.sure):.1%} |"
        for words, tally in whole.items()
    ]
    put(
        HEADING,
        [
            "Written by `scripts/accuracy_read.py`.",
            f"{FOLDS * CALLS} calls on makes held out, each judged by the same sheet with these left out or added: "
            "external static, airflow with the supply's wet bulb, the compressor's amps, the power of the whole.",
            "\n".join(
                [
                    "| read besides | single fault first | among first two | healthy called faulty | right at 90 % and more |",
                    "| --- | --- | --- | --- | --- |",
                    *rows,
                ]
            ),
        ],
    )


if __name__ == "__main__":
    write()
