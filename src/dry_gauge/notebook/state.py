"""A visit as it stands: the fold of its entries. Pure, incremental, and able to be rebuilt at any time.

Entries stand in the order (written_at, sequence). What arrives late takes its place among those that are there, and
the visit is folded again: whatever the order of arrival, the same entries give the same state. Nothing that was accepted
is refused or dropped later. Where a late entry makes a later one impossible, both stand and their clash is named
(docs/rules.md, R19).

What the state keeps does not grow with the readings of a visit.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from types import SimpleNamespace
from typing import Any
from uuid import UUID

from pydantic import TypeAdapter

from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.assess import Assessment
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.entries import PARTS
from dry_gauge.notebook.kind import GONE, KINDS, Body, Case, Clash, Entry, VisitState
from dry_gauge.notebook.sheets import facts_in
from dry_gauge.notebook.subjects.record import ExplainedBody, VoidBody

FOLD_VERSION = 14
"""What a stored state was folded by; older ones are folded again when they are touched."""
LEAST_WAIT = timedelta(seconds=1)
WAITED_SECONDS = 60
"""What happened and waited longer than this is kept although it does not fit: nobody can be asked on the spot (R20)."""
_MOST_TRIED = 8


def fold(state: VisitState, entry: Entry) -> VisitState:
    """The state after one more entry, the last in order.

    A void only counts here; whoever adds one folds the visit again with `fold_all`.
    """
    body = entry.body
    if isinstance(body, ExplainedBody):
        explained = {"reason": body.reason}
        clashes = tuple(one.model_copy(update=explained) if one.entry_id == body.clash else one for one in state.clashes)
        state = replace(state, clashes=clashes)
    state = KINDS[body.kind].fold(state, entry, body)
    return replace(
        state,
        sequence=max(state.sequence, entry.sequence),
        written_at=entry.written_at,
        entries=state.entries + 1,
        voided=state.voided + isinstance(body, VoidBody),
        senders=_senders(state, entry),
    )


def _senders(state: VisitState, entry: Entry) -> Mapping[str, datetime]:
    return {**state.senders, entry.sender: entry.written_at} if entry.sender else state.senders


def fold_all(entries: Iterable[Entry], facts: UnitFacts) -> VisitState:
    """The state of a whole visit, entries that were taken back left out of everything but the counts."""
    return Folding(entries, facts).to_the_end()


class Folding:
    """A visit folded in order, step by step, so that arriving entries can be looked at in their own places.

    Parameters
    ----------
    watching : bool
        Whether clashes are looked for; without, only what the entries add up to counts.
    """

    def __init__(self, entries: Iterable[Entry], facts: UnitFacts, *, watching: bool = True) -> None:
        self.entries = sorted(entries, key=lambda entry: entry.place)
        self.facts, self.watching = facts, watching
        self.voided = {entry.body.voids for entry in self.entries if isinstance(entry.body, VoidBody)}
        self.state = VisitState()
        self._at = 0
        self._highest = 0

    def up_to(self, written_at: datetime) -> VisitState:
        """The state just before what is written then: entries of the same moment that are there stand before it."""
        while self._at < len(self.entries) and self.entries[self._at].written_at <= written_at:
            self._step()
        return self.state

    def insert(self, entry: Entry) -> None:
        """Put an entry in where the folding stands."""
        self.entries.insert(self._at, entry)
        self._step()

    def to_the_end(self) -> VisitState:
        """The state after all of them."""
        while self._at < len(self.entries):
            self._step()
        return self.state

    def is_past(self, written_at: datetime) -> bool:
        """Whether the folding went beyond what is written then."""
        return self._at > 0 and self.entries[self._at - 1].written_at > written_at

    def _step(self) -> None:
        entry = self.entries[self._at]
        self._at += 1
        overtaken = entry.sequence < self._highest
        self._highest = max(self._highest, entry.sequence)
        if entry.id in self.voided:
            self.state = replace(
                self.state,
                sequence=max(self.state.sequence, entry.sequence),
                written_at=entry.written_at,
                entries=self.state.entries + 1,
                senders=_senders(self.state, entry),
            )
            return
        clash = None
        if self.watching and not KINDS[entry.body.kind].at_arrival:  # what was judged at arrival stays so
            clash = self._clash(entry) if overtaken else own_clash(self.state, self.facts, entry)
        self.state = with_clash(fold(self.state, entry), clash)

    def _clash(self, entry: Entry) -> Clash | None:
        """What others, that overtook it in arriving, made of an entry."""
        words = _collision(case_at(self.state, self.facts, entry))
        if words is None:
            return None
        late = [one for one in self.entries[: self._at - 1] if one.sequence > entry.sequence and one.id not in self.voided]
        other = self._because(entry, late)
        if other is None:
            return own_clash(self.state, self.facts, entry)
        firm = KINDS[entry.body.kind].firm or KINDS[other.body.kind].firm
        return Clash(entry_id=entry.id, other_id=other.id, words=words, firm=firm)

    def _because(self, entry: Entry, late: Sequence[Entry]) -> Entry | None:
        """The late entry without which it would fit; where leaving none out alone helps, the last; None if they do not matter."""
        before = self.entries[: self._at - 1]

        def fits_without(gone: set[UUID]) -> bool:
            without = Folding([one for one in before if one.id not in gone], self.facts, watching=False)
            return _collision(case_at(without.to_the_end(), self.facts, entry)) is None

        for one in reversed(late[-_MOST_TRIED:]):
            if fits_without({one.id}):
                return one
        return late[-1] if late and fits_without({one.id for one in late}) else None


def own_clash(state: VisitState, facts: UnitFacts, entry: Entry) -> Clash | None:
    """The clash of an entry that was kept although it does not fit its place, since it had happened and had to wait."""
    kind = KINDS[entry.body.kind]
    if not kind.happened or entry.waited_seconds <= WAITED_SECONDS:
        return None
    words = _collision(case_at(state, facts, entry))
    return None if words is None else Clash(entry_id=entry.id, other_id=None, words=words, firm=kind.firm)


def with_clash(state: VisitState, clash: Clash | None) -> VisitState:
    """The state with one clash more, if there is one."""
    return state if clash is None else replace(state, clashes=(*state.clashes, clash))


def _collision(case: Case[Body]) -> str | None:
    kind = KINDS[case.body.kind]
    if any(found is None for found in kind.refers(case).values()):
        return None  # it was taken back: that is on the record already
    try:
        kind.collides(case)
    except Refused as refusal:
        return refusal.message
    return None


def check(case: Case[Body]) -> None:
    """Whether an arriving entry may be added at its place. What happened and had to wait is kept even if it clashes.

    Raises
    ------
    Refused
    """
    kind = KINDS[case.body.kind]
    kind.refuse(case)
    gone = next((name for name, found in kind.refers(case).items() if found is None), None)
    if gone is not None:
        raise Refused(GONE, gone)
    if not (kind.happened and case.entry.waited_seconds > WAITED_SECONDS):
        kind.collides(case)


def case_at(visit: VisitState, facts: UnitFacts, entry: Entry, judged: Assessment | None = None) -> Case[Body]:
    """An entry at its place, the unit in the mode in which the visit found it."""
    return Case(visit, facts_in(visit, facts), entry, entry.body, judged)


def completed(case: Case[Body]) -> Case[Body]:
    """The case with what is ours to say in its entry."""
    body = KINDS[case.body.kind].complete(case)
    return case if body is case.body else replace(case, body=body, entry=case.entry.model_copy(update={"body": body}))


def needs_judgement(kind: str) -> bool:
    """Whether entries of that kind are looked at beside the judgement."""
    return KINDS[kind].needs == "judgement"


def by_name(state: VisitState) -> SimpleNamespace:
    """The parts under their names, for templates: ``readings``, ``charge``, ``ledger`` ..."""
    return SimpleNamespace(**{name: state[part] for name, part in PARTS.items()})


# -- stored ----------------------------------------------------------------

_CLASHES = TypeAdapter(tuple[Clash, ...])
_SENDERS = TypeAdapter(dict[str, datetime])
_MOMENT = TypeAdapter(datetime | None)
_NAMES = {part: name for name, part in PARTS.items()}


def stored(state: VisitState) -> dict[str, Any]:
    """The state as JSON; parts in which nothing was entered are left out."""
    parts = {
        _NAMES[part]: one.model_dump(mode="json", exclude_none=True, exclude_defaults=True) for part, one in state.parts.items()
    }
    return {
        "sequence": state.sequence,
        "written_at": _MOMENT.dump_python(state.written_at, mode="json"),
        "senders": _SENDERS.dump_python(dict(state.senders), mode="json"),
        "entries": state.entries,
        "voided": state.voided,
        "clashes": _CLASHES.dump_python(state.clashes, mode="json"),
        "parts": {name: one for name, one in parts.items() if one},
    }


def restored(kept: Mapping[str, Any]) -> VisitState:
    """A state that `stored` wrote; nothing is an empty visit."""
    if not kept:
        return VisitState()
    parts = {PARTS[name]: PARTS[name].model_validate(one) for name, one in kept.get("parts", {}).items()}
    return VisitState(
        kept["sequence"],
        _MOMENT.validate_python(kept["written_at"]),
        kept["entries"],
        kept["voided"],
        _CLASHES.validate_python(kept.get("clashes", ())),
        _SENDERS.validate_python(kept.get("senders", {})),
        parts,
    )


# -- when an entry was written ---------------------------------------------

LONGEST_WAIT = timedelta(days=30)


def written_at(received_at: datetime, waited: timedelta, not_before: Iterable[datetime | None] = ()) -> datetime:
    """When an arriving entry was written, decided once and stored (docs/rules.md, R18).

    Received less what it waited on its sender's own clock, if that was a second at least; never later than received, nor
    earlier than 30 days, than the same browser's previous entry in the visit, or than what it refers to (`not_before`).
    """
    # Who typed first within a second nobody can say: such entries stand as they arrive, and nothing is folded again.
    written = received_at - (min(waited, LONGEST_WAIT) if waited >= LEAST_WAIT else timedelta(0))
    return min(received_at, max(written, *(moment for moment in not_before if moment), written))
