"""Where the time of a visit went: at work, waiting, away (docs/rules.md, R69)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

QUIET_MINUTES = 5.0
"""Nothing was put down for so long: until then a wait is taken to be used."""
AWAY_MINUTES = 90.0
"""Nothing was put down for longer, and no wait covers it: somebody was not there."""

Span = tuple[float, float]
"""From, to. [minutes from any common moment]"""


@dataclass(frozen=True, slots=True)
class TimeSpent:
    """Minutes from a visit's first entry to its last."""

    work: float = 0.0
    waiting: float = 0.0
    away: float = 0.0

    @property
    def on_site(self) -> float:
        """[minutes]"""
        return self.work + self.waiting


def time_spent(entries: Sequence[float], waits: Iterable[Span]) -> TimeSpent:
    """Divide the time between entries.

    Parameters
    ----------
    entries : sequence of float
        When each entry was written, in order. [minutes]
    waits : iterable of (float, float)
        Timers, evacuations and pressure holds; they may overlap. [minutes]
    """
    covered = _joined(waits)
    work = waiting = away = 0.0
    for start, end in pairwise(entries):
        gap = max(0.0, end - start)
        waited = sum(max(0.0, min(end, high) - max(start, low)) for low, high in covered)
        if gap <= QUIET_MINUTES:
            work += gap
            continue
        waiting += waited
        if gap - waited > AWAY_MINUTES:
            away += gap - waited
        else:
            work += gap - waited
    return TimeSpent(work, waiting, away)


def _joined(waits: Iterable[Span]) -> list[Span]:
    """The same without overlaps."""
    found: list[Span] = []
    for low, high in sorted(waits):
        if high <= low:
            continue
        if found and low <= found[-1][1]:
            found[-1] = found[-1][0], max(found[-1][1], high)
        else:
            found.append((low, high))
    return found
