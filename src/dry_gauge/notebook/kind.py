"""What a kind of entry is: one row that says what it holds, what it changes, what it is refused for, how it reads.

A subject (readings, charge, leaks ...) is one file with its bodies, its part of the visit's state, and its rows. Nothing
else in the house names a kind.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from enum import IntEnum
from functools import cache
from typing import Any, ClassVar, Generic, Literal, Self, TypeVar, cast
from uuid import UUID

from pydantic import BaseModel, ConfigDict, SerializeAsAny

from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.assess import Assessment
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.fields import FROZEN

LEAST_REASON = 3
"""Letters of the shortest reason that says anything."""


class Body(BaseModel):
    """What an entry says. Stored as it is: kinds, fields and values never change their meaning."""

    model_config = FROZEN
    kind: str
    filled_in: ClassVar[frozenset[str]] = frozenset()
    """Fields that we fill in, not the sender: they do not count when the same entry is sent again."""

    def as_sent(self) -> dict[str, Any]:
        """What the sender said."""
        return self.model_dump(exclude=set(self.filled_in))


class Entry(BaseModel):
    """One line of the notebook: what, by whom, when it was written, and when it reached the server.

    Entries stand in the order of `place`. `written_at` is decided once, when the entry is accepted, from the server's
    clock and the time the entry waited on its sender's; the sender's own clock (`device_time`) only stands beside it.
    """

    model_config = FROZEN
    id: UUID
    sequence: int
    person_id: UUID
    written_at: datetime
    received_at: datetime
    device_time: datetime | None = None
    sender: str = ""
    body: SerializeAsAny[Body]

    @property
    def place(self) -> tuple[datetime, int]:
        """Where it stands among the others."""
        return self.written_at, self.sequence

    @property
    def waited_seconds(self) -> float:
        """How long it waited to be sent."""
        return (self.received_at - self.written_at).total_seconds()


B = TypeVar("B", bound=BaseModel)


class Kept(BaseModel, Generic[B]):
    """An entry that still counts: a reading, an answer, a claim, a change."""

    model_config = ConfigDict(frozen=True)
    entry_id: UUID
    at: datetime
    body: B


class Answered(Kept[B], Generic[B]):
    """One that a later entry answers: a claim checked, a timer ended, a change put back. `good` is how it turned out."""

    answered_at: datetime | None = None
    good: bool | None = None
    how: str = ""

    @property
    def open(self) -> bool:
        """Whether it still waits."""
        return self.answered_at is None


def kept(entry: Entry) -> dict[str, Any]:
    """The fields that every kept entry has."""
    return {"entry_id": entry.id, "at": entry.written_at, "body": entry.body}


W = TypeVar("W", bound=Kept[Any])


def in_time(found: Iterable[W]) -> list[W]:
    """In the order in which they were written: a stored state gives its parts back in no order."""
    return sorted(found, key=lambda one: (one.at, one.entry_id))


A = TypeVar("A", bound=BaseModel)


def with_one(found: Mapping[str, A], key: UUID, **changes: Any) -> dict[str, A]:
    """The same, with one of them changed; an unknown one (its entry was taken back) changes nothing."""
    one = found.get(str(key))
    return dict(found) if one is None else {**found, str(key): one.model_copy(update=changes)}


class Part(BaseModel):
    """What one subject knows of a visit; a subject's own class adds its fields, each with a default."""

    model_config = ConfigDict(frozen=True)

    @property
    def circuits(self) -> frozenset[int]:
        """Circuits that its entries name; none where it knows of none."""
        return frozenset()

    def of_circuit(self, number: int) -> Self:
        """What of it belongs to that circuit; all of it where it knows of none."""
        return self


P = TypeVar("P", bound=Part)


@cache
def _untouched(part: type[P]) -> P:
    return part()


class Clash(BaseModel):
    """Two entries that cannot both be so, though each fitted when it was accepted: an oddity of the record.

    `entry_id` no longer fits its place, because of `other_id`; None where it did not fit from the start and was kept
    since it had happened. A void of either ends it, or a reason.
    """

    model_config = ConfigDict(frozen=True)
    entry_id: UUID
    other_id: UUID | None
    words: str
    firm: bool = False
    reason: str = ""


