"""One turn around the circuit: from a guess of both pressures and the vapour leaving the evaporator to what fits.

`Machine` is a row of sized units; `Machine.turn` takes a trial state and returns the state that follows and by how
much it contradicts itself. `solve` moves the trial until nothing contradicts. All formulas are ours: zoned
effectiveness-NTU coils, volumetric and isentropic efficiency against ratio, orifice flow, mass in every part.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from dry_gauge.bench import moist_air
from dry_gauge.bench.plant import MECHANISMS, Faults, Habits, Nameplate, Weather
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.refrigerants.properties import Properties, Saturated
from dry_gauge.core.vocabulary import Fault, HeadPressureControl, Kind, Metering, Mode

Array = NDArray[np.float64]
Bools = NDArray[np.bool_]

EVAPORATING_DEW_SHARE = 0.6
_SUPERHEAT_AREA = 0.12  # share of a healthy evaporator that only warms vapour
_SUBCOOLING_AREA, _SUBCOOLING_AREA_RECEIVER = 0.13, 0.035  # of a healthy condenser filled with liquid
_RECEIVER_FILLS_OVER = 0.03  # more such area while the receiver fills from empty to full
_DESUPERHEATING = 0.62  # effectiveness where vapour cools, against where it condenses
_CLEARANCE = 0.045  # volumetric loss of the compressor per (ratio^(1/1.1) - 1)
_ISENTROPIC = 0.69
_SHELL_LOSS = 0.08  # of the compressor's power that leaves through its shell
_FLASH_CHOKES = 14.0  # an orifice fed with quality x passes 1/(1 + 14 x)
_VALVE_RESERVE = 1.7  # of a thermostatic valve, beyond what the design point needs
_VALVE_SPAN_K = 5.0  # superheat over which it opens
_LIQUID_VOID = 0.20  # share of a two-phase zone's volume that is liquid
_HEATING_SUPERHEAT_K = 4.0


def _soft_clip(value: Array, low: Array | float, high: Array | float, width: float) -> Array:
    """Clipped with rounded corners, so that Newton's method sees no kink."""

    def ramp(x: Array) -> Array:
        result: Array = width * np.logaddexp(0.0, x / width)
        return result

    return low + ramp(value - low) - ramp(value - high)


@dataclass(frozen=True, slots=True)
class Trial:
    """What is guessed: both pressures as positions in their tables, and the vapour leaving the evaporator.

    `dryness` is its enthalpy above dew as a share of the latent heat: below zero it still carries liquid.
    """

    evaporating: Array
    condensing: Array
    dryness: Array


@dataclass(frozen=True, slots=True)
class Turn:
    """Everything around the circuit at one trial state, SI; `imbalance` is (3, ...): flow, vapour, charge."""

    imbalance: Array
    suction_pressure_pa: Array
    liquid_pressure_pa: Array
    discharge_pressure_pa: Array
    coil_outlet_k: Array
    suction_line_k: Array
    compressor_suction_k: Array
    discharge_line_k: Array
    liquid_line_k: Array
    drier_outlet_k: Array
    valve_inlet_k: Array
    valve_inlet_quality: Array
    supply_air_k: Array
    supply_humidity: Array
    condenser_leaving_air_k: Array
    entering_air_k: Array
    evaporator_airflow_kg_s: Array
    mass_flow_kg_s: Array
    power_w: Array
    evaporator_heat_w: Array
    condenser_heat_w: Array
    receiver_level: Array
    valve_opening: Array
    evaporator_inlet_enthalpy: Array
    evaporator_outlet_enthalpy: Array
    discharge_enthalpy: Array
    liquid_enthalpy: Array
    compressor_suction_enthalpy: Array


