"""One turn around the circuit: from a guess of both pressures and the vapour leaving the evaporator to what fits.

`turn` takes a trial state of a row of machines and returns the state that follows and by how much it contradicts
itself. `solve` moves the trial until nothing contradicts.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dry_gauge.bench import moist_air
from dry_gauge.bench.machine import SUBCOOLING_AREA_RECEIVER, Machine
from dry_gauge.bench.parts import (
    air_heat,
    balanced_surface,
    compressed,
    condenser_zones,
    orifice_flow,
    soft_clip,
    volumetric_efficiency,
)
from dry_gauge.bench.plant import Faults, Weather
from dry_gauge.core.refrigerants.properties import Saturated
from dry_gauge.core.refrigerants.saturation import EVAPORATING_DEW_SHARE
from dry_gauge.core.vocabulary import Fault

Array = NDArray[np.float64]

_RECEIVER_FILLS_OVER = 0.03  # of the condenser's area, while the receiver fills from empty to full
_ACCUMULATES = 0.08  # of a piston's flow in heating, for each kelvin of superheat; chosen, see `_accumulated`
_RESERVE_GONE = 0.08  # of an underfeeding valve's size, over which it loses most of its reserve
LOAD_K = 7.5  # by which a box's full extra load warms the air at its coil
_SMALL = 1e-3  # of the design flow: keeps logarithms finite


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
    valve_inlet_k: Array
    supply_air_k: Array
    supply_humidity: Array
    condenser_leaving_air_k: Array
    evaporator_airflow_kg_s: Array
    mass_flow_kg_s: Array
    power_w: Array
    evaporator_heat_w: Array
    condenser_heat_w: Array
    receiver_level: Array
    valve_opening: Array


@dataclass(frozen=True, slots=True)
class _Ends:
    """Saturated states at the four pressures of the trial, and those pressures."""

    p_low: Array
    p_true: Array
    p_high: Array
    p_suction: Array
    p_discharge: Array
    flow: Array
    low: Saturated
    high: Saturated
    suction: Saturated
    top: Saturated


@dataclass(frozen=True, slots=True)
class _Pumped:
    """From the evaporator's outlet through the suction line and the compressor."""

    mass: Array
    out_k: Array
    out_superheat: Array
    vapour_heat: Array
    rise_k: Array
    h_out: Array
    h_in: Array
    h_discharge: Array
    work: Array
    discharge_k: Array


@dataclass(frozen=True, slots=True)
class _Condensed:
    """What leaves the condenser."""

    left: Array
    undone: Array
    face: Array
    subcooling: Array
    h_liquid: Array
    quality: Array
    liquid_k: Array
    heat: Array
    leaving_air_k: Array


@dataclass(frozen=True, slots=True)
class _Fed:
    """What the metering device passes."""

    flow: Array
    opening: Array
    valve_k: Array
    quality: Array
    density: Array


@dataclass(frozen=True, slots=True)
class _Evaporated:
    """What the evaporator does with it."""

    dryness: Array
    covered: Array
    heat: Array
    supply_k: Array
    supply_humidity: Array
    air_kg_s: Array


def guess(machine: Machine, weather: Weather) -> Trial:
    """Where a healthy unit would be in this weather, roughly."""
    properties = machine.properties
    dry_k, _, condenser_k = _air(machine, weather)
    high_k = condenser_k + machine.condenser_split_k * 0.95
    evaporating = properties.position_of_temperature(dry_k - machine.evaporator_td_k * 1.02, EVAPORATING_DEW_SHARE)
    condensing = properties.position_of_temperature(high_k)
    floor = properties.position(machine.floor_pa)
    condensing = np.where(machine.flooded | machine.fan_controlled, np.maximum(condensing, floor), condensing)
    return Trial(np.clip(evaporating, -0.98, 0.9), np.clip(condensing, -0.9, 0.98), np.full(machine.n, 0.03))


