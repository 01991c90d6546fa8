"""A pressure hold on the bench: nitrogen in a system through days that warm and cool, read with imperfect instruments."""

from __future__ import annotations

from dataclasses import dataclass
from math import pi, sin

import numpy as np

from dry_gauge.core.quantities import FAHRENHEIT_K, PSI_PA, STANDARD_ATMOSPHERE_PA, to_kelvin
from dry_gauge.core.sealed.pressure_hold import HoldReading

_GAUGE_REPEATS = 0.25  # of its accuracy, anew with every look; the rest stays
_CLAMP_HALF_K = 1.5 * FAHRENHEIT_K


@dataclass(frozen=True, slots=True)
class Day:
    """Weather round a held system: mean, half of its daily swing, how far the gas lags, and how the sun warms it apart."""

    mean_k: float
    swing_k: float
    phase_hours: float
    lag_hours: float
    sun_k: float

    def air_k(self, hours: float) -> float:
        """Of the pipe, where the thermometer sits."""
        return self.mean_k + self.swing_k * sin(2 * pi * (hours + self.phase_hours) / 24)

    def gas_k(self, hours: float) -> float:
        """Of the gas."""
        return self.air_k(hours - self.lag_hours) + self.sun_k * sin(2 * pi * (hours + self.phase_hours) / 24 + 1)


def any_day(chance: np.random.Generator) -> Day:
    """Anything from a cellar to a roof."""
    return Day(
        to_kelvin(chance.uniform(50, 95)),
        chance.uniform(1, 9),
        chance.uniform(0, 24),
        chance.uniform(0.1, 0.8),
        chance.uniform(-0.6, 0.6),
    )


def hold_readings(
    day: Day,
    gauge_psi: float,
    leak_pa_h: float,
    at_hours: list[float],
    chance: np.random.Generator,
    second_gauge_from: float | None = None,
) -> list[HoldReading]:
    """What is written down of a hold.

    Parameters
    ----------
    leak_pa_h : float
        What leaves, at the first reading's temperature. [Pa/h]
    second_gauge_from : float or None
        Hour from which another gauge is used.
    """
    half_pa = max(1.0, 0.005 * gauge_psi) * PSI_PA
    stays = (1 - _GAUGE_REPEATS**2) ** 0.5 / 2
    offsets = {name: chance.normal(0, half_pa * stays) for name in "AB"}
    clamp = chance.normal(0, _CLAMP_HALF_K * stays)
    start_pa, start_k = gauge_psi * PSI_PA + STANDARD_ATMOSPHERE_PA, day.gas_k(0)
    found = []
    for hours in at_hours:
        gauge = "B" if second_gauge_from is not None and hours > second_gauge_from else "A"
        true_pa = (start_pa - leak_pa_h * hours) * day.gas_k(hours) / start_k
        found.append(
            HoldReading(
                hours * 3600,
                float(true_pa + offsets[gauge] + chance.normal(0, half_pa * _GAUGE_REPEATS / 2)),
                float(day.air_k(hours) + clamp + chance.normal(0, _CLAMP_HALF_K * _GAUGE_REPEATS / 2)),
                half_pa,
                _CLAMP_HALF_K,
                gauge,
                "clamp",
            )
        )
    return found
