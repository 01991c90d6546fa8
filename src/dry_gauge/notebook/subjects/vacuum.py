"""Evacuations: what was done at pump and valve, what the gauge showed, and what its rise says."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from typing import Annotated, Any, Literal, Self
from uuid import UUID

from pydantic import Field

from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.errors import Refused
from dry_gauge.core.sealed.pull_down import SWEEP_BELOW_PA, TRIPLE_SWEEPS, PullDown, pull_down
from dry_gauge.core.sealed.vacuum import END_POINTS, Decay, Rise, judge_decay
from dry_gauge.core.words import counted
from dry_gauge.notebook.fields import Circuit, FewWords, of_circuit
from dry_gauge.notebook.kind import (
    LEAST_REASON,
    Answered,
    Body,
    Case,
    Entry,
    Kept,
    Kind,
    Obstacle,
    Part,
    VisitState,
    kept,
    still_on,
    with_one,
)
from dry_gauge.notebook.subjects.hold import Holds

_MOST_POINTS = 600
"""Points kept of one evacuation; the oldest of a long pull-down are thinned out first."""
MOST_TRACE_POINTS = 240
_Micron = Annotated[float, Field(allow_inf_nan=False, gt=0, le=1_000_000)]


class EvacuationBody(Body):
    """An evacuation, or the proof of the rig before it."""

    kind: Literal["evacuation"] = "evacuation"
    what: Literal["rig", "system"] = "system"
    charge_kept: bool = False
    """Only a part is evacuated: the charge stands in the receiver, valved off."""
    gauge: FewWords = ""
    gauge_at: Literal["far_end", "near_pump", "manifold", ""] = ""
    cores_out: bool = False
    hoses: Literal["wide_short", "thin", ""] = ""
    water_suspected: bool = False
    triple: bool = False
    """Pulled three times, swept with dry nitrogen in between."""
    target_micron: Annotated[float, Field(allow_inf_nan=False, ge=50, le=5000)] = 300.0
    school: Literal["strict", "common"] = "strict"
    done_by: datetime | None = None
    circuit: Circuit | None = None
    """Which one is evacuated; a rig belongs to none."""


class VacuumPointBody(Body):
    """What the vacuum gauge shows now."""

    kind: Literal["vacuum_point"] = "vacuum_point"
    evacuation: UUID
    micron: _Micron


class VacuumEvent(StrEnum):
    """What happens to an evacuation."""

    PUMP_ON = "pump_on"
    ISOLATED = "isolated"
    OPENED = "opened"
    BALLAST_OPEN = "ballast_open"
    BALLAST_SHUT = "ballast_shut"
    OIL_CHANGED = "oil_changed"
    SWEPT = "swept"
    BROKEN = "broken"


EVENT_WORDS = {
    VacuumEvent.PUMP_ON: "Pump on, open to the system",
    VacuumEvent.ISOLATED: "Valve shut: watching",
    VacuumEvent.OPENED: "Open to the pump again",
    VacuumEvent.BALLAST_OPEN: "Gas ballast open",
    VacuumEvent.BALLAST_SHUT: "Gas ballast shut",
    VacuumEvent.OIL_CHANGED: "Pump oil changed",
    VacuumEvent.SWEPT: "Swept with dry nitrogen",
    VacuumEvent.BROKEN: "Vacuum broken: done",
}
_STANDS = (VacuumEvent.PUMP_ON, VacuumEvent.ISOLATED, VacuumEvent.OPENED, VacuumEvent.SWEPT, VacuumEvent.BROKEN)
_ENDS_A_WATCH = (VacuumEvent.OPENED, VacuumEvent.SWEPT, VacuumEvent.BROKEN, VacuumEvent.PUMP_ON)


class VacuumEventBody(Body):
    """Something was done at the pump or a valve."""

    kind: Literal["vacuum_event"] = "vacuum_event"
    evacuation: UUID
    event: VacuumEvent
    reason: FewWords = ""


class TraceBody(Body):
    """What a live vacuum gauge showed, thinned: seconds before this entry, and microns. The verdict rests on it."""

    kind: Literal["trace"] = "trace"
    evacuation: UUID
    seconds_ago: Annotated[tuple[Annotated[float, Field(ge=0, le=1e6)], ...], Field(max_length=MOST_TRACE_POINTS)]
    micron: Annotated[tuple[_Micron, ...], Field(max_length=MOST_TRACE_POINTS)]


class KeptEvacuation(Answered[EvacuationBody]):
    """An evacuation: what was done, and what the gauge showed."""

    events: tuple[Kept[VacuumEventBody], ...] = ()
    points: tuple[tuple[datetime, float], ...] = ()
    """Moment and microns, in order."""

    @property
    def sweeps_left(self) -> int:
        """Sweeps of a triple evacuation still to do."""
        done = sum(one.body.event is VacuumEvent.SWEPT for one in self.events)
        return max(0, TRIPLE_SWEEPS - done) if self.body.triple else 0

    @property
    def watching(self) -> bool:
        """Whether the valve is shut."""
        return self.state is VacuumEvent.ISOLATED

    @property
    def state(self) -> VacuumEvent | None:
        """The last event that says how pump and valve stand."""
        return next((one.body.event for one in reversed(self.events) if one.body.event in _STANDS), None)

    def watches(self) -> tuple[tuple[datetime, datetime | None], ...]:
        """Each time the valve was shut, and when it was opened again; None while it still is."""
        found: list[tuple[datetime, datetime | None]] = []
        for one in self.events:
            if one.body.event is VacuumEvent.ISOLATED:
                found.append((one.at, None))
            elif one.body.event in _ENDS_A_WATCH and found and found[-1][1] is None:
                found[-1] = (found[-1][0], one.at)
        return tuple(found)

    def points_between(self, start: datetime, end: datetime | None) -> list[tuple[float, float]]:
        """Seconds since `start` and microns."""
        return [
            ((at - start).total_seconds(), micron) for at, micron in self.points if at >= start and (end is None or at <= end)
        ]


class Vacuum(Part):
    """By the entry's id."""

    evacuations: dict[str, KeptEvacuation] = {}

    @property
    def circuits(self) -> frozenset[int]:
        """Circuits that were evacuated."""
        return frozenset(one.body.circuit or 1 for one in self.of_system)

    def of_circuit(self, number: int) -> Self:
        """The evacuations of one circuit; a rig proves itself for all of them."""
        return self.model_copy(
            update={
                "evacuations": {
                    key: one
                    for key, one in self.evacuations.items()
                    if one.body.what == "rig" or (one.body.circuit or 1) == number
                }
            }
        )

    @property
    def in_order(self) -> tuple[tuple[str, KeptEvacuation], ...]:
        """By the moment at which each began."""
        return tuple(sorted(self.evacuations.items(), key=lambda pair: (pair[1].at, pair[0])))

    @property
    def on(self) -> KeptEvacuation | None:
        """The evacuation that is on, rig or system; of several the first."""
        return next((one for _, one in self.in_order if one.open), None)

    @property
    def of_system(self) -> tuple[KeptEvacuation, ...]:
        """Evacuations of the system, not of the rig."""
        return tuple(one for _, one in self.in_order if one.body.what == "system")


