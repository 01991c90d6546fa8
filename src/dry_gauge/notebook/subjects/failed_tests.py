"""The measurement that shows the complaint, and whether it passes: read again after the last change, as the unit ran then.

One rule for the list on the screen, for what a repeat is refused for, and for closing.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum
from math import ceil
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field

from dry_gauge.core.dimensions import UNITS, as_typed, units_of
from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.settled import BEFORE_IT_SETTLED
from dry_gauge.core.settling import MOVES_UNTIL_SETTLED, Clocks, clock_wait, read_too_early
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS, Mode, State
from dry_gauge.notebook.fields import FewWords, of_circuit
from dry_gauge.notebook.kind import Answered, Body, Case, Entry, Kind, Obstacle, Part, VisitState, Weight, kept, with_one
from dry_gauge.notebook.subjects.actions import Actions
from dry_gauge.notebook.subjects.movements import Charge
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.readings import KeptReading, ReadingBody, Readings
from dry_gauge.notebook.subjects.running import ClockEvent, Running


class Comparator(StrEnum):
    """How the measurement compares with its number when it passes."""

    BELOW = "below"
    ABOVE = "above"


class FailedTestBody(Body):
    """The measurement that shows the complaint: it is repeated at the end, in the same mode and stage, settled.

    It has a number (a quantity, read or derived, against a value), or is an observation with the answer it should have.
    Worded tests of earlier releases have neither and stay valid: somebody says whether they pass.
    """

    kind: Literal["failed_test"] = "failed_test"
    quantity: str = ""
    circuit: Annotated[int, Field(ge=1, le=99)] = 1
    should: FewWords = ""
    comparator: Comparator | None = None
    value: Annotated[float, Field(allow_inf_nan=False)] | None = None
    unit: FewWords = ""
    what: FewWords = ""
    """An observation, where it is something seen."""
    state: State = State.YES

    @property
    def worded(self) -> bool:
        """Whether it is of an earlier release: neither a number nor something seen."""
        return self.value is None and not self.what


class RepeatBody(Body):
    """The failed measurement, repeated after the last change: passed or not. Stored as ``proof``."""

    kind: Literal["proof"] = "proof"
    failed_test: UUID
    passed: bool
    how: FewWords = ""


# Gaps that can be proven, and the readings each rests on; the first of each that was read.
GAP_READINGS: Mapping[str, tuple[tuple[str, ...], ...]] = {
    "superheat": (("suction_pressure",), ("suction_line_temp", "coil_outlet_temp")),
    "subcooling": (("liquid_pressure", "discharge_pressure"), ("liquid_line_temp",)),
    "air_split": (("mixed_air_temp", "return_air_temp", "box_air_temp"), ("supply_air_temp",)),
    "condenser_split": (("liquid_pressure", "discharge_pressure"), ("outdoor_air_temp", "mixed_air_temp", "return_air_temp")),
    "evaporator_td": (("suction_pressure",), ("mixed_air_temp", "return_air_temp", "box_air_temp", "outdoor_air_temp")),
}
GAP_WORDS = {
    "superheat": "Superheat",
    "subcooling": "Subcooling",
    "air_split": "Air split",
    "condenser_split": "Condenser gap",
    "evaporator_td": "Evaporator gap",
}


class KeptTest(Answered[FailedTestBody]):
    """A failed measurement; its repeat counts only after the last change."""

    read_before: ReadingBody | None = None
    seen_before: State | None = None
    """What it showed when it was named."""
    mode: Mode | None = None
    stage: str = ""
    """What the unit ran in then: it is repeated in the same."""


class FailedTests(Part):
    """By the entry's id."""

    tests: dict[str, KeptTest] = {}


