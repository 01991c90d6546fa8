"""Mend: what can be done on such a unit, and the cautions that each sort of action brings, shown as soon as it is chosen."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dry_gauge.core.roles import sight_at
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.visit.cautions import cautions_at
from dry_gauge.core.visit.survey import not_asked, not_read
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS, Fault, Quantity
from dry_gauge.notebook.subjects.actions import ACTION_WORDS, ActionSort
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


_NOT_IN_A_BOX = frozenset({ActionSort.FILTER_CHANGED, ActionSort.DAMPER_OPENED})
_IN_A_BOX = {ActionSort.BELT_OR_BLOWER: "Evaporator fan mended", ActionSort.OUTDOOR_FAN: "Condenser fan mended"}
# The coils of a heat pump change roles: these names go by place.
_COILS_STAND = {ActionSort.EVAPORATOR_CLEANED: ", indoors", ActionSort.CONDENSER_CLEANED: ", outdoors"}


@dataclass(frozen=True, slots=True)
class Mend:
    """What can be done, read and seen on such a unit, in words; cautions by action, and the faults that one may be against."""

    actions: Mapping[ActionSort, str]
    quantities: Sequence[Quantity]
    sights: Mapping[str, str]
    action_cautions: Mapping[ActionSort, Sequence[Any]]
    faults: Sequence[Fault]
    cleanings: Sequence[CleaningRow]


def mend(scene: Scene) -> Mend:
    """What the forms of this station need."""
    facts, given = scene.view.facts, scene.view.state[Remarks].cautions
    cautions = {sort: cautions_at(ACTION_MOMENTS.get(sort, ()), facts, given) for sort in ActionSort}
    out = not_read(facts) | not_asked(facts)
    return Mend(
        _actions_on(facts),
        [quantity for name, quantity in QUANTITIES.items() if name not in out],
        {name: sight_at(name, facts) for name in SIGHTS if name not in out},
        cautions,
        [fault for fault in Fault if fault is not Fault.NONE],
        cleanings(scene),
    )


def _actions_on(facts: UnitFacts) -> Mapping[ActionSort, str]:
    if facts.kind.is_walk_in:
        return {sort: _IN_A_BOX.get(sort, words) for sort, words in ACTION_WORDS.items() if sort not in _NOT_IN_A_BOX}
    stands = _COILS_STAND if facts.kind.is_heat_pump else {}
    return {sort: words + stands.get(sort, "") for sort, words in ACTION_WORDS.items()}
