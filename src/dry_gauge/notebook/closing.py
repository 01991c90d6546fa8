"""What stands in the way of closing a visit, and how far each station is. Stations guide, they never lock."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.survey import places
from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.calling import CHANGE_WORDS, ChangeSort, FollowUpSort, Outcome
from dry_gauge.notebook.measuring import CONDITION_WORDS
from dry_gauge.notebook.proving import proving
from dry_gauge.notebook.sealed_work import plan_in, sealed_obstacles, steps_in
from dry_gauge.notebook.state import VisitState, facts_in

DESKS = {
    "sealed": "Plan",
    "recover": "Recover",
    "leak": "Leak",
    "hold": "Hold",
    "vacuum": "Vacuum",
    "weigh": "Weigh in",
}
"""The desks of the sealed work: one station on the rail, six places to work at."""


@dataclass(frozen=True, slots=True)
class Obstacle:
    """Something to see to before leaving; `firm` ones cannot be let go with a reason."""

    code: str
    words: str
    entry_id: str = ""
    firm: bool = False


def obstacles(state: VisitState, outcome: Outcome | None = None) -> tuple[Obstacle, ...]:
    """What is still open, most serious first.

    Parameters
    ----------
    outcome : Outcome or None
        How the visit is to end: only 'fixed' needs its proofs. None asks as if it were fixed.
    """
    call = state.call
    found = []
    for change in call.lifted:
        words = f"{CHANGE_WORDS[change.body.sort]}: {change.body.where}. Put it back."
        safety = change.body.sort is ChangeSort.SAFETY
        # A bypassed safety may stay only on a unit that cannot run.
        firm = safety and not (call.locked and call.red_tags)
        if firm:
            words = f"Safety bypassed: {change.body.where}. Take the bypass out, or lock the unit out and tag it."
        found.append(Obstacle("temporary", words, str(change.entry_id), firm))
    for condition, kept in call.conditions.items():
        found.append(Obstacle("condition", f"Still marked: {CONDITION_WORDS[condition]}.", str(kept.entry_id)))
    if call.locked and not call.red_tags and not _open_follow_ups(state, set(FollowUpSort)):
        names = ", ".join(call.locked)
        found.append(Obstacle("locked", f"Locked out: {names}. Unlock, or book the return that ends it."))
    if outcome in (None, Outcome.FIXED):
        found += _unproven(state)
    for switch, (_, resets) in call.trip_counts().items():
        unexplained = [kept for kept in call.trips.values()
                       if kept.body.switch == switch and kept.body.event == "reset" and not kept.body.cause]  # fmt: skip
        if resets and unexplained and not _open_follow_ups(state, {FollowUpSort.RECHECK, FollowUpSort.RETURN}):
            words = f"{switch} was reset and nobody knows why it tripped. A reset is no repair: book a recheck."
            found.append(Obstacle("reset", words, str(unexplained[-1].entry_id)))
    for timer in call.timers.values():
        if timer.open:
            found.append(Obstacle("timer", f"Still running: {timer.body.what}.", str(timer.entry_id)))
    found += [Obstacle(code, words, entry) for code, words, entry in sealed_obstacles(state)]
    for task in call.tasks.values():
        if task.open:
            found.append(Obstacle("task", f"To do: {task.body.what}.", str(task.entry_id)))
    return tuple(sorted(found, key=lambda one: not one.firm))


def _open_follow_ups(state: VisitState, sorts: Collection[FollowUpSort]) -> bool:
    return any(kept.open and kept.body.sort in sorts for kept in state.call.follow_ups.values())


def _unproven(state: VisitState) -> list[Obstacle]:
    found = []
    for test in state.call.tests.values():
        stands = proving(state, test)
        if not stands.judged:
            words = "The measurement that failed must be repeated after the last change before this is called fixed."
            found.append(Obstacle("unproven", f"{words} ({test.body.should})", str(test.entry_id)))
        elif not stands.passed:
            found.append(Obstacle("failed", f"Still failing: {test.body.should}.", str(test.entry_id)))
    if (state.call.actions or state.sealed.moved) and not state.call.tests:
        found.append(Obstacle("no_test", "Name the measurement that showed the complaint, and repeat it: else nothing is "
                              "proven."))  # fmt: skip
    return found


@dataclass(frozen=True, slots=True)
class Station:
    """A stop of the call: how far it is, ``open``, ``begun`` or ``done``, and in a few words."""

    name: str
    label: str
    progress: str
    note: str


def stations(
    state: VisitState, complaint: str, facts: UnitFacts, released: Collection[str], verdict: str, closed: bool
) -> tuple[Station, ...]:
    """Every station and how far it is.

    Parameters
    ----------
    complaint : str
        What was written when the call was taken.
    released : collection of str
        Gates that are open.
    """
    call, states = state.call, state.states()
    questions = [what for place in places(facts_in(state, facts)) for what in place.sights]
    looked = sum(what in states for what in questions)
    proven = sum(states.get(what) is State.YES for what in ("evaporator_air_proven", "condenser_air_proven"))
    unchecked = sum(claim.open for claim in call.claims.values())
    open_items = len(obstacles(state))
    read = len(state.readings)
    judged = {"fault": "named", "healthy": "nothing wrong", "held": "held"}.get(verdict, "")

    def progress(begun: bool, done: bool) -> str:
        return "done" if done else "begun" if begun else "open"

    return (
        Station("arrive", "Arrive", progress(bool(complaint or call.complaint), call.complaint is not None),
                f"{unchecked} to verify" if unchecked else ""),
        Station("look", "Look", progress(looked > 0, looked * 2 >= len(questions)), f"{looked} of {len(questions)}"),
        Station("air", "Air", progress(proven > 0, proven == 2), f"{proven} of 2 coils"),
        Station("read", "Read", progress(read > 0, "too_few_readings" in released), f"{read} read" if read else ""),
        Station("judge", "Judge", progress(verdict == "held", verdict in ("fault", "healthy")), judged),
        Station("mend", "Mend", progress(bool(call.actions or call.temporary), bool(call.actions) and not call.lifted),
                f"{len(call.lifted)} lifted" if call.lifted else f"{len(call.actions)} done" if call.actions else ""),
        _sealed_station(state, facts),
        Station("close", "Close", "done" if closed else "open",
                "" if closed else f"{open_items} open" if open_items else "clear"),
    )  # fmt: skip


def _sealed_station(state: VisitState, facts: UnitFacts) -> Station:
    """How far the sealed work is: by its plan, where there is one."""
    sealed = state.sealed
    if sealed.empty:
        return Station("sealed", "Sealed work", "open", "")
    steps = steps_in(state, facts_in(state, facts))
    done = sum(one.progress in ("done", "skipped") for one in steps)
    note = next((one.step.title.lower() for one in steps if one.progress == "next"), "")
    if sealed.evacuating:
        note = "evacuating"
    elif sealed.holding:
        note = "holding"
    elif sealed.pouring:
        note = "pouring"
    finished = plan_in(sealed, facts) is not None and done == len(steps)
    return Station("sealed", "Sealed work", "done" if finished else "begun", note)
