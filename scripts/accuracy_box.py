"""How often the forecast of a box's pull-down holds, on simulated boxes; writes its part of docs/accuracy.md.

Run by `make accuracy-parts`, or by itself: it takes two minutes.
"""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median

import numpy as np

from dry_gauge.bench.box import as_read, chance_box, pull_down
from dry_gauge.core.box.pull_down import LONGEST_MIN, Forecast, Span, forecast
from dry_gauge.core.quantities import FAHRENHEIT_K
from scripts.section import put

HEADING = "The pull-down of a box"
SEED, BOXES = 2_611_700, 400
LOOKED_AT_MIN = (25.0, 40.0, 60.0, 90.0, 120.0, 180.0, 240.0)
_SLACK_MIN = 2.0  # the bench and the forecast both step in minutes


@dataclass(frozen=True, slots=True)
class Said:
    """One forecast against what came: minutes left in truth, none within a day."""

    after_min: float
    said: Forecast
    left_min: float | None

    @property
    def inside(self) -> bool:
        """Whether what came lies in the stated interval."""
        low, left, high = (np.inf if one is None else one for one in (self.said.low, self.left_min, self.said.high))
        return low - _SLACK_MIN <= left <= high + _SLACK_MIN


def looks() -> list[Said]:
    chance = np.random.default_rng(SEED)
    found = []
    for _ in range(BOXES):
        box = chance_box(chance, freezer=bool(chance.random() < 0.3))
        spans = []
        if chance.random() < 0.5:
            start = chance.uniform(5, 60)
            spans.append(Span(start, start + chance.uniform(1, 6)))
        if chance.random() < 0.25:
            start = chance.uniform(20, 90)
            spans.append(Span(start, start + chance.uniform(10, 25), "defrost"))
        at, air, _ = pull_down(box, LONGEST_MIN + LOOKED_AT_MIN[-1] + 1, spans)
        there = np.nonzero(air <= box.design_k + FAHRENHEIT_K)[0]
        truth = float(at[there[0]]) if len(there) else np.inf
        every = float(chance.choice([0.5, 3, 6, 10]))
        for until in LOOKED_AT_MIN:
            if until >= truth:
                break
            points = as_read(at, air, until, every, chance)
            left = truth - points[-1][0]
            found.append(Said(until, forecast(points, box.design_k, spans), None if left > LONGEST_MIN else left))
    return found


def row(words: str, some: list[Said]) -> str:
    timed = [one for one in some if one.said.state == "falling"]
    errors = [
        abs(one.said.minutes - one.left_min) / one.left_min for one in timed if one.said.minutes is not None and one.left_min
    ]
    widths = [(one.said.high - one.said.low) / 60 for one in timed if one.said.high is not None and one.said.low is not None]
    inside = sum(one.inside for one in timed) / len(timed)
    return f"| {words} | {len(some)} | {len(timed)} | {inside:.1%} | {median(errors):.0%} | {median(widths):.1f} |"


def write() -> None:
    found = looks()
    alarms = [one for one in found if one.said.state == "not_enough"]
    right = sum(one.left_min is None for one in alarms)
    lines = [
        f"{BOXES} simulated boxes, coolers and freezers, some too weak: air and product, half with a door that stood open, a "
        "quarter with a defrost, frost that builds; read every half to ten minutes, with the air's own cycling and a probe's "
        "noise. A time is stated after 20 minutes and a third of the fall; the interval is meant to hold in 90 %.",
        "",
        "| Looked at after | Boxes still falling | A time stated | Inside its interval | Median error | Median width, h |",
        "|---|---|---|---|---|---|",
        row("any time", found),
        *(row(f"{after:.0f} min", [one for one in found if one.after_min == after]) for after in LOOKED_AT_MIN),
        "",
        f"The alarm 'not within a day' came {len(alarms)} times and was right {right} times.",
    ]
    put(HEADING, ["Written by `scripts/accuracy_box.py`.", "\n".join(lines)])


if __name__ == "__main__":
    write()
