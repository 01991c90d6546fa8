"""Charging on the day of installing: a comfort unit with a valve is filled until its label's subcooling stands.

What is left afterwards is how nearly whoever charged it met the label, and what another day's weather makes of that charge.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from dry_gauge.bench.machine import Machine
from dry_gauge.bench.makes import Makes
from dry_gauge.bench.plant import Faults, Habits, Nameplate, Weather
from dry_gauge.bench.solve import solve
from dry_gauge.core.quantities import FAHRENHEIT_K, to_kelvin
from dry_gauge.core.vocabulary import Mode

Array = NDArray[np.float64]

_MET_K = 1.3 * FAHRENHEIT_K  # chosen: a label is met within its usual tolerance of 3 F, two sigmas and a little
_LEAST_K, _MOST_OF_SPLIT = 1.5, 0.8  # no liquid leaves as cold as the air
_LOOKS, _LARGEST_STEP_K = 3, 4.0


def has_subcooling_label(plate: Nameplate) -> bool:
    """Whether such a unit is charged to a subcooling that its maker states."""
    return plate.mode is Mode.COOLING and not plate.kind.is_walk_in and not plate.metering.is_fixed


def charged(nameplates: Sequence[Nameplate], habits: Habits, makes: Makes, chance: np.random.Generator) -> tuple[Nameplate, ...]:
    """The nameplates with the design subcooling that stands for the charge each has got.

    Where there is a label, `design_subcooling_k` comes in as what it states, and that is met at the service valve on a day of
    ordinary weather. The others stay as they are.
    """
    rows = np.flatnonzero([has_subcooling_label(plate) for plate in nameplates])
    if not rows.size:
        return tuple(nameplates)
    plates = [replace(nameplates[int(i)], filled_with=None) for i in rows]
    entering_f = chance.uniform(72, 80, rows.size)
    airs_f = (chance.uniform(75, 98, rows.size), entering_f, entering_f - chance.uniform(8, 14, rows.size))
    day = Weather.of(*(np.vectorize(to_kelvin)(air_f) for air_f in airs_f))
    label_k = np.array([plate.design_subcooling_k for plate in plates])
    aim_k = label_k + _MET_K * chance.standard_normal(rows.size)
    most_k = _MOST_OF_SPLIT * np.array([plate.condenser_split_k for plate in plates])
    design_k = np.clip(label_k, _LEAST_K, most_k)
    own_habits, own_makes = habits.take(rows), makes.take(rows)
    for _ in range(_LOOKS):
        step_k = np.clip(
            aim_k - _shown_k(Machine(_with(plates, design_k), own_habits, own_makes), day), -_LARGEST_STEP_K, _LARGEST_STEP_K
        )
        design_k = np.clip(design_k + np.nan_to_num(step_k), _LEAST_K, most_k)
    found = list(nameplates)
    for i, k in zip(rows, design_k, strict=True):
        found[i] = replace(found[i], design_subcooling_k=float(k))
    return tuple(found)


def _with(plates: Sequence[Nameplate], design_k: Array) -> list[Nameplate]:
    return [replace(plate, design_subcooling_k=float(k)) for plate, k in zip(plates, design_k, strict=True)]


def _shown_k(machine: Machine, day: Weather) -> Array:
    """Subcooling at the service valve on that day; NaN where it does not run. [K]"""
    solution = solve(machine, day, Faults.none(machine.n))
    turn, properties = solution.turn, machine.properties
    bubble_k = properties.at(properties.position(turn.liquid_pressure_pa)).bubble_k
    return np.where(solution.solved, bubble_k - turn.liquid_line_k, np.nan)
