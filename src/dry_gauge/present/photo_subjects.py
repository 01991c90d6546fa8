"""What a photo may belong to: something found, done, read, leaking, lifted or tagged."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any
from uuid import UUID

from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.kind import Kept, VisitState, in_time
from dry_gauge.notebook.subjects.actions import Actions
from dry_gauge.notebook.subjects.cleaning import Cleaning
from dry_gauge.notebook.subjects.leak import Leaks
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.readings import Readings

_MOST = 40


def photo_subjects(state: VisitState) -> list[Kept[Any]]:
    """Entries that a photo can be of, the latest first."""
    listed = in_time({one.entry_id: one for one in _all(state)}.values())
    return listed[: -_MOST - 1 : -1]


def subject_of(about: UUID, state: VisitState) -> Kept[Any] | None:
    """The entry that a photo is of; nothing where it was taken back."""
    return next((one for one in _all(state) if one.entry_id == about), None)


def _all(state: VisitState) -> Iterator[Kept[Any]]:
    seen, ledger = state[Observations], state[Ledger]
    yield from (one for one in (*seen.found.values(), *seen.latest.values()) if one.body.state is State.YES)
    yield from state[Actions].done.values()
    yield from state[Cleaning].cleanings.values()
    yield from state[Readings].latest.values()
    yield from state[Leaks].places.values()
    yield from ledger.temporary.values()
    yield from ledger.red_tags.values()
