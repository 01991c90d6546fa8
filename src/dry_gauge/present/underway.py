"""What keeps a unit off, and where open work stands: a pour, a vacuum, a hold, a lock-out say more than old readings."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.judgement.checks import LOOKED_AT, Check
from dry_gauge.core.judgement.stops import STOPS
from dry_gauge.core.local_time import clock, local
from dry_gauge.core.sealed.pressure_hold import Hold
from dry_gauge.core.words import Reader, counted
from dry_gauge.notebook.fields import of_circuit
from dry_gauge.notebook.subjects.closing import GOOD_ENDS, OUTCOME_WORDS, Outcome
from dry_gauge.notebook.subjects.control_chain import ControlChain
from dry_gauge.notebook.subjects.hold import Holds, KeptHold, hold_of
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.movements import MOVEMENT_WORDS, OUT_OF_UNIT, Charge, KeptPour, MovementSort, standing_of
from dry_gauge.notebook.subjects.vacuum import KeptEvacuation, Vacuum, evacuation_of
from dry_gauge.present import vacuum
from dry_gauge.present.headline import Headline, headline
from dry_gauge.present.hold import HOLD_WORDS
from dry_gauge.present.stops import stopped_circuit
from dry_gauge.present.visit import VisitView, worst_of

_UNIT_OFF = frozenset({MovementSort.WEIGHED_IN, MovementSort.RECOVERED})


@dataclass(frozen=True, slots=True)
class First:
    """What comes before any check: in words, where it is ended, and whether its circuit cannot run until then."""

    said: Headline
    station: str
    circuit: int
    keeps_off: bool = True


def under_way(view: VisitView, reader: Reader) -> Headline | None:
    """The first of them; None where nothing is on, or the visit is closed."""
    if view.visit.status == "closed":
        return None
    kept_off = _kept_off(view, 1)
    return next((one.said for one in _at_desks(view, reader)), None) or (kept_off.said if kept_off else _standing_still(view))


def in_short(view: VisitView, reader: Reader) -> tuple[CircuitAssessment | None, Headline]:
    """A visit in a line, and the circuit that stands for it.

    How it ended; else what must not run, else what is under way, else the verdict.
    """
    worst = worst_of(view)
    if view.visit.status == "planned":
        return worst, Headline("To come", "open", "")
    if view.visit.status == "closed":
        return worst, _ended(view.visit.outcome, view.visit.summary)
    stopped = worst is not None and bool(worst.stops)
    goes_on, said = None if stopped else under_way(view, reader), headline(worst, reader)
    if goes_on is not None:
        return worst, goes_on if goes_on.detail else replace(goes_on, detail=f"{said.words}.")
    if worst is not None and view.has_several_circuits:
        said = replace(said, words=f"Circuit {worst.view.number}: {said.words[0].lower()}{said.words[1:]}")
    return worst, said


def _ended(outcome: str, summary: str) -> Headline:
    """What was not set right never looks as if it were."""
    if not outcome or outcome in GOOD_ENDS:
        return Headline(f"Closed: {summary}", "done", "")
    mark = "open" if outcome == Outcome.IMPROVED else "act"
    return Headline(f"{OUTCOME_WORDS[Outcome(outcome)]}: {summary}", mark, "")


def comes_first(view: VisitView, reader: Reader, judged: CircuitAssessment) -> First | None:
    """What keeps a circuit off until it is ended, so that no check of it may ask for a running unit; None where nothing does.

    Its own stops say by themselves what to do. A lock-out or a red tag holds up only what needs the unit to run.
    """
    if view.visit.status == "closed":
        return None
    number = judged.view.number
    at_its_desk = next((one for one in _at_desks(view, reader) if one.keeps_off and one.circuit == number), None)
    if at_its_desk is not None or judged.stops:
        return at_its_desk
    stopped = stopped_circuit(view)
    if stopped is not None:
        stop, other = stopped.stops[0], stopped.view.number
        said = Headline(f"Stop, circuit {other}: {STOPS[stop.code].label.lower()}", "stop", stop.phrase.read(reader))
        return First(said, "read", other)
    return None if resting_checks(view, judged) else _kept_off(view, number)


def resting_checks(view: VisitView, judged: CircuitAssessment) -> Sequence[Check]:
    """The next checks of a circuit: of a unit that is locked out or tagged those alone for which it may stay off."""
    if not is_kept_off(view):
        return judged.next_checks
    return [replace(check, unit="off") for check in judged.next_checks if check.unit == "off" or _is_done_at_rest(check)]


_LOOKED_AT_REST = LOOKED_AT - {"frost"}  # which melts while it stands


def _is_done_at_rest(check: Check) -> bool:
    """Whether it is a look, or the first step of a remedy: for that it was locked out."""
    return check.name in _LOOKED_AT_REST or check.name.startswith("remedy_")


def is_kept_off(view: VisitView) -> bool:
    """Whether the whole unit is locked out or tagged."""
    ledger = view.state[Ledger]
    return bool(ledger.locked or ledger.red_tags)


def _kept_off(view: VisitView, circuit: int) -> First | None:
    ledger = view.state[Ledger]
    if ledger.red_tags:
        tag = next(iter(ledger.red_tags.values()))
        return First(Headline(f"Red tag: {tag.body.danger}", "act", ""), "mend", circuit)
    if ledger.locked:
        return First(Headline(f"Locked out: {', '.join(ledger.locked)}", "held", ""), "mend", circuit)
    return None


def _at_desks(view: VisitView, reader: Reader) -> Iterator[First]:
    pour = view.state[Charge].pouring
    if pour is not None:
        station = "recover" if pour.body.way in OUT_OF_UNIT else "weigh"
        yield First(_pouring(view, pour, reader), station, pour.body.circuit or 1, pour.body.way in _UNIT_OFF)
    for key, evacuation in view.state[Vacuum].in_order:
        if evacuation.open:
            said = _evacuating(key, evacuation)
            yield First(said, "vacuum", evacuation.body.circuit or 1, evacuation.body.what == "system")
    for key, hold in view.state[Holds].in_order:
        if hold.open:
            yield First(_holding(key, hold, view), "hold", hold.body.circuit or 1)


def _standing_still(view: VisitView) -> Headline | None:
    state = view.state[ControlChain]
    if state.still_open:
        return Headline(f"Open: {state.still_open[-1].body.link}", "act", "Found along its control chain.")
    still = [name for name, runs in state.runs.items() if not runs]
    if not still:
        return None
    read = f"{counted(len(state.points), 'point')} read along its control chain."
    return Headline(f"Stands still: {still[0].lower()}", "open", read)


def _pouring(view: VisitView, pour: KeptPour, reader: Reader) -> Headline:
    own = view.of_circuit(pour.body.circuit or 1)
    standing = standing_of(own.state, own.facts)
    out = pour.body.way in OUT_OF_UNIT
    kg = pour.so_far_g() * GRAM_KG if out else standing.to_go_kg if standing else 0.0
    left = f"{reader.say('weight', kg)} {'out' if out else 'to add'} by the last mark." if kg > 0 else ""
    return Headline(f"A pour is on{of_circuit(pour.body.circuit)}: {MOVEMENT_WORDS[pour.body.way].lower()}", "open", left)


def _evacuating(key: str, one: KeptEvacuation) -> Headline:
    found = evacuation_of(key, one)
    words, after = vacuum.docked(found, "")
    bad = found.last is not None and found.last.verdict in vacuum.AFTER_RISE
    where = of_circuit(one.body.circuit)
    return Headline(f"Under vacuum{where}: {words[0].lower()}{words[1:]}", "act" if bad else "open", after)


def _holding(key: str, one: KeptHold, view: VisitView) -> Headline:
    verdict = hold_of(key, one, view.facts).verdict
    says = HOLD_WORDS[verdict.verdict].lower() if verdict else "no reading yet"
    mark = "act" if verdict and verdict.verdict is Hold.LEAKING else "open"
    words = f"{one.body.section}, since {local(one.at):%a} {clock(one.at)}."
    return Headline(f"Under nitrogen{of_circuit(one.body.circuit)}: {says}", mark, words)
