"""Numbers from instruments: the latest of each quantity, the few before it, and what they were taken under."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from datetime import datetime, timedelta
from hashlib import blake2b
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field

from dry_gauge.core.dimensions import UNITS, as_typed
from dry_gauge.core.errors import ImpossibleAir, Refused
from dry_gauge.core.intake import make_reading
from dry_gauge.core.settling import MOVES_UNTIL_SETTLED
from dry_gauge.core.sheet import Sheet, check_air
from dry_gauge.core.vocabulary import QUANTITIES, Mode
from dry_gauge.notebook.fields import Circuit, FewWords, Reason, SomeWords, of_circuit
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Part, VisitState, in_time, kept
from dry_gauge.notebook.subjects.agenda import Agenda
from dry_gauge.notebook.subjects.ledger import ChangeSort, Ledger
from dry_gauge.notebook.subjects.running import Condition, Running

_MOST_EARLIER = 5
_EARLIER_MINUTES = 30
_SAME_MOMENT_MINUTES = 3
_CORRECTED_MINUTES = 2
"""Typed anew so soon, a number is put right: nothing has moved."""


class ReadingBody(Body):
    """A number from an instrument, as it was typed: in its own unit."""

    kind: Literal["reading"] = "reading"
    quantity: str
    value: Annotated[float, Field(allow_inf_nan=False)]
    unit: str
    accuracy: Annotated[float, Field(allow_inf_nan=False, ge=0)] | None = None
    circuit: Circuit | None = None
    stage: FewWords | None = None
    place: FewWords | None = None
    """Which one of several like it: the left fan."""
    rated: Annotated[float, Field(allow_inf_nan=False, gt=0)] | None = None
    """What its plate says it should be at most, in `unit`."""
    instrument: FewWords | None = None
    source: Literal["typed", "probe"] = "typed"


def _are_alike(one: str, other: str) -> bool:
    return one in UNITS and other in UNITS and UNITS[one].dimension == UNITS[other].dimension


class InUseBody(Body):
    """Which instrument reads a sort of quantity from here on, and how well: accuracy (95 %) and range in `unit`."""

    kind: Literal["in_use"] = "in_use"
    dimension: FewWords
    instrument: SomeWords
    accuracy: Annotated[float, Field(allow_inf_nan=False, ge=0)] | None = None
    unit: FewWords = ""
    low: Annotated[float, Field(allow_inf_nan=False)] | None = None
    high: Annotated[float, Field(allow_inf_nan=False)] | None = None

    def holds(self, value: float, unit: str) -> bool:
        """Whether a value in `unit` is within its range, as far as that is known."""
        if not _are_alike(unit, self.unit):
            return True
        shown = value if unit == self.unit else UNITS[self.unit].from_si(UNITS[unit].to_si(value))
        return (self.low is None or shown >= self.low) and (self.high is None or shown <= self.high)

    def accuracy_in(self, unit: str) -> float | None:
        """Its accuracy in another unit of what it reads; None where either is not known."""
        if self.accuracy is None or not _are_alike(unit, self.unit):
            return None
        return self.accuracy if unit == self.unit else self.accuracy * UNITS[self.unit].scale / UNITS[unit].scale


class ReleasedBody(Body):
    """A reading marked as taken under a condition was taken without it: it counts again."""

    kind: Literal["released"] = "released"
    reading: UUID
    reason: Reason


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

    @property
    def key(self) -> str:
        """What it is a reading of: quantity, circuit, stage, place."""
        return _key(self.body, self.stage)


def _circuit(quantity: str, circuit: int | None) -> int:
    known = QUANTITIES.get(quantity)
    return 0 if known and known.shared else circuit or 1


def _same(one: KeptReading) -> tuple[str, int]:
    """What it is a reading of, in whichever stage and place."""
    return one.body.quantity, _circuit(one.body.quantity, one.body.circuit)


def _key(body: ReadingBody, stage: str) -> str:
    return "/".join((body.quantity, str(_circuit(body.quantity, body.circuit)), stage.casefold(), body.place or ""))


def _is_placed_fan(one: KeptReading) -> bool:
    return bool(one.body.place) and one.body.quantity in FANS


FANS = ("condenser_fan_amps", "blower_amps")
_ByKey = dict[str, KeptReading]


class Readings(Part):
    """The latest of each; keys read ``quantity/circuit/stage/place``, circuit 0 for what all circuits share."""

    latest: _ByKey = {}
    tagged: _ByKey = {}
    """Readings taken with a panel off, a coil wet and so on: kept, never compared."""
    before: _ByKey = {}
    """What was read before the latest action: the before of the pair."""
    otherwise: _ByKey = {}
    """What a heat pump was read in its other mode, and in this one since: once it is turned back, it counts again."""
    air_otherwise: _ByKey = {}
    """The air that there was when it was turned over."""
    in_use: dict[str, InUseBody] = {}
    trails: dict[str, tuple[Earlier, ...]] = {}
    """How a box's air and its products went on; keys read ``quantity/place``."""

    def of(self, quantity: str, circuit: int = 1) -> KeptReading | None:
        """The latest reading of that quantity that may be compared, in whichever stage and place."""
        return newest(self.latest).get((quantity, _circuit(quantity, circuit)))

    def shown(self, quantity: str, circuit: int = 1) -> KeptReading | None:
        """The latest reading of that quantity, under whatever conditions; of several fans not one with a place of its own."""
        same, tagged, latest = (quantity, _circuit(quantity, circuit)), self.tagged, self.latest
        if quantity in FANS:
            tagged, latest = ({key: one for key, one in listed.items() if not _is_placed_fan(one)} for listed in (tagged, latest))
        return newest(tagged).get(same) or newest(latest).get(same)

    def as_found(self, quantity: str, circuit: int = 1) -> KeptReading | None:
        """What it read before anything was done; where nothing was, the latest."""
        return newest(self.before).get((quantity, _circuit(quantity, circuit))) or self.shown(quantity, circuit)

    @property
    def fans(self) -> list[KeptReading]:
        """Amps of fans that were read by place: the latest of each."""
        by_place: dict[tuple[str, int, str], KeptReading] = {}
        for one in in_time((*self.latest.values(), *self.tagged.values())):
            if _is_placed_fan(one):
                by_place[one.body.quantity, one.body.circuit or 1, one.body.place or ""] = one
        return list(by_place.values())

    @property
    def circuits(self) -> frozenset[int]:
        """Circuits that any reading names."""
        return frozenset(
            _circuit(one.body.quantity, one.body.circuit)
            for listed in (self.latest, self.tagged, self.before, self.otherwise)
            for one in listed.values()
        ) - {0}

    def basis(self, readings: Iterable[str], circuit: int = 1) -> str:
        """What a warning about those readings rests on: it changes when one of them is read anew."""
        found = (self.of(name, circuit) for name in sorted(readings))
        return blake2b("".join(str(one.entry_id) for one in found if one).encode(), digest_size=12).hexdigest()


