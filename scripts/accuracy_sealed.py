"""How often the verdicts on evacuations and pressure holds are right, on the bench; writes its part of docs/accuracy.md.

Run by `make accuracy-parts`, or by itself: it takes a minute.
"""

from __future__ import annotations

from collections import Counter

import numpy as np

from dry_gauge.bench.evacuation import as_gauged, decay_trace, typical
from dry_gauge.bench.holding import any_day, hold_readings
from dry_gauge.core.quantities import PSI_PA
from dry_gauge.core.sealed.pressure_hold import Hold, judge_hold
from dry_gauge.core.sealed.vacuum import END_POINTS, Rise, judge_decay
from scripts.section import put

HEADING = "Evacuations and pressure holds"
DECAY_SEED, HOLD_SEED = 2_611_001, 2_611_002
TRACES, HOLDS = 400, 400
KINDS = (Rise.TIGHT, Rise.MOISTURE, Rise.LEAK, Rise.BOTH)


def decays() -> list[str]:
    chance = np.random.default_rng(DECAY_SEED)
    lines = [
        f"{TRACES} simulated watches of each kind and length: gauge noise of 1 % that wanders, its own last digit, a "
        "point every 1, 5 or 30 seconds, up to two spikes; every system gives off a little, wet ones come to rest between "
        "1,300 and 6,000 microns, leaks rise by 15 to 400 microns a minute. Strict school.",
        "",
        "| Minutes | Truth | Right | Too soon | Wrong | of which 'tight' |",
        "|---|---|---|---|---|---|",
    ]
    for minutes in (5, 10, 15, 20, 30):
        for truth in KINDS:
            found: Counter[Rise] = Counter()
            for system, start in typical(truth.value, chance, TRACES):
                seconds, true_pa = decay_trace(system, start, minutes, float(chance.choice([1, 5, 30])))
                shown = as_gauged(true_pa, chance, spikes=int(chance.integers(0, 3)))
                found[judge_decay(seconds, shown, END_POINTS["strict"]).verdict] += 1
            wrong = TRACES - found[truth] - found[Rise.TOO_SOON]
            tight = 0 if truth is Rise.TIGHT else found[Rise.TIGHT]
            lines.append(
                f"| {minutes} | {truth.value} | {found[truth] / TRACES:.1%} | {found[Rise.TOO_SOON] / TRACES:.1%} | "
                f"{wrong / TRACES:.1%} | {tight / TRACES:.1%} |"
            )
    return lines


def holds() -> list[str]:
    chance = np.random.default_rng(HOLD_SEED)
    lines = [
        f"{HOLDS} simulated holds a row: 120 to 420 psig, days that swing by 2 to 18 K, gas that lags the pipe by up to 50 "
        "minutes and is warmed apart by the sun, 2 to 10 readings; a quarter with another gauge from halfway on.",
        "",
        "| Hours | Leak, psi/h | Within the stated interval | Tight | Leaking | Too soon | Half-width, psi/h |",
        "|---|---|---|---|---|---|---|",
    ]
    for hours in (1.0, 4.0, 16.0, 40.0):
        for leak in (0.0, 0.1, 0.5, 2.0):
            found: Counter[Hold] = Counter()
            inside, halves = 0, []
            for _ in range(HOLDS):
                at = [0.0, *sorted(chance.uniform(0, hours, int(chance.integers(0, 9)))), hours]
                swap = hours / 2 if chance.random() < 0.25 else None
                verdict = judge_hold(hold_readings(any_day(chance), chance.uniform(120, 420), leak * PSI_PA, at, chance, swap))
                found[verdict.verdict] += 1
                inside += abs(verdict.rate_pa_h - leak * PSI_PA) <= verdict.rate_half_width_pa_h
                halves.append(verdict.rate_half_width_pa_h / PSI_PA)
            shares = " | ".join(f"{found[one] / HOLDS:.1%}" for one in (Hold.TIGHT, Hold.LEAKING, Hold.TOO_SOON))
            lines.append(f"| {hours:g} | {leak:g} | {inside / HOLDS:.1%} | {shares} | {np.median(halves):.2f} |")
    return lines


def write() -> None:
    parts = [
        "Written by `scripts/accuracy_sealed.py`.",
        "### What a rise after shutting the valve means",
        "\n".join(decays()),
        "### Pressure holds",
        "\n".join(holds()),
    ]
    put(HEADING, parts)


if __name__ == "__main__":
    write()
