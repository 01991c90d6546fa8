"""Close: what was found, done, proven and left, gathered from every subject, and the sentence that it makes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.judgement.assess import CALLED_FROM
from dry_gauge.core.judgement.evidence import Cause
from dry_gauge.core.judgement.faults import fault_words, in_its_words
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Reader
from dry_gauge.notebook.fields import of_circuit
from dry_gauge.notebook.subjects.actions import ACTION_WORDS, Actions
from dry_gauge.notebook.subjects.agenda import Agenda
from dry_gauge.notebook.subjects.failed_tests import Repeat
from dry_gauge.notebook.subjects.findings import findings_in
from dry_gauge.notebook.subjects.hold import Holds
from dry_gauge.notebook.subjects.leak import CURE_WORDS, Leaks, place_words
from dry_gauge.notebook.subjects.movements import MOVEMENT_WORDS, Charge, moved_in
from dry_gauge.notebook.subjects.vacuum import Vacuum
from dry_gauge.present.proving import repeats_in
from dry_gauge.present.visit import VisitView, judged_before


@dataclass(frozen=True, slots=True)
class Outline:
    """The visit in short; nothing in a list was not so."""

    found: Sequence[str]
    done: Sequence[str]
    proven: Sequence[str]
    left: Sequence[str]

    @property
    def draft(self) -> str:
        """The same as a sentence or two, to be changed by whoever closes."""
        parts = (("Found", self.found), ("Done", self.done), ("Proven", self.proven), ("Left", self.left))
        return " ".join(f"{name}: {'; '.join(listed)}." for name, listed in parts if listed)


def outline_of(view: VisitView, reader: Reader) -> Outline:
    """What the notebook says of the visit as a whole."""
    left = [f"{one.body.what}, {one.body.due:%d %b %Y}" for one in view.state[Agenda].follow_ups.values() if one.open]
    return Outline(_found(view), [*_mended(view), *_moved(view, reader), *_sealed(view)], _proven(view, reader), left)


def causes_named(view: VisitView) -> list[Cause]:
    """What the readings were called: before a repair, where one was done."""
    if view.is_kept_back:
        return []
    before, found = judged_before(view), []
    assessment = before or view.assessment
    for circuit in assessment.circuits.values() if assessment else ():
        first = circuit.causes[0]
        # What was read before a repair stands without its sights and clocks: there the numbers alone name the cause.
        named = circuit.verdict == "fault" or (before is not None and first.probability >= CALLED_FROM)
        if named and first.fault is not Fault.NONE:
            found.append(first)
    return found


def _found(view: VisitView) -> list[str]:
    found = [in_its_words(one.label, view.facts).lower() for one in findings_in(view.state)]
    found += [fault_words(one.fault, view.facts).lower() for one in causes_named(view)]
    leaks = [one for one in view.state[Leaks].places.values() if one.body.result == "failed"]
    found += [f"leak at {place_words(one.body.place).lower()}{f', {one.body.words}' if one.body.words else ''}" for one in leaks]
    return list(dict.fromkeys(found))


def _mended(view: VisitView) -> list[str]:
    done = []
    for action in view.state[Actions].done.values():
        done.append(": ".join(filter(None, (ACTION_WORDS[action.body.sort].lower(), action.body.words))))
    leaks = {str(one.entry_id): one.body.place for one in view.state[Leaks].places.values()}
    for leak, cure in view.state[Leaks].cures.items():
        place = place_words(leaks.get(leak, "")).lower()
        done.append(" ".join(filter(None, (f"{place}:" if place else "", CURE_WORDS[cure.body.cure].lower(), cure.body.part))))
    return done


def _moved(view: VisitView, reader: Reader) -> list[str]:
    return [
        f"{MOVEMENT_WORDS[way].lower()}{of_circuit(number)} {reader.say('weight', grams * GRAM_KG)}"
        for number, way, grams in moved_in(view.state[Charge])
    ]


def _sealed(view: VisitView) -> list[str]:
    said = [
        f"{hold.body.section}{of_circuit(hold.body.circuit)} held under nitrogen, {(hold.verdict or '').replace('_', ' ')}"
        for hold in view.state[Holds].holds.values()
        if not hold.open
    ]
    evacuated = {one.body.circuit or 1 for one in view.state[Vacuum].of_system if not one.open}
    return said + [f"evacuated{of_circuit(number)}" for number in sorted(evacuated)]


def _proven(view: VisitView, reader: Reader) -> list[str]:
    return [_proof_words(one) for one in repeats_in(view, reader).values() if one.passed]


def _proof_words(one: Repeat) -> str:
    showed = f"{one.before} before, {one.found} after" if one.before else one.found
    return f"{one.label.lower()}{':' if one.test.body.what else ''} {showed} (to be {one.should})"


def found_in(view: VisitView) -> list[str]:
    """Causes and findings that a visit named, by their names: for sums over visits."""
    return list(dict.fromkeys([one.what for one in findings_in(view.state)] + [one.fault.value for one in causes_named(view)]))


def parts_in(view: VisitView) -> list[str]:
    """What was put in or set right, in the technician's words where there are some: for sums over visits."""
    put_in = [one.body.part or ACTION_WORDS[one.body.sort] for one in view.state[Actions].done.values()]
    put_in += [cure.body.part or CURE_WORDS[cure.body.cure] for cure in view.state[Leaks].cures.values()]
    return list(dict.fromkeys(one.strip().lower() for one in put_in))