def newest(readings: _ByKey) -> dict[tuple[str, int], KeptReading]:
    """By quantity and circuit the reading that was taken last: one judgement looks at one stage and one place."""
    found: dict[tuple[str, int], KeptReading] = {}
    for one in readings.values():
        key = _same(one)
        known = found.get(key)
        if known is None or (known.at, known.entry_id) < (one.at, one.entry_id):
            found[key] = one
    return found


_TAGGED_BY = {
    ChangeSort.COVER: Condition.PANEL_OFF,
    ChangeSort.FILTER: Condition.FILTER_OUT,
    ChangeSort.FAN_COVERED: Condition.FAN_COVERED,
}


def newest_of_each_stage(readings: _ByKey) -> list[KeptReading]:
    """By quantity, circuit and stage the reading that was taken last: which stage is judged is for the sheet to say."""
    by_stage: dict[str, _ByKey] = {}
    for key, one in readings.items():
        by_stage.setdefault(one.stage.casefold(), {})[key] = one
    return [one for listed in by_stage.values() for one in newest(listed).values()]


_WEATHER = frozenset({"outdoor_air_temp", "space_temp", "product_temp", "standing_pressure", "equalized_ambient_temp"})
_ENTERING = frozenset({"return_air_temp", "return_air_wet_bulb", "return_air_rh", "mixed_air_temp", "box_air_temp", "box_rh"})
# What each condition leaves as it is: those readings count as ever.
_UNTOUCHED_BY: Mapping[Condition, frozenset[str]] = {
    Condition.PANEL_OFF: _WEATHER,
    Condition.THAWING: _WEATHER,
    Condition.FILTER_OUT: _WEATHER | _ENTERING,
    Condition.COIL_WET: _WEATHER | _ENTERING,
    Condition.FAN_COVERED: _WEATHER | _ENTERING,
}


def tags_on(visit: VisitState, quantity: str) -> tuple[Condition, ...]:
    """What a reading of that quantity taken now would be taken under: the conditions that touch it."""
    return tuple(tag for tag in tags_of(visit) if quantity not in _UNTOUCHED_BY[tag])


OF_ANY_MODE = _WEATHER | _ENTERING
"""What says nothing of how the unit runs: it stays as it is when a heat pump is turned to its other mode."""