@dataclass(frozen=True, slots=True)
class Repeat:
    """How one failed measurement stands.

    Parameters
    ----------
    judged : bool
        Whether someone has said, since the last change, that it passes or fails.
    changed : bool
        Whether anything was done to the unit at all.
    should : str
        What it should be, in words, as it was typed.
    again_at : datetime or None
        When it was repeated; None until that is done after the last change, in the same mode and stage.
    settled_from : datetime or None
        When the oldest was read of what running moves: by then it had to be settled.
    read : tuple of ReadingBody
        What was read then; of a gap each that it rests on.
    found : str
        The same in words, as it was typed; or what was seen.
    value_si : float or None
        The number that counts, where one reading gives it.
    meets : bool or None
        Whether what was read or seen is what it should be; None where that is not known here, as of a gap.
    read_before : ReadingBody or None
        What it read when it was named, or before anything was done; of a gap nothing here.
    before : str
        The same in words, as it was typed; or what was seen.
    """

    test: KeptTest
    judged: bool
    changed: bool
    should: str
    again_at: datetime | None = None
    settled_from: datetime | None = None
    read: tuple[ReadingBody, ...] = ()
    found: str = ""
    value_si: float | None = None
    meets: bool | None = None
    read_before: ReadingBody | None = None
    before: str = ""
    next_to_read: str = ""
    """The first quantity, or observation, that is still to be had again."""

    @property
    def passed(self) -> bool:
        """Whether it is proven."""
        return self.judged and bool(self.test.good)

    @property
    def label(self) -> str:
        """What is measured or seen."""
        return _label(self.test.body)

    @property
    def to_do(self) -> str:
        """What is still to be read, in words."""
        how = [self.test.mode.value] if self.test.mode else []
        how += [f"stage {self.test.stage}"] if self.test.stage else []
        verb = "Look at" if self.test.body.what else "Read"
        again = " again after the last change" if self.changed else " again" if self.before else ""
        return f"{verb} {self.label.lower()}{again}{', in ' + ', '.join(how) if how else ''}."


def _label(body: FailedTestBody) -> str:
    if body.what:
        return SIGHTS[body.what].label + of_circuit(body.circuit)
    words = GAP_WORDS.get(body.quantity) or QUANTITIES[body.quantity].label
    return words + of_circuit(body.circuit)


def should_words(body: FailedTestBody, said: Callable[[float, str], str] = as_typed) -> str:
    """What a test asks for: its number, as ``said`` writes it, the answer it should have, or the words of an earlier release."""
    if body.what:
        return {State.YES: "yes", State.NO: "no"}.get(body.state, "seen") + (f", {body.should}" if body.should else "")
    if body.comparator is None or body.value is None:
        return body.should
    return f"{body.comparator.value} {said(body.value, body.unit)}" + (f", {body.should}" if body.should else "")


def limit_si(body: FailedTestBody, atmosphere_pa: float) -> float | None:
    """The number of a test in SI, a gap's as a difference; None where it has none."""
    if body.value is None or body.unit not in UNITS:
        return None
    if body.quantity in GAP_READINGS:
        return body.value * UNITS[body.unit].scale
    return UNITS[body.unit].to_si(body.value, atmosphere_pa)


def meets(body: FailedTestBody, value_si: float, atmosphere_pa: float) -> bool:
    """Whether a number passes."""
    limit = limit_si(body, atmosphere_pa)
    if limit is None or body.comparator is None:
        return True
    return value_si < limit if body.comparator is Comparator.BELOW else value_si > limit


def last_change_at(visit: VisitState) -> datetime | None:
    """When something was last done to the unit: an action, or refrigerant put in or taken out."""
    action = visit[Actions].last
    moments = [one.at for one in visit[Charge].moved.values()] + ([action.at] if action else [])
    return max(moments, default=None)


def repeat_of(visit: VisitState, test: KeptTest, facts: UnitFacts | None = None) -> Repeat:
    """How one failed measurement of a visit stands now."""
    last_at = last_change_at(visit)
    # What was read since the last change counts though the test was named after that; not for a worded one, which nothing
    # but somebody's word judges.
    since = last_at if last_at and not test.body.worded else max(test.at, last_at or test.at)
    judged = test.answered_at is not None and (last_at is None or test.answered_at >= last_at)
    stands = Repeat(test, judged, last_at is not None, should_words(test.body))
    if test.body.what:
        return _seen_again(visit, since, stands)
    was = test.read_before or _as_found(visit, test.body, last_at)
    stands = replace(stands, read_before=was, before=as_typed(was.value, was.unit) if was else "")
    wanted = GAP_READINGS.get(test.body.quantity, ((test.body.quantity,),))
    kept_again = [_read_again(visit, test, names, since) for names in wanted]
    if None in kept_again:
        return replace(stands, next_to_read=wanted[kept_again.index(None)][0])
    listed = [one for one in kept_again if one is not None]
    read = tuple(one.body for one in listed)
    value_si = UNITS[read[0].unit].to_si(read[0].value, facts.atmosphere_pa) if len(read) == 1 and facts is not None else None
    passes = meets(test.body, value_si, facts.atmosphere_pa) if value_si is not None and facts and not test.body.worded else None
    found = "; ".join(as_typed(one.value, one.unit) for one in read)
    moves = [one.at for one in listed if one.body.quantity in MOVES_UNTIL_SETTLED]
    stands = replace(stands, again_at=max(one.at for one in listed), settled_from=min(moves, default=None))
    return replace(stands, read=read, found=found, value_si=value_si, meets=passes)


