"""The stations of a visit in working order, and how far each is. Stations guide, they never lock."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.survey import places
from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.kind import VisitState, obstacles
from dry_gauge.notebook.sheets import facts_in
from dry_gauge.notebook.subjects.actions import Actions
from dry_gauge.notebook.subjects.call import Call
from dry_gauge.notebook.subjects.charge import Charge
from dry_gauge.notebook.subjects.hold import Holds
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.opening import plan_in, steps_in, untouched
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.vacuum import Vacuum

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
class Station:
    """A stop of the call: how far it is, ``open``, ``begun`` or ``done``, and in a few words."""

    name: str
    label: str
    progress: str
    note: str


def stations(
    visit: VisitState, complaint: str, facts: UnitFacts, released: Collection[str], verdict: str, closed: bool
) -> tuple[Station, ...]:
    """Every station and how far it is.

    Parameters
    ----------
    complaint : str
        What was written when the call was taken.
    released : collection of str
        Gates that are open.
    """
    call, states, ledger = visit[Call], visit[Observations].states(), visit[Ledger]
    done = len(visit[Actions].done)
    questions = [what for place in places(facts_in(visit, facts)) for what in place.sights]
    looked = sum(what in states for what in questions)
    proven = sum(states.get(what) is State.YES for what in ("evaporator_air_proven", "condenser_air_proven"))
    unchecked = sum(claim.open for claim in call.claims.values())
    open_items = len(obstacles(visit))
    read = len(visit[Readings].latest)
    judged = {"fault": "named", "healthy": "nothing wrong", "held": "held"}.get(verdict, "")

    def progress(begun: bool, finished: bool) -> str:
        return "done" if finished else "begun" if begun else "open"

    return (
        Station("arrive", "Arrive", progress(bool(complaint or call.complaint), call.complaint is not None),
                f"{unchecked} to verify" if unchecked else ""),
        Station("look", "Look", progress(looked > 0, looked * 2 >= len(questions)), f"{looked} of {len(questions)}"),
        Station("air", "Air", progress(proven > 0, proven == 2), f"{proven} of 2 coils"),
        Station("read", "Read", progress(read > 0, "too_few_readings" in released), f"{read} read" if read else ""),
        Station("judge", "Judge", progress(verdict == "held", verdict in ("fault", "healthy")), judged),
        Station("mend", "Mend", progress(bool(done or ledger.temporary), bool(done) and not ledger.lifted),
                f"{len(ledger.lifted)} lifted" if ledger.lifted else f"{done} done" if done else ""),
        _sealed_station(visit, facts),
        Station("close", "Close", "done" if closed else "open",
                "" if closed else f"{open_items} open" if open_items else "clear"),
    )  # fmt: skip


def _sealed_station(visit: VisitState, facts: UnitFacts) -> Station:
    """How far the sealed work is: by its plan, where there is one."""
    if untouched(visit):
        return Station("sealed", "Sealed work", "open", "")
    steps = steps_in(visit, facts_in(visit, facts))
    done = sum(one.progress in ("done", "skipped") for one in steps)
    note = next((one.step.title.lower() for one in steps if one.progress == "next"), "")
    if visit[Vacuum].on:
        note = "evacuating"
    elif visit[Holds].on:
        note = "holding"
    elif visit[Charge].pouring:
        note = "pouring"
    finished = plan_in(visit, facts) is not None and done == len(steps)
    return Station("sealed", "Sealed work", "done" if finished else "begun", note)
