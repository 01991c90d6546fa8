"""The words of the reading sheet: every quantity, observation, kind of unit and fault, named once.

Forms, database, files and API all use these names; what a screen writes beside a field stands here too, so that a
refused value is named the same way everywhere.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from dry_gauge.core.quantities import FAHRENHEIT_K, INCH_WATER_PA, PSI_PA, to_kelvin


class Kind(StrEnum):
    """What sort of unit it is."""

    SPLIT_AC = "split_ac"
    PACKAGE_AC = "package_ac"
    SPLIT_HEAT_PUMP = "split_heat_pump"
    PACKAGE_HEAT_PUMP = "package_heat_pump"
    WALK_IN_COOLER = "walk_in_cooler"
    WALK_IN_FREEZER = "walk_in_freezer"

    @property
    def is_walk_in(self) -> bool:
        """Whether it keeps a box cold rather than people comfortable."""
        return self in (Kind.WALK_IN_COOLER, Kind.WALK_IN_FREEZER)

    @property
    def is_heat_pump(self) -> bool:
        """Whether it can run in heating."""
        return self in (Kind.SPLIT_HEAT_PUMP, Kind.PACKAGE_HEAT_PUMP)


KIND_WORDS: Mapping[Kind, str] = {
    Kind.SPLIT_AC: "split AC",
    Kind.PACKAGE_AC: "rooftop AC",
    Kind.SPLIT_HEAT_PUMP: "split heat pump",
    Kind.PACKAGE_HEAT_PUMP: "rooftop heat pump",
    Kind.WALK_IN_COOLER: "walk-in cooler",
    Kind.WALK_IN_FREEZER: "walk-in freezer",
}


class Mode(StrEnum):
    """What it is doing: heating swaps the roles of the two coils."""

    COOLING = "cooling"
    HEATING = "heating"

    @property
    def other(self) -> Mode:
        """What a heat pump does when it is turned over."""
        return Mode.COOLING if self is Mode.HEATING else Mode.HEATING


class Metering(StrEnum):
    """What feeds the evaporator."""

    TXV = "txv"
    EXV = "exv"
    ORIFICE = "orifice"
    CAPILLARY = "capillary"

    @property
    def is_fixed(self) -> bool:
        """Whether its opening never changes."""
        return self in (Metering.ORIFICE, Metering.CAPILLARY)


METERING_WORDS: Mapping[Metering, str] = {
    Metering.TXV: "TXV",
    Metering.EXV: "EXV",
    Metering.ORIFICE: "orifice",
    Metering.CAPILLARY: "capillary",
}


class EvaporatorClass(StrEnum):
    """How dry a box's evaporator is meant to keep the air."""

    HIGH_HUMIDITY = "high_humidity"
    GENERAL = "general"
    LOW_HUMIDITY = "low_humidity"


class HeadPressureControl(StrEnum):
    """What holds the head up in cold weather."""

    NONE = "none"
    FAN_CYCLING = "fan_cycling"
    FLOODED = "flooded"
    VARIABLE_SPEED = "variable_speed"


class CompressorControl(StrEnum):
    """How a compressor follows the load."""

    FIXED = "fixed"
    TWO_STAGE = "two_stage"
    DIGITAL = "digital"
    INVERTER = "inverter"

    @property
    def modulates(self) -> bool:
        """Whether it has no state of its own to be judged in until it is held in one."""
        return self in (CompressorControl.DIGITAL, CompressorControl.INVERTER)


COMPRESSOR_WORDS: Mapping[CompressorControl, str] = {
    CompressorControl.FIXED: "one speed",
    CompressorControl.TWO_STAGE: "two stages",
    CompressorControl.DIGITAL: "digital",
    CompressorControl.INVERTER: "inverter",
}


class State(StrEnum):
    """Answer to an observation."""

    YES = "yes"
    NO = "no"
    NOT_SEEN = "not_seen"


class School(StrEnum):
    """How tightly superheat is judged."""

    COMMON = "common"
    STRICT = "strict"


