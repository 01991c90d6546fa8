"""Which coil is meant: a sheet and the judgement name coils by their role, a visit by where they stand.

In cooling the evaporator is the indoor coil and the condenser the outdoor one, so that one name says both. In heating the
roles are the other way round: a matted outdoor coil is a dirty evaporator there. Nobody who stands before the outdoor unit
should have to know.
"""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import IN_A_BOX, SIGHTS, State

_OTHER_COIL: Mapping[str, str] = {
    "evaporator_dirty": "condenser_dirty",
    "condenser_dirty": "evaporator_dirty",
    "evaporator_air_proven": "condenser_air_proven",
    "condenser_air_proven": "evaporator_air_proven",
}


def swapped(what: str, *, heating: bool) -> str:
    """The name by role of what is named by place, or the other way round: in heating the coils change names.

    Examples
    --------
    >>> swapped("condenser_dirty", heating=True), swapped("condenser_dirty", heating=False), swapped("oil_stain", heating=True)
    ('evaporator_dirty', 'condenser_dirty', 'oil_stain')
    """
    return _OTHER_COIL.get(what, what) if heating else what


def by_role(what: str, state: State, *, heating: bool) -> tuple[str, State]:
    """An answer by place as a sheet gives it.

    Outdoors air that blows back has no name where that coil evaporates: there it is air that is not in order.
    """
    if heating and what == "condenser_air_recirculating":
        return "evaporator_air_proven", State.NO if state is State.YES else State.NOT_SEEN
    return swapped(what, heating=heating), state


def sight_at(what: str, unit: UnitFacts) -> str:
    """What an observation by place is called on such a unit."""
    return IN_A_BOX[what] if unit.kind.is_walk_in and what in IN_A_BOX else SIGHTS[what].label


def sight_label(what: str, unit: UnitFacts) -> str:
    """What a sheet's observation, by role, is called on such a unit, so that it is looked for at the right coil."""
    return sight_at(swapped(what, heating=unit.heating), unit)


def coil_label(what: str, unit: UnitFacts) -> str:
    """The coil that a sheet's observation is about, or that has that role, with its article."""
    evaporates = what.startswith("evaporator")
    if unit.kind.is_walk_in:  # both may stand under one roof
        return "the evaporator" if evaporates else "the condenser"
    return "the outdoor coil" if evaporates == unit.heating else "the indoor coil"
