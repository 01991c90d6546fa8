"""Read: the sheet's rows, the sights by group, and whether the unit has settled."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from statistics import median
from typing import Any

from dry_gauge.core.local_time import day_of
from dry_gauge.core.settling import Settling
from dry_gauge.core.words import in_percent
from dry_gauge.notebook.fields import of_circuit
from dry_gauge.notebook.subjects.readings import KeptReading, Readings, label_of, read_as
from dry_gauge.present.rows import Row, SightRow, sheet_rows, sight_groups
from dry_gauge.present.scene import Scene
from dry_gauge.present.settling import settling_of


@dataclass(frozen=True, slots=True)
class Fan:
    """One of several fans: what it draws, and of what its plate allows."""

    words: str
    amps: str
    share: str
    is_over: bool
    at: datetime
    beside: str = ""
    """How it differs from its like; empty where it does not, or has none."""


_UNLIKE = 0.15  # of the others' middle: like fans on like work draw alike (habit)


def _beside(one: KeptReading, others: Sequence[KeptReading]) -> str:
    """How a fan differs from the others of its sort and plate that were read in its unit."""
    body = one.body
    like = [
        other.body.value
        for other in others
        if other is not one
        and other.body.quantity == body.quantity
        and other.body.unit == body.unit
        and other.body.rated == body.rated
    ]
    if not like or median(like) <= 0:
        return ""
    apart = body.value / median(like) - 1
    if abs(apart) <= _UNLIKE:
        return ""
    why = "dragging, or its bearing going" if apart > 0 else "less air through it, a loose blade, a belt that slips"
    return f"{in_percent(abs(apart))} {'more' if apart > 0 else 'less'} than its like: {why}"


def fans(readings: Readings) -> list[Fan]:
    """Fans that were read by place."""
    found, listed = [], readings.fans
    for one in listed:
        body = one.body
        share = body.value / body.rated if body.rated else None
        found.append(
            Fan(
                f"{label_of(body.quantity)}, {body.place}{of_circuit(body.circuit)}",
                read_as(body),
                "" if share is None else in_percent(share),
                share is not None and share > 1,
                one.at,
                _beside(one, listed),
            )
        )
    return found


@dataclass(frozen=True, slots=True)
class Read:
    """The usual rows first, the rest by side."""

    usual: dict[str, list[Row]]
    rest: dict[str, list[Row]]
    groups: dict[str, list[SightRow]]
    settling: Settling
    instruments: Sequence[Any]
    today: date
    """The day on which their calibration is looked at."""
    fans: Sequence[Fan]


def read(scene: Scene) -> Read:
    """The whole sheet."""
    rows, state = sheet_rows(scene.view, scene.reader, scene.circuit), scene.view.state
    return Read(
        rows.usual,
        rows.rest,
        sight_groups(scene.view, scene.circuit),
        settling_of(scene.view, scene.circuit),
        scene.instruments,
        day_of(scene.now),
        fans(state[Readings]),
    )