class Fault(StrEnum):
    """What can be wrong, by role: a plugged indoor filter in heating is low condenser airflow."""

    NONE = "none"
    UNDERCHARGE = "undercharge"
    OVERCHARGE = "overcharge"
    LOW_EVAPORATOR_AIRFLOW = "low_evaporator_airflow"
    HIGH_EVAPORATOR_LOAD = "high_evaporator_load"
    LOW_CONDENSER_AIRFLOW = "low_condenser_airflow"
    LIQUID_LINE_RESTRICTION = "liquid_line_restriction"
    METERING_UNDERFEEDING = "metering_underfeeding"
    METERING_OVERFEEDING = "metering_overfeeding"
    NON_CONDENSABLES = "non_condensables"
    INEFFICIENT_COMPRESSOR = "inefficient_compressor"
    WRONG_REFRIGERANT = "wrong_refrigerant"


AIR_FAULTS = frozenset({Fault.LOW_EVAPORATOR_AIRFLOW, Fault.LOW_CONDENSER_AIRFLOW})


@dataclass(frozen=True, slots=True)
class Quantity:
    """Something a technician reads.

    Parameters
    ----------
    name, label : str
        Its name in files, and beside its field.
    dimension : str
        Which units fit it, see `quantities.UNITS`.
    side : str
        Where it is drawn and listed: ``air``, ``low``, ``high`` or ``power``.
    where : str
        Where the probe goes, in a few words.
    half_width_si : float
        Usual accuracy, 95 %: SI, except that `relative` ones are a share of the reading.
    least_si, most_si : float
        Beyond these no number of this sort can be meant; the value is refused. [SI]
    usual_si : tuple of float or None
        Where a running unit of any kind normally reads; only to ask about slipped decimals and other units. [SI]
    shared : bool
        Whether all circuits of a unit have it in common.
    desk : str
        The station that asks for it, where it is none of the sheet's.
    """

    name: str
    label: str
    dimension: str
    side: str
    where: str
    half_width_si: float
    least_si: float
    most_si: float
    relative: bool = False
    usual_si: tuple[float, float] | None = None
    shared: bool = False
    desk: str = ""


def _pressure(name: str, label: str, side: str, where: str) -> Quantity:
    # Below 200 psi a gauge's error is a fixed 1 psi; above it grows: see `default_half_width_si`.
    return Quantity(name, label, "pressure", side, where, PSI_PA, 0.0, 5000 * PSI_PA)


def _temperature(
    name: str, label: str, side: str, where: str, error_f: float, usual_f: tuple[float, float], shared: bool = False
) -> Quantity:
    return Quantity(
        name,
        label,
        "temperature",
        side,
        where,
        error_f * FAHRENHEIT_K,
        0.0,
        to_kelvin(1000),
        usual_si=(to_kelvin(usual_f[0]), to_kelvin(usual_f[1])),
        shared=shared,
    )


def _amps(name: str, label: str, where: str) -> Quantity:
    return Quantity(name, label, "current", "power", where, 0.02, 0.0, 5000.0, relative=True)


def _static(name: str, label: str, where: str, desk: str = "") -> Quantity:
    limit = 50 * INCH_WATER_PA
    return Quantity(name, label, "static", "power", where, 0.02 * INCH_WATER_PA, -limit, limit, shared=True, desk=desk)