def turn(machine: Machine, trial: Trial, weather: Weather, faults: Faults) -> Turn:
    """Once around, from a trial state.

    Parameters
    ----------
    trial : Trial
        Arrays (..., n): several trials of the same units may stand on leading axes.
    """
    entering_k, humidity, condenser_k = _air(machine, weather)
    ends = _ends(machine, trial, weather, faults)
    charge = machine.charge_kg(faults)
    pumped = _pump(machine, trial, weather, faults, ends, machine.line_ambient_k(condenser_k, entering_k))
    condensed = _condense(machine, weather, faults, ends, pumped, condenser_k, charge)
    fed = _feed(machine, trial, faults, ends, pumped, condensed)
    boiled = _evaporate(machine, weather, faults, ends, pumped, condensed.h_liquid, entering_k, humidity)
    level, held = _held(machine, ends, condensed, fed, boiled)
    fan_power = np.where(machine.walk_in, 0.05, 0.10) * machine.power_design
    return Turn(
        imbalance=np.stack(
            [
                np.log(fed.flow + _SMALL * machine.mass_design) - np.log(pumped.mass + _SMALL * machine.mass_design),
                boiled.dryness - trial.dryness,
                held / charge - 1,
            ]
        ),
        suction_pressure_pa=ends.p_suction,
        liquid_pressure_pa=ends.p_high,
        discharge_pressure_pa=ends.p_discharge,
        coil_outlet_k=pumped.out_k,
        suction_line_k=pumped.out_k + 0.55 * pumped.rise_k,
        compressor_suction_k=pumped.out_k + pumped.rise_k,
        discharge_line_k=pumped.discharge_k,
        liquid_line_k=condensed.liquid_k,
        valve_inlet_k=fed.valve_k,
        supply_air_k=boiled.supply_k,
        supply_humidity=boiled.supply_humidity,
        condenser_leaving_air_k=condensed.leaving_air_k,
        evaporator_airflow_kg_s=boiled.air_kg_s,
        mass_flow_kg_s=pumped.mass,
        power_w=pumped.work * pumped.mass + fan_power,
        evaporator_heat_w=boiled.heat,
        condenser_heat_w=condensed.heat,
        receiver_level=level,
        valve_opening=fed.opening,
    )


def _air(machine: Machine, weather: Weather) -> tuple[Array, Array, Array]:
    """Dry bulb and humidity into the evaporator, dry bulb into the condenser."""
    dry_k = np.where(machine.heating, weather.outdoor_k, weather.return_k)
    wet_k = np.where(machine.heating, weather.outdoor_k - 1.8, weather.return_wet_bulb_k)
    humidity = moist_air.humidity_of_wet_bulb(dry_k, wet_k, weather.atmosphere_pa)
    return dry_k, humidity, np.where(machine.heating, weather.return_k, weather.outdoor_k)


def _ends(machine: Machine, trial: Trial, weather: Weather, faults: Faults) -> _Ends:
    properties = machine.properties
    p_low, p_true = properties.pressure_pa(trial.evaporating), properties.pressure_pa(trial.condensing)
    # Gas that does not condense adds its own pressure and blankets the tubes.
    p_high = p_true * (1 + 0.26 * faults[Fault.NON_CONDENSABLES])
    about = np.exp(np.clip(trial.evaporating - machine.evaporating_design, -1.0, 0.5))
    flow = machine.mass_design * weather.stage * about
    p_suction = p_low - np.minimum(machine.suction_drop * flow * flow, 0.3 * p_low)
    p_discharge = p_high + machine.discharge_drop * flow * flow
    low, high, suction, top = properties.at_each(
        trial.evaporating, trial.condensing, properties.position(p_suction), properties.position(p_discharge)
    )
    return _Ends(p_low, p_true, p_high, p_suction, p_discharge, flow, low, high, suction, top)