def _seen_again(visit: VisitState, since: datetime, stands: Repeat) -> Repeat:
    body, was = stands.test.body, stands.test.seen_before
    seen = visit[Observations].of(body.what, body.circuit)
    stands = replace(stands, before=was.value if was in (State.YES, State.NO) else "", next_to_read=body.what)
    if seen is None or seen.at <= since or seen.body.state is State.NOT_SEEN:
        return stands
    return replace(stands, again_at=seen.at, found=seen.body.state.value, meets=seen.body.state is body.state)


def _as_found(visit: VisitState, body: FailedTestBody, last_at: datetime | None) -> ReadingBody | None:
    """What it read before anything was done, though it was not yet named then; of a gap nothing."""
    shown = visit[Readings].as_found(body.quantity, body.circuit) if body.quantity in QUANTITIES else None
    return shown.body if shown and last_at and shown.at < last_at else None


def _read_again(visit: VisitState, test: KeptTest, names: Sequence[str], since: datetime) -> KeptReading | None:
    """The first of those quantities that was read after the change, as the unit ran when it failed."""
    for name in names:
        one = visit[Readings].of(name, test.body.circuit)
        if one is not None and one.at > since and one.mode == test.mode and one.stage.casefold() == test.stage.casefold():
            return one
    return None


def _failed(visit: VisitState, entry: Entry, body: FailedTestBody) -> VisitState:
    running = visit[Running]
    shown = visit[Readings].as_found(body.quantity, body.circuit) if body.quantity in QUANTITIES else None
    seen = visit[Observations].of(body.what, body.circuit) if body.what else None
    test = KeptTest(
        **kept(entry),
        read_before=shown.body if shown else None,
        seen_before=seen.body.state if seen else None,
        mode=running.mode,
        stage=running.running_stage,
    )
    return visit.changing(FailedTests, tests=visit[FailedTests].tests | {str(entry.id): test})


def _repeated(visit: VisitState, entry: Entry, body: RepeatBody) -> VisitState:
    tests = with_one(visit[FailedTests].tests, body.failed_test, answered_at=entry.written_at, good=body.passed, how=body.how)
    return visit.changing(FailedTests, tests=tests)


def _unknown(case: Case[FailedTestBody]) -> None:
    body = case.body
    if body.what:
        if body.what not in SIGHTS:
            raise Refused("Choose what should be seen.", "what")
        if body.state is State.NOT_SEEN:
            raise Refused("Say whether it should be yes or no.", "state")
        return
    if body.quantity not in QUANTITIES and body.quantity not in GAP_READINGS:
        raise Refused("Choose the measurement that shows the complaint.", "quantity")
    if body.value is None and not body.should:
        raise Refused("Give the number it should be below or above.", "value")
    if body.value is None:
        return  # worded, as earlier releases send it
    dimension = "temperature" if body.quantity in GAP_READINGS else QUANTITIES[body.quantity].dimension
    if body.unit not in units_of(dimension):
        raise Refused(f"That is measured in {' or '.join(units_of(dimension))}.", "value")
    if body.comparator is None:
        raise Refused("Say whether it passes below or above that.", "comparator")


def _test_of(case: Case[RepeatBody]) -> dict[str, KeptTest | None]:
    body = case.body
    return {"failed_test": case.visit[FailedTests].tests.get(str(body.failed_test))}