@dataclass(frozen=True, slots=True)
class Watch:
    """One time with the valve shut, and what its rise says."""

    started: datetime
    ended: datetime | None
    decay: Decay


@dataclass(frozen=True, slots=True)
class EvacuationView:
    """An evacuation as it stands: its watches, and how the pull-down goes while the pump is on."""

    key: str
    kept: KeptEvacuation
    watches: tuple[Watch, ...]
    pull: PullDown | None
    micron: float | None
    minutes_pumping: float
    conditions: tuple[str, ...] = ()
    """What the verdict is subject to: cores left in, where the gauge sat, a rig that nobody watched."""

    @property
    def last(self) -> Decay | None:
        """What the latest watch says."""
        return self.watches[-1].decay if self.watches else None

    @property
    def sweep_now(self) -> bool:
        """Whether a triple evacuation is low enough to be swept."""
        low = self.micron is not None and self.micron * MICRON_PA <= SWEEP_BELOW_PA
        return low and self.kept.sweeps_left > 0 and not self.kept.watching

    @property
    def passed(self) -> bool:
        """Whether the latest watch held, and nothing was opened to the air since."""
        return self.last is not None and self.last.verdict is Rise.TIGHT


def evacuation_of(
    key: str, one: KeptEvacuation, live: tuple[tuple[datetime, float], ...] = (), now: datetime | None = None
) -> EvacuationView:
    """One evacuation; `live` points, moment and microns, count beside those that were kept."""
    if live:
        known = {at for at, _ in one.points}
        fresh = [point for point in live if point[0] not in known]
        one = one.model_copy(update={"points": tuple(sorted([*one.points, *fresh]))})
    end_point = END_POINTS[one.body.school]
    watches = []
    for start, end in one.watches():
        points = one.points_between(start, end)
        decay = judge_decay([at for at, _ in points], [micron * MICRON_PA for _, micron in points], end_point)
        watches.append(Watch(start, end, decay))
    pumping = [event.at for event in one.events if event.body.event in (VacuumEvent.PUMP_ON, VacuumEvent.OPENED)]
    pull, minutes = None, 0.0
    if pumping and not one.watching:
        first = pumping[0] if not watches else pumping[-1]
        points = one.points_between(first, now)
        minutes = points[-1][0] / 60 if points else 0.0
        pull = pull_down(
            [at / 60 for at, _ in points],
            [micron * MICRON_PA for _, micron in points],
            one.body.target_micron * MICRON_PA,
            one.body.water_suspected,
        )
    micron = one.points[-1][1] if one.points else None
    return EvacuationView(key, one, tuple(watches), pull, micron, minutes)


