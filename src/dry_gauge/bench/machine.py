"""Sizing: from a nameplate to displacement, coils, metering and charge that meet it at its design point."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from dry_gauge.bench import moist_air
from dry_gauge.bench.makes import Makes
from dry_gauge.bench.parts import air_heat, compressed, condenser_zones, orifice_flow, surface_for, volumetric_efficiency
from dry_gauge.bench.plant import Faults, Habits, Nameplate
from dry_gauge.core.judgement.hypotheses import charge_added, charge_lost
from dry_gauge.core.quantities import CFM_M3_S, CFM_PER_TON, STANDARD_ATMOSPHERE_PA, TON_W, to_kelvin
from dry_gauge.core.refrigerants.properties import Properties, Saturated
from dry_gauge.core.refrigerants.saturation import EVAPORATING_DEW_SHARE
from dry_gauge.core.vocabulary import Fault, HeadPressureControl, Kind, Metering, Mode

Array = NDArray[np.float64]
Bools = NDArray[np.bool_]

# Chosen, all of them, so that healthy and faulty units read as the trade expects (`make trends`).
SUBCOOLING_AREA, SUBCOOLING_AREA_RECEIVER = 0.13, 0.035  # of a healthy condenser filled with liquid
_ELECTRONIC_RESERVE = 2.0 / 1.7  # of an electronic valve, against a thermostatic one of the same make
_HEATING_SUPERHEAT_K = 4.0
_HELD_HEAD_K = to_kelvin(85), to_kelvin(90)  # condensing at which head controls of freezers and of coolers hold; chosen


@dataclass(frozen=True)
class _DesignPoint:
    """What runs through a unit where its parts are chosen, before any habit."""

    capacity_w: Array
    subcooling_k: Array
    superheat_k: Array
    evaporator_air_k: Array
    condenser_air_k: Array
    humidity: Array
    low: Saturated
    high: Saturated
    low_pa: Array
    high_pa: Array
    line_gain_k: Array

    @cached_property
    def liquid_enthalpy(self) -> Array:
        """Before the metering device. [J/kg]"""
        return self.high.liquid_enthalpy(self.subcooling_k)

    @cached_property
    def coil_outlet_k(self) -> Array:
        """Of the vapour that leaves the evaporator. [K]"""
        return self.low.dew_k + self.superheat_k

    @cached_property
    def mass(self) -> Array:
        """Flow that carries the capacity. [kg/s]"""
        return self.capacity_w / (self.low.vapour_enthalpy(self.superheat_k) - self.liquid_enthalpy)


class Machine:
    """A row of units, sized; `cycle` runs them in any weather with any faults.

    Parameters
    ----------
    nameplates : sequence of Nameplate
        One a unit.
    habits : Habits
        How each departs from its nameplate.
    makes : Makes, optional
        What each maker builds otherwise; by the textbook if not given.
    """

    def __init__(self, nameplates: Sequence[Nameplate], habits: Habits, makes: Makes | None = None) -> None:
        self.nameplates = tuple(nameplates)
        self.n = len(nameplates)
        self.habits = habits
        self.makes = makes or Makes.textbook(self.n)

        def array(name: str) -> Array:
            return np.array([getattr(plate, name) for plate in nameplates], dtype=float)

        def flags(test: Sequence[bool]) -> Bools:
            return np.array(test, dtype=bool)

        self.walk_in = flags([p.kind.is_walk_in for p in nameplates])
        self.heating = flags([p.mode is Mode.HEATING for p in nameplates])
        self.receiver = flags([p.receiver for p in nameplates])
        self.fixed = flags([p.metering.is_fixed for p in nameplates])
        self.electronic = flags([p.metering is Metering.EXV for p in nameplates])
        self.split = flags([p.kind in (Kind.SPLIT_AC, Kind.SPLIT_HEAT_PUMP) for p in nameplates])
        self.freezer = flags([p.kind is Kind.WALK_IN_FREEZER for p in nameplates])
        control = [p.head_pressure_control for p in nameplates]
        self.flooded = flags([c is HeadPressureControl.FLOODED for c in control])
        self.fan_controlled = flags([c in (HeadPressureControl.FAN_CYCLING, HeadPressureControl.VARIABLE_SPEED) for c in control])
        usual_box = np.where(self.freezer, to_kelvin(-5), to_kelvin(37))
        given = np.array([p.design_box_k if p.design_box_k is not None else np.nan for p in nameplates])
        self.design_box_k = np.where(np.isnan(given), usual_box, given)
        label = Properties([p.refrigerant for p in nameplates])
        self._size(label, array)
        filled = [p.filled_with or p.refrigerant for p in nameplates]
        self.properties = label if filled == [p.refrigerant for p in nameplates] else Properties(filled)

    # -- sizing ------------------------------------------------------------------

    def _size(self, properties: Properties, array: Callable[[str], Array]) -> None:
        """Choose every part so that the unit meets its nameplate at its design point, then depart by its habits."""
        at = self._design_point(properties, array)
        self.mass_design = at.mass
        self._size_lines(at)
        h_discharge = self._size_compressor(properties, at)
        self._size_evaporator(at)
        zones = condenser_zones(self.makes, at.high, h_discharge, at.mass, at.condenser_air_k)
        self._size_condenser(at, zones)
        self._size_metering(properties, at)
        self._fill(at, zones)

    def _design_point(self, properties: Properties, array: Callable[[str], Array]) -> _DesignPoint:
        """The state that every part is chosen for; its coil and head stay with the unit, since it is judged against them."""
        superheat = array("design_superheat_k")
        self.superheat_set_k = np.where(self.heating & ~self.fixed, _HEATING_SUPERHEAT_K, superheat)
        evaporator_air_k = np.where(  # a piston of heating is chosen at the rating point: smaller, it would starve from 40 F up
            self.walk_in,
            self.design_box_k,
            np.where(self.heating, np.where(self.fixed, to_kelvin(47), to_kelvin(42)), to_kelvin(80)),
        )
        wet_k = np.where(
            self.walk_in,
            self.design_box_k - np.where(self.freezer, 0.6, 1.2),
            np.where(self.heating, np.where(self.fixed, to_kelvin(43), to_kelvin(39)), to_kelvin(67)),
        )
        condenser_air_k = np.where(self.heating, to_kelvin(70), to_kelvin(95))
        self.evaporator_td_k = self._reachable_td(properties, evaporator_air_k, array("evaporator_td_k"), superheat)
        self.evaporating_design = properties.position_of_temperature(
            evaporator_air_k - self.evaporator_td_k, EVAPORATING_DEW_SHARE
        )
        self.condenser_split_k = array("condenser_split_k")
        self.condensing_design = properties.position_of_temperature(condenser_air_k + self.condenser_split_k)
        return _DesignPoint(
            capacity_w=array("capacity_w"),
            subcooling_k=array("design_subcooling_k"),
            superheat_k=superheat,
            evaporator_air_k=evaporator_air_k,
            condenser_air_k=condenser_air_k,
            humidity=moist_air.humidity_of_wet_bulb(evaporator_air_k, wet_k, np.full(self.n, STANDARD_ATMOSPHERE_PA)),
            low=properties.at(self.evaporating_design),
            high=properties.at(self.condensing_design),
            low_pa=properties.pressure_pa(self.evaporating_design),
            high_pa=properties.pressure_pa(self.condensing_design),
            line_gain_k=np.where(
                self.walk_in,
                np.where(self.freezer, 17.0, 14.0) * np.minimum(self.makes.suction_gain, 1.2),
                np.where(self.split, 1.6, 0.8) * self.makes.suction_gain,
            ),
        )

    def _size_lines(self, at: _DesignPoint) -> None:
        makes, habits, mass = self.makes, self.habits, at.mass
        warmer_k = self.line_ambient_k(at.condenser_air_k, at.evaporator_air_k) - at.coil_outlet_k
        self.line_gain = (
            -np.log(np.maximum(1 - at.line_gain_k / np.maximum(warmer_k, at.line_gain_k * 1.2), 0.05)) * habits.line_gain
        )
        self.suction_drop = (
            np.where(self.walk_in, 0.025, np.where(self.split, 0.018, 0.008))
            * makes.suction_drop
            * at.low_pa
            * habits.line_drop
            / mass**2
        )
        self.discharge_drop = 0.012 * at.high_pa * habits.line_drop / mass**2
        liquid_drop = np.where(self.split | self.walk_in, 0.012, 0.005) * makes.liquid_drop
        self.liquid_drop = liquid_drop * at.high_pa * habits.line_drop / mass**2

    def _size_compressor(self, properties: Properties, at: _DesignPoint) -> Array:
        """Answers the enthalpy of what it discharges. [J/kg]"""
        makes, habits, mass = self.makes, self.habits, at.mass
        p_suction = at.low_pa - self.suction_drop * mass**2
        suction = properties.at(properties.position(p_suction))
        superheat_in = np.maximum(at.coil_outlet_k + at.line_gain_k - suction.dew_k, 1.0)
        p_discharge = at.high_pa + self.discharge_drop * mass**2
        top = properties.at(properties.position(p_discharge))
        ratio = p_discharge / p_suction
        self.displacement = (
            mass / (suction.vapour_density(superheat_in) * volumetric_efficiency(makes, ratio)) * habits.displacement
        )
        h_suction = suction.vapour_enthalpy(superheat_in)
        h_discharge, work = compressed(makes, suction, top, superheat_in, h_suction, ratio, habits.isentropic)
        self.power_design = work * mass
        return h_discharge

    def _size_evaporator(self, at: _DesignPoint) -> None:
        makes, habits, low, air_k = self.makes, self.habits, at.low, at.evaporator_air_k
        atmosphere = np.full(self.n, STANDARD_ATMOSPHERE_PA)
        per_watt = np.where(self.walk_in, 1.8, np.where(self.heating, 1.6, 1.0))
        airflow = at.capacity_w / TON_W * CFM_PER_TON * CFM_M3_S * per_watt * makes.evaporator_air
        air_kg_s = airflow * 1.2
        whole_w = at.mass * (low.dew_enthalpy - at.liquid_enthalpy) / (1 - makes.vapour_area)
        mean_k = low.bubble_k + EVAPORATING_DEW_SHARE * (low.dew_k - low.bubble_k)
        bypass = np.where(self.walk_in, 0.30, np.where(self.heating, 0.28, 0.14)) * makes.bypass
        surface_k = surface_for(whole_w, air_kg_s, 1 - bypass, air_k, at.humidity, atmosphere)
        # A coil that would have to be colder than the refrigerant gets a better air side instead.
        surface_k = np.maximum(surface_k, mean_k + 0.18 * (air_k - mean_k))
        reachable = air_heat(air_kg_s, np.ones(self.n), surface_k, air_k, at.humidity, atmosphere)[0]
        contact = whole_w / reachable
        more = np.maximum(contact / 0.95, 1.0)
        air_kg_s, contact = air_kg_s * more, contact / more
        self.air_kg_s_design = air_kg_s * habits.evaporator_airflow
        self.contact_ntu = -np.log(1 - contact) * habits.evaporator_surface
        self.inside_w_k = whole_w / (surface_k - mean_k) * habits.evaporator_surface
        share = np.minimum(at.superheat_k / (air_k - low.dew_k), 0.9)
        self.superheat_ntu = -np.log(1 - share) / makes.vapour_area * habits.evaporator_surface

    def _liquid_area(self) -> Array:
        """Share of the condenser that stands full of liquid. [1]"""
        return np.where(self.receiver, SUBCOOLING_AREA_RECEIVER, SUBCOOLING_AREA * self.makes.liquid_area)

    def _size_condenser(self, at: _DesignPoint, zones: tuple[Array, Array]) -> None:
        habits, liquid_area = self.habits, self._liquid_area()
        condenser_cfm = np.where(self.heating, CFM_PER_TON, 850.0 * self.makes.condenser_air)
        air_w_k = at.capacity_w / TON_W * condenser_cfm * CFM_M3_S * 1.2 * moist_air.DRY_AIR_J_KG_K
        effective = sum(zones) / (air_w_k * (1 - liquid_area))
        more = np.maximum(effective / 0.86, 1.0)
        air_w_k, effective = air_w_k * more, effective / more
        self.condenser_air_w_k_design = air_w_k * habits.condenser_airflow
        self.condenser_ntu = -np.log(1 - effective) * habits.condenser_surface
        share = np.minimum(at.subcooling_k / (at.high.bubble_k - at.condenser_air_k), 0.93)
        self.subcooling_ntu = -np.log(1 - share) / liquid_area

    def _size_metering(self, properties: Properties, at: _DesignPoint) -> None:
        makes, low_pa, high_pa = self.makes, at.low_pa, at.high_pa
        trial_flow = orifice_flow(
            makes, high_pa - self.liquid_drop * at.mass**2 - low_pa, at.high.bubble_density, at.subcooling_k, np.zeros(self.n)
        )
        # Where the head is held up, a valve is chosen for what is held: it feeds the coil in winter as well.
        floor_k = np.where(self.freezer, *_HELD_HEAD_K)
        self.floor_pa = properties.pressure_pa(properties.position_of_temperature(floor_k))
        held = np.where(self.flooded | self.fan_controlled, np.minimum(self.floor_pa, high_pa), high_pa)
        over_floor = np.sqrt((high_pa - low_pa) / (held - low_pa))
        reserve = makes.valve_reserve * over_floor * np.where(self.electronic, _ELECTRONIC_RESERVE, 1.0)
        self.reserve = np.where(self.fixed, 1.0, reserve)
        self.metering_flow = at.mass / trial_flow * self.reserve * self.habits.metering

    def _fill(self, at: _DesignPoint, zones: tuple[Array, Array]) -> None:
        """What each part holds, and with it the charge."""
        makes, habits, low, high, kilowatts = self.makes, self.habits, at.low, at.high, at.capacity_w / 1000
        self.volume_condenser = 5.4e-4 * makes.condenser_volume * kilowatts * habits.volume
        in_evaporator = np.where(self.walk_in & self.fixed, 6.0e-4, 3.4e-4) * makes.evaporator_volume
        self.volume_evaporator = in_evaporator * kilowatts * habits.volume
        self.volume_liquid_line = np.where(self.split | self.walk_in, 0.9e-4, 0.3e-4) * kilowatts
        # Flooded head control stores in summer what fills the condenser in winter.
        winter = np.where(self.flooded, 6.5e-4, 0.0)
        self.volume_receiver = np.where(self.receiver, (6.0e-4 * makes.receiver_volume + winter) * kilowatts, 0.0)
        level = np.where(self.receiver, np.where(self.flooded, 0.68, 0.45), 0.0)
        liquid_area = self._liquid_area()
        condensing_share = (1 - liquid_area) * zones[1] / (zones[0] + zones[1])
        vapour_share = (1 - liquid_area) - condensing_share
        self.charge_design = (
            self.volume_condenser
            * (
                vapour_share * high.dew_density
                + condensing_share * self._boiling_density(high)
                + liquid_area * high.bubble_density
            )
            + self.volume_liquid_line * high.bubble_density
            + self.volume_receiver * (level * high.bubble_density + (1 - level) * high.dew_density)
            + self.volume_evaporator
            * ((1 - makes.vapour_area) * self._boiling_density(low) + makes.vapour_area * low.dew_density)
        ) * habits.charge
        receiver_share = self.volume_receiver * high.bubble_density / self.charge_design
        # What can be lost before anything shows, and what can be added: nothing without a receiver.
        self.spare = np.where(self.receiver, level * receiver_share * np.where(self.flooded, 0.90, 0.97), 0.0)
        self.room = np.where(self.receiver, (1 - level) * receiver_share * 1.06, 0.0)

    def _boiling_density(self, at: Saturated) -> Array:
        """Of liquid and vapour together, where one becomes the other. [kg/m3]"""
        return self.makes.liquid_share * at.bubble_density + (1 - self.makes.liquid_share) * at.dew_density

    @staticmethod
    def _reachable_td(properties: Properties, air_k: Array, td_k: Array, superheat_k: Array) -> Array:
        """A wide glide needs a colder coil, or its dew point would leave no room for superheat below the air. [K]"""
        at = properties.at(properties.position_of_temperature(air_k - td_k, EVAPORATING_DEW_SHARE))
        above_mean = (1 - EVAPORATING_DEW_SHARE) * (at.dew_k - at.bubble_k)
        return np.maximum(td_k, above_mean + superheat_k / 0.65)

    def line_ambient_k(self, condenser_air_k: Array, evaporator_air_k: Array) -> Array:
        """Air around the suction line: mostly outdoors or the machine room; in heating the outdoor air."""
        return np.where(self.heating, evaporator_air_k + 8.0, np.maximum(condenser_air_k, evaporator_air_k + 2.0))

    def take(self, which: NDArray[np.intp]) -> Machine:
        """Some of the units, in the order given."""
        taken = Machine.__new__(Machine)
        for name, value in vars(self).items():
            if isinstance(value, np.ndarray):
                value = value[which]
            elif isinstance(value, Properties | Habits | Makes):
                value = value.take(which)
            elif isinstance(value, tuple):
                value = tuple(value[i] for i in which)
            setattr(taken, name, value)
        taken.n = len(which)
        return taken

    def charge_kg(self, faults: Faults) -> Array:
        """What is in it. Up to what its receiver holds in reserve a loss or an excess does not show: not counted. [kg]"""
        under, over = faults.size(Fault.UNDERCHARGE), faults.size(Fault.OVERCHARGE)
        bare = 1 - self.spare  # share that works, without the receiver's reserve
        lost = np.where(under > 0, self.spare, 0.0) + charge_lost(under) * bare
        added = np.where(over > 0, self.room, 0.0) + np.where(self.receiver, 0.75, 1.0) * charge_added(over) * bare
        charge: Array = self.charge_design * np.maximum(1 - lost + added, 0.1)
        return charge
