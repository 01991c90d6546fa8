"""Read: the sheet's rows, the sights by group, and whether the unit has settled."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from dry_gauge.core.settling import Settling
from dry_gauge.present.rows import Row, SightRow, sheet_rows, sight_groups
from dry_gauge.present.scene import Scene
from dry_gauge.present.settling import settling_of


@dataclass(frozen=True, slots=True)
class Beside:
    """What stands beside the sheet."""

    settling: Settling
    instruments: Sequence[Any]
    today: date


@dataclass(frozen=True, slots=True)
class Read:
    """The usual rows first, the rest by side."""

    usual: dict[str, list[Row]]
    rest: dict[str, list[Row]]
    groups: dict[str, list[SightRow]]
    settling: Settling
    instruments: Sequence[Any]
    today: date


def beside(scene: Scene) -> Beside:
    """Settling, instruments, and the day on which their calibration is looked at."""
    return Beside(settling_of(scene.view.state, scene.view.facts), scene.instruments, scene.now.date())


def read(scene: Scene) -> Read:
    """The whole sheet."""
    rows, more = sheet_rows(scene.view, scene.reader, scene.circuit), beside(scene)
    return Read(rows.usual, rows.rest, sight_groups(scene.view, scene.circuit), more.settling, more.instruments, more.today)
