"""How the unit runs: since when, in which stage, and under what conditions readings are taken."""

from __future__ import annotations

from datetime import datetime, timedelta
from enum import StrEnum
from typing import Literal

from dry_gauge.core.vocabulary import Mode
from dry_gauge.notebook.fields import FewWords, SomeWords
from dry_gauge.notebook.kind import Body, Entry, Kept, Kind, Obstacle, Part, VisitState, Weight, kept


class ClockEvent(StrEnum):
    """What a unit settles from."""

    STARTED = "started"
    CHANGED = "changed"
    CHARGED = "charged"
    DEFROSTED = "defrosted"


class Condition(StrEnum):
    """What makes a reading a thing of its own: it is kept, and not compared with a normal target."""

    PANEL_OFF = "panel_off"
    FILTER_OUT = "filter_out"
    COIL_WET = "coil_wet"
    FAN_COVERED = "fan_covered"
    THAWING = "thawing"


CONDITION_WORDS = {
    Condition.PANEL_OFF: "panel off",
    Condition.FILTER_OUT: "filter out",
    Condition.COIL_WET: "coil wet",
    Condition.FAN_COVERED: "fan covered",
    Condition.THAWING: "thawing",
}


CONDITION_ENDS = {
    Condition.PANEL_OFF: "panel is on",
    Condition.FILTER_OUT: "filter is in",
    Condition.COIL_WET: "coil is dry",
    Condition.FAN_COVERED: "fan is free",
    Condition.THAWING: "thaw is over",
}


_KNOWN_TO_RUN_ON = timedelta(hours=6)
"""For so long after such a number it is taken to have gone on running: next day nobody knows, and it is asked for again."""


class StageBody(Body):
    """The stage that was called for, the stage it really runs in, and how that is known."""

    kind: Literal["stage"] = "stage"
    commanded: SomeWords
    actual: SomeWords
    witness: FewWords = ""


class ConditionBody(Body):
    """From here on, readings are taken with a panel off, the coil wet and so on; or no longer."""

    kind: Literal["condition"] = "condition"
    condition: Condition
    on: bool


class Running(Part):
    """How the unit runs, as far as anyone said."""

    started_at: datetime | None = None
    changed_at: datetime | None = None
    """When something last changed what the unit reads."""
    charged_at: datetime | None = None
    defrosted_at: datetime | None = None
    read_at: datetime | None = None
    """When something was last read: minutes count up to here."""
    ran_at: datetime | None = None
    """When a number that running moves was last read, or somebody said that it runs."""
    starts: tuple[datetime, ...] = ()
    stood_until: datetime | None = None
    """It was locked out or tripped until then: the next number that it moves counts from there, unless a start is told."""
    start_is_assumed: bool = False
    """Whether nobody said since when it runs, only that it stood before."""
    mode: Mode | None = None
    turned_at: datetime | None = None
    """When it was turned over last, or to another stage, with something read of how it runs: that is a change as well."""
    otherwise_until: datetime | None = None
    """It ran in another stage, with a panel off or a valve turned until then: for the next number that is a change."""
    stage: Kept[StageBody] | None = None
    conditions: dict[Condition, Kept[ConditionBody]] = {}

    def since(self, event: ClockEvent) -> datetime | None:
        """When that happened last, as far as anyone said."""
        at: datetime | None = getattr(self, f"{event}_at")
        if event is ClockEvent.CHANGED and self.turned_at is not None:
            return max(self.turned_at, at or self.turned_at)
        return at

    def minutes_since(self, event: ClockEvent) -> int | None:
        """Whole minutes from it to the latest reading, as its field shows them."""
        at = self.since(event)
        return None if at is None or self.read_at is None else max(round((self.read_at - at).total_seconds() / 60), 0)

    def as_read_at(self, at: datetime, *, runs: bool) -> Running:
        """The same once something was read; `runs` for a number of a unit that runs: after a lock-out its start (R87)."""
        read = self.model_copy(update={"read_at": max(at, self.read_at or at)})
        if not runs:
            return read
        if self.ran_at is not None and at - self.ran_at > _KNOWN_TO_RUN_ON:
            read = read.model_copy(update={"started_at": None, "start_is_assumed": False})
        read = read.model_copy(update={"ran_at": max(at, self.ran_at or at)})
        if self.stood_until is not None:
            read = read.model_copy(update={"started_at": self.stood_until, "stood_until": None, "start_is_assumed": True})
        if self.otherwise_until is not None:
            turned = max(self.otherwise_until, self.turned_at or self.otherwise_until)
            read = read.model_copy(update={"turned_at": turned, "otherwise_until": None})
        return read

    @property
    def running_stage(self) -> str:
        """The stage that was seen to run; nothing if nobody looked."""
        return self.stage.body.actual if self.stage else ""

    @property
    def stage_not_as_called(self) -> bool:
        """Whether another stage runs than was called for."""
        return self.stage is not None and self.stage.body.commanded.casefold() != self.stage.body.actual.casefold()


def _conditioned(visit: VisitState, entry: Entry, body: ConditionBody) -> VisitState:
    others = {name: one for name, one in visit[Running].conditions.items() if name != body.condition}
    now = {body.condition: Kept[ConditionBody](**kept(entry))} if body.on else {}
    return ran_otherwise(visit.changing(Running, conditions=others | now), entry)


def ran_otherwise(visit: VisitState, entry: Entry) -> VisitState:
    """The visit once something made it run otherwise, or as before again: what is read from here on waits as after a change."""
    return visit.changing(Running, otherwise_until=entry.written_at)


def _staged(visit: VisitState, entry: Entry, body: StageBody) -> VisitState:
    before = visit[Running].running_stage.casefold()
    visit = visit.changing(Running, stage=Kept[StageBody](**kept(entry)))
    return ran_otherwise(visit, entry) if before and before != body.actual.casefold() else visit


def _still_marked(visit: VisitState) -> list[Obstacle]:
    return [
        Obstacle("condition", f"Still marked: {CONDITION_WORDS[condition]}.", str(one.entry_id), weight=Weight.SAFETY)
        for condition, one in sorted(visit[Running].conditions.items())
    ]


def _stage_said(body: StageBody, _: VisitState) -> tuple[str, str]:
    witness = f", by {body.witness}" if body.witness else ""
    return "Stage", f"called {body.commanded}, runs {body.actual}{witness}"


KINDS = (
    Kind(StageBody, _stage_said, _staged),
    Kind(ConditionBody, lambda body, _: (CONDITION_WORDS[body.condition].capitalize(),
                                         "from here on" if body.on else "no longer"),
         _conditioned, leaves_open=_still_marked, sweeps=True),
)  # fmt: skip
