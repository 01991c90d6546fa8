"""How long a warranty covers parts and labour, and what it is worth its evidence for (docs/rules.md, R63)."""

from __future__ import annotations

from calendar import monthrange
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

MOST_MONTHS = 360


class StartFrom(StrEnum):
    """What its first day rests on: the installation, the making where nobody knows when it was installed, or its paper."""

    INSTALLED = "installed"
    MADE = "made"
    PAPER = "paper"


EVIDENCE: Mapping[str, str] = {
    "serial": "Model and serial number on the card",
    "label_photo": "Photo of the label",
    "installed": "Proof of the installation: invoice or registration",
    "failed_photo": "Photo of the failed part where it sat",
    "part_kept": "The failed part itself, tagged and kept",
    "readings": "Readings before the part came out",
    "cause": "What made it fail, found and mended",
}
"""What makers usually ask to see (habit; their paper wins)."""
KNOWN_BY_US = frozenset({"serial", "label_photo", "readings"})
"""What the notebook itself shows."""


@dataclass(frozen=True, slots=True)
class Cover:
    """How far one kind of cover reaches. `until` is the last day; `days_left` is negative once it is over."""

    months: int
    until: date
    days_left: int
    share_used: float

    @property
    def holds(self) -> bool:
        """Whether it still covers."""
        return self.days_left >= 0


def cover(starts_on: date, months: int, today: date) -> Cover | None:
    """The cover of so many months, counted in calendar months; None for none.

    The last day is the one before the same day of the month: what begins on the 15th ends on the 14th.
    """
    if months <= 0:
        return None
    ends = _after(starts_on, months)
    until = date.fromordinal(ends.toordinal() - 1)
    whole = (ends - starts_on).days
    used = min(1.0, max(0.0, (today - starts_on).days / whole))
    return Cover(months, until, (until - today).days, used)


def _after(day: date, months: int) -> date:
    year, month = divmod(day.month - 1 + months, 12)
    year, month = day.year + year, month + 1
    return date(year, month, min(day.day, monthrange(year, month)[1]))
