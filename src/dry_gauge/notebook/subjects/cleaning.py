"""A coil as it is cleaned: chemistry first, electrics and fan on the ledger, dwell, rinse, evidence, drying."""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum
from typing import Annotated, Literal
from uuid import UUID, uuid5

from pydantic import Field

from dry_gauge.core.cleaning.coil import (
    CLEANER_WORDS,
    COIL_WORDS,
    DRY_RUN_MIN,
    DWELL_MIN,
    PLACES,
    Cleaner,
    CoilKind,
    may_clean,
    mixture,
)
from dry_gauge.core.errors import Refused
from dry_gauge.notebook.fields import Circuit, FewWords
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Obstacle, Part, VisitState, Weight, kept
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort, acted
from dry_gauge.notebook.subjects.agenda import RETURNS, Agenda, TimerBody, time_set, timer_over
from dry_gauge.notebook.subjects.ledger import ChangeSort, set_aside
from dry_gauge.notebook.subjects.running import Condition, ConditionBody, Running


class CoilPlace(StrEnum):
    """Which coil."""

    CONDENSER = "condenser"
    EVAPORATOR = "evaporator"


class CleaningBody(Body):
    """A coil is about to be cleaned, with what. `volume_l` is the can's, `ratio` as written on it."""

    kind: Literal["cleaning"] = "cleaning"
    coil: CoilPlace
    coil_kind: CoilKind
    rows: Annotated[int, Field(ge=1, le=8)] = 1
    dirt: FewWords = ""
    cleaner: Cleaner
    maker_allows: bool = False
    ratio: FewWords = ""
    volume_l: Annotated[float, Field(allow_inf_nan=False, gt=0, le=500)] | None = None
    dwell_minutes: Annotated[float, Field(allow_inf_nan=False, gt=0, le=30)] = DWELL_MIN[1]
    circuit: Circuit | None = None


class CleaningStep(StrEnum):
    """What is tapped as it goes."""

    APPLIED = "applied"
    RINSED = "rinsed"
    OTHER_SIDE = "other_side"
    RUNS_THROUGH = "runs_through"
    BLOWN_OUT = "blown_out"
    DONE = "done"
    NOT_WORTH = "not_worth"
    QUOTE = "quote"


STEP_WORDS = {
    CleaningStep.APPLIED: "cleaner is on",
    CleaningStep.RINSED: "rinsed, from the clean side out",
    CleaningStep.OTHER_SIDE: "the other side too",
    CleaningStep.RUNS_THROUGH: "water runs through",
    CleaningStep.BLOWN_OUT: "blown out",
    CleaningStep.DONE: "clean",
    CleaningStep.NOT_WORTH: "not worth cleaning here",
    CleaningStep.QUOTE: "to be quoted",
}
ENDS = frozenset({CleaningStep.DONE, CleaningStep.NOT_WORTH, CleaningStep.QUOTE})


class CleaningStepBody(Body):
    """One step of a cleaning; `place` where water was seen to run through."""

    kind: Literal["cleaning_step"] = "cleaning_step"
    cleaning: UUID
    step: CleaningStep
    place: FewWords = ""


class KeptCleaning(Kept[CleaningBody]):
    """One cleaning and how far it is."""

    steps: tuple[tuple[CleaningStep, str, datetime], ...] = ()

    def when(self, step: CleaningStep) -> datetime | None:
        """When a step was tapped first."""
        return next((at for one, _, at in self.steps if one is step), None)

    @property
    def places(self) -> frozenset[str]:
        """Where water ran through."""
        return frozenset(place for step, place, _ in self.steps if step is CleaningStep.RUNS_THROUGH)

    @property
    def ended(self) -> CleaningStep | None:
        """How it ended; None while it goes on."""
        return next((step for step, _, _ in self.steps if step in ENDS), None)

    @property
    def lacks(self) -> tuple[str, ...]:
        """What is still to be seen before it counts as clean."""
        found = [] if self.when(CleaningStep.RINSED) else ["rinse it"]
        found += [f"water through at the {place}" for place in PLACES if place not in self.places]
        if self.body.rows > 1 and not self.when(CleaningStep.OTHER_SIDE):
            found.append("two rows: split it, and clean between them")
        return tuple(found)

    @property
    def words(self) -> str:
        """Which coil."""
        return f"{self.body.coil.value}{f', circuit {self.body.circuit}' if self.body.circuit else ''}"


class Cleaning(Part):
    """By the entry's id."""

    cleanings: dict[str, KeptCleaning] = {}


_BAGGED, _LOCKED = "Electrics bagged at the {}", "Fan of the {} locked out"
_AS_ACTION = {CoilPlace.CONDENSER: ActionSort.CONDENSER_CLEANED, CoilPlace.EVAPORATOR: ActionSort.EVAPORATOR_CLEANED}


