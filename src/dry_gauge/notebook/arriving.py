"""Entries that arrive: each is looked at in its own place, and added to what is there.

Nearly always an entry is the last in order and the state takes one step. One that waited for a connection, and one that
takes another back, make the visit be folded again: once for all that arrive together.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import timedelta
from uuid import UUID

from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.assess import Assessment
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.kind import KINDS, Body, Case, Entry, VisitState
from dry_gauge.notebook.state import Folding, case_at, fold, own_clash, with_clash, written_at
from dry_gauge.notebook.subjects.record import VoidBody


class TakenBackAlready(Exception):
    """The entry that a void is about was taken back before: nothing is left to do."""


class Arriving:
    """A visit while entries arrive.

    Parameters
    ----------
    entries : callable
        All entries that are there already; asked for only where the visit is folded again.
    """

    def __init__(self, state: VisitState, facts: UnitFacts, entries: Callable[[], Iterable[Entry]]) -> None:
        self._state, self._facts, self._entries = state, facts, entries
        self.taken: list[Entry] = []
        """What was added so far."""
        self._folding: Folding | None = None
        self.sequence = state.sequence

    def stamped(self, entry: Entry, waited: timedelta) -> Entry:
        """The entry with its place: when it was written, and the next number. `waited` is by its sender's own clock."""
        kind = KINDS[entry.body.kind]
        if kind.at_arrival:
            waited = timedelta(0)
        moments = [self._state.senders.get(entry.sender), *(one.written_at for one in self.taken if one.sender == entry.sender)]
        if waited and (self._folding is not None or isinstance(entry.body, VoidBody)):
            points_at = {value for _, value in entry.body if isinstance(value, UUID)}
            moments += [one.written_at for one in self._all() if one.id in points_at]
        elif waited:
            found = kind.refers(case_at(self._state, self._facts, entry)).values()
            moments += [getattr(one, "at", None) for one in found]
        at = written_at(entry.received_at, waited, moments)
        return entry.model_copy(update={"written_at": at, "sequence": self.sequence + 1})

    def _all(self) -> list[Entry]:
        return self._folding.entries if self._folding else [*self._entries(), *self.taken]

    def voids(self, entry: Entry) -> Entry | None:
        """The entry that this one takes back; None for anything but a void.

        Raises
        ------
        Refused
        """
        if not isinstance(entry.body, VoidBody):
            return None
        if self._folding is None:
            self._folding = Folding(self._all(), self._facts)
        found = next((one for one in self._folding.entries if one.id == entry.body.voids), None)
        if found is None:
            raise Refused("The entry to take back is not in this visit.", "voids")
        if isinstance(found.body, VoidBody):
            raise Refused("A void cannot be voided: enter the value again instead.", "voids")
        if found.id in self._folding.voided:
            raise TakenBackAlready
        return found

    def case(self, entry: Entry, judged: Assessment | None = None) -> Case[Body]:
        """The entry at its own place, for whoever looks whether it may be added."""
        late = self._state.written_at is not None and entry.written_at < self._state.written_at
        if self._folding is None and not late:
            return case_at(self._state, self._facts, entry, judged)
        if self._folding is None or self._folding.is_past(entry.written_at):
            self._folding = Folding(self._all(), self._facts)
        return case_at(self._folding.up_to(entry.written_at), self._facts, entry, judged)

    def preview(self, case: Case[Body]) -> VisitState:
        """The visit just after an entry at its place, should it be added."""
        return fold(case.visit, case.entry)

    def add(self, entry: Entry, after: VisitState) -> None:
        """Add an entry that may be added; `after` is its `preview`."""
        self.sequence = entry.sequence
        if isinstance(entry.body, VoidBody):
            self._folding = Folding([*self._all(), entry], self._facts)
        elif self._folding is not None:
            self._folding.insert(entry)
        else:
            self._state = with_clash(after, own_clash(self._state, self._facts, entry))
        self.taken.append(entry)

    def finished(self) -> VisitState:
        """The visit with everything that was added."""
        return self._folding.to_the_end() if self._folding else self._state
