"""What a unit showed on earlier days, as it is stored, and as it speaks for the unit in a visit."""

from __future__ import annotations

import json
from functools import lru_cache
from typing import Any

from dry_gauge.core.sheet import EarlierSet, Observation, Reading, Sheet, UnitFacts
from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.kind import VisitState
from dry_gauge.notebook.subjects.actions import Actions, ActionSort
from dry_gauge.notebook.subjects.movements import emptied_at

# After one of these the unit is another: what it showed before says nothing of it any more.
_MAKES_ANOTHER = frozenset({ActionSort.METERING_DEVICE, ActionSort.BELT_OR_BLOWER})


def made_another(visit: VisitState) -> bool:
    """Whether this visit changed what the unit is: metering device, blower, or a charge weighed in anew."""
    return any(visit[Actions].has(sort) for sort in _MAKES_ANOTHER) or emptied_at(visit) is not None


def shown(sheet: Sheet) -> dict[str, Any]:
    """A sheet's readings and observations as they are stored, in SI."""
    return {
        "refrigerant": sheet.unit.refrigerant.name,
        "mode": sheet.unit.mode.value,
        "readings": [
            [r.quantity, r.value_si, r.half_width_si, r.minutes, r.circuit, r.stage, r.place, r.instrument]
            for r in sheet.readings
        ],
        "seen": [[o.what, o.state.value, o.circuit] for o in sheet.observations],
    }


@lru_cache(maxsize=256)
def earlier_sets(written: str, refrigerant: str, mode: str) -> tuple[EarlierSet, ...]:
    """The sound days as the judgement takes them; those in another mode or on another refrigerant are left out."""
    return tuple(
        EarlierSet(
            one["date"],
            True,
            tuple(Reading(*reading) for reading in one["shown"]["readings"]),
            tuple(Observation(what, State(state), circuit) for what, state, circuit in one["shown"]["seen"]),
            of_unit=one.get("unit", ""),
        )
        for one in json.loads(written)
        if one["shown"].get("refrigerant") == refrigerant and one["shown"].get("mode") == mode  # one that shows nothing: never
    )


def earlier_of(written: str, facts: UnitFacts, visit: VisitState) -> tuple[EarlierSet, ...]:
    """What speaks for this unit in this visit; nothing once the visit made it another."""
    if written == "[]" or made_another(visit):
        return ()
    return earlier_sets(written, facts.refrigerant.name, facts.mode.value)