MOST_HUMIDITY = 1.03
"""Saturated air as a probe of three points' accuracy may show it."""
# In the order of a walk around the unit, which is the order of the sheet.
_ALL_QUANTITIES = (
    _temperature("outdoor_air_temp", "Outdoor air", "air", "entering the outdoor coil, in shade", 1, (-20, 125), True),
    _temperature("return_air_temp", "Return air", "air", "dry bulb, at the filter", 1, (-30, 110), True),
    _temperature("return_air_wet_bulb", "Return wet bulb", "air", "wet sock, at the filter", 1, (35, 85), True),
    Quantity("return_air_rh", "Return humidity", "humidity", "air", "at the filter", 0.03, 0.0, MOST_HUMIDITY, shared=True),
    _temperature("mixed_air_temp", "Mixed air", "air", "behind an outdoor damper, before the coil", 2, (-30, 125), True),
    _temperature("supply_air_temp", "Supply air", "air", "past the coil, out of its sight", 1, (-40, 160), True),
    _temperature("supply_air_wet_bulb", "Supply wet bulb", "air", "past the coil", 1, (30, 80), True),
    _temperature("box_air_temp", "Box air", "air", "entering the evaporator", 1, (-40, 75), True),
    Quantity("box_rh", "Box humidity", "humidity", "air", "in the box", 0.03, 0.0, MOST_HUMIDITY, shared=True),
    _temperature("product_temp", "Product", "air", "in the core of the product", 1.5, (-40, 75), True),
    _temperature("space_temp", "Space", "air", "in the room served", 1, (40, 105), True),
    _temperature("condenser_leaving_air_temp", "Leaving air", "air", "out of the outdoor coil", 1, (-20, 160), True),
    _temperature(
        "equalized_ambient_temp", "Ambient, unit off", "air", "air around both coils, equalized", 1, (-20, 125), True
    ),
    _pressure("suction_pressure", "Suction", "low", "service port, low side"),
    _temperature("suction_line_temp", "Suction line", "low", "at the service valve, insulated", 1.5, (-40, 90)),
    _temperature("coil_outlet_temp", "Coil outlet", "low", "at the bulb", 1.5, (-40, 85)),
    _temperature("compressor_suction_temp", "Compressor inlet", "low", "6 in. from the compressor", 1.5, (-40, 95)),
    _pressure("liquid_pressure", "Liquid", "high", "liquid service port"),
    _temperature("liquid_line_temp", "Liquid line", "high", "leaving the condenser", 1.5, (20, 150)),
    _pressure("discharge_pressure", "Discharge", "high", "port on the discharge line"),
    _temperature("discharge_line_temp", "Discharge line", "high", "within 6 in. of the compressor", 3, (60, 320)),
    _temperature("drier_inlet_temp", "Before drier", "high", "drier inlet, same clamp", 1.5, (20, 150)),
    _temperature("drier_outlet_temp", "After drier", "high", "drier outlet, same clamp", 1.5, (20, 150)),
    _temperature("valve_inlet_temp", "Valve inlet", "high", "before the metering device", 1.5, (0, 150)),
    _pressure("standing_pressure", "Standing", "high", "unit off and equalized"),
    _amps("compressor_amps", "Compressor", "common conductor"),
    _amps("blower_amps", "Blower", "one conductor"),
    _amps("condenser_fan_amps", "Outdoor fan", "one conductor"),
    Quantity("input_power", "Input power", "power", "power", "whole unit", 0.02, 0.0, 1e7, relative=True, shared=True),
    _static("external_static_supply", "Static, supply", "supply plenum against the room"),
    _static("external_static_return", "Static, return", "return plenum against the room"),
    _static("static_after_filter", "Static after the filter", "between filter and coil or blower", "air"),
    _static("static_after_coil", "Static after the coil", "where the coil stands before the blower", "air"),
    _static("static_after_blower", "Static after the blower", "where the coil stands behind it", "air"),
    Quantity("airflow", "Airflow", "airflow", "power", "over the indoor coil", 0.10, 0.0, 500.0, relative=True,
             shared=True),
)  # fmt: skip
QUANTITIES: Mapping[str, Quantity] = {quantity.name: quantity for quantity in _ALL_QUANTITIES}

_GAUGE_CHANGEOVER_PSI = 200
_GAUGE_SHARE = 0.005


def default_half_width_si(quantity: Quantity, value_si: float, atmosphere_pa: float) -> float:
    """Accuracy of the usual instrument at that value, 95 % half-width. [SI]"""
    if quantity.dimension == "pressure":
        gauge_pa = value_si - atmosphere_pa
        return PSI_PA if gauge_pa < _GAUGE_CHANGEOVER_PSI * PSI_PA else _GAUGE_SHARE * gauge_pa
    return quantity.half_width_si * abs(value_si) if quantity.relative else quantity.half_width_si


@dataclass(frozen=True, slots=True)
class Sight:
    """Something seen, heard or felt: answered yes, no or not seen."""

    name: str
    label: str
    group: str


def _sights(group: str, **labels: str) -> tuple[Sight, ...]:
    return tuple(Sight(name, label, group) for name, label in labels.items())


