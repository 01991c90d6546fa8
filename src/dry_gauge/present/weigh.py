"""Weigh in: how much is to go, and the next step of the trim."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta

from dry_gauge.core.charge.small_steps import LOOK_FROM_MINUTES
from dry_gauge.core.charge.trim import Trim, next_step, school_of
from dry_gauge.core.vocabulary import State
from dry_gauge.core.words import in_percent
from dry_gauge.notebook.subjects.actions import ANSWERED_BY, ActionSort
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.movements import MovementSort, emptied_at
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.running import ClockEvent, Running
from dry_gauge.present import plan
from dry_gauge.present.account import Account, account_of
from dry_gauge.present.permit import permit_of
from dry_gauge.present.scene import Scene
from dry_gauge.present.settling import settling_of
from dry_gauge.present.small_steps import SmallSteps, small_steps
from dry_gauge.present.visit import VisitView, circuit_of


@dataclass(frozen=True, slots=True)
class Weigh:
    """The trim, its school, and the ways in."""

    trim: Trim
    school: str
    in_ways: Sequence[MovementSort]
    """The one that fits how the unit stands comes first."""
    steps: SmallSteps | None
    """Of a unit that is charged by its glass."""


def weigh(scene: Scene) -> Weigh:
    """What charging comes to now."""
    visit = scene.view.state
    off = bool(visit[Ledger].locked) or emptied_at(visit) is not None
    ways = (MovementSort.WEIGHED_IN, MovementSort.TRIMMED, MovementSort.ADDED)
    trim = trim_of(scene)
    steps = None if off else small_steps(scene, trim)
    return Weigh(trim, school_of(scene.view.facts)[0], ways if off else (*ways[1:], ways[0]), steps)


def trim_of(scene: Scene) -> Trim:
    """The next step of charging by what is read, or why not."""
    view, standing = scene.view, account_of(scene).standing
    judged = circuit_of(view, scene.circuit) if view.state[Readings].latest else None
    settling = settling_of(view, scene.circuit)
    return next_step(
        view.facts,
        judged,
        permit_of(view, scene.now),
        _seen_since_the_step(view),
        standing.to_go_kg if standing else None,
        settling.ready,
        settling.minutes_more,
        locked=bool(view.state[Ledger].locked),
    )


def _seen_since_the_step(view: VisitView) -> Mapping[str, State]:
    """What was seen, without a glass that was looked at too soon after refrigerant went in (R75)."""
    seen, charged = view.state[Observations], view.state[Running].since(ClockEvent.CHARGED)
    counts_from = charged + timedelta(minutes=LOOK_FROM_MINUTES) if charged else None
    glass = {what: seen.of(what) for what in ANSWERED_BY[ActionSort.CHARGE_ADJUSTED]}
    too_soon = {what for what, one in glass.items() if one and counts_from and one.at < counts_from}
    return {what: state for what, state in seen.states().items() if what not in too_soon}


def docked(scene: Scene, account: Account) -> tuple[str, str]:
    """What is to add, in a line."""
    standing, reader = account.standing, scene.reader
    if standing is None:
        return plan.next_step(scene.view)
    left = reader.say("weight", abs(standing.to_go_kg))
    after = f"{in_percent(standing.share)} is in"
    if standing.is_reached:
        return "The target is in", after
    if account.stop_kg is not None:
        after = f"Stop at {reader.say('weight', account.stop_kg)} on the scale"
    return f"{left} {'to add' if standing.to_go_kg >= 0 else 'too much'}", after
