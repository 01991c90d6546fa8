"""An evacuation on the bench: a pump, a hose, a system with water, oil that gives off refrigerant, and holes.

Feeds the simulated vacuum gauge, and measures how often `core.sealed.vacuum` is right. Pressures are absolute Pa, times
seconds; the caller brings the random generator.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import exp

import numpy as np
from numpy.typing import NDArray

from dry_gauge.core.dimensions import MICRON_PA

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Source:
    """Something that gives off vapour until its own pressure is reached; it holds only so much.

    Parameters
    ----------
    pressure_pa : float
        At which it comes to rest. [Pa]
    minutes : float
        How fast the system approaches that, valve shut. [min]
    store : float
        How many times its pressure it can fill the system before it is dry.
    """

    pressure_pa: float
    minutes: float
    store: float = 50.0


@dataclass(frozen=True, slots=True)
class System:
    """What is being evacuated, and how the rig pulls.

    Parameters
    ----------
    leak_pa_min : float
        Rise by what comes in through holes. [Pa/min]
    sources : tuple of Source
        Water, oil with refrigerant in it.
    pump_minutes : float
        Time constant of the pull-down: volume over what pump and hose move. [min]
    pump_end_pa : float
        Where the pump itself ends. [Pa]
    """

    leak_pa_min: float = 0.0
    sources: tuple[Source, ...] = ()
    pump_minutes: float = 1.4
    pump_end_pa: float = 40 * MICRON_PA


def step(system: System, pressure_pa: float, seconds: float, pumping: bool) -> tuple[System, float]:
    """System and pressure a moment later; what its sources gave off, they have lost."""
    minutes = seconds / 60
    rise = system.leak_pa_min * minutes
    sources = []
    for source in system.sources:
        given = max(0.0, source.pressure_pa - pressure_pa) * (1 - exp(-minutes / source.minutes))
        left = max(0.0, source.store - given / max(source.pressure_pa, 1.0))
        # What is nearly dry clings: its pressure falls with what is left.
        pressure = source.pressure_pa if left > 1 else source.pressure_pa * max(left, 0.02)
        sources.append(replace(source, pressure_pa=pressure, store=left))
        rise += given
    pressure_pa += rise
    if pumping:
        pressure_pa = system.pump_end_pa + (pressure_pa - system.pump_end_pa) * exp(-minutes / system.pump_minutes)
    return replace(system, sources=tuple(sources)), pressure_pa


def decay_trace(system: System, start_pa: float, minutes: float, every_seconds: float = 5.0) -> tuple[Array, Array]:
    """True pressures after shutting the valve. [s], [Pa]"""
    times = np.arange(0.0, minutes * 60 + 0.5, every_seconds)
    pressures = [start_pa]
    for _ in times[1:]:
        system, pressure = step(system, pressures[-1], every_seconds, pumping=False)
        pressures.append(pressure)
    return times, np.array(pressures)


def as_gauged(pressure_pa: Array, chance: np.random.Generator, *, noise_share: float = 0.01, spikes: int = 0) -> Array:
    """What a vacuum gauge shows: a slowly wandering error, its last digit, and now and then a spike."""
    wander = np.zeros(pressure_pa.size)
    for i in range(1, wander.size):
        wander[i] = 0.7 * wander[i - 1] + chance.normal(0, 0.7)
    shown = pressure_pa * (1 + noise_share * 0.7 * wander) / MICRON_PA
    digit = np.where(shown < 1000, 1.0, np.where(shown < 5000, 10.0, 50.0))
    shown = np.round(shown / digit) * digit
    for i in chance.integers(0, max(shown.size, 1), size=spikes):
        shown[i] *= chance.uniform(1.5, 6)
    return np.clip(shown, 1, 25_000) * MICRON_PA


def typical(what: str, chance: np.random.Generator, count: int) -> Sequence[tuple[System, float]]:
    """Clear cases of one kind, with the pressure at which the valve was shut.

    Tight ones give off a little, as all do; wet ones come to rest above 1,000 microns within a usual watch; leaks rise
    by 15 to 400 microns a minute.
    """
    found = []
    for _ in range(count):
        start = chance.uniform(150, 420) * MICRON_PA
        little = Source(start + chance.uniform(0, 110) * MICRON_PA, chance.uniform(1.5, 9))
        if what in ("leak", "both"):
            start = chance.uniform(200, 800) * MICRON_PA
            little = Source(start + chance.uniform(0, 110) * MICRON_PA, chance.uniform(1.5, 9))
        wet = Source(chance.uniform(1300, 6000) * MICRON_PA, chance.uniform(1.2, 5.0))
        sources = (little, wet) if what in ("moisture", "both") else (little,)
        leak = float(np.exp(chance.uniform(np.log(15), np.log(400)))) * MICRON_PA if what == "leak" else 0.0
        if what == "both":
            leak = float(np.exp(chance.uniform(np.log(40), np.log(400)))) * MICRON_PA
        found.append((System(leak, sources), float(start)))
    return found