def is_of_other_mode(visit: VisitState, one: KeptReading) -> bool:
    """Whether it was read in the mode in which the unit does not run now: it waits, and is judged by nobody."""
    now = visit[Running].mode
    return now is not None and (one.mode or Mode.COOLING) is not now and one.body.quantity not in OF_ANY_MODE


def turned_over(visit: VisitState) -> VisitState:
    """The sheet once the unit runs in its other mode: what was read in it before is back, and what gives way waits."""
    readings = visit[Readings]
    back = {key: one for key, one in readings.otherwise.items() if not is_of_other_mode(visit, one)}
    known = {_same(one) for one in (*readings.latest.values(), *back.values()) if not is_of_other_mode(visit, one)}
    waits = {key: one for key, one in readings.latest.items() if is_of_other_mode(visit, one) and _same(one) in known}
    stays = {key: one for key, one in readings.latest.items() if key not in waits}
    air = {key: one for key, one in readings.latest.items() if one.body.quantity in OF_ANY_MODE}
    return visit.changing(Readings, latest=stays | back, otherwise=waits, air_otherwise=air)


def to_read_again(visit: VisitState) -> tuple[KeptReading, ...]:
    """Readings taken under a condition that has ended, and not since: they say nothing of the unit as it is now."""
    now = set(tags_of(visit))
    stale = (one for one in newest(visit[Readings].tagged).values() if not now & set(one.tags))
    return tuple(in_time(stale))


def tags_of(visit: VisitState) -> tuple[Condition, ...]:
    """What readings taken now would be taken under."""
    from_changes = {_TAGGED_BY[sort] for sort in visit[Ledger].lifted_sorts if sort in _TAGGED_BY}
    thawing = {Condition.THAWING} if visit[Agenda].thawing else set()
    return tuple(sorted({*visit[Running].conditions, *from_changes, *thawing}))


def read(visit: VisitState, entry: Entry, body: ReadingBody) -> VisitState:
    """The sheet with that reading, which the entry holds among other things or is itself."""
    at, readings, running = entry.written_at, visit[Readings], visit[Running]
    quantity = QUANTITIES.get(body.quantity)
    used = readings.in_use.get(quantity.dimension) if quantity and body.source == "typed" else None
    instrument = body.instrument or (used.instrument if used else "")
    accuracy = used.accuracy_in(body.unit) if body.accuracy is None and used else body.accuracy
    tags, stage = tags_on(visit, body.quantity), body.stage or running.running_stage
    key = _key(body, stage)
    known = readings.latest.get(key)
    if known and is_of_other_mode(visit, known):
        known = None
    earlier: tuple[Earlier, ...] = ()
    beside = None
    if known and not tags:
        now = Earlier(at=known.at, value=known.body.value, unit=known.body.unit)
        corrected = body.source == "typed" and at - known.at <= timedelta(minutes=_CORRECTED_MINUTES)
        is_another = bool(instrument and known.instrument and instrument != known.instrument)
        recent = timedelta(minutes=_EARLIER_MINUTES)
        before = known.earlier if corrected else (*known.earlier, now)
        if not is_another:  # what two instruments have between them is no drift
            earlier = tuple(one for one in before if at - one.at <= recent)[-_MOST_EARLIER:]
        if is_another and at - known.at <= timedelta(minutes=_SAME_MOMENT_MINUTES):
            beside = known.body.model_copy(update={"accuracy": known.accuracy})
    one = KeptReading(
        **kept(entry) | {"body": body},
        tags=tags,
        mode=running.mode,
        stage=stage,
        instrument=instrument,
        accuracy=accuracy,
        earlier=earlier,
        beside=beside,
    )
    visit = visit.having(running.as_read_at(at, runs=body.quantity in MOVES_UNTIL_SETTLED))
    if body.quantity in TRAILED:
        trail = f"{body.quantity}/{body.place or ''}"
        gone = (*readings.trails.get(trail, ()), Earlier(at=at, value=body.value, unit=body.unit))[-MOST_TRAILED:]
        readings = readings.model_copy(update={"trails": readings.trails | {trail: gone}})
        visit = visit.having(readings)
    if tags:
        return visit.changing(Readings, tagged=readings.tagged | {key: one})
    same = _same(one)
    tagged = {name: other for name, other in readings.tagged.items() if _same(other) != same}
    waits = {name: other for name, other in readings.latest.items() if _same(other) == same and is_of_other_mode(visit, other)}
    stays = {name: other for name, other in readings.latest.items() if name not in waits}
    return visit.changing(Readings, latest=stays | {key: one}, tagged=tagged, otherwise=readings.otherwise | waits)


OUTLIVES_A_CHANGE = _ENTERING | {"outdoor_air_temp", "product_temp", "space_temp"}
"""The weather and what enters the coil: no repair changes them, so they need not be read again after one."""