def _pump(machine: Machine, trial: Trial, weather: Weather, faults: Faults, ends: _Ends, ambient_k: Array) -> _Pumped:
    low, suction, top = ends.low, ends.suction, ends.top
    h_out = low.dew_enthalpy + trial.dryness * low.latent
    out_superheat = low.vapour_superheat_k(np.maximum(h_out, low.dew_enthalpy))
    out_k = np.where(trial.dryness >= 0, low.dew_k + out_superheat, low.dew_k + _wetness(trial, low))
    warmed = 1 - np.exp(-np.minimum(machine.line_gain * machine.mass_design / ends.flow, 3.0))
    worn = 1.1 * faults[Fault.INEFFICIENT_COMPRESSOR]
    vapour_heat = (low.vapour_enthalpy(np.full_like(low.dew_k, 12.0)) - low.dew_enthalpy) / 12.0
    # On a heat pump the worn part is as often the reversing valve, which warms the suction pipe.
    reversing = np.where(machine.heating, 3.0, 0.0) * worn
    rise_k = warmed * np.maximum(ambient_k - out_k, -5.0) + reversing
    h_in = h_out + vapour_heat * rise_k
    short = np.minimum(h_in - suction.dew_enthalpy, 0.0)  # below dew: liquid reaches the compressor
    dry_enough = np.maximum(h_in, suction.dew_enthalpy)
    in_superheat = suction.vapour_superheat_k(dry_enough)
    ratio = ends.p_discharge / ends.p_suction
    filled = volumetric_efficiency(machine.makes, ratio) * (1 - machine.makes.worn_loss * worn) - 0.02 * worn * ratio
    density = suction.vapour_density(in_superheat) / np.maximum(1 + short / suction.latent, 0.4)
    mass = machine.displacement * weather.stage * density * soft_clip(filled, 0.08, 1.0, 0.02)
    h_discharge, work = compressed(machine.makes, suction, top, in_superheat, dry_enough, ratio, machine.habits.isentropic, worn)
    h_discharge = h_discharge + 1.15 * short  # it boils off the heat of the stroke
    discharge_superheat = np.maximum(top.vapour_superheat_k(np.maximum(h_discharge, top.dew_enthalpy)), 0.0)
    return _Pumped(
        mass, out_k, out_superheat, vapour_heat, rise_k, h_out, h_in, h_discharge, work, top.dew_k + discharge_superheat - 1.5
    )


def _condense(
    machine: Machine, weather: Weather, faults: Faults, ends: _Ends, pumped: _Pumped, air_k: Array, charge: Array
) -> _Condensed:
    """The area left over after desuperheating and condensing holds liquid."""
    high, mass, makes = ends.high, pumped.mass, machine.makes
    control = np.clip((ends.p_true - machine.floor_pa) / (0.10 * machine.floor_pa), -4.0, 4.0)
    open_share = soft_clip((control + 1.0) * 0.5, 0.06, 1.0, 0.05)
    # Only what is in the system can flood the condenser: a short charge lets the head fall in cold weather.
    most = 0.5 * charge / (0.9 * machine.volume_condenser * high.bubble_density)
    face = np.where(machine.flooded, np.maximum(open_share, 1 - most), 1.0)
    dirty = faults[Fault.LOW_CONDENSER_AIRFLOW]
    moving = (1 - 0.75 * dirty) * np.where(machine.fan_controlled, open_share, 1.0) * weather.outdoor_fan
    thin = moist_air.density_kg_m3(air_k, weather.atmosphere_pa) / 1.146
    air_w_k = machine.condenser_air_w_k_design * moving * thin
    blanket = 1 - makes.blanket * faults[Fault.NON_CONDENSABLES]
    ntu = machine.condenser_ntu * moving**-makes.condenser_exponent * (1 - makes.condenser_fouling * dirty) * blanket
    exchange = air_w_k * (1 - np.exp(-np.minimum(ntu, 30.0))) * face
    vapour_need, latent_need = condenser_zones(makes, high, pumped.h_discharge, mass, air_k)
    left = 1 - (vapour_need + latent_need) / exchange
    sub_ntu = machine.subcooling_ntu * (machine.mass_design * weather.stage / mass) ** makes.liquid_exponent * (moving**0.3)
    span_k = np.maximum(high.bubble_k - air_k, 0.0)
    subcooling = span_k * (1 - np.exp(-np.minimum(sub_ntu * np.maximum(left, 0.0), 30.0)))
    # A flooded condenser's cold liquid meets bypassed gas on its way to the receiver.
    subcooling = subcooling * (0.2 + 0.8 * face**2)
    undone = np.maximum(-left, 0.0)
    mean_k = (high.bubble_k + high.dew_k) / 2
    h_liquid = high.liquid_enthalpy(subcooling) + undone * exchange * np.maximum(mean_k - air_k, 0.3) / mass
    quality = np.maximum(h_liquid - high.bubble_enthalpy, 0.0) / high.latent
    liquid_k = high.bubble_k - subcooling + np.minimum(quality, 1.0) * (high.dew_k - high.bubble_k)
    heat = mass * (pumped.h_discharge - h_liquid)
    leaving_k = air_k + heat / np.maximum(air_w_k, 1.0)
    return _Condensed(left, undone, face, subcooling, h_liquid, quality, liquid_k, heat, leaving_k)


