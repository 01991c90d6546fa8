"""What a heat pump is doing: its coils swap their roles, and what was read in the other mode says nothing of this one (R85)."""

from __future__ import annotations

from typing import Literal

from dry_gauge.core.errors import Refused
from dry_gauge.core.vocabulary import Mode
from dry_gauge.notebook.kind import Body, Case, Entry, Kind, VisitState
from dry_gauge.notebook.subjects.readings import OF_ANY_MODE, Readings, is_of_other_mode, turned_over
from dry_gauge.notebook.subjects.running import Running


class ModeBody(Body):
    """What the unit is doing from here on."""

    kind: Literal["mode"] = "mode"
    mode: Mode
    read_since: bool = False
    """What stands on the sheet was read in this mode: nobody had said so."""


def _turned(visit: VisitState, entry: Entry, body: ModeBody) -> VisitState:
    was, readings = visit[Running].mode or Mode.COOLING, visit[Readings]
    visit = visit.changing(Running, mode=body.mode)
    if body.read_since:
        on_sheet = {"latest": readings.latest, "tagged": readings.tagged}
        as_read = {
            name: {key: one.model_copy(update={"mode": body.mode}) for key, one in listed.items()}
            for name, listed in on_sheet.items()
        }
        aside = {key: one for key, one in readings.otherwise.items() if is_of_other_mode(visit, one)}
        return visit.changing(Readings, **as_read, otherwise=aside).changing(Running, turned_at=None)
    if was is not body.mode:
        visit = turned_over(visit)
    turned = was is not body.mode and any(one.body.quantity not in OF_ANY_MODE for one in readings.latest.values())
    return visit.changing(Running, turned_at=entry.written_at) if turned else visit


def as_last_read(visit: VisitState) -> VisitState:
    """The visit in the mode in which it was last read: a unit that was turned over and left unread closes as it was read."""
    read = [one for one in visit[Readings].latest.values() if one.body.quantity not in OF_ANY_MODE]
    if visit[Running].mode is None or not all(is_of_other_mode(visit, one) for one in read):
        return visit
    last = max(read, key=lambda one: (one.at, one.entry_id), default=None)
    if last is None:
        return visit
    turned = visit[Running].turned_at
    return visit.changing(Running, mode=last.mode or Mode.COOLING, turned_at=None if turned and turned > last.at else turned)


def _no_heating(case: Case[ModeBody]) -> None:
    if case.body.mode is Mode.HEATING and not case.facts.kind.is_heat_pump:
        raise Refused("This unit has no heating mode; only heat pumps do.", "mode")


def _said(body: ModeBody, _: VisitState) -> tuple[str, str]:
    return "Mode", f"{body.mode.value}{', as it was when read' if body.read_since else ''}"


KINDS = (Kind(ModeBody, _said, _turned, refuse=_no_heating, sweeps=True),)
