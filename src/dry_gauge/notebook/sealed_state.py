"""How the sealed work stands: plan, weights, leaks, holds, evacuations. A fold like the rest."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from pydantic import BaseModel, ConfigDict

from dry_gauge.core.pull_down import TRIPLE_SWEEPS
from dry_gauge.notebook import sealed as s
from dry_gauge.notebook.call_state import Kept, Settled
from dry_gauge.notebook.entries import Entry

_FROZEN = ConfigDict(frozen=True)
_MOST_POINTS = 600
"""Points kept of one evacuation; the oldest of a long pull-down are thinned out first."""


class KeptPour(Settled[s.PourBody]):
    """A pour: its latest mark, and how many grams it moved once it has ended."""

    mark_g: int | None = None
    marked_at: datetime | None = None
    grams: int | None = None
    hose_g: int = 0

    def so_far_g(self, gross_g: int | None = None) -> int:
        """Moved up to what the scale shows now, or up to the last mark; never less than nothing."""
        if self.grams is not None:
            return self.grams
        shown = gross_g if gross_g is not None else self.mark_g
        if shown is None:
            return 0
        out = self.body.gross_g - shown
        return max(0, -out if self.body.way in s.OUT_OF_UNIT else out)


class Moved(BaseModel):
    """Grams that moved, whether typed or poured: what the ledger counts."""

    model_config = _FROZEN
    entry_id: UUID
    at: datetime
    way: s.Way
    cylinder: UUID
    grams: int
    hose_g: int = 0
    phase: str = ""
    reason: str = ""
    converting: bool = False

    @property
    def into_unit_g(self) -> int:
        """What the unit gained; negative if it lost."""
        if self.way in s.OUT_OF_UNIT:
            return -self.grams
        return self.grams - self.hose_g if self.way in s.INTO_UNIT else 0


class KeptHold(Settled[s.HoldBody]):
    """A hold and its readings."""

    readings: tuple[Kept[s.HoldReadingBody], ...] = ()
    verdict: str = ""


class KeptEvacuation(Settled[s.EvacuationBody]):
    """An evacuation: what was done, and what the gauge showed."""

    events: tuple[Kept[s.VacuumEventBody], ...] = ()
    points: tuple[tuple[datetime, float], ...] = ()
    """Moment and microns, in order."""

    @property
    def isolated_at(self) -> datetime | None:
        """When the valve was shut for the watch that is on now, or for the last one."""
        shut = [one.at for one in self.events if one.body.event is s.VacuumEvent.ISOLATED]
        return shut[-1] if shut else None

    @property
    def sweeps_left(self) -> int:
        """Sweeps of a triple evacuation still to do."""
        done = sum(one.body.event is s.VacuumEvent.SWEPT for one in self.events)
        return max(0, TRIPLE_SWEEPS - done) if self.body.triple else 0

    @property
    def watching(self) -> bool:
        """Whether the valve is shut."""
        return self.state is s.VacuumEvent.ISOLATED

    @property
    def state(self) -> s.VacuumEvent | None:
        """The last event that says how pump and valve stand."""
        stands = (
            s.VacuumEvent.PUMP_ON,
            s.VacuumEvent.ISOLATED,
            s.VacuumEvent.OPENED,
            s.VacuumEvent.SWEPT,
            s.VacuumEvent.BROKEN,
        )
        return next((one.body.event for one in reversed(self.events) if one.body.event in stands), None)

    def watches(self) -> tuple[tuple[datetime, datetime | None], ...]:
        """Each time the valve was shut, and when it was opened again; None while it still is."""
        found: list[tuple[datetime, datetime | None]] = []
        ends = (s.VacuumEvent.OPENED, s.VacuumEvent.SWEPT, s.VacuumEvent.BROKEN, s.VacuumEvent.PUMP_ON)
        for one in self.events:
            if one.body.event is s.VacuumEvent.ISOLATED:
                found.append((one.at, None))
            elif one.body.event in ends and found and found[-1][1] is None:
                found[-1] = (found[-1][0], one.at)
        return tuple(found)

    def points_between(self, start: datetime, end: datetime | None) -> list[tuple[float, float]]:
        """Seconds since `start` and microns."""
        return [
            ((at - start).total_seconds(), micron)
            for at, micron in self.points
            if at >= start and (end is None or at <= end)
        ]


class SealedState(BaseModel):
    """Everything about the sealed system; dictionaries go by the entry's id."""

    model_config = _FROZEN
    plan: Kept[s.SealedPlanBody] | None = None
    steps: dict[str, Kept[s.StepBody]] = {}
    target: Kept[s.ChargeTargetBody] | None = None
    pours: dict[str, KeptPour] = {}
    moved: dict[str, Moved] = {}
    recovered_to: Kept[s.RecoveredToBody] | None = None
    places: dict[str, Kept[s.LeakPlaceBody]] = {}
    """By place: the latest search of it."""
    cures: dict[str, Kept[s.LeakCureBody]] = {}
    holds: dict[str, KeptHold] = {}
    evacuations: dict[str, KeptEvacuation] = {}

    @property
    def empty(self) -> bool:
        """Whether nothing was entered."""
        return self == SealedState()

    @property
    def pouring(self) -> KeptPour | None:
        """The pour that is on."""
        return next((one for one in self.pours.values() if one.open), None)

    @property
    def holding(self) -> tuple[KeptHold, ...]:
        """Holds that are on."""
        return tuple(one for one in self.holds.values() if one.open)

    @property
    def evacuating(self) -> KeptEvacuation | None:
        """The evacuation that is on, rig or system."""
        return next((one for one in self.evacuations.values() if one.open), None)

    @property
    def recovered_g(self) -> int:
        """Taken out, in all."""
        return sum(one.grams for one in self.moved.values() if one.way in s.OUT_OF_UNIT)

    @property
    def put_in_g(self) -> int:
        """Put in, in all, without what stayed in hoses."""
        return sum(one.into_unit_g for one in self.moved.values() if one.way in s.INTO_UNIT)

    @property
    def _evacuated(self) -> list[KeptEvacuation]:
        return [one for one in self.evacuations.values() if one.body.what == "system" and not one.body.charge_kept]

    @property
    def emptied(self) -> bool:
        """Whether the unit was emptied: a recovery was ended, or an evacuation begun that leaves no charge in a receiver."""
        return self.recovered_to is not None or bool(self._evacuated)

    def in_unit_g(self) -> int | None:
        """What is in the unit by this visit's weights; None where it was never emptied, so that nobody knows."""
        if not self.emptied:
            return None
        since = self.recovered_to.at if self.recovered_to else min(one.at for one in self._evacuated)
        return sum(one.into_unit_g for one in self.moved.values() if one.at >= since)

    @property
    def opened(self) -> bool:
        """Whether the system stands open, under nitrogen or under vacuum: it must not start."""
        if self.holding:
            return True
        on = self.evacuating
        return on is not None and on.body.what == "system"

    def failed_places(self) -> tuple[Kept[s.LeakPlaceBody], ...]:
        """Leaks that were found and have no cure yet."""
        cured = {str(one.body.leak) for one in self.cures.values()}
        return tuple(
            kept for kept in self.places.values() if kept.body.result == "failed" and str(kept.entry_id) not in cured
        )