@dataclass(frozen=True, slots=True, eq=False)
class VisitState:
    """What the entries so far add up to: one part per subject, which the subjects' kinds change.

    Parameters
    ----------
    sequence : int
        The highest that was given out.
    written_at : datetime or None
        Where the last entry in order stands: what was written before it takes its place among the others.
    senders : mapping of str to datetime
        Where the last entry of each browser stands: its next one is not earlier.
    """

    sequence: int = 0
    written_at: datetime | None = None
    entries: int = 0
    voided: int = 0
    clashes: tuple[Clash, ...] = ()
    senders: Mapping[str, datetime] = field(default_factory=dict)
    parts: Mapping[type[Part], Part] = field(default_factory=dict)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, VisitState) and self._all == other._all

    __hash__ = None  # type: ignore[assignment]

    @property
    def _all(self) -> tuple[object, ...]:
        # A part that was touched and holds nothing is as good as none.
        parts = {part: one for part, one in self.parts.items() if one != part()}
        return (self.sequence, self.written_at, self.entries, self.voided, self.clashes, self.senders, parts)

    def __getitem__(self, part: type[P]) -> P:
        """A subject's part; as new where nothing was entered."""
        found = self.parts.get(part)
        return found if isinstance(found, part) else _untouched(part)

    @property
    def circuits(self) -> tuple[int, ...]:
        """Circuits that any entry names, at least the first."""
        return tuple(sorted(frozenset().union(*(part.circuits for part in self.parts.values())))) or (1,)

    def of_circuit(self, number: int) -> VisitState:
        """The same with only what belongs to that circuit, of every part that knows circuits."""
        return self.having(*(part.of_circuit(number) for part in self.parts.values()))

    def having(self, *parts: Part) -> VisitState:
        """The same with those parts in place of what was."""
        return replace(self, parts={**self.parts, **{type(part): part for part in parts}})

    def changing(self, part: type[P], **changes: Any) -> VisitState:
        """The same with some fields of one part changed.

        Raises
        ------
        AttributeError
            If the part has no such field: a copy would take any name without a word.
        """
        unknown = changes.keys() - part.model_fields.keys()
        if unknown:
            raise AttributeError(f"{part.__name__} has no {', '.join(sorted(unknown))}")
        return self.having(self[part].model_copy(update=changes))


class Weight(IntEnum):
    """How much something left open matters: safety comes first."""

    SAFETY = 0
    PROOF = 1
    SYSTEM = 2
    ERRAND = 3


@dataclass(frozen=True, slots=True)
class Obstacle:
    """Something to see to before leaving; `firm` ones cannot be let go with a reason."""

    code: str
    words: str
    entry_id: str = ""
    firm: bool = False
    weight: Weight = Weight.SYSTEM
    of_fixed: bool = False
    """It only stands in the way of 'fixed'."""
    answered_alone: bool = False
    """It is ended by an answer of its own, not let go with all the rest at closing."""


def _nothing(_: Any) -> None:
    return None


def _nowhere(_: Any) -> Mapping[str, Any]:
    return {}


def _unchanged(visit: VisitState, _entry: Entry, _body: Any) -> VisitState:
    return visit


def _as_it_is(case: Case[Any]) -> Any:
    return case.body


def _nothing_open(_: VisitState) -> Iterable[Obstacle]:
    return ()


K = TypeVar("K", bound=Body)


C = TypeVar("C", bound=Body, covariant=True)


def keeping(part: type[Part], listed: str, key: Callable[[Any], str]) -> Callable[[VisitState, Entry, Any], VisitState]:
    """A fold that keeps the latest entry of each key in one of a part's lists."""

    def fold(visit: VisitState, entry: Entry, body: Body) -> VisitState:
        of_its_body = cast("type[Kept[Any]]", Kept[type(body)])  # type: ignore[misc]
        return visit.changing(part, **{listed: getattr(visit[part], listed) | {key(body): of_its_body(**kept(entry))}})

    return fold


