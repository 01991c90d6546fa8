"""The whole-unit survey: what is looked at, listened to and felt, by where it is on the unit.

Outside causes come first, deep tracing last. A place is done when each of its questions has an answer, 'not seen'
included only if someone says so.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dry_gauge.core.roles import sight_at
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind, State


@dataclass(frozen=True, slots=True)
class Place:
    """Somewhere on the unit, and what is asked there."""

    name: str
    label: str
    sights: tuple[str, ...]


_P = Place
_PLACES = (
    _P("outside", "Outside causes", ("controlled_from_elsewhere", "damper_closed", "air_at_registers", "call_present",
                                       "stage_held", "door_open")),
    _P("indoor_air", "Indoor air", ("filter_dirty", "filter_missing", "blower_stopped", "blower_belt_slipping", "panel_off")),
    _P("evaporator", "Evaporator", ("evaporator_air_proven", "evaporator_dirty", "ice_on_evaporator_even",
                                    "ice_on_evaporator_patchy", "frost_thin_even", "frost_at_distributor", "coil_wet")),
    _P("drain", "Drain", ("drain_blocked", "water_at_electrics")),
    _P("suction", "Suction line", ("suction_line_frosted_to_compressor", "tubes_rubbing", "oil_stain", "refrigerant_indoors")),
    _P("compressor", "Compressor", ("compressor_hot", "compressor_not_pumping", "unusual_sound", "high_pressure_trip",
                                    "low_pressure_trip", "short_cycling", "rotation_reversed")),
    _P("condenser", "Condenser", ("condenser_air_proven", "condenser_dirty", "condenser_fan_stopped",
                                  "condenser_fan_reversed", "condenser_air_recirculating", "discharge_air_pulsing")),
    _P("liquid", "Liquid line", ("sight_glass_bubbles", "sight_glass_streaming", "sight_glass_half_empty",
                                 "frost_after_drier")),
    _P("moving", "Fans, bearings", ("blade_unsafe", "bearing_worn")),
    _P("electrics", "Electrics", ("burnt_parts", "plug_loose", "ground_missing", "jumper_fitted", "safety_bridged",
                                  "heat_exchanger_cracked", "carbon_monoxide")),
    _P("history", "Its history", ("earlier_repair", "recently_charged", "recently_opened", "recently_defrosted")),
)  # fmt: skip
_ICES = ("ice_on_evaporator_even", "ice_on_evaporator_patchy", "frost_thin_even", "frost_at_distributor")
# By where they stand: those of a heat pump change roles. A box may have both under one roof.
_COILS_OF_COMFORT = {"evaporator": "Indoor coil", "condenser": "Outdoor coil"}
_COMFORT_ONLY = {
    "filter_dirty",
    "filter_missing",
    "blower_belt_slipping",
    "air_at_registers",
    "damper_closed",
    "controlled_from_elsewhere",
    "heat_exchanger_cracked",
    "carbon_monoxide",
}
_GLASS = {"sight_glass_bubbles", "sight_glass_streaming", "sight_glass_half_empty"}


def not_asked(facts: UnitFacts) -> frozenset[str]:
    """What this sort of unit does not have, and nobody is asked about there."""
    out = set(_COMFORT_ONLY) if facts.kind.is_walk_in else {"door_open"}
    if not facts.receiver and not facts.kind.is_walk_in:
        out |= _GLASS - {"sight_glass_bubbles"}
    if not facts.refrigerant.flammable:
        out.add("refrigerant_indoors")
    if facts.kind is not Kind.WALK_IN_FREEZER and not facts.kind.is_heat_pump:
        out.add("frost_thin_even")
    return frozenset(out)


# What is read of a unit in ducts, and of a box; the rest of either.
_READ_IN_DUCTS = frozenset({
    "return_air_temp", "return_air_wet_bulb", "return_air_rh", "mixed_air_temp", "supply_air_wet_bulb", "space_temp", "airflow",
    "external_static_supply", "external_static_return", "static_after_filter", "static_after_coil", "static_after_blower",
})  # fmt: skip
_READ_IN_A_BOX = frozenset({"box_air_temp", "box_rh", "product_temp"})


def not_read(facts: UnitFacts) -> frozenset[str]:
    """Quantities that this sort of unit does not have."""
    return _READ_IN_DUCTS if facts.kind.is_walk_in else _READ_IN_A_BOX


def places(facts: UnitFacts) -> tuple[Place, ...]:
    """The survey of this sort of unit, in order; what ices over is looked for at the coil that evaporates now."""
    out = not_asked(facts)
    labels = {"indoor_air": "Box air"} if facts.kind.is_walk_in else _COILS_OF_COMFORT
    found = []
    for place in _PLACES:
        sights = place.sights
        if facts.heating and place.name == "evaporator":
            sights = tuple(sight for sight in sights if sight not in _ICES)
        elif facts.heating and place.name == "condenser":
            sights = (*sights, *_ICES)
        found.append(Place(place.name, labels.get(place.name, place.label), tuple(one for one in sights if one not in out)))
    return tuple(found)


# Which answer is the finding; for the rest it is 'yes'.
_FINDING_IS_NO = {"evaporator_air_proven", "condenser_air_proven", "call_present", "stage_held", "air_at_registers"}


def is_finding(what: str, state: State) -> bool:
    """Whether that answer is worth a mark on the drawing."""
    return state is (State.NO if what in _FINDING_IS_NO else State.YES)


@dataclass(frozen=True, slots=True)
class PlaceState:
    """How far a place is looked at: questions answered, and which answers are findings."""

    place: Place
    answered: int
    findings: tuple[str, ...]

    @property
    def done(self) -> bool:
        """Whether every question there has an answer."""
        return self.answered == len(self.place.sights)


def survey(facts: UnitFacts, states: Mapping[str, State]) -> tuple[PlaceState, ...]:
    """Every place with what was found there so far."""
    return tuple(
        PlaceState(
            place,
            sum(what in states for what in place.sights),
            tuple(sight_at(what, facts) for what in place.sights if what in states and is_finding(what, states[what])),
        )
        for place in places(facts)
    )
