"""When a part is due again, by what surrounds it (R58)."""

from __future__ import annotations

from calendar import monthrange
from collections.abc import Mapping
from datetime import date
from enum import StrEnum


class SeasonPart(StrEnum):
    """What is looked after by season."""

    FILTER = "filter"
    OUTDOOR_COIL = "outdoor_coil"
    INDOOR_COIL = "indoor_coil"
    BELT = "belt"
    DRAIN = "drain"


class Surroundings(StrEnum):
    """What its air carries."""

    CLEAN = "clean"
    DUST = "dust"
    SEEDS = "seeds"
    KITCHEN = "kitchen"
    SEA = "sea"


PART_WORDS: Mapping[SeasonPart, str] = {
    SeasonPart.FILTER: "filter",
    SeasonPart.OUTDOOR_COIL: "outdoor coil",
    SeasonPart.INDOOR_COIL: "indoor coil",
    SeasonPart.BELT: "belt",
    SeasonPart.DRAIN: "drain",
}
SURROUNDING_WORDS: Mapping[Surroundings, str] = {
    Surroundings.CLEAN: "clean air",
    Surroundings.DUST: "dust",
    Surroundings.SEEDS: "seeds and fluff",
    Surroundings.KITCHEN: "kitchen air",
    Surroundings.SEA: "sea air",
}
_C, _D, _S, _K, _A = Surroundings.CLEAN, Surroundings.DUST, Surroundings.SEEDS, Surroundings.KITCHEN, Surroundings.SEA
# Months (habit): the shop's own number beats them.
MONTHS: Mapping[SeasonPart, Mapping[Surroundings, int]] = {
    SeasonPart.FILTER: {_C: 3, _D: 1, _S: 2, _K: 1, _A: 2},
    SeasonPart.OUTDOOR_COIL: {_C: 12, _D: 6, _S: 6, _K: 4, _A: 6},
    SeasonPart.INDOOR_COIL: {_C: 24, _D: 12, _S: 12, _K: 6, _A: 12},
    SeasonPart.BELT: {_C: 12, _D: 6, _S: 12, _K: 6, _A: 12},
    SeasonPart.DRAIN: {_C: 12, _D: 6, _S: 6, _K: 3, _A: 12},
}  # fmt: skip


def next_due(part: SeasonPart, surroundings: Surroundings, seen_on: date, months: int | None = None) -> date:
    """The day on which it is due again; `months` beats the habit."""
    ahead = seen_on.year * 12 + seen_on.month - 1 + (months or MONTHS[part][surroundings])
    year, month = divmod(ahead, 12)
    return date(year, month + 1, min(seen_on.day, monthrange(year, month + 1)[1]))
