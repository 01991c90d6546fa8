"""Mend: the cautions that each sort of action brings, shown as soon as it is chosen."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dry_gauge.core.visit.cautions import cautions_at
from dry_gauge.core.vocabulary import Fault
from dry_gauge.notebook.subjects.actions import ActionSort
from dry_gauge.notebook.subjects.remarks import Remarks
from dry_gauge.present.cleaning import CleaningRow, cleanings
from dry_gauge.present.scene import Scene

_OPENED = frozenset({"open_system", "recover", "braze", "nitrogen"})
ACTION_MOMENTS = {
    ActionSort.METERING_DEVICE: _OPENED,
    ActionSort.DRIER_CHANGED: _OPENED,
    ActionSort.EVAPORATOR_CLEANED: {"wash"},
    ActionSort.CONDENSER_CLEANED: {"wash"},
    ActionSort.CHARGE_ADJUSTED: {"open_system", "recover"},
    ActionSort.ELECTRICAL_PART: {"electrical"},
    ActionSort.OUTDOOR_FAN: {"fan"},
    ActionSort.BELT_OR_BLOWER: {"fan"},
    ActionSort.THAWED: {"thaw"},
}


@dataclass(frozen=True, slots=True)
class Mend:
    """Cautions by action, and the faults that an action may be against."""

    action_cautions: Mapping[ActionSort, Sequence[Any]]
    faults: Sequence[Fault]
    cleanings: Sequence[CleaningRow]


def mend(scene: Scene) -> Mend:
    """What the forms of this station need."""
    facts, given = scene.view.facts, scene.view.state[Remarks].cautions
    cautions = {sort: cautions_at(ACTION_MOMENTS.get(sort, ()), facts, given) for sort in ActionSort}
    return Mend(cautions, [fault for fault in Fault if fault is not Fault.NONE], cleanings(scene))
