"""What each part of the circuit does, taken alone: coils, compressor, metering device. Arrays in, arrays out, SI.

All formulas are ours: zoned effectiveness-NTU coils with wet and dry surface, volumetric and isentropic efficiency
against ratio, orifice flow with flash gas; what makers build differently comes from `makes`.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from dry_gauge.bench import moist_air
from dry_gauge.bench.makes import Makes
from dry_gauge.core.refrigerants.properties import Saturated

Array = NDArray[np.float64]


def soft_clip(value: Array, low: Array | float, high: Array | float, width: float) -> Array:
    """Clipped with rounded corners, so that Newton's method sees no kink."""

    def ramp(x: Array) -> Array:
        result: Array = width * np.logaddexp(0.0, x / width)
        return result

    return low + ramp(value - low) - ramp(value - high)


def air_heat(
    air_kg_s: Array, contact: Array, surface_k: Array, dry_k: Array, humidity: Array, atmosphere: Array
) -> tuple[Array, Array]:
    """Whole and sensible heat that air gives to a surface, wet where that is more. [W]"""
    sensible = contact * air_kg_s * moist_air.heat_capacity(humidity) * (dry_k - surface_k)
    at_surface = moist_air.enthalpy(surface_k, moist_air.saturated_humidity(surface_k, atmosphere))
    whole = contact * air_kg_s * (moist_air.enthalpy(dry_k, humidity) - at_surface)
    return np.maximum(sensible, whole), sensible


def surface_for(heat_w: Array, air_kg_s: Array, contact: Array, dry_k: Array, humidity: Array, atmosphere: Array) -> Array:
    """How cold a surface has to be to take that heat from the air. [K]"""
    low, high = dry_k - 60.0, dry_k.copy()
    for _ in range(30):
        middle = (low + high) / 2
        more = air_heat(air_kg_s, contact, middle, dry_k, humidity, atmosphere)[0] > heat_w
        low, high = np.where(more, middle, low), np.where(more, high, middle)
    result: Array = (low + high) / 2
    return result


def balanced_surface(
    refrigerant_k: Array, inside_w_k: Array, air_kg_s: Array, contact: Array, dry_k: Array, humidity: Array, atmosphere: Array
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
    inside = inside_w_k * span
    # Wet: blown * (h_air - start - slope*y - bend*y*y) = inside * y, y being the share of the span.
    drive = blown * (moist_air.enthalpy(dry_k, humidity) - start)
    linear = blown * slope + inside
    root = np.sqrt(np.maximum(linear * linear + 4 * blown * bend * drive, 0.0))
    wet = 2 * drive / (linear + root)
    sensible = blown * moist_air.heat_capacity(humidity) * span
    dry = sensible / (sensible + inside)
    surface: Array = refrigerant_k + np.clip(np.maximum(wet, dry), 0.0, 1.0) * span
    return surface


def volumetric_efficiency(makes: Makes, ratio: Array) -> Array:
    """Share of its displacement that a sound compressor fills."""
    return np.maximum(1 - makes.clearance * (np.maximum(ratio, 1.0) ** (1 / 1.1) - 1), 0.15)


def compressed(
    makes: Makes,
    suction: Saturated,
    top: Saturated,
    superheat_k: Array,
    h_suction: Array,
    ratio: Array,
    quality: Array,
    worn: Array | float = 0.0,
) -> tuple[Array, Array]:
    """Discharge enthalpy and work per kg; a worn compressor recompresses what leaks back. [J/kg]"""
    ideal = top.vapour_enthalpy(top.superheat_at_entropy_k(suction.vapour_entropy(superheat_k)))
    efficiency = (
        makes.isentropic
        * quality
        * (1 - makes.off_ratio * np.abs(ratio - makes.best_ratio))
        * np.clip(0.55 + 0.45 * (ratio - 1) / 0.8, 0.55, 1)
    )
    work = np.maximum(ideal - h_suction, 100.0) / np.maximum(efficiency, 0.3) * (1 + makes.recompressed * worn)
    return h_suction + (1 - makes.shell_loss) * work, work


def condenser_zones(makes: Makes, high: Saturated, h_in: Array, mass: Array, air_k: Array) -> tuple[Array, Array]:
    """Air heat capacity rate times effectiveness wanted for desuperheating and for condensing. [W/K]"""
    warm_k = high.dew_k + np.maximum(high.vapour_superheat_k(np.maximum(h_in, high.dew_enthalpy)), 0.0) * 0.45
    vapour = mass * np.maximum(h_in - high.dew_enthalpy, 0.0) / (makes.desuperheating * np.maximum(warm_k - air_k, 0.3))
    latent = mass * np.minimum(h_in - high.bubble_enthalpy, high.latent)
    mean_k = (high.bubble_k + high.dew_k) / 2
    return vapour, latent / np.maximum(mean_k - air_k, 0.3)


def orifice_flow(makes: Makes, drop_pa: Array, density: Array, subcooling_k: Array, quality: Array) -> Array:
    """Flow through an orifice of unit size, fed with liquid or with flash gas. [kg/s]"""
    driving = np.sqrt(soft_clip(drop_pa, 0.0, 1e9, 5e3) * density)
    flow: Array = driving * (1 + makes.subcooled_flow * subcooling_k) / (1 + makes.flash_chokes * quality)
    return flow