def _feed(machine: Machine, trial: Trial, faults: Faults, ends: _Ends, pumped: _Pumped, condensed: _Condensed) -> _Fed:
    """Liquid line, drier and metering device."""
    mass, low, makes = pumped.mass, ends.low, machine.makes
    clogged = np.where(machine.fixed, 1.5, 1.35) * faults[Fault.LIQUID_LINE_RESTRICTION] ** 0.8
    drier_drop = 0.02 * ends.p_high * (mass / machine.mass_design) ** 2 * (20**clogged - 1)
    p_valve = np.maximum(ends.p_high - machine.liquid_drop * mass * mass - drier_drop, ends.p_low * 1.03)
    at_valve = machine.properties.at(machine.properties.position(p_valve))
    quality = np.clip((condensed.h_liquid - at_valve.bubble_enthalpy) / at_valve.latent, 0.0, 1.0)
    flashing_k = at_valve.bubble_k + quality * (at_valve.dew_k - at_valve.bubble_k)
    valve_k = np.where(quality > 0, np.minimum(flashing_k, condensed.liquid_k), condensed.liquid_k)
    over, under = faults[Fault.METERING_OVERFEEDING], faults[Fault.METERING_UNDERFEEDING]
    set_k = machine.superheat_set_k * machine.habits.superheat_set
    set_k = set_k - over * (set_k + np.where(machine.walk_in, 5.0, 3.0))
    here_k = np.where(trial.dryness >= 0, pumped.out_superheat, trial.dryness * low.latent / pumped.vapour_heat)
    span = np.where(machine.electronic, 0.35, 1.0) * makes.valve_span_k
    needed = 1 / machine.reserve
    # A valve stuck open cannot close below its share; a starved one has lost its reserve and more.
    opening = soft_clip(needed + (here_k - set_k) / span, 0.04 + over * needed * 2.1, 1.0 + 0.4 * over, 0.04)
    opening = np.where(machine.fixed, (1.0 + 0.9 * over) * _accumulated(machine, here_k), opening)
    # A starved valve loses its reserve first, whatever that is, and only then feeds too little.
    starved = np.exp(-np.where(machine.fixed, 0.60, 1.3) * under) * machine.reserve ** np.expm1(-under / _RESERVE_GONE)
    subcooling = np.where(quality > 0, 0.0, at_valve.bubble_k - condensed.liquid_k)
    flow = machine.metering_flow * orifice_flow(makes, p_valve - ends.p_low, at_valve.bubble_density, subcooling, quality)
    return _Fed(flow * opening * starved, opening, valve_k, quality, at_valve.bubble_density)


def _accumulated(machine: Machine, superheat_k: Array) -> Array:
    """An accumulator behind a piston, in heating: liquid that comes back stays in it, and is missing ahead of the piston.

    A dry suction empties it again. So such units move less with the weather than a bare piston would let them: on R-410A a
    textbook one has 60, 77, 105 and 120 psig of suction at 17, 30, 47 and 55 F, near what is usual (habit).
    """
    off_k = superheat_k - machine.superheat_set_k
    return np.where(machine.heating, soft_clip(1.0 + _ACCUMULATES * off_k, 0.55, 1.6, 0.05), 1.0)


