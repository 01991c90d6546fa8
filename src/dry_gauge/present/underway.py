"""Where open work stands, for the board: a pour, a vacuum, a hold, or a unit that stands still says more than old readings."""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.sealed.pressure_hold import Hold
from dry_gauge.core.words import Reader
from dry_gauge.notebook.fields import of_circuit
from dry_gauge.notebook.subjects.control_chain import ControlChain
from dry_gauge.notebook.subjects.hold import Holds, hold_of
from dry_gauge.notebook.subjects.movements import MOVEMENT_WORDS, Charge, MovementSort, standing_of
from dry_gauge.notebook.subjects.vacuum import Vacuum, evacuation_of
from dry_gauge.present import vacuum
from dry_gauge.present.headline import Headline
from dry_gauge.present.hold import HOLD_WORDS
from dry_gauge.present.visit import VisitView


def under_way(view: VisitView, reader: Reader) -> Headline | None:
    """The first of them; None where nothing is on, or the visit is closed."""
    if view.visit.status == "closed":
        return None
    return _pouring(view, reader) or _evacuating(view) or _holding(view) or _standing_still(view)


@dataclass(frozen=True, slots=True)
class AtDesk:
    """What goes on at a desk of the sealed work, and where it is ended."""

    words: str
    detail: str
    station: str
    circuit: int


_UNIT_OFF = {MovementSort.WEIGHED_IN: "weigh", MovementSort.RECOVERED: "recover"}


def at_desk(view: VisitView, reader: Reader) -> AtDesk | None:
    """What keeps the unit from running until it is ended at its desk; None where nothing does, or the visit is closed."""
    if view.visit.status == "closed":
        return None
    pour = view.state[Charge].pouring
    at_work: list[tuple[Headline | None, str, int | None]] = []
    if pour is not None and pour.body.way in _UNIT_OFF:
        at_work.append((_pouring(view, reader), _UNIT_OFF[pour.body.way], pour.body.circuit))
    at_work += [(_evacuating(view), "vacuum", one.body.circuit) for one in view.state[Vacuum].of_system if one.open]
    at_work += [(_holding(view), "hold", one.body.circuit) for one in view.state[Holds].holds.values() if one.open]
    for said, station, circuit in at_work:
        if said is not None:
            return AtDesk(said.words, said.detail, station, circuit or 1)
    return None


def _standing_still(view: VisitView) -> Headline | None:
    state = view.state[ControlChain]
    if state.still_open:
        return Headline(f"Open: {state.still_open[-1].body.link}", "act", "Found along its control chain.")
    still = [name for name, runs in state.runs.items() if not runs]
    if not still:
        return None
    return Headline(f"Stands still: {still[0].lower()}", "open", f"{len(state.points)} points read along its control chain.")


def _pouring(view: VisitView, reader: Reader) -> Headline | None:
    pour = view.state[Charge].pouring
    if pour is None:
        return None
    own = view.of_circuit(pour.body.circuit or 1)
    standing = standing_of(own.state, own.facts)
    to_go = standing.to_go_kg if standing else 0.0
    left = f"{reader.say('weight', to_go)} to add by the last mark." if to_go > 0 else ""
    return Headline(f"A pour is on{of_circuit(pour.body.circuit)}: {MOVEMENT_WORDS[pour.body.way].lower()}", "open", left)


def _evacuating(view: VisitView) -> Headline | None:
    for key, one in view.state[Vacuum].in_order:
        if one.open:
            found = evacuation_of(key, one)
            words, after = vacuum.docked(found, "")
            bad = found.last is not None and found.last.verdict in vacuum.AFTER_RISE
            where = of_circuit(one.body.circuit)
            return Headline(f"Under vacuum{where}: {words[0].lower()}{words[1:]}", "act" if bad else "open", after)
    return None


def _holding(view: VisitView) -> Headline | None:
    for key, one in view.state[Holds].in_order:
        if one.open:
            verdict = hold_of(key, one, view.facts).verdict
            says = HOLD_WORDS[verdict.verdict].lower() if verdict else "no reading yet"
            mark = "act" if verdict and verdict.verdict is Hold.LEAKING else "open"
            words = f"{one.body.section}, since {one.at.astimezone():%a %H:%M}."
            return Headline(f"Under nitrogen{of_circuit(one.body.circuit)}: {says}", mark, words)
    return None