SIGHTS: Mapping[str, Sight] = {
    sight.name: sight
    for sight in (
        *_sights(
            "Air, indoors",
            evaporator_air_proven="Indoor coil air proven",
            filter_dirty="Filter dirty",
            filter_missing="Filter missing",
            evaporator_dirty="Indoor coil dirty",
            blower_stopped="Indoor fan stopped",
            blower_belt_slipping="Belt slipping",
            damper_closed="Damper closed",
            panel_off="Panel off",
            door_open="Door open",
            air_at_registers="Air at every register",
            controlled_from_elsewhere="Zoning, fire mode or a building computer acts on it",
        ),
        *_sights(
            "Air, outdoors",
            condenser_air_proven="Outdoor coil air proven",
            condenser_dirty="Outdoor coil dirty",
            condenser_fan_stopped="Outdoor fan stopped",
            condenser_fan_reversed="Outdoor fan reversed",
            condenser_air_recirculating="Air recirculating",
            discharge_air_pulsing="Leaving air pulsing",
            coil_wet="Coil wet from washing",
        ),
        *_sights(
            "Ice and frost",
            ice_on_evaporator_even="Ice, even sheet",
            ice_on_evaporator_patchy="Ice, patchy",
            frost_thin_even="Thin even frost, fins open",
            frost_after_drier="Frost after drier",
            frost_at_distributor="Frost at distributor",
            suction_line_frosted_to_compressor="Frost to compressor",
        ),
        *_sights(
            "Refrigerant side",
            sight_glass_bubbles="Glass bubbling",
            sight_glass_streaming="Glass streaming",
            sight_glass_half_empty="Glass half empty",
            oil_stain="Oil stain",
            superheat_hunting="Superheat hunting",
            head_pressure_hunting="Head hunting",
            compressor_hot="Compressor hot",
            compressor_not_pumping="Compressor not pumping",
        ),
        *_sights(
            "Whole unit",
            drain_blocked="Drain blocked, pan full",
            water_at_electrics="Water at electrics",
            blade_unsafe="Blade or wheel cracked, loose, rubbing",
            bearing_worn="Bearing worn: side play, rough",
            burnt_parts="Burnt or dark terminals, contacts",
            plug_loose="Plug or wire off",
            ground_missing="Ground missing",
            safety_bridged="Safety bridged",
            rotation_reversed="Three phases: turns backwards",
            supply_unfit="Supply: a leg lost, or pairs over 5 % apart",
            heat_exchanger_cracked="Heat exchanger cracked, flame rolls out",
            carbon_monoxide="Carbon monoxide measured",
            refrigerant_indoors="Flammable refrigerant leaks indoors",
            earlier_repair="Earlier repair, part changed",
            tubes_rubbing="Tubes rub",
            unusual_sound="Unusual sound",
        ),
        *_sights(
            "What it was told, what was done",
            call_present="Call present",
            stage_held="Stage held",
            defrost_active="Defrost running",
            jumper_fitted="Jumper fitted",
            high_pressure_trip="High-pressure trip",
            low_pressure_trip="Low-pressure trip",
            short_cycling="Starts again and again",
            recently_charged="Charged today",
            recently_opened="System opened lately",
            recently_defrosted="Just thawed or defrosted",
        ),
    )
}

# What a box calls it: its blower is the evaporator fan, and its condenser may stand under the same roof.
IN_A_BOX: Mapping[str, str] = {
    "blower_stopped": "Evaporator fan stopped", "blower_amps": "Evaporator fan",
    "evaporator_air_proven": "Evaporator air proven", "evaporator_dirty": "Evaporator dirty",
    "condenser_air_proven": "Condenser air proven", "condenser_dirty": "Condenser dirty",
}  # fmt: skip

# Of a coil, an outdoor fan or a compressor: on a unit of several circuits each circuit has its own answer.
OF_A_CIRCUIT = frozenset({
    "evaporator_dirty", *(name for name, sight in SIGHTS.items()
                          if sight.group in ("Air, outdoors", "Ice and frost", "Refrigerant side")),
    "defrost_active", "high_pressure_trip", "low_pressure_trip", "short_cycling", "recently_charged", "recently_opened",
    "recently_defrosted",
}) - {"coil_wet"}  # fmt: skip

# Names that earlier releases wrote; what is stored keeps them.
OLDER_SIGHTS: Mapping[str, str] = {"fan_blade_damaged": "blade_unsafe"}

# What each air-fault observation blocks, by place; `by_role` in the judgement turns place into role.
INDOOR_AIR_SIGHTS = ("filter_dirty", "filter_missing", "blower_stopped", "blower_belt_slipping", "damper_closed")
OUTDOOR_AIR_SIGHTS = ("condenser_fan_stopped", "condenser_fan_reversed", "discharge_air_pulsing")
AIR_FAULT_SIGHTS = (*INDOOR_AIR_SIGHTS, *OUTDOOR_AIR_SIGHTS, "evaporator_dirty", "condenser_dirty", "condenser_air_recirculating")
ICE_SIGHTS = ("ice_on_evaporator_even", "ice_on_evaporator_patchy")
