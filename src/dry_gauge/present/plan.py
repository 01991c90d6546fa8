"""Plan: which way the system is opened, its steps, and whether there is refrigerant enough."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.charge.cylinders import CylinderKind
from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.judgement.faults import FAULTS
from dry_gauge.core.sealed.opening import Plan, Step
from dry_gauge.core.vocabulary import Fault
from dry_gauge.notebook.subjects.charge_target import target_of
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.opening import Opening, StepView, is_open, plan_in, steps_in
from dry_gauge.present.scene import Scene
from dry_gauge.present.visit import VisitView, circuit_of


@dataclass(frozen=True, slots=True)
class PlanView:
    """The plan as it stands. `guess` is what the judgement suggests it is opened for: a proposal, nothing more."""

    plan: Plan | None
    steps: Sequence[StepView]
    stock_kg: float
    needs_kg: float | None
    guess: str


def plan(scene: Scene) -> PlanView:
    """The plan, its steps, what is on hand."""
    view, facts = scene.view, scene.view.facts
    target = target_of(view.state, facts)
    stock_g = sum(
        one.holds_g
        for one in scene.cylinders
        if one.cylinder.refrigerant is facts.refrigerant and one.cylinder.kind is not CylinderKind.RECOVERY
    )
    judged = circuit_of(view, scene.circuit)
    first = judged.causes[0].fault if judged else Fault.NONE
    return PlanView(
        plan_in(view.state, facts),
        steps_in(view.state, facts),
        stock_g * GRAM_KG,
        target.kg if target else None,
        FAULTS[first].repair.value,
    )


def _kept_off(view: VisitView, step: Step) -> str:
    """What has to end before a step in which the compressor runs."""
    ledger = view.state[Ledger]
    if not step.runs:
        return ""
    if ledger.red_tags:
        return "red tag: it stays off"
    if is_open(view.state):
        return "under nitrogen or in a vacuum: end that first"
    return "locked out: unlock it first" if ledger.locked and step.code != "start" else ""


def next_step(view: VisitView) -> tuple[str, str]:
    """The step that comes next, in a line."""
    first = next((one for one in steps_in(view.state, view.facts) if one.progress == "next"), None)
    if first is not None:
        return f"Next: {first.step.title}", _kept_off(view, first.step) or f"about {first.step.minutes} min"
    return ("All steps done", "") if view.state[Opening].plan else ("No plan yet", "Say what it is opened for")
