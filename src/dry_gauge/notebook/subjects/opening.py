"""What the sealed system is opened for, and the steps of doing it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, Self

from dry_gauge.core.errors import Refused
from dry_gauge.core.sealed.opening import REPAIR_WORDS, Plan, Repair, Step, plan_of
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.words import counted
from dry_gauge.notebook.fields import Circuit, FewWords, of_circuit
from dry_gauge.notebook.kind import (
    LEAST_REASON,
    Body,
    Case,
    Entry,
    Kept,
    Kind,
    Obstacle,
    Part,
    VisitState,
    in_time,
    keeping,
    kept,
)
from dry_gauge.notebook.subjects.actions import Actions, ActionSort
from dry_gauge.notebook.subjects.hold import Holds
from dry_gauge.notebook.subjects.leak import Leaks
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.movements import Charge, MovementSort, emptied_at
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.notebook.subjects.vacuum import Vacuum


class SealedPlanBody(Body):
    """What the system is opened for, and what decides the way."""

    kind: Literal["sealed_plan"] = "sealed_plan"
    repair: Repair
    compressor_runs: bool = True
    receiver_holds: bool = False
    circuit: Circuit | None = None


class StepBody(Body):
    """A step of the plan, done or left out; leaving out needs a reason."""

    kind: Literal["step"] = "step"
    step: FewWords
    done: bool
    reason: FewWords = ""
    circuit: Circuit | None = None


class Opening(Part):
    """By circuit the plan, and what was said of its steps."""

    plans: dict[str, Kept[SealedPlanBody]] = {}
    answers: dict[str, Kept[StepBody]] = {}
    """Keys read ``step/circuit``."""

    @property
    def circuits(self) -> frozenset[int]:
        """Circuits that are opened, or were to be."""
        return frozenset(map(int, self.plans)) | {one.body.circuit or 1 for one in self.answers.values()}

    def of_circuit(self, number: int) -> Self:
        """The plan of one circuit and its steps."""
        return self.model_copy(
            update={
                "plans": {key: one for key, one in self.plans.items() if key == str(number)},
                "answers": {key: one for key, one in self.answers.items() if (one.body.circuit or 1) == number},
            }
        )

    @property
    def plan(self) -> Kept[SealedPlanBody] | None:
        """The plan that was made last; None before any was."""
        return in_time(self.plans.values())[-1] if self.plans else None

    @property
    def steps(self) -> dict[str, Kept[StepBody]]:
        """What was said last of each step."""
        return {one.body.step: one for one in in_time(self.answers.values())}


@dataclass(frozen=True, slots=True)
class StepView:
    """A step and how far it is: ``done``, ``next``, ``open`` or ``skipped``, with how that is known."""

    step: Step
    progress: str
    note: str = ""


def plan_in(visit: VisitState, facts: UnitFacts) -> Plan | None:
    """The way that fits what was said; None before anything was."""
    made = visit[Opening].plan
    if made is None:
        return None
    return plan_of(facts, made.body.repair, made.body.compressor_runs, made.body.receiver_holds)


def steps_in(visit: VisitState, facts: UnitFacts) -> tuple[StepView, ...]:
    """The plan's steps; what the notebook shows to be done needs no tick."""
    plan = plan_in(visit, facts)
    if plan is None:
        return ()
    shown, answers = _shown_done(visit), visit[Opening].steps
    found: list[StepView] = []
    for step in plan.steps:
        said = answers.get(step.code)
        if shown.get(step.code):
            found.append(StepView(step, "done", shown[step.code]))
        elif said is not None:
            found.append(StepView(step, "done" if said.body.done else "skipped", said.body.reason))
        else:
            found.append(StepView(step, "open"))
    first = next((i for i, one in enumerate(found) if one.progress == "open"), None)
    if first is not None:
        found[first] = StepView(found[first].step, "next")
    return tuple(found)


def _shown_done(visit: VisitState) -> Mapping[str, str]:
    """Steps that the entries show to be done, and by what."""
    charge, ledger = visit[Charge], visit[Ledger]
    moved = {one.way for one in charge.moved.values()}
    places = len(visit[Leaks].searched)
    was_locked = bool(ledger.lockouts)
    done = {
        # Once locked out it was: unlocking is a step of its own, further down.
        "lock": "locked out" if ledger.locked else "was locked out" if was_locked else "",
        "start": "unlocked" if was_locked and not ledger.locked and _put_back_in(visit) else "",
        "recover": "weighed and at its vacuum" if charge.recovered_to and MovementSort.RECOVERED in moved else "",
        "remove": "weighed" if MovementSort.REMOVED in moved else "",
        "search": counted(places, "place") if places else "",
        "braze": "cure on record" if visit[Leaks].opened_for else "",
        "close_up": "drier changed" if visit[Actions].has(ActionSort.DRIER_CHANGED) else "",
        "hold": "tight" if any(one.verdict == "tight" for one in visit[Holds].holds.values()) else "",
        "evacuate": "done" if any(not one.open for one in visit[Vacuum].of_system) else "",
        "weigh": "weighed in" if MovementSort.WEIGHED_IN in moved else "",
        "trim": "by the scale" if _trimmed(visit) else "",
    }
    return {code: words for code, words in done.items() if words}


