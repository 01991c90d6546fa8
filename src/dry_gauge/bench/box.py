"""A walk-in box as it pulls down: its air, what stands in it, doors, defrosts, frost that builds on the coil.

Two bodies: air with walls and shelves, and the product behind it; heat comes in through walls, doors and fans, and the coil takes
out what its temperature allows. The random generator is given.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dry_gauge.core.box.pull_down import Span
from dry_gauge.core.quantities import FAHRENHEIT_K, to_kelvin

_STEP_MIN = 0.5


@dataclass(frozen=True, slots=True)
class Box:
    """One box. Times in minutes and temperatures in K; conductances by the heat capacity of the air node, so 1/min.

    Parameters
    ----------
    cooling_k_min : float
        How fast the coil would cool the air node at design, alone. [K/min]
    cooling_slope : float
        How much more it takes for each K above design. [1/K]
    leak : float
        Through walls, by the K to outdoors. [1/min]
    product_share : float
        Heat capacity of what stands in it, against the air node.
    product_link : float
        Between air and product. [1/min]
    frost_per_h : float
        Share of the coil's cooling lost in an hour.
    """

    outdoor_k: float
    design_k: float
    start_air_k: float
    start_product_k: float
    cooling_k_min: float
    cooling_slope: float
    leak: float
    product_share: float
    product_link: float
    frost_per_h: float = 0.0
    door_gain: float = 0.08
    """What an open door adds to the leak. [1/min]"""
    heater_k_min: float = 0.8


def pull_down(box: Box, minutes: float, spans: Sequence[Span] = ()) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Moments, air and product. [min, K, K]"""
    count = int(minutes / _STEP_MIN) + 1
    at = np.arange(count) * _STEP_MIN
    air, product = np.empty(count), np.empty(count)
    air[0], product[0] = box.start_air_k, box.start_product_k
    for i in range(1, count):
        door = any(span.what == "door" and span.start <= at[i] < (span.until or np.inf) for span in spans)
        defrost = any(span.what == "defrost" and span.start <= at[i] < (span.until or np.inf) for span in spans)
        now, inside = air[i - 1], product[i - 1]
        cooling = box.cooling_k_min * max(0.0, 1 + box.cooling_slope * (now - box.design_k)) * (1 - box.frost_per_h * at[i] / 60)
        heat = (box.leak + box.door_gain * door) * (box.outdoor_k - now) + box.product_link * (inside - now)
        heat += box.heater_k_min if defrost else -max(0.0, cooling)
        air[i] = now + _STEP_MIN * heat
        product[i] = inside + _STEP_MIN * box.product_link / box.product_share * (now - inside)
    return at, air, product


def chance_box(rng: np.random.Generator, *, freezer: bool = False) -> Box:
    """A box some way above its design, as calls find them: some strong, some weak, empty or full."""
    design = to_kelvin(rng.uniform(-10, 0) if freezer else rng.uniform(34, 40))
    outdoor = to_kelvin(rng.uniform(65, 95))
    above = rng.uniform(10, 35) * FAHRENHEIT_K
    leak = rng.uniform(0.002, 0.006)
    # At design the coil must take what leaks in, and has this much left over; some have too little.
    reserve = rng.uniform(0.75, 2.6)
    return Box(
        outdoor,
        design,
        design + above,
        design + above * rng.uniform(0.5, 1.0),
        leak * (outdoor - design) * reserve,
        rng.uniform(0.005, 0.03),
        leak,
        rng.uniform(1.0, 8.0),
        rng.uniform(0.01, 0.05),
        rng.uniform(0.0, 0.02),
    )


def as_read(
    at: np.ndarray, air: np.ndarray, until: float, every: float, rng: np.random.Generator, noise_k: float = 0.2
) -> list[tuple[float, float]]:
    """Points as a probe or a thumb gives them: cycling of the air, noise, tenths of a degree. [min, K]"""
    moments = np.arange(0.0, until + 1e-9, every) + (rng.uniform(0, 0.3 * every, int(until / every) + 1) if every > 2 else 0.0)
    moments = moments[moments <= until]
    stirred = 0.25 * np.sin(moments / rng.uniform(3, 9) + rng.uniform(0, 6))
    values = np.interp(moments, at, air) + stirred + rng.normal(0, noise_k, len(moments))
    return [(float(when), float(round(value, 1))) for when, value in zip(moments, values, strict=True)]