def fold_sealed(state: SealedState, entry: Entry) -> SealedState:
    """The sealed work after one more entry; entries about other things change nothing."""
    key, at = str(entry.id), entry.written_at
    kept: dict[str, Any] = {"entry_id": entry.id, "at": at, "body": entry.body}
    match entry.body:
        case s.SealedPlanBody():
            changes: dict[str, Any] = {"plan": Kept[s.SealedPlanBody](**kept), "steps": {}}
        case s.StepBody() as body:
            changes = {"steps": state.steps | {body.step: Kept[s.StepBody](**kept)}}
        case s.ChargeTargetBody():
            changes = {"target": Kept[s.ChargeTargetBody](**kept)}
        case s.MovementBody() as body:
            moved = Moved(entry_id=entry.id, at=at, way=body.way, cylinder=body.cylinder, grams=body.grams, hose_g=body.hose_g,
                          phase=body.phase, reason=body.reason, converting=body.converting)  # fmt: skip
            changes = {"moved": state.moved | {key: moved}}
        case s.PourBody():
            changes = {"pours": state.pours | {key: KeptPour(**kept)}}
        case s.PourMarkBody() as body:
            changes = {"pours": _with(state.pours, body.pour, mark_g=body.gross_g, marked_at=at)}
        case s.PourEndBody() as body:
            changes = _ended_pour(state, entry, body)
        case s.RecoveredToBody():
            changes = {"recovered_to": Kept[s.RecoveredToBody](**kept)}
        case s.LeakPlaceBody() as body:
            changes = {"places": state.places | {body.place: Kept[s.LeakPlaceBody](**kept)}}
        case s.LeakCureBody() as body:
            changes = {"cures": state.cures | {str(body.leak): Kept[s.LeakCureBody](**kept)}}
        case s.HoldBody():
            changes = {"holds": state.holds | {key: KeptHold(**kept)}}
        case s.HoldReadingBody() as body:
            hold = state.holds.get(str(body.hold))
            # By when they were read: one that waited for a signal comes in late.
            readings = tuple(
                sorted((*(hold.readings if hold else ()), Kept[s.HoldReadingBody](**kept)), key=lambda one: one.at)
            )
            changes = {"holds": _with(state.holds, body.hold, readings=readings)}
        case s.HoldEndBody() as body:
            changes = {"holds": _with(state.holds, body.hold, settled_at=at, good=body.verdict == "tight", how=body.reason,
                                      verdict=body.verdict)}  # fmt: skip
        case s.EvacuationBody():
            changes = {"evacuations": state.evacuations | {key: KeptEvacuation(**kept)}}
        case s.VacuumPointBody() as body:
            changes = {"evacuations": _with_points(state, body.evacuation, [(at, body.micron)])}
        case s.TraceBody() as body:
            points = [
                (at - timedelta(seconds=ago), micron)
                for ago, micron in zip(body.seconds_ago, body.micron, strict=False)
            ]
            changes = {"evacuations": _with_points(state, body.evacuation, points)}
        case s.VacuumEventBody() as body:
            changes = {"evacuations": _with_event(state, Kept[s.VacuumEventBody](**kept), body)}
        case _:
            return state
    return state.model_copy(update=changes)


