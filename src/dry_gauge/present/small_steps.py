"""Charging by the glass: every step with what the glass showed after it and what the box did, and what comes next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.charge.small_steps import SmallStep, judge_steps
from dry_gauge.core.charge.trim import Move, Trim
from dry_gauge.notebook.subjects.glass import GLASS_WORDS, Glass
from dry_gauge.notebook.subjects.movements import INTO_UNIT, Charge, Moved
from dry_gauge.present.box import box_trail
from dry_gauge.present.scene import Scene

_LEAST_HOURS = 4 / 60  # below it no rate is said


@dataclass(frozen=True, slots=True)
class StepRow:
    """One step as it is shown: when, how much, the glass after it, what the box did until the next one."""

    key: str
    at: datetime
    amount: str
    glass: str
    box: str


@dataclass(frozen=True, slots=True)
class SmallSteps:
    """The steps, the last of them open for a look, and what comes next in words."""

    rows: Sequence[StepRow]
    advice: str


def small_steps(scene: Scene, trim: Trim) -> SmallSteps | None:
    """The steps of a unit that is charged by its glass; None for any other, and before the first."""
    view, reader = scene.view, scene.reader
    moved = [one for one in view.state[Charge].in_order if one.way in INTO_UNIT and one.into_unit_g > 0]
    if not view.facts.receiver or not moved:
        return None
    trail = box_trail(scene)
    ends = [*(one.at for one in moved[1:]), scene.now]
    steps = [_step(one, until, scene, trail) for one, until in zip(moved, ends, strict=True)]
    box_k = trail[-1][1] if trail else None
    design_k = view.facts.box_target_k if view.facts.kind.is_walk_in else None
    advice = judge_steps(steps, box_k, design_k, view.facts.label_charge_kg, may_add=trim.move is Move.ADD)
    rows = []
    for one, step in zip(moved, steps, strict=True):
        fell = step.fell_k_h
        way = "" if fell is None else "fell" if fell >= 0 else "rose"
        box = "" if fell is None else f"box {way} {reader.say('difference', abs(fell))} an hour"
        rows.append(StepRow(str(one.entry_id), one.at, reader.say("weight", step.kg), _glass_words(step), box))
    return SmallSteps(rows, advice.read(reader) if advice else "")


def _glass_words(step: SmallStep) -> str:
    too_early = f", after {step.looked_after:.0f} min: too early" if step.glass and not step.shows else ""
    return GLASS_WORDS.get(step.glass, "") + too_early


def _step(one: Moved, until: datetime, scene: Scene, trail: Sequence[tuple[datetime, float]]) -> SmallStep:
    looked = scene.view.state[Glass].after.get(str(one.entry_id))
    minutes = (scene.now - one.at).total_seconds() / 60
    after = (looked.at - one.at).total_seconds() / 60 if looked else 0.0
    shows = looked.body.shows if looked else ""
    return SmallStep(one.into_unit_g * GRAM_KG, minutes, shows, _fell(one.at, until, trail), after)


def _fell(since: datetime, until: datetime, trail: Sequence[tuple[datetime, float]]) -> float | None:
    """How fast the box fell between two moments, by the points in it. [K/h]"""
    inside = [point for point in trail if since <= point[0] <= until]
    if len(inside) < 2:
        return None
    hours = (inside[-1][0] - inside[0][0]).total_seconds() / 3600
    return None if hours < _LEAST_HOURS else (inside[0][1] - inside[-1][1]) / hours
