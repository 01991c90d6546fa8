"""Moves a trial state until flow, vapour and charge agree: Levenberg's damped Newton, all units abreast.

A unit that does not settle from a healthy guess is led there: its faults are brought in by steps, each solution the
guess for the next.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dry_gauge.bench.cycle import Trial, Turn, guess, turn
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.plant import Faults, Weather

Array = NDArray[np.float64]

_STEP = np.array([2e-5, 2e-5, 2e-5])[:, None]  # finite differences of the three unknowns
_LONGEST = np.array([0.10, 0.08, 0.10])[:, None]  # in one move
_LOWEST = np.array([-0.999, -0.95, -0.6])[:, None]
_HIGHEST = np.array([0.97, 0.9999, 1.5])[:, None]
_SCALE = np.array([1.0, 4.0, 1.0])[:, None]  # a share of latent heat weighs more than one of flow
SOLVED = 1e-4
# Other first guesses, for units whose way from the first one is blocked: head up, head down, flooded, starved.
_RESTARTS = [
    np.array(shift)[:, None]
    for shift in (
        (0.0, 0.08, 0.0), (0.05, 0.15, -0.05), (-0.12, -0.05, 0.10), (0.1, 0.0, -0.15), (-0.2, 0.1, 0.2),
        (0.0, 0.2, 0.05), (0.05, -0.1, -0.03), (-0.06, 0.03, 0.02),
    )
]  # fmt: skip
HIGHEST_CONDENSING_K = 341.5  # 155 F: above it every high-pressure switch has opened


@dataclass(frozen=True, slots=True)
class Solution:
    """Where each unit settles.

    `tripped` units end beyond their refrigerant's tables: a real one stands on a pressure cut-out. `solved` is neither
    that nor a failure; the numbers of the others mean nothing.
    """

    turn: Turn
    trial: Trial
    solved: NDArray[np.bool_]
    tripped: NDArray[np.bool_]
    iterations: int


def solve(machine: Machine, weather: Weather, faults: Faults) -> Solution:
    """The steady state of every unit in its weather with its faults."""
    start = _pack(guess(machine, weather))
    x, error, iterations = _newton(machine, weather, faults, start, 40)
    for shift in _RESTARTS:
        stuck = np.flatnonzero(error > SOLVED)
        if not stuck.size:
            break
        few, there, sick = machine.take(stuck), weather.take(stuck), faults.take(stuck)
        again, left, more = _newton(few, there, sick, np.clip(start[:, stuck] + shift, _LOWEST, _HIGHEST), 40)
        iterations += more
        better = left < error[stuck]
        x[:, stuck] = np.where(better, again, x[:, stuck])
        error[stuck] = np.where(better, left, error[stuck])
    stuck = np.flatnonzero(error > SOLVED)
    if stuck.size:
        few, there, sick = machine.take(stuck), weather.take(stuck), faults.take(stuck)
        walked = start[:, stuck]
        for share in (0.0, 0.15, 0.3, 0.45, 0.6, 0.75, 0.88, 1.0):
            walked, led, more = _newton(few, there, sick.scaled(share), walked, 60)
            iterations += more
        better = led < error[stuck]
        x[:, stuck] = np.where(better, walked, x[:, stuck])
        error[stuck] = np.where(better, led, error[stuck])
    settled = turn(machine, _unpack(x), weather, faults)
    head = machine.properties.at(x[1])
    too_high = (head.bubble_k + head.dew_k) / 2 > HIGHEST_CONDENSING_K
    beyond = (x[0] <= _LOWEST[0] + 2e-3) | (x[1] >= _HIGHEST[1] - 2e-3) | too_high
    return Solution(settled, _unpack(x), (error <= SOLVED) & ~beyond, beyond, iterations)


def _pack(trial: Trial) -> Array:
    return np.stack([trial.evaporating, trial.condensing, trial.dryness])


def _unpack(x: Array) -> Trial:
    return Trial(x[0], x[1], x[2])


def _newton(machine: Machine, weather: Weather, faults: Faults, start: Array, most: int) -> tuple[Array, Array, int]:
    """At most so many moves; units that have settled rest while the others go on."""
    x, error = start.copy(), np.full(start.shape[1], np.inf)
    going = np.arange(start.shape[1])
    here = start
    damping = np.full(start.shape[1], 1e-4)
    imbalance, jacobian = _linearised(machine, weather, faults, here)
    for iteration in range(most + 1):
        x[:, going], error[going] = here, np.abs(imbalance).max(axis=0)
        open_ones = np.flatnonzero(error[going] > SOLVED)
        if not open_ones.size or iteration == most:
            break
        if open_ones.size < 0.7 * going.size:
            going, here, damping = going[open_ones], here[:, open_ones], damping[open_ones]
            imbalance, jacobian = imbalance[:, open_ones], jacobian[..., open_ones]
            machine, weather, faults = machine.take(open_ones), weather.take(open_ones), faults.take(open_ones)
        gradient = np.einsum("ijn,in->nj", jacobian, imbalance)
        normal = np.einsum("ijn,ikn->njk", jacobian, jacobian)
        diagonal = normal[:, [0, 1, 2], [0, 1, 2]]
        normal[:, [0, 1, 2], [0, 1, 2]] += damping[:, None] * (diagonal + 1e-6)
        move = -np.linalg.solve(normal, gradient[..., None])[..., 0].T
        move /= np.maximum((np.abs(move) / _LONGEST).max(axis=0), 1.0)
        there = np.clip(here + move, _LOWEST, _HIGHEST)
        new_imbalance, new_jacobian = _linearised(machine, weather, faults, there)
        better = (new_imbalance**2).sum(axis=0) < (imbalance**2).sum(axis=0)
        here = np.where(better, there, here)
        imbalance = np.where(better, new_imbalance, imbalance)
        jacobian = np.where(better, new_jacobian, jacobian)
        damping = np.clip(np.where(better, damping * 0.2, damping * 20.0), 1e-9, 1e6)
    return x, error, iteration


def _linearised(machine: Machine, weather: Weather, faults: Faults, x: Array) -> tuple[Array, Array]:
    """Imbalance and its slopes, from four turns taken abreast."""
    trials = np.repeat(x[:, None, :], 4, axis=1)
    for k in range(3):
        trials[k, k + 1] += _STEP[k]
    turned = turn(machine, _unpack(trials), weather, faults).imbalance * _SCALE[:, :, None]
    here = turned[:, 0]
    slopes = (turned[:, 1:] - here[:, None]) / _STEP[None, :, :]
    return here, slopes