def _evaporate(
    machine: Machine,
    weather: Weather,
    faults: Faults,
    ends: _Ends,
    pumped: _Pumped,
    h_liquid: Array,
    dry_k: Array,
    humidity: Array,
) -> _Evaporated:
    low, mass, atmosphere = ends.low, pumped.mass, weather.atmosphere_pa
    thin = moist_air.density_kg_m3(dry_k, atmosphere) / 1.2
    # Load that the air probe does not show: on a box warm wet air at the coil, on comfort units too much air.
    load = faults[Fault.HIGH_EVAPORATOR_LOAD]
    dry_k = dry_k + np.where(machine.walk_in, LOAD_K * load, 0.0)
    thin = np.where(machine.walk_in, moist_air.density_kg_m3(dry_k, atmosphere) / 1.2, thin)
    humidity = humidity * np.where(machine.walk_in, 1 + 0.8 * load, 1.0)
    air_share = (1 - 0.78 * faults[Fault.LOW_EVAPORATOR_AIRFLOW]) * (1 + np.where(machine.walk_in, 0.0, 0.90 * load))
    air_share = air_share * (1 - 0.75 * weather.frost) * weather.indoor_fan
    air_kg_s = machine.air_kg_s_design * air_share * thin
    contact = 1 - np.exp(-np.minimum(machine.contact_ntu * air_share**-machine.makes.evaporator_exponent, 30.0))
    mean_k = low.bubble_k + EVAPORATING_DEW_SHARE * (low.dew_k - low.bubble_k)
    surface_k = balanced_surface(mean_k, machine.inside_w_k, air_kg_s, contact, dry_k, humidity, atmosphere)
    whole_w, sensible_w = air_heat(air_kg_s, contact, surface_k, dry_k, humidity, atmosphere)
    whole_w = np.maximum(whole_w, _SMALL * machine.mass_design * low.latent)
    wetted = mass * (low.dew_enthalpy - h_liquid) / whole_w
    super_ntu = machine.superheat_ntu * (machine.mass_design * weather.stage / mass) ** 0.25 * air_share**0.2
    dry_share = np.maximum(1 - wetted, 0.0)
    warm_k = np.maximum(dry_k - low.dew_k, 0.0) * (1 - np.exp(-np.minimum(super_ntu * dry_share, 30.0)))
    carried = np.maximum(wetted - 1, 0.0) * whole_w / mass  # enthalpy short of dew: liquid leaves
    dryness = (low.vapour_enthalpy(warm_k) - carried - low.dew_enthalpy) / low.latent
    covered = np.minimum(wetted, 1.0)
    super_w = mass * (low.vapour_enthalpy(warm_k) - low.dew_enthalpy)
    fan_heat_k = np.where(machine.heating, 0.0, 0.6)
    air_w_k = np.maximum(air_kg_s * moist_air.heat_capacity(humidity), 1.0)
    supply_k = dry_k - (covered * sensible_w + super_w) / air_w_k + fan_heat_k
    dried = humidity - np.maximum(covered * (whole_w - sensible_w), 0.0) / np.maximum(air_kg_s, 1e-6) / 2.5e6
    dried = np.maximum(np.minimum(dried, moist_air.saturated_humidity(supply_k, atmosphere)), 1e-5)
    return _Evaporated(dryness, covered, covered * whole_w + super_w, supply_k, dried, air_kg_s)


def _held(machine: Machine, ends: _Ends, condensed: _Condensed, fed: _Fed, boiled: _Evaporated) -> tuple[Array, Array]:
    """The receiver's level, and the refrigerant that the whole circuit holds. [kg]"""
    low, high = ends.low, ends.high
    liquid_share, flooded_share = np.maximum(condensed.left, 0.0), (1 - condensed.face) * 0.9
    # Liquid that was cooled is denser; where a receiver is full this is what lets a little more in.
    liquid_density = high.bubble_density * (1 + 0.004 * condensed.subcooling)
    wet = machine.makes.liquid_share * np.exp(-14.0 * condensed.undone)
    condensing = wet * high.bubble_density + (1 - wet) * high.dew_density
    drained = liquid_share * liquid_density + (1 - liquid_share) * condensing
    in_condenser = machine.volume_condenser * (flooded_share * high.bubble_density + (1 - flooded_share) * drained)
    flash = np.maximum(fed.quality, condensed.quality)
    in_line = machine.volume_liquid_line * fed.density / (1 + 12 * flash)
    filling = (condensed.left - (SUBCOOLING_AREA_RECEIVER - 0.45 * _RECEIVER_FILLS_OVER)) / _RECEIVER_FILLS_OVER
    level = soft_clip(filling, 0.0, 1.0, 0.03)
    in_receiver = machine.volume_receiver * (level * liquid_density + (1 - level) * high.dew_density)
    flooding = np.minimum(np.maximum(-boiled.dryness, 0.0), 0.4)
    boiling = (machine.makes.liquid_share + flooding) * low.bubble_density + (1 - machine.makes.liquid_share) * low.dew_density
    in_evaporator = machine.volume_evaporator * (boiled.covered * boiling + (1 - boiled.covered) * low.dew_density)
    return level, in_condenser + in_line + in_receiver + in_evaporator


def _wetness(trial: Trial, low: Saturated) -> Array:
    """How far below dew a pipe carrying liquid reads: nothing on a single fluid, down the glide on a blend. [K]"""
    result: Array = np.maximum(trial.dryness, -0.8) * (low.dew_k - low.bubble_k)
    return result
