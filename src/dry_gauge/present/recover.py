"""Recover: which ways refrigerant comes out, and to what vacuum."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.sealed.opening import Way
from dry_gauge.core.shop import RecoveryRow
from dry_gauge.notebook.subjects.movements import MovementSort
from dry_gauge.notebook.subjects.opening import is_pumped_down, plan_in
from dry_gauge.present.account import Account
from dry_gauge.present.plan import next_step
from dry_gauge.present.scene import Scene


@dataclass(frozen=True, slots=True)
class Recover:
    """The shop's table, and the ways out."""

    tables: Sequence[RecoveryRow]
    pumps_down: bool
    """The plan keeps the charge in the receiver: nothing is recovered, and the compressor has to run for it."""
    is_pumped_down: bool
    out_ways: Sequence[MovementSort] = (MovementSort.RECOVERED, MovementSort.REMOVED)


def recover(scene: Scene) -> Recover:
    """What the forms offer."""
    plan = plan_in(scene.view.state, scene.view.facts)
    pumps_down = plan is not None and plan.way is Way.PUMP_DOWN
    return Recover(scene.settings.recovery, pumps_down, is_pumped_down(scene.view.state))


def docked(scene: Scene, account: Account) -> tuple[str, str]:
    """How much is out, in a line."""
    if not account.recovered_kg and not account.pour:
        return next_step(scene.view)
    label = scene.view.facts.label_charge_kg
    after = f"label {scene.reader.say('weight', label)}" if label else "no label charge known"
    return f"{scene.reader.say('weight', account.out_kg)} out", after
