"""How far each station of a visit is. Stations guide, they never lock."""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.box.pull_down import is_there
from dry_gauge.core.visit.complaints import WITHOUT_RUNNING
from dry_gauge.core.visit.survey import places
from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.sheets import facts_in
from dry_gauge.notebook.subjects.actions import Actions
from dry_gauge.notebook.subjects.call import Call
from dry_gauge.notebook.subjects.closing import before_leaving
from dry_gauge.notebook.subjects.codes import Codes
from dry_gauge.notebook.subjects.control_chain import ControlChain
from dry_gauge.notebook.subjects.electrical import Electrical
from dry_gauge.notebook.subjects.hold import Holds
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.movements import Charge
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.opening import Opening, steps_in, untouched
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.vacuum import Vacuum
from dry_gauge.notebook.subjects.walk_in_box import CHECKS, WalkInBox, trail_k
from dry_gauge.present.visit import VisitView, worst_of


@dataclass(frozen=True, slots=True)
class Stop:
    """How far a station is, ``open``, ``begun`` or ``done``, and in a few words."""

    progress: str
    note: str = ""


def _stop(begun: bool, done: bool, note: str = "") -> Stop:
    return Stop("done" if done else "begun" if begun else "open", note)


def begins_at(view: VisitView) -> str:
    """The station at which a call is opened: what does not run, or not for long, begins at the controls."""
    state = view.state
    stands_still = WITHOUT_RUNNING & set(state[Call].sorts)
    return "controls" if stands_still and not state[Readings].latest and controls(view).progress != "done" else "read"


def arrive(view: VisitView) -> Stop:
    """Done with the complaint; claims wait to be seen."""
    call = view.state[Call]
    unchecked = sum(claim.open for claim in call.claims.values())
    begun = bool(view.visit.complaint or call.complaint)
    return _stop(begun, call.complaint is not None, f"{unchecked} to verify" if unchecked else "")


def look(view: VisitView) -> Stop:
    """Done with half of the questions answered."""
    states = view.state[Observations].states()
    questions = [what for place in places(facts_in(view.state, view.facts)) for what in place.sights]
    looked = sum(what in states for what in questions)
    return _stop(looked > 0, looked * 2 >= len(questions), f"{looked} of {len(questions)}")


def controls(view: VisitView) -> Stop:
    """Done when every coil of the chain pulls in and no link is open; begun with anything that was found."""
    state, read = view.state[ControlChain], view.state[Codes].read
    still_open = state.still_open
    if still_open:
        return Stop("begun", "open link")
    runs = state.runs
    done = bool(runs) and all(runs.values()) and state.chain is not None and len(runs) == len(state.chain.coils)
    note = "runs" if done else f"{len(state.points)} read" if state.points else f"{len(read)} codes" if read else ""
    return _stop(state.drawn is not None or bool(read), done, note)


def air(view: VisitView) -> Stop:
    """Done with both coils proven."""
    states = view.state[Observations].states()
    proven = sum(states.get(what) is State.YES for what in ("evaporator_air_proven", "condenser_air_proven"))
    return _stop(proven > 0, proven == 2, f"{proven} of 2 coils")


def box(view: VisitView) -> Stop:
    """Done once the box is at its design and everything in it was looked at and found good."""
    state = view.state[WalkInBox]
    trail = trail_k(view.state, "box_air_temp/")
    there = bool(trail) and is_there(trail[-1][1], view.facts.box_target_k)  # no forecast: this runs with every entry
    looked = len(state.checks) * 2 >= len(CHECKS)
    wrong = sum(not one.body.good for one in state.checks.values())
    note = f"{wrong} wrong" if wrong else f"{len(state.checks)} of {len(CHECKS)}" if state.checks else ""
    return _stop(bool(trail or state.checks), there and looked and not wrong, note)


def read(view: VisitView) -> Stop:
    """Done when there is enough to judge every circuit by that was read."""
    circuits = [one for one in view.assessment.circuits.values() if one.view.is_read] if view.assessment else []
    enough = bool(circuits) and not any(gate.name == "too_few_readings" for one in circuits for gate in one.holding)
    count = len(view.state[Readings].latest)
    return _stop(count > 0, enough, f"{count} read" if count else "")


def judge(view: VisitView) -> Stop:
    """Done with a verdict on every circuit that was read."""
    worst = worst_of(view)
    verdict = worst.verdict if worst and worst.view.measured else ""
    words = {"fault": "named", "healthy": "nothing wrong", "held": "waits"}.get(verdict, "")
    return _stop(verdict == "held", verdict in ("fault", "healthy"), words)


def electrical(view: VisitView) -> Stop:
    """Begun with the first measurement; done once a supply was read that anything may run on."""
    state = view.state[Electrical]
    supply = state.supply
    stopped = state.unfit is not None
    note = "supply" if stopped else f"{state.touched} measured" if state.touched else ""
    return _stop(state.touched > 0, supply is not None and not stopped, note)


def mend(view: VisitView) -> Stop:
    """Done when something was done and nothing is lifted any more."""
    done, ledger = len(view.state[Actions].done), view.state[Ledger]
    note = f"{len(ledger.lifted)} lifted" if ledger.lifted else f"{done} done" if done else ""
    return _stop(bool(done or ledger.temporary), bool(done) and not ledger.lifted, note)


def sealed(view: VisitView) -> Stop:
    """How far the sealed work is: by its plan, where there is one."""
    visit, facts = view.state, facts_in(view.state, view.facts)
    if untouched(visit):
        return Stop("open")
    opened = sorted(visit[Opening].circuits) or [1]
    steps = [step for number in opened for step in steps_in(visit.of_circuit(number), facts.of_circuit(number))]
    done = sum(one.progress in ("done", "skipped") for one in steps)
    note = next((one.step.title.lower() for one in steps if one.progress == "next"), "")
    if visit[Vacuum].on:
        note = "evacuating"
    elif visit[Holds].on:
        note = "holding"
    elif visit[Charge].pouring:
        note = "pouring"
    return _stop(True, visit[Opening].plan is not None and done == len(steps), note)


def close(view: VisitView) -> Stop:
    """Done when it is closed."""
    if view.visit.status == "closed":
        return Stop("done")
    count = len(before_leaving(view.state, view.assessment))
    return Stop("open", f"{count} open" if count else "clear")
