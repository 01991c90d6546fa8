"""What the customer calls about, and how it shapes a call: what is looked at first, and which causes it makes likelier.

Each row is a habit of the trade, stated so that it can be argued with. A complaint moves the odds a little; readings
move them much more.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from dry_gauge.core.vocabulary import Fault

_U, _O, _LE, _HL = Fault.UNDERCHARGE, Fault.OVERCHARGE, Fault.LOW_EVAPORATOR_AIRFLOW, Fault.HIGH_EVAPORATOR_LOAD
_LC, _LL, _MU, _NC = (
    Fault.LOW_CONDENSER_AIRFLOW,
    Fault.LIQUID_LINE_RESTRICTION,
    Fault.METERING_UNDERFEEDING,
    Fault.NON_CONDENSABLES,
)
_IC, _NONE = Fault.INEFFICIENT_COMPRESSOR, Fault.NONE


class Complaint(StrEnum):
    """The usual ways in which a call begins."""

    NOT_COLD = "not_cold"
    NEVER_STOPS = "never_stops"
    INTERMITTENT = "intermittent"
    ONE_AREA = "one_area"
    WATER = "water"
    ICE = "ice"
    TRIPS_HOT_AFTERNOONS = "trips_hot_afternoons"
    NO_HEAT = "no_heat"
    NOISE = "noise"
    WARM_BOX = "warm_box"
    DOES_NOT_RUN = "does_not_run"
    INSPECTION = "inspection"


@dataclass(frozen=True, slots=True)
class FirstCheck:
    """Something to do early: at which station, and which observation or reading it answers (or none)."""

    words: str
    station: str
    answers: str = ""


@dataclass(frozen=True, slots=True)
class Triage:
    """One complaint: its words, what is checked first, in order, and by what factor it moves the odds of a cause."""

    label: str
    checks: tuple[FirstCheck, ...]
    odds: Mapping[Fault, float]


_C = FirstCheck
_SETTING = _C("Thermostat: setting, mode, schedule, space temperature", "read", "space_temp")
_FILTER = _C("Filter: look yourself, whatever was said about it", "look", "filter_dirty")
_DAMPERS = _C("Dampers, zoning, fire mode, building computer", "look", "damper_closed")
_CALL = _C("Call present at the unit: along its control chain", "controls", "call_present")
_CONDENSER = _C("Condenser face, inner side too", "look", "condenser_dirty")
_FAN = _C("Outdoor fan: turning, and the right way around", "look", "condenser_fan_stopped")

TRIAGE: Mapping[Complaint, Triage] = {
    Complaint.NOT_COLD: Triage(
        "Not cold enough",
        (_SETTING, _FILTER, _C("Ice on the coil or the suction line", "look", "ice_on_evaporator_even"), _FAN, _CONDENSER),
        {_U: 1.3, _LE: 1.2, _LC: 1.2, _IC: 1.2},
    ),
    Complaint.NEVER_STOPS: Triage(
        "Never stops",
        (_SETTING, _C("Doors, windows and load in the space", "look", "door_open"), _FILTER,
         _C("Contactor: welded, held in without a call", "controls", "call_present"), _CONDENSER),
        {_U: 1.5, _IC: 1.4, _HL: 1.3},
    ),
    Complaint.INTERMITTENT: Triage(
        "Comes and goes",
        (_C("Codes and alarm history before anything is reset", "controls"), _CALL,
         _C("Trips of the high- and low-pressure switch", "look", "high_pressure_trip"),
         _C("Float switch and drain", "look", "drain_blocked"), _C("Plugs and terminals: loose, dark, corroded", "look")),
        {_NONE: 1.4, _LC: 1.2},
    ),
    Complaint.ONE_AREA: Triage(
        "One area only",
        (_DAMPERS, _C("Registers there: air, or none", "look", "air_at_registers"),
         _C("Other areas on the same unit: right?", "arrive"), _FILTER),
        {_NONE: 1.8, _LE: 1.2},
    ),
    Complaint.WATER: Triage(
        "Water",
        (_C("Drain, trap and pan", "look", "drain_blocked"), _C("Ice that thaws into the pan", "look", "ice_on_evaporator_even"),
         _FILTER, _C("Strong negative pressure holding water", "read", "external_static_return")),
        {_NONE: 1.5, _LE: 1.6, _U: 1.1},
    ),
    Complaint.ICE: Triage(
        "Ice",
        (_C("Which coil, and even or patchy, before it is thawed", "look", "ice_on_evaporator_even"), _FILTER,
         _C("Blower and belt", "look", "blower_stopped"), _C("Evaporator face", "look", "evaporator_dirty"),
         _C("Then thaw, and read only after that", "look")),
        {_LE: 2.2, _U: 1.8, _LL: 1.2, _MU: 1.2, _NONE: 0.6},
    ),
    Complaint.TRIPS_HOT_AFTERNOONS: Triage(
        "Trips on hot afternoons",
        (_CONDENSER, _FAN, _C("Leaving air: hot, weak, pulsing, drawn back in", "look", "discharge_air_pulsing"),
         _C("Count the trips; read a manual reset before pressing it", "mend"),
         _C("Volts at the disconnect under load", "electrical")),
        {_LC: 2.5, _O: 1.7, _NC: 1.5, _U: 0.6, _NONE: 0.8},
    ),
    Complaint.NO_HEAT: Triage(
        "No heat",
        (_SETTING, _C("Outdoor coil: ice that survives a defrost; sensors first, while the ice is there", "look",
                      "ice_on_evaporator_even"),
         _C("Reversing valve shifts", "look"), _FILTER, _C("Strip heat: amps by stage", "read", "input_power")),
        {_U: 1.5, _LC: 1.3, _IC: 1.2, _LE: 1.2},
    ),
    Complaint.NOISE: Triage(
        "Noise",
        (_C("Locate it before anything is opened", "look"), _C("Fan blades and wheel: cracked, loose, rubbing", "look",
                                                              "blade_unsafe"),
         _C("Bearings: side play with the unit locked out", "look"), _C("Lines that touch", "look")),
        {_NONE: 1.3},
    ),
    Complaint.WARM_BOX: Triage(
        "Box too warm",
        (_C("Product temperature and since when: food first", "read", "product_temp"),
         _C("Door, gasket, what was loaded", "look", "door_open"), _C("Evaporator: ice, fans", "look", "ice_on_evaporator_even"),
         _C("Defrost clock and when it last ran", "controls", "defrost_active"), _CONDENSER,
         _C("Sight glass", "look", "sight_glass_bubbles")),
        {_U: 1.4, _LE: 1.4, _HL: 1.3, _LC: 1.2},
    ),
    Complaint.DOES_NOT_RUN: Triage(
        "Does not run",
        (_SETTING, _C("Codes, alarm history, trips; nothing is reset yet", "controls"), _CALL,
         _C("Disconnect, fuses, breaker: volts at the unit", "electrical"), _C("Float switch and drain", "look", "drain_blocked"),
         _FAN, _C("Blower and wheel: turn by hand, locked out", "look", "blade_unsafe"),
         _C("Terminals: dark, loose, burnt", "look", "burnt_parts")),
        {},
    ),
    Complaint.INSPECTION: Triage(
        "Inspection",
        (_FILTER, _C("Both coils, drain, pan", "look", "evaporator_dirty"), _CONDENSER,
         _C("Fans, blades, bearings, with the unit locked out", "look", "bearing_worn"),
         _C("Terminals, ground, contactor", "look", "burnt_parts"), _C("Static of both sides", "read", "external_static_supply"),
         _C("Oil anywhere on the circuit", "look", "oil_stain"), _C("Then one set of readings, settled", "read")),
        {_NONE: 2.0},
    ),
}  # fmt: skip


WITHOUT_RUNNING = frozenset({Complaint.DOES_NOT_RUN, Complaint.INTERMITTENT, Complaint.TRIPS_HOT_AFTERNOONS})
"""What begins at the controls: nothing runs, or not for long."""


def first_checks(complaints: Iterable[Complaint]) -> tuple[FirstCheck, ...]:
    """The proposed order: each complaint's first check, then each one's second, nothing twice."""
    lists = [TRIAGE[complaint].checks for complaint in complaints]
    longest = max((len(checks) for checks in lists), default=0)
    ordered = [checks[i] for i in range(longest) for checks in lists if i < len(checks)]
    return tuple(dict.fromkeys(ordered))


# Written for cooling. In heating the indoor coil, whose air these are about, condenses; and no coil indoors drips.
_IN_HEATING: Mapping[Complaint, Mapping[Fault, float]] = {
    Complaint.ONE_AREA: {_NONE: 1.8, _LC: 1.2},
    Complaint.WATER: {_NONE: 1.5},
}


def odds(complaints: Iterable[Complaint], *, heating: bool = False) -> Mapping[Fault, float]:
    """By what factor the complaints together move the odds of each cause; several multiply, within a third to three."""
    factors: dict[Fault, float] = {}
    for complaint in complaints:
        told = TRIAGE[complaint].odds
        for fault, factor in (_IN_HEATING.get(complaint, told) if heating else told).items():
            factors[fault] = min(max(factors.get(fault, 1.0) * factor, 1 / 3), 3.0)
    return factors
