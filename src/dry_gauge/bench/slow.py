"""What takes minutes: settling after a start or a change, and a box being pulled down.

The circuit itself is always solved as if steady; these laws lead from one steady state to the next.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from dry_gauge.bench.machine import Machine
from dry_gauge.bench.plant import Faults, Weather
from dry_gauge.bench.solve import solve

Array = NDArray[np.float64]

# Minutes after which each sort of reading has gone all but 1/e of its way; a valve's line hunts for longer.
_MINUTES: Mapping[str, float] = {"pressure": 1.2, "line": 3.0, "air": 2.0, "power": 0.8}
_HUNT_MINUTES, _HUNT_FADES_MINUTES, _HUNT_K = 2.2, 4.0, 2.5


def settling(steady: Mapping[str, float], before: Mapping[str, float], minutes: float, *, valve: bool) -> dict[str, float]:
    """Every reading some minutes after a start or a change, SI.

    Parameters
    ----------
    steady, before : mapping of str to float
        The readings at the end and at the moment of the change: a unit at rest shows ambient everywhere.
    minutes : float
        Since then, not negative.
    valve : bool
        A thermostatic valve overshoots and hunts on its way; a fixed orifice does not.
    """
    shown = {}
    for name, end in steady.items():
        kind = "pressure" if "pressure" in name else "air" if "air" in name else "line"
        kind = "power" if name in ("compressor_amps", "input_power") else kind
        left = np.exp(-minutes / _MINUTES[kind])
        shown[name] = end + (before.get(name, end) - end) * float(left)
        if valve and name in ("suction_line_temp", "coil_outlet_temp", "compressor_suction_temp"):
            fading = np.exp(-minutes / _HUNT_FADES_MINUTES) * np.sin(2 * np.pi * minutes / _HUNT_MINUTES)
            shown[name] += _HUNT_K * float(fading)
    return shown


def pull_down(
    machine: Machine, weather: Weather, faults: Faults, start_k: float, load_w: float, contents_j_k: float, minutes: Array
) -> Array:
    """Box air of one walk-in at the asked minutes, from a warm start. [K]

    Parameters
    ----------
    machine, weather, faults
        One unit; the weather's own box temperature is not used.
    load_w, contents_j_k : float
        Heat that enters all the time, and what box and product hold per kelvin.
    minutes : ndarray
        Rising, from 0.
    """
    # Capacity over box temperature from a few steady states, then the box integrated through them.
    boxes_k = np.linspace(min(start_k, float(machine.design_box_k[0])) - 6.0, max(start_k, float(machine.design_box_k[0])), 9)
    rows = np.zeros(boxes_k.size, dtype=np.intp)
    many = weather.take(rows)
    wet_k = boxes_k - (weather.return_k[0] - weather.return_wet_bulb_k[0])
    several = replace(many, return_k=boxes_k, return_wet_bulb_k=wet_k)
    found = solve(machine.take(rows), several, faults.take(rows))
    runs = found.solved
    capacity_w = found.turn.evaporator_heat_w[runs]
    box_k, now, shown = start_k, 0.0, []
    for until in minutes:
        while now < until - 1e-9:
            step = min(1.0, float(until) - now)
            taken = float(np.interp(box_k, boxes_k[runs], capacity_w))
            # At its set point the thermostat stops the unit.
            taken = 0.0 if box_k <= float(machine.design_box_k[0]) and taken > load_w else taken
            box_k += (load_w - taken) * step * 60 / contents_j_k
            now += step
        shown.append(box_k)
    return np.array(shown)
