"""Textbook pictures written by hand: numbers a teacher would put on the board, and what they mean.

They owe nothing to the bench's equations, so they test whether the judgement learnt the trade or only its own bench.
Temperatures in F, pressures in psig, as they would be told; every air proven unless said.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from dry_gauge.core.dimensions import unit_for
from dry_gauge.core.intake import make_observation, make_reading
from dry_gauge.core.quantities import FAHRENHEIT_K, to_kelvin
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import Sheet, UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES, Fault, Kind, Metering, Mode, State

F = Fault
_PROVEN = {"evaporator_air_proven": "yes", "condenser_air_proven": "yes"}


@dataclass(frozen=True, slots=True)
class Vignette:
    """One picture: its title, the unit, what was read and seen, and every answer that would be right first."""

    title: str
    unit: UnitFacts
    readings: Mapping[str, float]
    right: frozenset[Fault]
    seen: Mapping[str, str] = field(default_factory=lambda: _PROVEN)

    @property
    def sheet(self) -> Sheet:
        """As a technician would fill it."""
        readings = tuple(
            make_reading(self.unit, name, value, unit_for(QUANTITIES[name].dimension).name)
            for name, value in self.readings.items()
        )
        seen = tuple(make_observation(what, State(state)) for what, state in self.seen.items())
        return Sheet(self.unit, readings, seen, minutes_running=30.0)


_VALVE = UnitFacts(Kind.SPLIT_AC, find("R-410A"), metering=Metering.TXV, seer=14, target_subcooling_k=10 * FAHRENHEIT_K)
_ORIFICE = UnitFacts(Kind.SPLIT_AC, find("R-22"), metering=Metering.ORIFICE, seer=12)
_COOLER = UnitFacts(Kind.WALK_IN_COOLER, find("R-404A"), metering=Metering.TXV, receiver=True, design_box_k=to_kelvin(36))
_FREEZER = UnitFacts(Kind.WALK_IN_FREEZER, find("R-404A"), metering=Metering.TXV, receiver=True, design_box_k=to_kelvin(-5))
_HEATING = UnitFacts(Kind.SPLIT_HEAT_PUMP, find("R-410A"), Mode.HEATING, Metering.TXV)

_VALVE_SOUND = {
    "outdoor_air_temp": 90, "return_air_temp": 76, "return_air_wet_bulb": 63, "supply_air_temp": 56,
    "suction_pressure": 120, "suction_line_temp": 52, "liquid_pressure": 365, "liquid_line_temp": 100,
    "discharge_line_temp": 168,
}  # fmt: skip
_ORIFICE_SOUND = {
    "outdoor_air_temp": 90, "return_air_temp": 76, "return_air_wet_bulb": 64, "supply_air_temp": 56,
    "suction_pressure": 68, "suction_line_temp": 51, "liquid_pressure": 243, "liquid_line_temp": 105,
    "discharge_line_temp": 170,
}  # fmt: skip
_COOLER_SOUND = {
    "outdoor_air_temp": 85, "box_air_temp": 37, "suction_pressure": 59, "coil_outlet_temp": 32, "suction_line_temp": 50,
    "liquid_pressure": 257, "liquid_line_temp": 100, "discharge_line_temp": 165,
}  # fmt: skip
_FREEZER_SOUND = {
    "outdoor_air_temp": 80, "box_air_temp": -4, "suction_pressure": 20.5, "coil_outlet_temp": -7, "suction_line_temp": 16,
    "liquid_pressure": 218, "liquid_line_temp": 90, "discharge_line_temp": 178,
}  # fmt: skip
_HEATING_SOUND = {
    "outdoor_air_temp": 42, "return_air_temp": 70, "supply_air_temp": 97, "suction_pressure": 91, "suction_line_temp": 36,
    "liquid_pressure": 350, "liquid_line_temp": 98, "discharge_line_temp": 160,
}  # fmt: skip


def _v(
    title: str,
    unit: UnitFacts,
    sound: Mapping[str, float],
    right: set[Fault],
    seen: Mapping[str, str] | None = None,
    **changed: float,
) -> Vignette:
    return Vignette(title, unit, {**sound, **changed}, frozenset(right), _PROVEN if seen is None else seen)


_STARVED_ALIKE = {F.LIQUID_LINE_RESTRICTION, F.METERING_UNDERFEEDING}
VIGNETTES: tuple[Vignette, ...] = (
    _v("valve, sound", _VALVE, _VALVE_SOUND, {F.NONE}),
    _v("orifice, sound", _ORIFICE, _ORIFICE_SOUND, {F.NONE}),
    _v("cooler, sound", _COOLER, _COOLER_SOUND, {F.NONE}),
    _v("freezer, sound", _FREEZER, _FREEZER_SOUND, {F.NONE}),
    _v("heat pump heating, sound", _HEATING, _HEATING_SOUND, {F.NONE}),
    _v("valve still holds, subcooling gone", _VALVE, _VALVE_SOUND, {F.UNDERCHARGE},
       liquid_pressure=340, liquid_line_temp=102, suction_line_temp=54),
    _v("valve wide open on flash gas", _VALVE, _VALVE_SOUND, {F.UNDERCHARGE},
       suction_pressure=92, suction_line_temp=62, liquid_pressure=318, liquid_line_temp=98, supply_air_temp=61,
       discharge_line_temp=192),
    _v("orifice short of charge", _ORIFICE, _ORIFICE_SOUND, {F.UNDERCHARGE},
       suction_pressure=54, suction_line_temp=64, liquid_pressure=215, liquid_line_temp=103, supply_air_temp=61,
       discharge_line_temp=196),
    _v("orifice with too much charge", _ORIFICE, _ORIFICE_SOUND, {F.OVERCHARGE},
       suction_pressure=75, suction_line_temp=45, liquid_pressure=275, liquid_line_temp=104, discharge_line_temp=160),
    _v("valve with too much charge, unit-off check clean", _VALVE, _VALVE_SOUND, {F.OVERCHARGE},
       liquid_pressure=405, liquid_line_temp=97, discharge_line_temp=176, standing_pressure=235, equalized_ambient_temp=80),
    _v("air in the system, unit-off check high", _VALVE, _VALVE_SOUND, {F.NON_CONDENSABLES},
       liquid_pressure=430, liquid_line_temp=101, discharge_line_temp=187, standing_pressure=268,
       equalized_ambient_temp=80),
    _v("plugged filter on a valve", _VALVE, _VALVE_SOUND, {F.LOW_EVAPORATOR_AIRFLOW}, {"filter_dirty": "yes"},
       suction_pressure=101, suction_line_temp=44, supply_air_temp=49, liquid_pressure=352, discharge_line_temp=168),
    _v("plugged coil on an orifice", _ORIFICE, _ORIFICE_SOUND, {F.LOW_EVAPORATOR_AIRFLOW}, {"evaporator_air_proven": "no"},
       suction_pressure=58, suction_line_temp=36, supply_air_temp=49, liquid_pressure=230, liquid_line_temp=103,
       discharge_line_temp=155),
    _v("dirty condenser on a valve", _VALVE, _VALVE_SOUND, {F.LOW_CONDENSER_AIRFLOW}, {"condenser_dirty": "yes"},
       liquid_pressure=450, liquid_line_temp=116, discharge_line_temp=190, condenser_leaving_air_temp=119, suction_pressure=124),
    _v("drier plugged, drop across it", _VALVE, _VALVE_SOUND, {F.LIQUID_LINE_RESTRICTION},
       suction_pressure=92, suction_line_temp=64, liquid_pressure=362, liquid_line_temp=92, supply_air_temp=61,
       discharge_line_temp=196, drier_inlet_temp=92, drier_outlet_temp=80),
    _v("valve starves, no drop before it", _VALVE, _VALVE_SOUND, {F.METERING_UNDERFEEDING, F.LIQUID_LINE_RESTRICTION},
       suction_pressure=90, suction_line_temp=65, liquid_pressure=360, liquid_line_temp=93, supply_air_temp=61,
       discharge_line_temp=196, drier_inlet_temp=92.5, drier_outlet_temp=92.4),
    _v("low suction with high subcooling is no lack of charge", _ORIFICE, _ORIFICE_SOUND, _STARVED_ALIKE,
       suction_pressure=50, suction_line_temp=68, liquid_pressure=238, liquid_line_temp=95, supply_air_temp=63,
       discharge_line_temp=205),
    _v("valve floods", _VALVE, _VALVE_SOUND, {F.METERING_OVERFEEDING},
       suction_pressure=130, suction_line_temp=45.5, liquid_pressure=365, liquid_line_temp=102, discharge_line_temp=140),
    _v("worn compressor", _VALVE, _VALVE_SOUND, {F.INEFFICIENT_COMPRESSOR},
       suction_pressure=146, suction_line_temp=60, liquid_pressure=318, liquid_line_temp=93, supply_air_temp=64,
       discharge_line_temp=168),
    _v("too much air over the coil", _ORIFICE, _ORIFICE_SOUND, {F.HIGH_EVAPORATOR_LOAD},
       suction_pressure=74, suction_line_temp=61, supply_air_temp=62, liquid_pressure=250, discharge_line_temp=178),
    _v("cooler short of charge, glass bubbles", _COOLER, _COOLER_SOUND, {F.UNDERCHARGE},
       {**_PROVEN, "sight_glass_bubbles": "yes"}, suction_pressure=46, coil_outlet_temp=34, suction_line_temp=54,
       liquid_pressure=240, liquid_line_temp=101),
    _v("cooler valve starves, glass clear", _COOLER, _COOLER_SOUND, {F.METERING_UNDERFEEDING},
       {**_PROVEN, "sight_glass_bubbles": "no"}, suction_pressure=35, coil_outlet_temp=34, suction_line_temp=55,
       liquid_pressure=243, liquid_line_temp=98, discharge_line_temp=190),
    _v("freezer condenser dirty", _FREEZER, _FREEZER_SOUND, {F.LOW_CONDENSER_AIRFLOW}, {"condenser_dirty": "yes"},
       liquid_pressure=265, liquid_line_temp=107, discharge_line_temp=210),
    _v("heating with a plugged indoor filter", _HEATING, _HEATING_SOUND, {F.LOW_CONDENSER_AIRFLOW}, {"filter_dirty": "yes"},
       liquid_pressure=480, liquid_line_temp=124, supply_air_temp=113, discharge_line_temp=192, suction_pressure=94),
    _v("heating short of charge", _HEATING, _HEATING_SOUND, {F.UNDERCHARGE},
       liquid_pressure=305, liquid_line_temp=97, supply_air_temp=91, suction_pressure=84, suction_line_temp=37),
)  # fmt: skip