# -- what each kind changes ------------------------------------------------


def _begun(visit: VisitState, entry: Entry, _: EvacuationBody) -> VisitState:
    one = KeptEvacuation(**kept(entry))
    return visit.changing(Vacuum, evacuations=visit[Vacuum].evacuations | {str(entry.id): one})


def _with_points(visit: VisitState, key: UUID, points: list[tuple[datetime, float]]) -> VisitState:
    one = visit[Vacuum].evacuations.get(str(key))
    if one is None or not one.open:
        return visit
    # A trace that is sent twice, or over a typed point, adds nothing at moments that are there already.
    known = {at for at, _ in one.points}
    listed = sorted([*one.points, *(point for point in points if point[0] not in known)])
    if len(listed) > _MOST_POINTS:
        old, recent = listed[: -_MOST_POINTS // 2], listed[-_MOST_POINTS // 2 :]
        listed = [*old[::2], *recent]
    return visit.changing(Vacuum, evacuations=with_one(visit[Vacuum].evacuations, key, points=tuple(listed)))


def _pointed(visit: VisitState, entry: Entry, body: VacuumPointBody) -> VisitState:
    return _with_points(visit, body.evacuation, [(entry.written_at, body.micron)])


def _traced(visit: VisitState, entry: Entry, body: TraceBody) -> VisitState:
    points = [
        (entry.written_at - timedelta(seconds=ago), micron) for ago, micron in zip(body.seconds_ago, body.micron, strict=False)
    ]
    return _with_points(visit, body.evacuation, points)


def _event(visit: VisitState, entry: Entry, body: VacuumEventBody) -> VisitState:
    one = visit[Vacuum].evacuations.get(str(body.evacuation))
    if one is None or not one.open:
        return visit
    changes: dict[str, Any] = {"events": (*one.events, Kept[VacuumEventBody](**kept(entry)))}
    if body.event is VacuumEvent.BROKEN:
        changes |= {"answered_at": entry.written_at, "how": body.reason}
    return visit.changing(Vacuum, evacuations=with_one(visit[Vacuum].evacuations, body.evacuation, **changes))


def _event_said(body: VacuumEventBody, visit: VisitState) -> tuple[str, str]:
    one = visit[Vacuum].evacuations.get(str(body.evacuation))
    rig = one is not None and one.body.what == "rig" and body.event is VacuumEvent.BROKEN
    return "Rig watched: done" if rig else EVENT_WORDS[body.event], body.reason


# -- what is refused -------------------------------------------------------


def _one_at_a_time(case: Case[Body]) -> None:
    on = case.visit[Vacuum].on
    if on:
        raise Refused(f"An evacuation is on already{of_circuit(on.body.circuit)}: break it, or take it back, first.", "what")


def _evacuation_for(case: Case[VacuumPointBody | VacuumEventBody | TraceBody]) -> dict[str, KeptEvacuation | None]:
    body = case.body
    return {"evacuation": case.visit[Vacuum].evacuations.get(str(body.evacuation))}


def _event_fits(case: Case[VacuumEventBody]) -> None:
    body, one = case.body, _evacuation_for(case)["evacuation"]
    still_on(one, "evacuation")
    if one is None:
        return
    if body.event is VacuumEvent.ISOLATED and one.state not in (VacuumEvent.PUMP_ON, VacuumEvent.OPENED):
        raise Refused("The pump has to pull before the valve is shut.", "event")
    if body.event is not VacuumEvent.BROKEN or len(body.reason) >= LEAST_REASON:
        return
    if one.sweeps_left:
        raise Refused(
            f"Three pulls were planned: {one.sweeps_left} to sweep with dry nitrogen yet. Do that, or say why not.", "reason"
        )
    last = evacuation_of(str(body.evacuation), one).last if one.body.what == "system" else None
    if one.body.what == "system" and (last is None or last.verdict is not Rise.TIGHT):
        says = "nothing was watched with the valve shut" if last is None else f"the watch says '{last.verdict.value}'"
        raise Refused(f"Breaking it now leaves it unproven: {says.replace('_', ' ')}. Watch it, or say why not.", "reason")


def _still_evacuating(visit: VisitState) -> list[Obstacle]:
    return [
        Obstacle(
            "evacuation",
            f"An evacuation is still on{of_circuit(one.body.circuit)}: watch it with the valve shut, then break it.",
            str(one.entry_id),
        )
        for _, one in visit[Vacuum].in_order
        if one.open
    ]


def _trace_said(body: TraceBody, _: VisitState) -> tuple[str, str]:
    return (
        "Vacuum, live",
        f"{counted(len(body.micron), 'point')} to {body.micron[-1]:,.0f} microns" if body.micron else "no points",
    )


def _not_read_here(case: Case[VacuumPointBody | TraceBody]) -> None:
    one = _evacuation_for(case)["evacuation"]
    still_on(one, "evacuation")
    if one is not None and one.body.what == "system" and case.visit[Holds].of_circuit(one.body.circuit or 1).on:
        raise Refused(
            "The system stands under nitrogen: a vacuum gauge there is destroyed, and shows nothing. End the hold first.",
            "micron",
        )


KINDS = (
    Kind(EvacuationBody, lambda body, _: ("Rig to be proven" if body.what == "rig" else
                                          "Evacuation begun" + of_circuit(body.circuit), body.gauge),
         _begun, collides=_one_at_a_time, leaves_open=_still_evacuating, happened=True),
    Kind(VacuumPointBody, lambda body, _: ("Vacuum", f"{body.micron:,.0f} microns"), _pointed, collides=_not_read_here,
         refers=_evacuation_for, happened=True),
    Kind(VacuumEventBody, _event_said, _event, collides=_event_fits,
         refers=_evacuation_for, happened=True),
    Kind(TraceBody, _trace_said, _traced, collides=_not_read_here, refers=_evacuation_for, happened=True),
)  # fmt: skip
