"""`make policies`: ways to work through made-up calls, measured against each other; writes its part of docs/accuracy.md.

Every call is played by every policy, with the same unit, instruments and luck; on makes that the judgement has not seen.
"""

from __future__ import annotations

import pickle
import sys
import time
from collections.abc import Callable, Sequence
from itertools import islice
from pathlib import Path

import numpy as np

from dry_gauge.bench.makes import FOLDS
from dry_gauge.bench.practice.policies import Played
from scripts.fold import counted

HEADING = "Working through a call, by what is looked at next"
CALLS, DEAD_CALLS, SEED, DRAWS = 500, 300, 2_600_020, 4_000
_BLOCK = 60
Row = tuple[float, float, int, bool, int, int]


def main(fold: int, target: str) -> None:
    """One fold's calls, played by every policy, pickled to a file."""
    from dry_gauge.bench import field
    from dry_gauge.bench.practice.calls import draw_calls
    from dry_gauge.bench.practice.policies import POLICIES

    chance, calls = np.random.default_rng((SEED, fold)), CALLS // FOLDS + (fold < CALLS % FOLDS)
    played: dict[str, list[Row]] = {name: [] for name in POLICIES}
    wrong: list[int] = []
    while len(wrong) < calls:
        for call in draw_calls(_BLOCK, chance, field.elsewhere(fold)):
            if len(wrong) == calls:
                break
            wrong.append(len(call.wrong))
            for name, (_, policy) in POLICIES.items():
                played[name].append(row_of(policy(call, np.random.default_rng((SEED, fold, len(wrong))))))
        print(f"fold {fold}: {len(wrong)} of {calls}", file=sys.stderr, flush=True)
    Path(target).write_bytes(pickle.dumps((played, wrong)))


def row_of(one: Played) -> Row:
    return one.checking, one.mending, one.harm, one.held, one.steps, one.for_nothing


def dead_units() -> dict[str, np.ndarray]:
    """Units that do not run: by policy a row a call."""
    from dry_gauge.bench.practice.calls import draw_dead
    from dry_gauge.bench.practice.dead_policies import DEAD_POLICIES
    from dry_gauge.core.vocabulary import Kind

    drawn = draw_dead(2 * DEAD_CALLS, np.random.default_rng((SEED, FOLDS)), (Kind.SPLIT_AC, Kind.PACKAGE_AC))
    calls = list(islice(drawn, DEAD_CALLS))
    return {
        name: np.array([row_of(policy(call, np.random.default_rng((SEED, i)))) for i, call in enumerate(calls)], dtype=float)
        for name, (_, policy) in DEAD_POLICIES.items()
    }


def measured() -> tuple[dict[str, np.ndarray], np.ndarray]:
    """All folds joined: by policy a row a call."""
    found = counted("policies", "main")
    names = found[0][0]
    return (
        {name: np.array([row for played, _ in found for row in played[name]], dtype=float) for name in names},
        np.array([count for _, wrong in found for count in wrong]),
    )


def interval(rows: np.ndarray, of: Callable[[np.ndarray], np.ndarray]) -> tuple[float, float, float]:
    """A mean over calls, and its 95 % interval by drawing the calls anew."""
    values = of(rows)
    chance = np.random.default_rng(SEED)
    means = np.array([values[chance.integers(values.size, size=values.size)].mean() for _ in range(DRAWS)])
    low, high = np.percentile(means, (2.5, 97.5))
    return float(values.mean()), float(low), float(high)


def said(found: tuple[float, float, float], form: str = ".0f", times: float = 1.0) -> str:
    middle, low, high = (value * times for value in found)
    return f"{middle:{form}} ({low:{form}} to {high:{form}})"


COLUMNS: tuple[tuple[str, Callable[[np.ndarray], np.ndarray], str, float], ...] = (
    ("Checking, min", lambda rows: rows[:, 0], ".0f", 1),
    ("In all, min", lambda rows: rows[:, 0] + rows[:, 1], ".0f", 1),
    ("Harm, points", lambda rows: rows[:, 2], ".2f", 1),
    ("Held, %", lambda rows: rows[:, 3], ".0f", 100),
    ("Mended for nothing, a 100 calls", lambda rows: rows[:, 5], ".0f", 100),
    ("Steps", lambda rows: rows[:, 4], ".0f", 1),
)


def table(played: dict[str, np.ndarray], which: np.ndarray, words: dict[str, str]) -> list[str]:
    lines = ["| Looks next at | " + " | ".join(name for name, *_ in COLUMNS) + " |", "|---" * (len(COLUMNS) + 1) + "|"]
    for name, rows in played.items():
        cells = [said(interval(rows[which], of), form, times) for _, of, form, times in COLUMNS]
        lines.append(f"| {words[name]} | " + " | ".join(cells) + " |")
    return lines


def write() -> None:
    began = time.monotonic()
    played, wrong = measured()
    from dry_gauge.bench.practice.dead_policies import DEAD_POLICIES
    from dry_gauge.bench.practice.policies import POLICIES
    from dry_gauge.bench.practice.unit import HARM_POINTS, HARM_WORDS
    from scripts.section import put

    words = {name: what for name, (what, _) in POLICIES.items()}
    apart = played["next_check"] - played["textbook"]
    harms = "; ".join(f"{HARM_WORDS[code].rstrip('.').lower()}: {points}" for code, points in HARM_POINTS.items())
    all_calls = np.ones(wrong.size, dtype=bool)
    blocks: Sequence[tuple[str, np.ndarray]] = (
        ("Every call", all_calls),
        ("Calls with two things wrong or more", wrong > 1),
        ("Calls with nothing wrong", wrong == 0),
    )
    parts = [
        "Written by `make policies`.",
        f"{wrong.size} made-up calls, each played by every policy with the same unit, instruments and luck, on makes that the "
        "judgement has not seen. Each check takes its minutes and the way there, stopping the unit the wait until it settles; "
        "readings come from the simulated unit in its present state, and a mended unit is read anew. All but the last mend what "
        "the judgement is sure of; with nothing left to look at, what is likely. 'Held' is a unit that is right at the end and "
        f"three weeks later. Harm counts in points: {harms}. In brackets the 95 % interval, by drawing the calls anew.",
    ]
    for title, which in blocks:
        parts += [f"{title} ({int(which.sum())}):", "\n".join(table(played, which, words))]
    minutes = interval(apart, lambda rows: rows[:, 0] + rows[:, 1])
    harm, held = (interval(apart, lambda rows, at=at: rows[:, at]) for at in (2, 3))
    parts.append(
        f"Call by call, what stands first among the next checks takes {said(minutes)} minutes more than the order that is "
        f"taught (below zero: less), does {said(harm, '.2f')} points of harm more, and leaves {said(held, '.0f', 100)} of a "
        "hundred units more held."
    )
    dead = dead_units()
    parts += [
        f"Units that do not run ({DEAD_CALLS}): one link of the control chain open, broken or opened by something. All but the "
        "last measure until the walk names a link, mend first what opens such a link, then the link.",
        "\n".join(table(dead, np.ones(DEAD_CALLS, dtype=bool), {name: what for name, (what, _) in DEAD_POLICIES.items()})),
    ]
    put(HEADING, parts)
    print(f"{time.monotonic() - began:.0f} s", file=sys.stderr)


if __name__ == "__main__":
    write()
