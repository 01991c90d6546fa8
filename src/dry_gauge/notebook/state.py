"""A visit as it stands: the fold of its entries. Pure, incremental, and able to be rebuilt at any time.

What the state keeps does not grow with the readings of a visit: the latest of each quantity and observation, the few
before it, and when things happened. A void may bring back something older, so a visit with a new void is folded again.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from datetime import datetime, timedelta
from functools import reduce
from hashlib import blake2b

from pydantic import BaseModel, ConfigDict

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import make_observation, make_reading
from dry_gauge.core.sheet import Observation, Reading, Sheet, UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES, Mode, School, State
from dry_gauge.notebook.call_state import CallState, Kept, fold_call
from dry_gauge.notebook.calling import ANSWERED_BY, ActionBody, ActionSort, ChangeSort, FailedTestBody
from dry_gauge.notebook.entries import Entry, VoidBody
from dry_gauge.notebook.measuring import (
    AsideBody,
    ClockBody,
    Condition,
    InUseBody,
    ModeBody,
    NoteBody,
    ObservationBody,
    OverrideBody,
    ReadingBody,
)
from dry_gauge.notebook.sealed_state import SealedState, fold_sealed

_MOST_EARLIER = 5
_EARLIER_MINUTES = 30
_SAME_MOMENT_MINUTES = 3
# The weather and what enters the coil: no repair changes them, so they need not be read again after one.
_OUTLIVES_AN_ACTION = frozenset({"outdoor_air_temp", "return_air_temp", "return_air_wet_bulb", "return_air_rh",
                                 "box_air_temp", "box_rh", "product_temp", "space_temp"})  # fmt: skip
# Actions after which the refrigerant side reads as before.
_CHANGES_NO_READING = frozenset({ActionSort.DRAIN_CLEARED})


class Earlier(BaseModel):
    """A reading before the latest one: it serves drift."""

    model_config = ConfigDict(frozen=True)
    at: datetime
    value: float
    unit: str


class KeptReading(Kept[ReadingBody]):
    """The latest reading of a quantity, and what it was taken under."""

    tags: tuple[Condition, ...] = ()
    mode: Mode | None = None
    stage: str = ""
    instrument: str = ""
    accuracy: float | None = None
    earlier: tuple[Earlier, ...] = ()
    beside: ReadingBody | None = None
    """What another instrument read at the same time."""


KeptObservation = Kept[ObservationBody]
KeptAside = Kept[AsideBody]
KeptOverride = Kept[OverrideBody]


class VisitState(BaseModel):
    """What the entries so far add up to; keys read ``quantity/circuit``."""

    model_config = ConfigDict(frozen=True)
    sequence: int = 0
    readings: dict[str, KeptReading] = {}
    tagged: dict[str, KeptReading] = {}
    """Readings taken with a panel off, a coil wet and so on: kept, never compared."""
    before: dict[str, KeptReading] = {}
    """What was read before the latest action: the before of the pair."""
    observations: dict[str, KeptObservation] = {}
    in_use: dict[str, InUseBody] = {}
    started_at: datetime | None = None
    changed_at: datetime | None = None
    last_read_at: datetime | None = None
    mode: Mode | None = None
    asides: dict[str, KeptAside] = {}
    override: KeptOverride | None = None
    call: CallState = CallState()
    sealed: SealedState = SealedState()
    entries: int = 0
    voided: int = 0
    notes: int = 0

    def reading(self, quantity: str, circuit: int = 1) -> KeptReading | None:
        """The latest reading of that quantity that may be compared."""
        return self.readings.get(_reading_key(quantity, circuit))

    def shown(self, quantity: str, circuit: int = 1) -> KeptReading | None:
        """The latest reading of that quantity, under whatever conditions."""
        key = _reading_key(quantity, circuit)
        return self.tagged.get(key) or self.readings.get(key)

    def observation(self, what: str, circuit: int | None = None) -> KeptObservation | None:
        """The latest answer to that observation."""
        return self.observations.get(f"{what}/{circuit or 0}")

    def states(self) -> dict[str, State]:
        """Answers so far, by name."""
        return {kept.body.what: kept.body.state for kept in self.observations.values()}

    def basis(self, readings: Iterable[str], circuit: int = 1) -> str:
        """What a warning about those readings rests on: it changes when one of them is read anew."""
        kept = (self.reading(name, circuit) for name in sorted(readings))
        return blake2b("".join(str(one.entry_id) for one in kept if one).encode(), digest_size=12).hexdigest()

    def aside(self, warning: str, basis: str) -> KeptAside | None:
        """The reason for which that warning was put aside, as long as it rests on the same readings."""
        kept = self.asides.get(warning)
        return kept if kept and kept.body.basis == basis else None

    @property
    def last_change_at(self) -> datetime | None:
        """When something was last done to the unit: an action, or refrigerant put in or taken out."""
        action = self.call.last_action
        moments = [one.at for one in self.sealed.moved.values()] + ([action.at] if action else [])
        return max(moments, default=None)

    @property
    def circuits(self) -> tuple[int, ...]:
        """Circuits that any entry names, at least the first."""
        named = {int(key.rsplit("/", 1)[1]) for key in (*self.readings, *self.tagged, *self.before, *self.observations)}
        return tuple(sorted(named - {0})) or (1,)


def _reading_key(quantity: str, circuit: int | None) -> str:
    known = QUANTITIES.get(quantity)
    return f"{quantity}/{0 if known and known.shared else circuit or 1}"


def fold(state: VisitState, entry: Entry) -> VisitState:
    """The state after one more entry.

    A void only counts here; whoever appends one folds the visit again with `fold_all`.
    """
    changes: dict[str, object] = {"sequence": entry.sequence, "entries": state.entries + 1}
    at = entry.written_at
    match entry.body:
        case ReadingBody() as body:
            changes |= _with_reading(state, entry, body)
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
        case InUseBody() as body:
            changes["in_use"] = state.in_use | {body.dimension: body}
        case ActionBody() as body:
            changes |= _after_action(state, entry, body.sort)
        case VoidBody():
            changes["voided"] = state.voided + 1
    before = ""
    if isinstance(entry.body, FailedTestBody):
        shown = state.shown(entry.body.quantity, entry.body.circuit)
        before = f"{shown.body.value:.10g} {shown.body.unit}" if shown else ""
    changes["call"] = fold_call(state.call, entry, before, state.mode)
    sealed = fold_sealed(state.sealed, entry)
    changes["sealed"] = sealed
    if len(sealed.moved) > len(state.sealed.moved):
        changes |= _after_action(state, entry, ActionSort.CHARGE_ADJUSTED)
    return state.model_copy(update=changes)


def _with_reading(state: VisitState, entry: Entry, body: ReadingBody) -> dict[str, object]:
    key, at = _reading_key(body.quantity, body.circuit), entry.written_at
    known = state.readings.get(key)
    if known and known.at > at:  # it waited for a connection while a newer one was sent
        return {}
    quantity = QUANTITIES.get(body.quantity)
    used = state.in_use.get(quantity.dimension) if quantity and body.source == "typed" else None
    instrument = body.instrument or (used.instrument if used else "")
    accuracy = body.accuracy
    if accuracy is None and used and used.unit == body.unit:
        accuracy = used.accuracy
    tags = state.call.tags
    stage = body.stage or state.call.running_stage
    earlier: tuple[Earlier, ...] = ()
    beside = None
    if known and not tags:
        now = Earlier(at=known.at, value=known.body.value, unit=known.body.unit)
        recent = timedelta(minutes=_EARLIER_MINUTES)
        earlier = tuple(one for one in (*known.earlier, now) if at - one.at <= recent)[-_MOST_EARLIER:]
        moment = timedelta(minutes=_SAME_MOMENT_MINUTES)
        if instrument and known.instrument and instrument != known.instrument and at - known.at <= moment:
            beside = known.body.model_copy(update={"accuracy": known.accuracy})
    kept = KeptReading(
        entry_id=entry.id, at=at, body=body, tags=tags, mode=state.mode, stage=stage,
        instrument=instrument, accuracy=accuracy,
        earlier=earlier, beside=beside,
    )  # fmt: skip
    last = max(at, state.last_read_at or at)
    if tags:
        return {"tagged": state.tagged | {key: kept}, "last_read_at": last}
    tagged = {name: one for name, one in state.tagged.items() if name != key}
    return {"readings": state.readings | {key: kept}, "tagged": tagged, "last_read_at": last}


def _after_action(state: VisitState, entry: Entry, sort: ActionSort) -> dict[str, object]:
    """What was read becomes the before; what the action answers must be looked at again."""
    stale = {f"{what}/0" for what in ANSWERED_BY.get(sort, ())}
    observations = {key: kept for key, kept in state.observations.items() if key not in stale}
    says = {ActionSort.CHARGE_ADJUSTED: "recently_charged", ActionSort.THAWED: "recently_defrosted"}.get(sort)
    at = entry.written_at
    if says:
        seen = ObservationBody(what=says, state=State.YES)
        observations[f"{says}/0"] = KeptObservation(entry_id=entry.id, at=at, body=seen)
    if sort in _CHANGES_NO_READING:
        return {"observations": observations}
    stays = {key: kept for key, kept in state.readings.items() if key.rsplit("/", 1)[0] in _OUTLIVES_AN_ACTION}
    # Several things done in a row have one before: what was read ahead of the first.
    before = state.readings if len(stays) < len(state.readings) else state.before
    return {"observations": observations, "before": before, "readings": stays, "changed_at": at}


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
    readings, _ = _split_readings(state, state.readings, facts)
    seen = [
        make_observation(kept.body.what, kept.body.state, kept.body.circuit)
        for kept in state.observations.values()
        if kept.body.state is not State.NOT_SEEN
    ]
    complaint = state.call.complaint
    return Sheet(
        facts,
        tuple(readings),
        (*seen, *_implied(state)),
        school,
        _minutes(state.started_at, state.last_read_at),
        _minutes(state.changed_at, state.last_read_at),
        complaint.body.sorts if complaint else (),
    )


def sheet_before(state: VisitState, facts: UnitFacts) -> Sheet | None:
    """What was read before the latest action, for the ghost on the ladder; None where nothing was."""
    if not state.before:
        return None
    facts = facts_in(state, facts)
    readings, _ = _split_readings(state, state.before, facts)
    return Sheet(facts, tuple(readings))


def _implied(state: VisitState) -> list[Observation]:
    """What the ledger and the stage say without being asked."""
    found = []
    sorts = {change.body.sort for change in state.call.lifted}
    if sorts & {ChangeSort.JUMPER, ChangeSort.SAFETY}:
        found.append(make_observation("jumper_fitted", State.YES, None))
    stage = state.call.stage
    if stage and stage.body.commanded.casefold() != stage.body.actual.casefold():
        found.append(make_observation("stage_held", State.NO, None))
    return found


def refused_now(state: VisitState, facts: UnitFacts) -> dict[str, str]:
    """Kept readings that cannot be on the unit as its card now stands: quantity and why."""
    return _split_readings(state, {**state.readings, **state.tagged}, facts)[1]


def _split_readings(
    state: VisitState, kept_readings: Mapping[str, KeptReading], facts: UnitFacts
) -> tuple[list[Reading], dict[str, str]]:
    readings: list[Reading] = []
    refused: dict[str, str] = {}
    for kept in kept_readings.values():
        both = [kept.body.model_copy(update={"accuracy": kept.accuracy}), *([kept.beside] if kept.beside else [])]
        for body in both:
            try:
                readings.append(
                    make_reading(
                        facts, body.quantity, body.value, body.unit, body.accuracy, _minutes(state.started_at, kept.at),
                        body.circuit, kept.stage or None, body.place,
                    )
                )  # fmt: skip
            except Refused as refusal:
                refused[body.quantity] = refusal.message
    return readings, refused


def _minutes(since: datetime | None, until: datetime | None) -> float | None:
    if since is None or until is None:
        return None
    return max(0.0, (until - since).total_seconds() / 60)