def _not_read_again(case: Case[RepeatBody]) -> None:
    test = _test_of(case)["failed_test"]
    if test is None:
        return
    stands = repeat_of(case.visit, test, case.facts)
    if stands.again_at is None:
        raise Refused(f"{stands.to_do} The measurement that failed is the one that proves.", "passed")
    body = test.body
    if not case.body.passed or body.worded:
        return
    if body.what:
        if stands.found != body.state.value:
            raise Refused(f"{stands.label} is {stands.found}, and should be {body.state.value}: that is no pass.", "passed")
        return
    value_si = _number(case, stands)
    if value_si is None:
        raise Refused(f"{stands.label} cannot be had from what was read: {stands.found}. Read it again.", "passed")
    if not meets(body, value_si, case.facts.atmosphere_pa):
        raise Refused(f"{_written(case, stands, value_si)} is not {stands.should}: that is no pass.", "passed")
    wait = clock_wait(_clocks(case))
    if wait is not None:
        raise Refused(f"Not settled: about {ceil(wait.left)} min more, {wait.whole} {wait.after}. Then read it again.", "passed")
    circuit = case.judged.circuits.get(body.circuit) if case.judged else None
    old = [circuit.outdated[one.quantity] for one in stands.read if one.quantity in circuit.outdated] if circuit else []
    if stands.settled_from and read_too_early(_clocks(case), _minutes(stands.settled_from, case.entry.written_at)):
        old = [BEFORE_IT_SETTLED]
    if old:
        raise Refused(f"{stands.label} was read {old[0]}. Read it again.", "passed")


def _number(case: Case[RepeatBody], stands: Repeat) -> float | None:
    """What the repeat amounts to, in SI: of a gap as the circuit arithmetic has it."""
    body = stands.test.body
    if body.quantity not in GAP_READINGS:
        return stands.value_si
    circuit = case.judged.circuits.get(body.circuit) if case.judged else None
    gap = circuit.derived.get(body.quantity) if circuit else None
    return None if gap is None else gap.value


def _written(case: Case[RepeatBody], stands: Repeat, value_si: float) -> str:
    unit, a_gap = UNITS[stands.test.body.unit], stands.test.body.quantity in GAP_READINGS
    number = value_si / unit.scale if a_gap else unit.from_si(value_si, case.facts.atmosphere_pa)
    return f"{number:.1f} {unit.written}"


def _minutes(since: datetime, until: datetime) -> float:
    return max(0.0, (until - since).total_seconds() / 60)


def _clocks(case: Case[RepeatBody]) -> Clocks:
    running = case.visit[Running]
    since = [running.since(event) for event in ClockEvent]
    started, changed, charged, defrosted = (None if at is None else _minutes(at, case.entry.written_at) for at in since)
    return Clocks(started, changed, charged, defrosted, (running.mode or case.facts.mode) is Mode.HEATING)


def unproven_words(stands: Repeat) -> str:
    """What has to be proven yet, or failed again; its number as `stands` has it."""
    said = stands.should if stands.test.body.worded else f"{stands.label.lower()} {stands.should}"
    if stands.judged:
        return f"Still failing: {said}."
    asks = "repeat after the last change" if stands.changed else "prove"
    return f"Before this is called fixed, {asks}: {said}."


def unproven(visit: VisitState) -> list[Obstacle]:
    """What is not proven: only 'fixed' needs it."""
    found = []
    for test in visit[FailedTests].tests.values():
        stands, key = repeat_of(visit, test), str(test.entry_id)
        words = unproven_words(stands)
        if not stands.judged:
            found.append(Obstacle("unproven", words, key, weight=Weight.PROOF, of_fixed=True))
        elif not stands.passed:
            found.append(Obstacle("failed", words, key, weight=Weight.PROOF, of_fixed=True))
    if (visit[Actions].done or visit[Charge].moved) and not visit[FailedTests].tests:
        words = "Name the measurement that showed the complaint, and repeat it: else nothing is proven."
        found.append(Obstacle("no_test", words, weight=Weight.PROOF, of_fixed=True))
    return found


KINDS = (
    Kind(FailedTestBody, lambda body, _: (f"To prove: {_label(body)}", should_words(body)), _failed,
         refuse=_unknown, leaves_open=unproven),
    Kind(RepeatBody, lambda body, _: ("Repeated and passed" if body.passed else "Repeated, still failing", body.how),
         _repeated, collides=_not_read_again, refers=_test_of, needs="judgement"),
)  # fmt: skip
