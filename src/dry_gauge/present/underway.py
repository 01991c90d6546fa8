"""Where open work stands, for the board: a pour, a vacuum, a hold, or a unit that stands still says more than old readings."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from dry_gauge.core.sealed.pressure_hold import Hold
from dry_gauge.core.words import Reader
from dry_gauge.notebook.fields import of_circuit
from dry_gauge.notebook.subjects.control_chain import ControlChain
from dry_gauge.notebook.subjects.hold import Holds, KeptHold, hold_of
from dry_gauge.notebook.subjects.movements import (
    MOVEMENT_WORDS,
    OUT_OF_UNIT,
    Charge,
    KeptPour,
    MovementSort,
    standing_of,
)
from dry_gauge.notebook.subjects.vacuum import KeptEvacuation, Vacuum, evacuation_of
from dry_gauge.present import vacuum
from dry_gauge.present.headline import Headline
from dry_gauge.present.hold import HOLD_WORDS
from dry_gauge.present.visit import VisitView

_UNIT_OFF = frozenset({MovementSort.WEIGHED_IN, MovementSort.RECOVERED})


@dataclass(frozen=True, slots=True)
class AtDesk:
    """What goes on at a desk of the sealed work: in words, where it is ended, and whether its circuit cannot run until then."""

    said: Headline
    station: str
    circuit: int
    keeps_off: bool = True


def under_way(view: VisitView, reader: Reader) -> Headline | None:
    """The first of them; None where nothing is on, or the visit is closed."""
    if view.visit.status == "closed":
        return None
    return next((one.said for one in _at_desks(view, reader)), None) or _standing_still(view)


def at_desk(view: VisitView, reader: Reader, circuit: int) -> AtDesk | None:
    """What keeps a circuit from running until it is ended at its desk; None where nothing does, or the visit is closed."""
    if view.visit.status == "closed":
        return None
    return next((one for one in _at_desks(view, reader) if one.keeps_off and one.circuit == circuit), None)


def _at_desks(view: VisitView, reader: Reader) -> Iterator[AtDesk]:
    pour = view.state[Charge].pouring
    if pour is not None:
        station = "recover" if pour.body.way in OUT_OF_UNIT else "weigh"
        yield AtDesk(_pouring(view, pour, reader), station, pour.body.circuit or 1, pour.body.way in _UNIT_OFF)
    for key, evacuation in view.state[Vacuum].in_order:
        if evacuation.open:
            said = _evacuating(key, evacuation)
            yield AtDesk(said, "vacuum", evacuation.body.circuit or 1, evacuation.body.what == "system")
    for key, hold in view.state[Holds].in_order:
        if hold.open:
            yield AtDesk(_holding(key, hold, view), "hold", hold.body.circuit or 1)


def _standing_still(view: VisitView) -> Headline | None:
    state = view.state[ControlChain]
    if state.still_open:
        return Headline(f"Open: {state.still_open[-1].body.link}", "act", "Found along its control chain.")
    still = [name for name, runs in state.runs.items() if not runs]
    if not still:
        return None
    return Headline(f"Stands still: {still[0].lower()}", "open", f"{len(state.points)} points read along its control chain.")


def _pouring(view: VisitView, pour: KeptPour, reader: Reader) -> Headline:
    own = view.of_circuit(pour.body.circuit or 1)
    standing = standing_of(own.state, own.facts)
    to_go = standing.to_go_kg if standing else 0.0
    left = f"{reader.say('weight', to_go)} to add by the last mark." if to_go > 0 else ""
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
    words = f"{one.body.section}, since {one.at.astimezone():%a %H:%M}."
    return Headline(f"Under nitrogen{of_circuit(one.body.circuit)}: {says}", mark, words)