@dataclass(frozen=True, slots=True)
class Case(Generic[C]):
    """An entry at its own place: the visit before it, the unit's card, and for kinds that need it the judgement."""

    visit: VisitState
    facts: UnitFacts
    entry: Entry
    body: C
    judged: Assessment | None = None

    def of_circuit(self, number: int | None) -> Case[C]:
        """The same as one circuit has it; the first where none is named."""
        return replace(self, visit=self.visit.of_circuit(number or 1), facts=self.facts.of_circuit(number or 1))


@dataclass(frozen=True, slots=True)
class Kind(Generic[K]):
    """One kind of entry.

    Parameters
    ----------
    body : type
        What it holds; its `kind` is the name under which it is stored.
    said : callable
        The body, and the visit as it stands, as the timeline writes it: what, and how it read.
    fold : callable
        The visit after one more of it. Total: whatever was accepted once folds, beside whatever arrives later.
    refuse : callable
        Raises `Refused` for what cannot be in any notebook of this unit, whatever else stands in it.
    collides : callable
        Raises `Refused` for what does not fit the visit at its own place.
    refers : callable
        What it points at, by field: found in the visit, or None where it is not there any more.
    leaves_open : callable
        What this kind's entries leave to be seen to before anyone leaves.
    needs : str
        ``judgement`` where `collides` looks at the judgement, which is then made before the notebook is locked.
    happened : bool
        Something physical, that is kept although it does not fit, if it waited for a connection.
    firm : bool
        A clash of it cannot be let go at closing: refrigerant and safeties.
    at_arrival : bool
        It stands where it arrives, however long it waited: it is about everything before it.
    sweeps : bool or callable
        Whether it changes what stands elsewhere on a page: fields that were read before it, lines further down.
    complete : callable
        Fills in what is ours to say: the body's `filled_in` fields.
    """

    body: type[K]
    said: Callable[[K, VisitState], tuple[str, str]]
    fold: Callable[[VisitState, Entry, K], VisitState] = _unchanged
    refuse: Callable[[Case[K]], None] = _nothing
    collides: Callable[[Case[K]], None] = _nothing
    refers: Callable[[Case[K]], Mapping[str, Any]] = _nowhere
    leaves_open: Callable[[VisitState], Iterable[Obstacle]] = _nothing_open
    needs: Literal["", "judgement"] = ""
    happened: bool = False
    firm: bool = False
    at_arrival: bool = False
    sweeps: bool | Callable[[K], bool] = False
    complete: Callable[[Case[K]], K] = _as_it_is
    name: str = field(init=False, default="")

    def __post_init__(self) -> None:
        object.__setattr__(self, "name", self.body.model_fields["kind"].default)


KINDS: dict[str, Kind[Any]] = {}
"""Every kind by the name under which it is stored; `entries` gathers them from the subjects."""


def obstacles(visit: VisitState, *, fixed: bool = True) -> tuple[Obstacle, ...]:
    """What is still open, most serious first.

    Parameters
    ----------
    fixed : bool
        Whether the visit is to end as 'fixed': only that needs its proofs.
    """
    found = [one for kind in KINDS.values() for one in kind.leaves_open(visit) if fixed or not one.of_fixed]
    return tuple(sorted(found, key=lambda one: (not one.firm, one.weight)))


def said(body: Body, visit: VisitState) -> tuple[str, str]:
    """An entry as the timeline writes it: what, and how it read."""
    return KINDS[body.kind].said(body, visit)


def sweeps(body: Body) -> bool:
    """Whether an entry changes what stands elsewhere on a page."""
    found = KINDS[body.kind].sweeps
    return found if isinstance(found, bool) else found(body)


GONE = "What this is about is not in this visit any more: it was taken back."


def still_on(one: Answered[Any] | None, field_name: str) -> None:
    """Refuse what is about something that has ended.

    Raises
    ------
    Refused
    """
    if one is not None and not one.open:
        raise Refused("That is over. Begin a new one.", field_name)
