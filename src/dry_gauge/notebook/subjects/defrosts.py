"""A defrost as it goes, tapped moment by moment, with its sensor and its heaters."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from dry_gauge.core.controls.defrost import ENDS, MARK_WORDS, DefrostVerdict, Mark, judge_defrost, out_of_order
from dry_gauge.core.dimensions import UNITS, as_typed
from dry_gauge.core.errors import Refused
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Obstacle, Part, VisitState, Weight, kept
from dry_gauge.notebook.subjects.agenda import RECHECKS, RETURNS, Agenda
from dry_gauge.notebook.subjects.readings import OUTLIVES_A_CHANGE, swept
from dry_gauge.notebook.subjects.running import Running


class DefrostBody(Body):
    """One moment of a defrost, or what was measured for it: the sensor's temperature, the heaters' amps."""

    kind: Literal["defrost"] = "defrost"
    mark: Mark
    temp: Annotated[float, Field(allow_inf_nan=False, ge=-100, le=300)] | None = None
    temp_unit: Literal["F", "C"] = "F"
    amps: Annotated[float, Field(allow_inf_nan=False, ge=0, le=500)] | None = None


class Defrosts(Part):
    """The latest defrost: its moments in order."""

    marks: tuple[Kept[DefrostBody], ...] = ()

    @property
    def sequence(self) -> tuple[tuple[Mark, float], ...]:
        """Marks with the minutes from the call."""
        if not self.marks:
            return ()
        start = self.marks[0].at
        return tuple((one.body.mark, (one.at - start).total_seconds() / 60) for one in self.marks)

    @property
    def active(self) -> bool:
        """Whether one is going on."""
        return bool(self.marks) and not any(one.body.mark in ENDS for one in self.marks)

    def judged(self, *, walk_in: bool) -> DefrostVerdict:
        """What it says."""
        sensor = next((UNITS[one.body.temp_unit].to_si(one.body.temp) for one in self.marks if one.body.temp is not None), None)
        amps = next((one.body.amps for one in reversed(self.marks) if one.body.amps is not None), None)
        return judge_defrost(self.sequence, walk_in=walk_in, sensor_k=sensor, heater_amps=amps)


def _marked(visit: VisitState, entry: Entry, body: DefrostBody) -> VisitState:
    before = () if body.mark is Mark.CALLED else visit[Defrosts].marks
    visit = visit.changing(Defrosts, marks=(*before, Kept[DefrostBody](**kept(entry)))[-40:])
    if body.mark in ENDS:
        # What reads the refrigerant waits from here on, as after any defrost, and is read again.
        visit = visit.changing(Running, defrosted_at=entry.written_at, changed_at=entry.written_at)
        return swept(visit, OUTLIVES_A_CHANGE)
    return visit


def _in_order(case: Case[DefrostBody]) -> None:
    odd = out_of_order([one.body.mark for one in case.visit[Defrosts].marks], case.body.mark)
    if odd:
        raise Refused(odd, "mark")


def _ice_left(visit: VisitState) -> list[Obstacle]:
    state = visit[Defrosts]
    if visit[Agenda].booked(RETURNS | RECHECKS):
        return []
    if state.active:
        return [Obstacle("defrost", "A defrost is still going on: say how it ends.", str(state.marks[-1].entry_id))]
    left = next((one for one in state.marks if one.body.mark is Mark.ICE_LEFT), None)
    if left is None:
        return []
    words = "Ice was left after the defrost: find why and see one end clear, or book the return."
    return [Obstacle("defrost", words, str(left.entry_id), weight=Weight.PROOF)]


def _said(body: DefrostBody, _: VisitState) -> tuple[str, str]:
    temp = f"sensor {as_typed(body.temp, body.temp_unit)}" if body.temp is not None else ""
    amps = f"{body.amps:g} A" if body.amps is not None else ""
    return f"Defrost: {MARK_WORDS[body.mark]}", ", ".join(filter(None, (temp, amps)))


KINDS = (Kind(DefrostBody, _said, _marked, collides=_in_order, leaves_open=_ice_left, happened=True, sweeps=True),)