def _begun(visit: VisitState, entry: Entry, body: CleaningBody) -> VisitState:
    cleanings = visit[Cleaning].cleanings | {str(entry.id): KeptCleaning(**kept(entry))}
    visit = visit.changing(Cleaning, cleanings=cleanings)
    visit = set_aside(visit, entry, ChangeSort.COVER, _BAGGED.format(body.coil.value))
    return set_aside(visit, entry, ChangeSort.DISCONNECT, _LOCKED.format(body.coil.value))


def _stepped(visit: VisitState, entry: Entry, body: CleaningStepBody) -> VisitState:
    known = visit[Cleaning].cleanings.get(str(body.cleaning))
    if known is None:
        return visit
    one = known.model_copy(update={"steps": (*known.steps, (body.step, body.place, entry.written_at))[-60:]})
    visit = visit.changing(Cleaning, cleanings=visit[Cleaning].cleanings | {str(body.cleaning): one})
    dwell = uuid5(body.cleaning, "dwell")
    match body.step:
        case CleaningStep.APPLIED:
            words = f"Cleaner on the {one.words}: rinse before it dries"
            return time_set(visit, entry, dwell, TimerBody(what=words, minutes=one.body.dwell_minutes))
        case CleaningStep.RINSED:
            visit = timer_over(visit, entry, dwell)
            wet = entry.model_copy(update={"body": ConditionBody(condition=Condition.COIL_WET, on=True)})
            conditions = visit[Running].conditions | {Condition.COIL_WET: Kept[ConditionBody](**kept(wet))}
            return visit.changing(Running, conditions=conditions)
        case CleaningStep.BLOWN_OUT:
            words = f"The {one.words} dries: run it, then read"
            return time_set(visit, entry, uuid5(body.cleaning, "dry"), TimerBody(what=words, minutes=DRY_RUN_MIN))
        case CleaningStep.DONE:
            action = ActionBody(sort=_AS_ACTION[one.body.coil], words=f"with {CLEANER_WORDS[one.body.cleaner]}")
            return acted(visit, entry, action)
    return visit


# -- what is refused --------------------------------------------------------------------


def _chemistry(case: Case[CleaningBody]) -> None:
    body = case.body
    found = may_clean(body.coil_kind, body.cleaner, maker_allows=body.maker_allows)
    if found.state == "no":
        raise Refused(found.why, "cleaner")
    if body.ratio:
        mixture(body.ratio, body.volume_l or 1.0)


def _cleaning_of(case: Case[CleaningStepBody]) -> dict[str, object]:
    return {"cleaning": case.visit[Cleaning].cleanings.get(str(case.body.cleaning))}


def _in_turn(case: Case[CleaningStepBody]) -> None:
    one, step = case.visit[Cleaning].cleanings.get(str(case.body.cleaning)), case.body.step
    if one is None:
        return
    if one.ended:
        raise Refused(f"That cleaning has ended: {STEP_WORDS[one.ended]}.", "step")
    if step is CleaningStep.RUNS_THROUGH and case.body.place not in PLACES:
        raise Refused("Where does it run through: at the top, the middle, the bottom?", "place")
    if step is CleaningStep.DONE and one.lacks:
        raise Refused(f"Not proven clean yet: {'; '.join(one.lacks)}.", "step")


def _unfinished(visit: VisitState) -> list[Obstacle]:
    if visit[Agenda].booked(RETURNS):
        return []
    open_ones = [(key, one.words) for key, one in visit[Cleaning].cleanings.items() if not one.ended]
    return [
        Obstacle(
            "cleaning",
            f"Cleaning of the {words} has no end: prove it clean, quote it, or say that it is not worth it.",
            key,
            weight=Weight.PROOF,
        )
        for key, words in open_ones
    ]


# -- how it is said -------------------------------------------------------------------------


def _cleaning_said(body: CleaningBody, _: VisitState) -> tuple[str, str]:
    cleaner = f"{CLEANER_WORDS[body.cleaner]} {body.ratio}".rstrip()
    return f"Cleaning of the {body.coil.value}", "; ".join(filter(None, (COIL_WORDS[body.coil_kind], body.dirt, cleaner)))


def _step_said(body: CleaningStepBody, visit: VisitState) -> tuple[str, str]:
    one = visit[Cleaning].cleanings.get(str(body.cleaning))
    return f"Cleaning{f' of the {one.words}' if one else ''}", f"{STEP_WORDS[body.step]}{f', {body.place}' if body.place else ''}"


KINDS = (
    Kind(CleaningBody, _cleaning_said, _begun, _chemistry, leaves_open=_unfinished, sweeps=True),
    Kind(CleaningStepBody, _step_said, _stepped, collides=_in_turn, refers=_cleaning_of, happened=True, sweeps=True),
)