def swept(visit: VisitState, outlive: Collection[str], until: datetime | None = None) -> VisitState:
    """The sheet without what was read until then, but for what outlives it: that becomes the before of a pair.

    Several things done in a row have one before: what was read ahead of the first.
    """
    readings = visit[Readings]

    def outlives(one: KeptReading) -> bool:
        return one.body.quantity in outlive or (until is not None and one.at > until)

    stays = {key: one for key, one in readings.latest.items() if outlives(one)}
    visit = visit.changing(Readings, otherwise={key: one for key, one in readings.otherwise.items() if outlives(one)})
    if len(stays) == len(readings.latest):
        return visit
    return visit.changing(Readings, before=readings.latest, latest=stays)


TRAILED, MOST_TRAILED = frozenset({"box_air_temp", "product_temp"}), 240
_MOIST = frozenset({"return_air_temp", "return_air_wet_bulb", "supply_air_temp", "supply_air_wet_bulb"})


def _fits(case: Case[ReadingBody]) -> None:
    if case.body.quantity in _MOIST:
        _possible_air(case)


def _possible_air(case: Case[ReadingBody]) -> None:
    """A wet bulb above its dry bulb is no air, and there is nothing to judge by it."""
    after = read(case.visit, case.entry, case.body)
    stands = newest(after[Readings].latest).items()
    air = [one.body for (quantity, _), one in stands if quantity in _MOIST and not is_of_other_mode(after, one)]
    try:
        listed = tuple(make_reading(case.facts, one.quantity, one.value, one.unit, one.accuracy) for one in air)
        check_air(Sheet(case.facts, listed))
    except ImpossibleAir as refusal:
        if refusal.quantity == case.body.quantity:
            raise Refused(refusal.message, "value") from None
    except Refused:  # another one that the corrected card no longer allows
        return


def _released(visit: VisitState, entry: Entry, body: ReleasedBody) -> VisitState:
    readings = visit[Readings]
    held = {key: one for key, one in readings.tagged.items() if one.entry_id == body.reading}
    if not held:
        return visit
    tagged = {key: one for key, one in readings.tagged.items() if key not in held}
    plain = {key: one.model_copy(update={"tags": ()}) for key, one in held.items()}
    return visit.changing(Readings, tagged=tagged, latest=readings.latest | plain)


def _tagged_of(case: Case[ReleasedBody]) -> dict[str, KeptReading | None]:
    tagged = case.visit[Readings].tagged.values()
    return {"reading": next((one for one in tagged if one.entry_id == case.body.reading), None)}


def _released_said(body: ReleasedBody, _: VisitState) -> tuple[str, str]:
    return "Taken without it", body.reason


def _in_use(visit: VisitState, entry: Entry, body: InUseBody) -> VisitState:
    return visit.changing(Readings, in_use=visit[Readings].in_use | {body.dimension: body})


def no_name(text: str, field: str) -> None:
    """Refuse a number where an instrument is named: it is its reading, typed into the wrong field.

    Raises
    ------
    Refused
    """
    if text and not any(letter.isalpha() for letter in text):
        raise Refused(f"'{text}' is a number, not a name: write what stands on the instrument, such as Clamp 2.", field)


def _cannot_be(case: Case[ReadingBody]) -> None:
    body = case.body
    make_reading(case.facts, body.quantity, body.value, body.unit, body.accuracy)


def label_of(quantity: str) -> str:
    """What is measured, as a sentence writes it."""
    known = QUANTITIES[quantity]
    return known.label + (" pressure" if known.dimension == "pressure" else "")


def read_as(body: ReadingBody) -> str:
    """What was read, in its own unit, and what its plate says."""
    return f"{body.value:.10g} of {as_typed(body.rated, body.unit)}" if body.rated else as_typed(body.value, body.unit)


def _said(body: ReadingBody, _: VisitState) -> tuple[str, str]:
    place = f", {body.place}" if body.place else ""
    live = ", live" if body.source == "probe" else ""
    return f"{label_of(body.quantity)}{place}{of_circuit(body.circuit)}", f"{read_as(body)}{live}"


def _in_use_said(body: InUseBody, _: VisitState) -> tuple[str, str]:
    accuracy = f", ±{as_typed(body.accuracy, body.unit)}" if body.accuracy is not None else ""
    return f"Instrument for {body.dimension}", f"{body.instrument}{accuracy}"


KINDS = (
    Kind(ReadingBody, _said, read, refuse=_cannot_be, collides=_fits, happened=True),
    Kind(InUseBody, _in_use_said, _in_use, refuse=lambda case: no_name(case.body.instrument, "instrument")),
    Kind(ReleasedBody, _released_said, _released, refers=_tagged_of, sweeps=True),
)
