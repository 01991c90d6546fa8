"""Read: the sheet's rows, the sights by group, and whether the unit has settled."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from dry_gauge.core.settling import Settling
from dry_gauge.notebook.fields import of_circuit
from dry_gauge.notebook.subjects.readings import Readings, label_of
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


def fans(readings: Readings) -> list[Fan]:
    """Fans that were read by place."""
    found = []
    for one in readings.fans:
        body = one.body
        share = body.value / body.rated if body.rated else None
        found.append(Fan(
            f"{label_of(body.quantity)}, {body.place}{of_circuit(body.circuit)}",
            f"{body.value:.10g}" + (f" of {body.rated:.10g} {body.unit}" if body.rated else f" {body.unit}"),
            "" if share is None else f"{share:.0%}".replace("%", " %"), share is not None and share > 1, one.at,
        ))  # fmt: skip
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
    return Read(rows.usual, rows.rest, sight_groups(scene.view, scene.circuit), settling_of(state, scene.view.facts),
                scene.instruments, scene.now.date(), fans(state[Readings]))  # fmt: skip