class Machine:
    """A row of units, sized; then run in any weather with any faults.

    Parameters
    ----------
    nameplates : sequence of Nameplate
        One a unit.
    habits : Habits
        How each departs from its nameplate.
    """

    def __init__(self, nameplates: Sequence[Nameplate], habits: Habits) -> None:
        self.nameplates = tuple(nameplates)
        self.n = len(nameplates)
        self.habits = habits

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
        self.fan_controlled = flags(
            [c in (HeadPressureControl.FAN_CYCLING, HeadPressureControl.VARIABLE_SPEED) for c in control]
        )
        usual_box = np.where(self.freezer, to_kelvin(-5), to_kelvin(37))
        given = np.array([p.design_box_k if p.design_box_k is not None else np.nan for p in nameplates])
        self.design_box_k = np.where(np.isnan(given), usual_box, given)
        label = Properties([p.refrigerant for p in nameplates])
        self._size(label, array)
        filled = [p.filled_with or p.refrigerant for p in nameplates]
        self.properties = label if filled == [p.refrigerant for p in nameplates] else Properties(filled)

    # -- sizing ------------------------------------------------------------------

    def _size(self, properties: Properties, array) -> None:  # type: ignore[no-untyped-def]
        """Choose every part so that the unit meets its nameplate at its design point, then depart by its habits."""
        capacity = array("capacity_w")
        subcooling, superheat = array("design_subcooling_k"), array("design_superheat_k")
        self.superheat_set_k = np.where(self.heating & ~self.fixed, _HEATING_SUPERHEAT_K, superheat)
        habits = self.habits
        evaporator_air_k = np.where(
            self.walk_in,
            self.design_box_k,
            np.where(self.heating, np.where(self.fixed, to_kelvin(34), to_kelvin(42)), to_kelvin(80)),
        )
        wet_k = np.where(
            self.walk_in,
            self.design_box_k - np.where(self.freezer, 0.6, 1.2),
            np.where(self.heating, np.where(self.fixed, to_kelvin(31.5), to_kelvin(39)), to_kelvin(67)),
        )
        condenser_air_k = np.where(self.heating, to_kelvin(70), to_kelvin(95))
        atmosphere = np.full(self.n, 101_325.0)
        humidity = moist_air.humidity_of_wet_bulb(evaporator_air_k, wet_k, atmosphere)
        self.evaporator_td_k = self._reachable_td(properties, evaporator_air_k, array("evaporator_td_k"), superheat)
        self._evaporating_design = properties.position_of_temperature(
            evaporator_air_k - self.evaporator_td_k, EVAPORATING_DEW_SHARE
        )
        self.condenser_split_k = array("condenser_split_k")
        self._condensing_design = properties.position_of_temperature(condenser_air_k + self.condenser_split_k)
        low, high = properties.at(self._evaporating_design), properties.at(self._condensing_design)
        p_low = properties.pressure_pa(self._evaporating_design)
        p_high = properties.pressure_pa(self._condensing_design)
        h_liquid = high.liquid_enthalpy(subcooling)
        h_out = low.vapour_enthalpy(superheat)
        mass = capacity / (h_out - h_liquid)
        self.mass_design = mass
        # Suction line.
        gain_k = np.where(self.walk_in, np.where(self.freezer, 17.0, 14.0), np.where(self.split, 1.6, 0.8))
        ambient_k = self._line_ambient_k(condenser_air_k, evaporator_air_k)
        out_k = low.dew_k + superheat
        self.line_gain = (
            -np.log(np.maximum(1 - gain_k / np.maximum(ambient_k - out_k, gain_k * 1.2), 0.05)) * habits.line_gain
        )
        self.suction_drop = (
            np.where(self.walk_in, 0.025, np.where(self.split, 0.018, 0.008)) * p_low * habits.line_drop / mass**2
        )
        self.discharge_drop = 0.012 * p_high * habits.line_drop / mass**2
        self.liquid_drop = np.where(self.split | self.walk_in, 0.012, 0.005) * p_high * habits.line_drop / mass**2
        # Compressor.
        p_suction = p_low - self.suction_drop * mass**2
        suction = properties.at(properties.position(p_suction))
        superheat_in = np.maximum(out_k + gain_k - suction.dew_k, 1.0)
        p_discharge = p_high + self.discharge_drop * mass**2
        top = properties.at(properties.position(p_discharge))
        ratio = p_discharge / p_suction
        self.displacement = (
            mass / (suction.vapour_density(superheat_in) * self._volumetric(ratio)) * habits.displacement
        )
        h_suction = suction.vapour_enthalpy(superheat_in)
        h_discharge, power = self._compressed(suction, top, superheat_in, h_suction, ratio, mass)
        self.power_design = power
        # Evaporator.
        per_watt = np.where(self.walk_in, 1.8, np.where(self.heating, 1.6, 1.0))
        airflow = capacity * 400 * 4.719474e-4 / 3516.853 * per_watt
        air_kg_s = airflow * 1.2
        whole_w = mass * (low.dew_enthalpy - h_liquid) / (1 - _SUPERHEAT_AREA)
        mean_k = low.bubble_k + EVAPORATING_DEW_SHARE * (low.dew_k - low.bubble_k)
        bypass = np.where(self.walk_in, 0.30, np.where(self.heating, 0.28, 0.14))
        surface_k = self._surface_for(whole_w, air_kg_s, 1 - bypass, evaporator_air_k, humidity, atmosphere)
        # A coil that would have to be colder than the refrigerant gets a better air side instead.
        surface_k = np.maximum(surface_k, mean_k + 0.18 * (evaporator_air_k - mean_k))
        reachable = self._air_heat(air_kg_s, np.ones(self.n), surface_k, evaporator_air_k, humidity, atmosphere)[0]
        contact = whole_w / reachable
        more = np.maximum(contact / 0.95, 1.0)
        air_kg_s, contact = air_kg_s * more, contact / more
        self.air_kg_s_design = air_kg_s * habits.evaporator_airflow
        self.contact_ntu = -np.log(1 - contact) * habits.evaporator_surface
        self.inside_w_k = whole_w / (surface_k - mean_k) * habits.evaporator_surface
        warmest = evaporator_air_k - low.dew_k
        share = np.minimum(superheat / warmest, 0.9)
        self.superheat_ntu = -np.log(1 - share) / _SUPERHEAT_AREA * habits.evaporator_surface
        # Condenser.
        condenser_cfm = np.where(self.heating, 400.0, 850.0)
        heat_w = mass * (h_discharge - h_liquid)
        air_w_k = capacity * condenser_cfm * 4.719474e-4 / 3516.853 * 1.2 * moist_air.DRY_AIR_J_KG_K
        liquid_area = np.where(self.receiver, _SUBCOOLING_AREA_RECEIVER, _SUBCOOLING_AREA)
        need = self._zones(high, h_discharge, mass, condenser_air_k)
        effective = sum(need) / (air_w_k * (1 - liquid_area))
        more = np.maximum(effective / 0.86, 1.0)
        air_w_k, effective = air_w_k * more, effective / more
        self.condenser_air_w_k_design = air_w_k * habits.condenser_airflow
        self.condenser_ntu = -np.log(1 - effective) * habits.condenser_surface
        share = np.minimum(subcooling / (high.bubble_k - condenser_air_k), 0.93)
        self.subcooling_ntu = -np.log(1 - share) / liquid_area
        self.condenser_heat_design = heat_w
        # Metering and charge.
        self.metering_flow = np.ones(self.n)
        trial_flow = self._metered(
            p_high - self.liquid_drop * mass**2 - p_low, high.bubble_density, subcooling, np.zeros(self.n)
        )
        reserve = np.where(self.fixed, 1.0, np.where(self.electronic, 2.0, _VALVE_RESERVE))
        self.metering_flow = mass / trial_flow * reserve * habits.metering
        self.volume_condenser = 5.4e-4 * capacity / 1000 * habits.volume
        self.volume_evaporator = 3.4e-4 * capacity / 1000 * habits.volume
        self.volume_liquid_line = np.where(self.split | self.walk_in, 0.9e-4, 0.3e-4) * capacity / 1000
        # Flooded head control stores in summer what fills the condenser in winter.
        winter = np.where(self.flooded, 6.5e-4, 0.0)
        self.volume_receiver = np.where(self.receiver, (6.0e-4 + winter) * capacity / 1000, 0.0)
        level = np.where(self.receiver, np.where(self.flooded, 0.68, 0.45), 0.0)
        condensing_share = (1 - liquid_area) * need[1] / (need[0] + need[1])
        vapour_share = (1 - liquid_area) - condensing_share
        self.charge_design = (
            self.volume_condenser
            * (
                vapour_share * high.dew_density
                + condensing_share * (_LIQUID_VOID * high.bubble_density + (1 - _LIQUID_VOID) * high.dew_density)
                + liquid_area * high.bubble_density
            )
            + self.volume_liquid_line * high.bubble_density
            + self.volume_receiver * (level * high.bubble_density + (1 - level) * high.dew_density)
            + self.volume_evaporator
            * (
                (1 - _SUPERHEAT_AREA) * (_LIQUID_VOID * low.bubble_density + (1 - _LIQUID_VOID) * low.dew_density)
                + _SUPERHEAT_AREA * low.dew_density
            )
        ) * habits.charge
        receiver_share = self.volume_receiver * high.bubble_density / self.charge_design
        # What can be lost before anything shows, and what can be added: nothing without a receiver.
        self.spare = np.where(self.receiver, level * receiver_share * np.where(self.flooded, 0.90, 0.97), 0.0)
        self.room = np.where(self.receiver, (1 - level) * receiver_share * 1.06, 0.0)
        floor_k = np.where(self.freezer, to_kelvin(72), to_kelvin(78))
        self.floor_pa = properties.pressure_pa(properties.position_of_temperature(floor_k))

    @staticmethod
    def _reachable_td(properties: Properties, air_k: Array, td_k: Array, superheat_k: Array) -> Array:
        """A wide glide needs a colder coil, or its dew point would leave no room for superheat below the air. [K]"""
        at = properties.at(properties.position_of_temperature(air_k - td_k, EVAPORATING_DEW_SHARE))
        above_mean = (1 - EVAPORATING_DEW_SHARE) * (at.dew_k - at.bubble_k)
        return np.maximum(td_k, above_mean + superheat_k / 0.65)

    def _line_ambient_k(self, condenser_air_k: Array, evaporator_air_k: Array) -> Array:
        """Air around the suction line: mostly outdoors or the machine room; in heating the outdoor air."""
        return np.where(self.heating, evaporator_air_k + 8.0, np.maximum(condenser_air_k, evaporator_air_k + 2.0))

    @staticmethod
    def _air_heat(
        air_kg_s: Array, contact: Array, surface_k: Array, dry_k: Array, humidity: Array, atmosphere: Array
    ) -> tuple[Array, Array]:
        """Whole and sensible heat that air gives to a surface, wet where that is more. [W]"""
        sensible = contact * air_kg_s * moist_air.heat_capacity(humidity) * (dry_k - surface_k)
        at_surface = moist_air.enthalpy(surface_k, moist_air.saturated_humidity(surface_k, atmosphere))
        whole = contact * air_kg_s * (moist_air.enthalpy(dry_k, humidity) - at_surface)
        return np.maximum(sensible, whole), sensible

    def _surface_for(
        self, heat_w: Array, air_kg_s: Array, contact: Array, dry_k: Array, humidity: Array, atmosphere: Array
    ) -> Array:
        low, high = dry_k - 60.0, dry_k.copy()
        for _ in range(30):
            middle = (low + high) / 2
            more = self._air_heat(air_kg_s, contact, middle, dry_k, humidity, atmosphere)[0] > heat_w
            low, high = np.where(more, middle, low), np.where(more, high, middle)
        return (low + high) / 2

    def _volumetric(self, ratio: Array) -> Array:
        return np.maximum(1 - _CLEARANCE * (np.maximum(ratio, 1.0) ** (1 / 1.1) - 1), 0.15)

    def _compressed(
        self, suction: Saturated, top: Saturated, superheat_k: Array, h_suction: Array, ratio: Array, mass: Array,
        worn: Array | float = 0.0,
    ) -> tuple[Array, Array]:  # fmt: skip
        """Discharge enthalpy and electrical power; a worn compressor recompresses what leaks back."""
        ideal = top.vapour_enthalpy(top.superheat_at_entropy_k(suction.vapour_entropy(superheat_k)))
        efficiency = (
            _ISENTROPIC
            * self.habits.isentropic
            * (1 - 0.012 * np.abs(ratio - 3.2))
            * np.clip(0.55 + 0.45 * (ratio - 1) / 0.8, 0.55, 1)
        )
        work = np.maximum(ideal - h_suction, 100.0) / np.maximum(efficiency, 0.3) * (1 + worn)
        return h_suction + (1 - _SHELL_LOSS) * work, work * mass

    @staticmethod
    def _zones(high: Saturated, h_in: Array, mass: Array, air_k: Array) -> tuple[Array, Array]:
        """Air heat capacity rate times effectiveness wanted for desuperheating and for condensing. [W/K]"""
        warm_k = high.dew_k + np.maximum(high.vapour_superheat_k(np.maximum(h_in, high.dew_enthalpy)), 0.0) * 0.45
        vapour = mass * np.maximum(h_in - high.dew_enthalpy, 0.0) / (_DESUPERHEATING * np.maximum(warm_k - air_k, 0.3))
        latent = mass * np.minimum(h_in - high.bubble_enthalpy, high.latent)
        mean_k = (high.bubble_k + high.dew_k) / 2
        return vapour, latent / np.maximum(mean_k - air_k, 0.3)

    def _metered(self, drop_pa: Array, density: Array, subcooling_k: Array, quality: Array) -> Array:
        """Flow through the fully open metering device. [kg/s]"""
        driving = np.sqrt(_soft_clip(drop_pa, 0.0, 1e9, 5e3) * density)
        return self.metering_flow * driving * (1 + 0.006 * subcooling_k) / (1 + _FLASH_CHOKES * quality)

    def take(self, which: NDArray[np.intp]) -> Machine:
        """Some of the units, in the order given."""
        taken = Machine.__new__(Machine)
        for name, value in vars(self).items():
            if isinstance(value, np.ndarray):
                value = value[which]
            elif isinstance(value, Properties | Habits):
                value = value.take(which)
            elif isinstance(value, tuple):
                value = tuple(value[i] for i in which)
            setattr(taken, name, value)
        taken.n = len(which)
        return taken

    # -- running -----------------------------------------------------------------

    def guess(self, weather: Weather) -> Trial:
        """Where a healthy unit would be in this weather, roughly."""
        properties = self.properties
        dry_k, _, condenser_k = self._air(weather)
        high_k = condenser_k + self.condenser_split_k * 0.95
        evaporating = properties.position_of_temperature(dry_k - self.evaporator_td_k * 1.02, EVAPORATING_DEW_SHARE)
        condensing = properties.position_of_temperature(high_k)
        floor = properties.position(self.floor_pa)
        condensing = np.where(self.flooded | self.fan_controlled, np.maximum(condensing, floor), condensing)
        return Trial(np.clip(evaporating, -0.98, 0.9), np.clip(condensing, -0.9, 0.98), np.full(self.n, 0.03))

    def _air(self, weather: Weather) -> tuple[Array, Array, Array]:
        """Dry bulb and humidity into the evaporator, dry bulb into the condenser."""
        dry_k = np.where(self.heating, weather.outdoor_k, weather.return_k)
        wet_k = np.where(self.heating, weather.outdoor_k - 1.8, weather.return_wet_bulb_k)
        humidity = moist_air.humidity_of_wet_bulb(dry_k, wet_k, weather.atmosphere_pa)
        return dry_k, humidity, np.where(self.heating, weather.return_k, weather.outdoor_k)

    def turn(self, trial: Trial, weather: Weather, faults: Faults) -> Turn:
        """Once around, from a trial state.

        Parameters
        ----------
        trial : Trial
            Arrays (..., n): several trials of the same units may stand on leading axes.
        """
        habits, properties, f = self.habits, self.properties, faults
        dry_k, humidity, condenser_k = self._air(weather)
        entering_k = dry_k
        # Load that the air probe does not show: on a box warm wet air at the coil, on comfort units too much air.
        load = f[Fault.HIGH_EVAPORATOR_LOAD]
        dry_k = dry_k + np.where(self.walk_in, 6.0 * load, 0.0)
        humidity = humidity * np.where(self.walk_in, 1 + 0.8 * load, 1.0)
        atmosphere, stage = weather.atmosphere_pa, weather.stage
        thin = moist_air.density_kg_m3(dry_k, atmosphere) / 1.2
        p_low, p_true = properties.pressure_pa(trial.evaporating), properties.pressure_pa(trial.condensing)
        # Gas that does not condense adds its own pressure and blankets the tubes.
        foreign = f[Fault.NON_CONDENSABLES]
        p_high = p_true * (1 + 0.26 * foreign)
        flow = self.mass_design * stage * np.exp(np.clip(trial.evaporating - self._evaporating_design, -1.0, 0.5))
        p_suction = p_low - np.minimum(self.suction_drop * flow * flow, 0.3 * p_low)
        p_discharge = p_high + self.discharge_drop * flow * flow
        low, high, suction, top = properties.at_each(
            trial.evaporating, trial.condensing, properties.position(p_suction), properties.position(p_discharge)
        )

        # Suction line and compressor.
        h_out = low.dew_enthalpy + trial.dryness * low.latent
        out_superheat = low.vapour_superheat_k(np.maximum(h_out, low.dew_enthalpy))
        out_k = np.where(trial.dryness >= 0, low.dew_k + out_superheat, low.dew_k + _wetness(trial, low))
        ambient_k = self._line_ambient_k(condenser_k, entering_k)
        warmed = 1 - np.exp(-np.minimum(self.line_gain * self.mass_design / flow, 3.0))
        worn = 1.1 * f[Fault.INEFFICIENT_COMPRESSOR]
        capacity_rate = self._vapour_heat(low)
        reversing = np.where(self.heating, 3.0, 0.0) * worn
        rise_k = warmed * np.maximum(ambient_k - out_k, -5.0) + reversing
        h_in = h_out + capacity_rate * rise_k
        in_superheat = suction.vapour_superheat_k(np.maximum(h_in, suction.dew_enthalpy))
        wet = np.minimum((h_in - suction.dew_enthalpy) / suction.latent, 0.0)
        ratio = p_discharge / p_suction
        pumped = self._volumetric(ratio) * (1 - 0.50 * worn) - 0.02 * worn * ratio
        density = suction.vapour_density(in_superheat) / np.maximum(1 + wet, 0.4)
        mass = self.displacement * stage * density * _soft_clip(pumped, 0.08, 1.0, 0.02)
        h_discharge, work = self._compressed(
            suction, top, in_superheat, np.maximum(h_in, suction.dew_enthalpy), ratio, mass, 0.30 * worn
        )  # fmt: skip
        # Liquid that reaches the compressor boils off the heat of the stroke.
        h_discharge = h_discharge + 1.15 * np.minimum(h_in - suction.dew_enthalpy, 0.0)
        discharge_superheat = np.maximum(top.vapour_superheat_k(np.maximum(h_discharge, top.dew_enthalpy)), 0.0)
        discharge_k = top.dew_k + discharge_superheat - 1.5

        # Condenser: the area left over after desuperheating and condensing holds liquid.
        control = np.clip((p_true - self.floor_pa) / (0.10 * self.floor_pa), -4.0, 4.0)
        open_share = _soft_clip((control + 1.0) * 0.5, 0.06, 1.0, 0.05)
        fan_share = np.where(self.fan_controlled, open_share, 1.0)
        # Only what is in the system can flood the condenser: a short charge lets the head fall in cold weather.
        charge = self._charge(faults)
        most = 0.5 * charge / (0.9 * self.volume_condenser * high.bubble_density)
        face = np.where(self.flooded, np.maximum(open_share, 1 - most), 1.0)
        dirty = f[Fault.LOW_CONDENSER_AIRFLOW]
        moving = (1 - 0.75 * dirty) * fan_share * (0.6 + 0.4 * stage)
        thin_out = moist_air.density_kg_m3(condenser_k, atmosphere) / 1.146
        air_w_k = self.condenser_air_w_k_design * moving * thin_out
        ntu = self.condenser_ntu * moving**-0.55 * (1 - 0.15 * dirty) * (1 - 0.18 * foreign)
        exchange = air_w_k * (1 - np.exp(-np.minimum(ntu, 30.0))) * face
        vapour_need, latent_need = self._zones(high, h_discharge, mass, condenser_k)
        left = 1 - (vapour_need + latent_need) / exchange
        liquid_share = np.maximum(left, 0.0)
        flooded_share = (1 - face) * 0.9
        sub_ntu = self.subcooling_ntu * (self.mass_design * stage / mass) ** 0.7 * (moving**0.3)
        span_k = np.maximum(high.bubble_k - condenser_k, 0.0)
        subcooling = span_k * (1 - np.exp(-np.minimum(sub_ntu * liquid_share, 30.0)))
        # A flooded condenser's cold liquid meets bypassed gas on its way to the receiver.
        subcooling = subcooling * (0.2 + 0.8 * face**2)
        undone = np.maximum(-left, 0.0)
        mean_k = (high.bubble_k + high.dew_k) / 2
        h_liquid = high.liquid_enthalpy(subcooling) + undone * exchange * np.maximum(mean_k - condenser_k, 0.3) / mass
        quality_out = np.maximum(h_liquid - high.bubble_enthalpy, 0.0) / high.latent
        liquid_k = high.bubble_k - subcooling + np.minimum(quality_out, 1.0) * (high.dew_k - high.bubble_k)
        condenser_heat = mass * (h_discharge - h_liquid)
        leaving_k = condenser_k + condenser_heat / np.maximum(air_w_k, 1.0)

        # Liquid line and metering.
        clogged = f[Fault.LIQUID_LINE_RESTRICTION]
        line_drop = self.liquid_drop * mass * mass
        drier_drop = (
            0.02
            * p_high
            * (mass / self.mass_design) ** 2
            * (20 ** (np.where(self.fixed, 1.5, 1.35) * clogged**0.8) - 1)
        )
        p_valve = np.maximum(p_high - line_drop - drier_drop, p_low * 1.03)
        at_valve = properties.at(properties.position(p_valve))
        quality = np.clip((h_liquid - at_valve.bubble_enthalpy) / at_valve.latent, 0.0, 1.0)
        valve_k = np.where(
            quality > 0,
            np.minimum(at_valve.bubble_k + quality * (at_valve.dew_k - at_valve.bubble_k), liquid_k),
            liquid_k,
        )
        under = f[Fault.METERING_UNDERFEEDING]
        over = f[Fault.METERING_OVERFEEDING]
        set_k = self.superheat_set_k * habits.superheat_set
        set_k = set_k - over * (set_k + np.where(self.walk_in, 4.0, 2.5))
        here_k = np.where(trial.dryness >= 0, out_superheat, trial.dryness * low.latent / capacity_rate)
        span = np.where(self.electronic, 0.35, 1.0) * _VALVE_SPAN_K
        needed = 1 / np.where(self.electronic, 2.0, _VALVE_RESERVE)
        wanted = needed + (here_k - set_k) / span
        # A valve stuck open cannot close below its share; a starved one has lost its reserve and more.
        opening = _soft_clip(wanted, 0.04 + over * needed * 1.9, 1.0 + 0.4 * over, 0.04)
        opening = np.where(self.fixed, 1.0 + 0.9 * over, opening)
        starved = np.exp(-np.where(self.fixed, 0.60, 2.1) * under)
        metered = (
            self._metered(
                p_valve - p_low,
                at_valve.bubble_density,
                np.where(quality > 0, 0.0, at_valve.bubble_k - liquid_k),
                quality,
            )
            * opening
            * starved
        )

        # Evaporator.
        blocked = f[Fault.LOW_EVAPORATOR_AIRFLOW]
        air_share = (1 - 0.75 * blocked) * (1 + np.where(self.walk_in, 0.0, 0.90 * load)) * (1 - 0.75 * weather.frost)
        air_share = air_share * (0.55 + 0.45 * stage)
        air_kg_s = self.air_kg_s_design * air_share * thin
        contact = 1 - np.exp(-np.minimum(self.contact_ntu * air_share**-0.45, 30.0))
        mean_low_k = low.bubble_k + EVAPORATING_DEW_SHARE * (low.dew_k - low.bubble_k)
        surface_k = self._surface(mean_low_k, air_kg_s, contact, dry_k, humidity, atmosphere)
        whole_w, sensible_w = self._air_heat(air_kg_s, contact, surface_k, dry_k, humidity, atmosphere)
        whole_w = np.maximum(whole_w, 1e-3 * self.mass_design * low.latent)
        boil = mass * (low.dew_enthalpy - h_liquid)
        wetted = boil / whole_w
        dry_share = np.maximum(1 - wetted, 0.0)
        super_ntu = self.superheat_ntu * (self.mass_design * stage / mass) ** 0.25 * air_share**0.2
        warm_k = np.maximum(dry_k - low.dew_k, 0.0) * (1 - np.exp(-np.minimum(super_ntu * dry_share, 30.0)))
        carried = np.maximum(wetted - 1, 0.0) * whole_w / mass  # enthalpy short of dew: liquid leaves
        h_reached = low.vapour_enthalpy(warm_k) - carried
        dryness_reached = (h_reached - low.dew_enthalpy) / low.latent
        covered = np.minimum(wetted, 1.0)
        super_w = mass * (low.vapour_enthalpy(warm_k) - low.dew_enthalpy)
        fan_heat = np.where(self.heating, 0.0, 0.6)
        air_heat_capacity = np.maximum(air_kg_s * moist_air.heat_capacity(humidity), 1.0)
        sensible_total = covered * sensible_w + super_w
        evaporator_heat = covered * whole_w + super_w
        cooled_k = dry_k - sensible_total / air_heat_capacity + fan_heat
        dried = humidity - np.maximum(covered * (whole_w - sensible_w), 0.0) / np.maximum(air_kg_s, 1e-6) / 2.5e6
        dried = np.maximum(np.minimum(dried, moist_air.saturated_humidity(cooled_k, atmosphere)), 1e-5)

        # Charge.
        spill = np.exp(-14.0 * undone)
        # Liquid that was cooled is denser; where a receiver is full this is what lets a little more in.
        liquid_density = high.bubble_density * (1 + 0.004 * subcooling)
        in_condenser = self.volume_condenser * (
            flooded_share * high.bubble_density
            + (1 - flooded_share)
            * (
                liquid_share * liquid_density
                + (1 - liquid_share)
                * (_LIQUID_VOID * spill * high.bubble_density + (1 - _LIQUID_VOID * spill) * high.dew_density)
            )
        )
        in_line = self.volume_liquid_line * at_valve.bubble_density / (1 + 12 * np.maximum(quality, quality_out))
        level = _soft_clip(
            (left - (_SUBCOOLING_AREA_RECEIVER - 0.45 * _RECEIVER_FILLS_OVER)) / _RECEIVER_FILLS_OVER, 0.0, 1.0, 0.03
        )
        in_receiver = self.volume_receiver * (level * liquid_density + (1 - level) * high.dew_density)
        flooding = np.minimum(np.maximum(-dryness_reached, 0.0), 0.4)
        in_evaporator = self.volume_evaporator * (
            covered * ((_LIQUID_VOID + flooding) * low.bubble_density + (1 - _LIQUID_VOID) * low.dew_density)
            + (1 - covered) * low.dew_density
        )
        held = in_condenser + in_line + in_receiver + in_evaporator

        suction_line_k = out_k + 0.55 * rise_k
        fan_power = np.where(self.walk_in, 0.05, 0.10) * self.power_design
        shape = np.broadcast_shapes(mass.shape)
        return Turn(
            np.stack(
                [
                    np.log(metered + 1e-3 * self.mass_design) - np.log(mass + 1e-3 * self.mass_design),
                    dryness_reached - trial.dryness,
                    held / charge - 1,
                ]
            ),
            p_suction, p_high, p_discharge, out_k, suction_line_k, out_k + rise_k, discharge_k, liquid_k,
            valve_k, valve_k, quality, cooled_k, dried,
            leaving_k, np.broadcast_to(entering_k, shape), air_kg_s, mass, work + fan_power, evaporator_heat, condenser_heat,
            level, opening, h_liquid, h_out, h_discharge, h_liquid, h_in,
        )  # fmt: skip

    def _charge(self, faults: Faults) -> Array:
        """What is in it. Up to what its receiver holds in reserve a loss or an excess does not show: not counted. [kg]"""
        under, over = faults[Fault.UNDERCHARGE], faults[Fault.OVERCHARGE]
        bare = 1 - self.spare  # share that works, without the receiver's reserve
        lost = np.where(under > 0, self.spare, 0.0) + 0.52 * under**1.5 * bare
        added = np.where(over > 0, self.room, 0.0) + np.where(self.receiver, 0.36, 0.50) * over * bare
        charge: Array = self.charge_design * np.maximum(1 - lost + added, 0.1)
        return charge

    def _surface(
        self, refrigerant_k: Array, air_kg_s: Array, contact: Array, dry_k: Array, humidity: Array, atmosphere: Array
    ) -> Array:
        """Coil surface where the heat from the air equals the heat into the refrigerant. [K]"""
        span = np.maximum(dry_k - refrigerant_k, 0.05)
        # Enthalpy of saturated air over that span as a parabola: three values of it, then closed form.
        places = np.array([0.0, 0.5, 1.0]).reshape(3, *(1,) * span.ndim)
        at_k = refrigerant_k + places * span
        start, halfway, end = moist_air.enthalpy(at_k, moist_air.saturated_humidity(at_k, atmosphere))
        bend = 2 * (start + end - 2 * halfway)
        slope = end - start - bend
        blown = contact * air_kg_s
        inside = self.inside_w_k * span
        # Wet: blown * (h_air - start - slope*y - bend*y*y) = inside * y, y being the share of the span.
        drive = blown * (moist_air.enthalpy(dry_k, humidity) - start)
        linear = blown * slope + inside
        root = np.sqrt(np.maximum(linear * linear + 4 * blown * bend * drive, 0.0))
        wet = 2 * drive / (linear + root)
        sensible = blown * moist_air.heat_capacity(humidity) * span
        dry = sensible / (sensible + inside)
        surface: Array = refrigerant_k + np.clip(np.maximum(wet, dry), 0.0, 1.0) * span
        return surface

    @staticmethod
    def _vapour_heat(low: Saturated) -> Array:
        """Heat capacity of the suction vapour. [J/(kg K)]"""
        return (low.vapour_enthalpy(np.full_like(low.dew_k, 12.0)) - low.dew_enthalpy) / 12.0


def _wetness(trial: Trial, low: Saturated) -> Array:
    """How far below dew a pipe carrying liquid reads: nothing on a single fluid, down the glide on a blend. [K]"""
    result: Array = np.maximum(trial.dryness, -0.8) * (low.dew_k - low.bubble_k)
    return result


def fields_of(turn: Turn) -> dict[str, Array]:
    """Every array of a turn by name, the imbalance left out."""
    return {field.name: getattr(turn, field.name) for field in fields(Turn) if field.name != "imbalance"}


__all__ = ["MECHANISMS", "Machine", "Trial", "Turn", "fields_of"]