def _put_back_in(visit: VisitState) -> bool:
    """Whether the work is over and the charge is in: weighed in, or held back by the receiver all along."""
    evacuated = any(not one.open for one in visit[Vacuum].of_system)
    weighed = any(one.way is MovementSort.WEIGHED_IN for one in visit[Charge].moved.values())
    return weighed or (evacuated and emptied_at(visit) is None)


def _trimmed(visit: VisitState) -> bool:
    """Whether it was trimmed at the end: what was topped up before the work began is an emergency, and proves nothing."""
    made = visit[Opening].plan
    ways = {MovementSort.TRIMMED, MovementSort.ADDED}
    ends = [one.answered_at for one in visit[Vacuum].of_system if one.answered_at]
    ends += [one.at for one in visit[Charge].moved.values() if one.way is MovementSort.WEIGHED_IN]
    since = max([*ends, *([made.at] if made else [])], default=None)
    return any(one.way in ways and (since is None or one.at >= since) for one in visit[Charge].moved.values())


def is_pumped_down(visit: VisitState) -> bool:
    """Whether the charge stands behind the receiver's valve, and nothing was started since."""
    step, started = visit[Opening].steps.get("pump_down"), visit[Opening].steps.get("start")
    if step is None or not step.body.done:
        return False
    again = [one for one in (started.at if started else None, visit[Running].started_at) if one is not None]
    return not any(moment > step.at for moment in again)


_SEALED: tuple[type[Part], ...] = (Opening, Charge, Leaks, Holds, Vacuum)


def untouched(visit: VisitState) -> bool:
    """Whether nothing was entered about the sealed system."""
    return all(visit[part] == part() for part in _SEALED)


def worked_on(visit: VisitState) -> tuple[int, ...]:
    """Circuits whose sealed system was worked on, at least the first."""
    return tuple(sorted(frozenset().union(*(visit[part].circuits for part in _SEALED)))) or (1,)


def was_opened(visit: VisitState) -> bool:
    """Whether the sealed system was opened, or emptied to be."""
    return bool(visit[Leaks].opened_for or visit[Holds].holds or visit[Vacuum].of_system or visit[Charge].recovered_to)


def is_open(visit: VisitState) -> bool:
    """Whether the system stands open, under nitrogen or under vacuum: it must not start."""
    on = visit[Vacuum].on
    return bool(visit[Holds].on) or (on is not None and on.body.what == "system")


def _planned(visit: VisitState, entry: Entry, body: SealedPlanBody) -> VisitState:
    """Another plan for a circuit begins its steps anew."""
    opening, number = visit[Opening], body.circuit or 1
    others = {key: one for key, one in opening.answers.items() if (one.body.circuit or 1) != number}
    plans = opening.plans | {str(number): Kept[SealedPlanBody](**kept(entry))}
    return visit.changing(Opening, plans=plans, answers=others)


_stepped = keeping(Opening, "answers", lambda body: f"{body.step}/{body.circuit or 1}")


def _without_reason(case: Case[StepBody]) -> None:
    body = case.body
    if not body.done and len(body.reason) < LEAST_REASON:
        raise Refused("Say why it is left out: the reason goes on the record.", "reason")


def _not_closed_up(visit: VisitState) -> list[Obstacle]:
    if visit[Actions].has(ActionSort.DRIER_CHANGED):
        return []
    own = {number: visit.of_circuit(number) for number in visit.circuits}
    return [
        Obstacle("close_up", f"The system was opened{of_circuit(number)}: new drier, cores, seals, caps? Say so, or why not.")
        for number, one in own.items()
        if was_opened(one) and "close_up" not in one[Opening].steps
    ]


KINDS = (
    Kind(SealedPlanBody, lambda body, _: ("Opened for", REPAIR_WORDS[body.repair].lower() + of_circuit(body.circuit)),
         _planned),
    Kind(StepBody, lambda body, _: (f"Step: {body.step.replace('_', ' ')}{of_circuit(body.circuit)}",
                                    "done" if body.done else f"left out: {body.reason}"),
         _stepped, refuse=_without_reason, leaves_open=_not_closed_up),
)  # fmt: skip
