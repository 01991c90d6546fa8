"""A visit as it stands: the fold of its entries. Pure, incremental, and able to be rebuilt at any time.

What the state keeps does not grow with the visit: the latest of each quantity and observation, and when things
happened. A void may bring back something older, so a visit with a new void is folded again from its entries.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime, timedelta
from functools import reduce
from hashlib import blake2b
from typing import Generic, TypeVar
from uuid import UUID

from pydantic import BaseModel, ConfigDict

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import make_observation, make_reading
from dry_gauge.core.sheet import Reading, Sheet, UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES, Mode, School, State
from dry_gauge.notebook.entries import (
    AsideBody,
    ClockBody,
    Entry,
    ModeBody,
    NoteBody,
    ObservationBody,
    OverrideBody,
    ReadingBody,
    VoidBody,
)

_Body = TypeVar("_Body", bound=BaseModel)


class Kept(BaseModel, Generic[_Body]):
    """The latest entry of its sort: a reading, an answer, a warning put aside, the technician's own verdict."""

    model_config = ConfigDict(frozen=True)
    entry_id: UUID
    at: datetime
    body: _Body


KeptReading = Kept[ReadingBody]
KeptObservation = Kept[ObservationBody]
KeptAside = Kept[AsideBody]
KeptOverride = Kept[OverrideBody]


class VisitState(BaseModel):
    """What the entries so far add up to; keys read ``quantity/circuit``."""

    model_config = ConfigDict(frozen=True)
    sequence: int = 0
    readings: dict[str, KeptReading] = {}
    observations: dict[str, KeptObservation] = {}
    started_at: datetime | None = None
    changed_at: datetime | None = None
    last_read_at: datetime | None = None
    mode: Mode | None = None
    asides: dict[str, KeptAside] = {}
    override: KeptOverride | None = None
    entries: int = 0
    voided: int = 0
    notes: int = 0

    def reading(self, quantity: str, circuit: int = 1) -> KeptReading | None:
        """The latest reading of that quantity."""
        return self.readings.get(_reading_key(quantity, circuit))

    def observation(self, what: str, circuit: int | None = None) -> KeptObservation | None:
        """The latest answer to that observation."""
        return self.observations.get(f"{what}/{circuit or 0}")

    def basis(self, readings: Iterable[str], circuit: int = 1) -> str:
        """What a warning about those readings rests on: it changes when one of them is read anew."""
        kept = (self.reading(name, circuit) for name in sorted(readings))
        return blake2b("".join(str(one.entry_id) for one in kept if one).encode(), digest_size=12).hexdigest()

    def aside(self, warning: str, basis: str) -> KeptAside | None:
        """The reason for which that warning was put aside, as long as it rests on the same readings."""
        kept = self.asides.get(warning)
        return kept if kept and kept.body.basis == basis else None

    @property
    def circuits(self) -> tuple[int, ...]:
        """Circuits that any entry names, at least the first."""
        named = {int(key.rsplit("/", 1)[1]) for key in (*self.readings, *self.observations)}
        return tuple(sorted(named - {0})) or (1,)


def _reading_key(quantity: str, circuit: int | None) -> str:
    known = QUANTITIES.get(quantity)
    return f"{quantity}/{0 if known and known.shared else circuit or 1}"


def fold(state: VisitState, entry: Entry) -> VisitState:
    """The state after one more entry.

    A void only counts here; whoever appends one folds the visit again with `fold_all`.
    """
    changes: dict[str, object] = {"sequence": entry.sequence, "entries": state.entries + 1}
    at = entry.received_at
    match entry.body:
        case ReadingBody() as body:
            key = _reading_key(body.quantity, body.circuit)
            changes["readings"] = state.readings | {key: KeptReading(entry_id=entry.id, at=at, body=body)}
            changes["last_read_at"] = at
        case ObservationBody() as body:
            key = f"{body.what}/{body.circuit or 0}"
            changes["observations"] = state.observations | {key: KeptObservation(entry_id=entry.id, at=at, body=body)}
        case NoteBody():
            changes["notes"] = state.notes + 1
        case ClockBody() as body:
            changes[f"{body.event}_at"] = at - timedelta(minutes=body.minutes_ago)
            changes["last_read_at"] = at
        case ModeBody() as body:
            changes["mode"] = body.mode
        case OverrideBody() as body:
            changes["override"] = KeptOverride(entry_id=entry.id, at=at, body=body)
        case AsideBody() as body:
            changes["asides"] = state.asides | {body.warning: KeptAside(entry_id=entry.id, at=at, body=body)}
        case VoidBody():
            changes["voided"] = state.voided + 1
    return state.model_copy(update=changes)


def fold_all(entries: Iterable[Entry]) -> VisitState:
    """The state of a whole visit, voided entries left out of everything but the counts."""
    listed = sorted(entries, key=lambda entry: entry.sequence)
    voided = {entry.body.voids for entry in listed if isinstance(entry.body, VoidBody)}

    def step(state: VisitState, entry: Entry) -> VisitState:
        if entry.id in voided:
            return state.model_copy(update={"sequence": entry.sequence, "entries": state.entries + 1})
        return fold(state, entry)

    return reduce(step, listed, VisitState())


def facts_in(state: VisitState, facts: UnitFacts) -> UnitFacts:
    """The unit's facts in the mode that this visit found it in."""
    return facts if state.mode is None else replace(facts, mode=state.mode)


def sheet_of(state: VisitState, facts: UnitFacts, school: School = School.COMMON) -> Sheet:
    """The reading sheet that the visit amounts to now.

    Minutes count to the latest reading, not to the moment of asking: the same entries give the same answer years
    later. A reading that the unit card no longer allows (its refrigerant was corrected) is left out; `refused_now`
    names it.
    """
    facts = facts_in(state, facts)
    readings, _ = _split_readings(state, facts)
    seen = [
        make_observation(kept.body.what, kept.body.state, kept.body.circuit)
        for kept in state.observations.values()
        if kept.body.state is not State.NOT_SEEN
    ]
    return Sheet(
        facts,
        tuple(readings),
        tuple(seen),
        school,
        _minutes(state.started_at, state.last_read_at),
        _minutes(state.changed_at, state.last_read_at),
    )


def refused_now(state: VisitState, facts: UnitFacts) -> dict[str, str]:
    """Kept readings that cannot be on the unit as its card now stands: quantity and why."""
    return _split_readings(state, facts)[1]


def _split_readings(state: VisitState, facts: UnitFacts) -> tuple[list[Reading], dict[str, str]]:
    readings: list[Reading] = []
    refused: dict[str, str] = {}
    for kept in state.readings.values():
        body = kept.body
        try:
            readings.append(
                make_reading(
                    facts, body.quantity, body.value, body.unit, body.accuracy, _minutes(state.started_at, kept.at),
                    body.circuit, body.stage, body.place,
                )
            )  # fmt: skip
        except Refused as refusal:
            refused[body.quantity] = refusal.message
    return readings, refused


def _minutes(since: datetime | None, until: datetime | None) -> float | None:
    if since is None or until is None:
        return None
    return max(0.0, (until - since).total_seconds() / 60)