def _with(found: Mapping[str, Any], key: UUID, **changes: Any) -> dict[str, Any]:
    """The same, with one of them changed; an unknown one (its entry was voided) changes nothing."""
    one = found.get(str(key))
    return dict(found) if one is None else {**found, str(key): one.model_copy(update=changes)}


def _ended_pour(state: SealedState, entry: Entry, body: s.PourEndBody) -> dict[str, Any]:
    pour = state.pours.get(str(body.pour))
    if pour is None:
        return {}
    grams = body.grams if body.grams is not None else pour.so_far_g(body.gross_g)
    ended = _with(state.pours, body.pour, settled_at=entry.written_at, grams=grams, hose_g=body.hose_g, how=body.reason)
    if not grams:
        return {"pours": ended}
    moved = Moved(entry_id=entry.id, at=entry.written_at, way=pour.body.way, cylinder=pour.body.cylinder, grams=grams,
                  hose_g=body.hose_g, phase=pour.body.phase, reason=pour.body.reason or body.reason,
                  converting=pour.body.converting)  # fmt: skip
    return {"pours": ended, "moved": state.moved | {str(entry.id): moved}}


def _with_points(state: SealedState, key: UUID, points: list[tuple[datetime, float]]) -> dict[str, KeptEvacuation]:
    one = state.evacuations.get(str(key))
    if one is None:
        return dict(state.evacuations)
    # A trace that is sent twice, or over a typed point, adds nothing at moments that are there already.
    known = {at for at, _ in one.points}
    listed = sorted([*one.points, *(point for point in points if point[0] not in known)])
    if len(listed) > _MOST_POINTS:
        old, recent = listed[: -_MOST_POINTS // 2], listed[-_MOST_POINTS // 2 :]
        listed = [*old[::2], *recent]
    return _with(state.evacuations, key, points=tuple(listed))


def _with_event(
    state: SealedState, kept: Kept[s.VacuumEventBody], body: s.VacuumEventBody
) -> dict[str, KeptEvacuation]:
    one = state.evacuations.get(str(body.evacuation))
    events = tuple(sorted((*(one.events if one else ()), kept), key=lambda event: event.at))
    changes: dict[str, Any] = {"events": events}
    if body.event is s.VacuumEvent.BROKEN:
        changes |= {"settled_at": kept.at, "how": body.reason}
    return _with(state.evacuations, body.evacuation, **changes)
