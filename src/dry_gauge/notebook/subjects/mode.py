"""What a heat pump is doing: its coils swap their roles, and what was read in the other mode says nothing of this one (R85)."""

from __future__ import annotations

from typing import Literal

from dry_gauge.core.errors import Refused
from dry_gauge.core.vocabulary import Mode
from dry_gauge.notebook.kind import Body, Case, Entry, Kind, VisitState
from dry_gauge.notebook.subjects.readings import Readings, is_of_other_mode
from dry_gauge.notebook.subjects.running import Running


class ModeBody(Body):
    """What the unit is doing from here on."""

    kind: Literal["mode"] = "mode"
    mode: Mode
    read_since: bool = False
    """What stands on the sheet was read in this mode: nobody had said so."""


def _turned(visit: VisitState, entry: Entry, body: ModeBody) -> VisitState:
    visit = visit.changing(Running, mode=body.mode)
    readings = visit[Readings]
    if body.read_since:
        as_read = {key: one.model_copy(update={"mode": body.mode}) for key, one in readings.latest.items()}
        return visit.changing(Readings, latest=as_read).changing(Running, turned_at=None)
    turned = any(is_of_other_mode(visit, one) for one in readings.latest.values())
    return visit.changing(Running, turned_at=entry.written_at) if turned else visit


def _no_heating(case: Case[ModeBody]) -> None:
    if case.body.mode is Mode.HEATING and not case.facts.kind.is_heat_pump:
        raise Refused("This unit has no heating mode; only heat pumps do.", "mode")


def _said(body: ModeBody, _: VisitState) -> tuple[str, str]:
    return "Mode", f"{body.mode.value}{', as it was when read' if body.read_since else ''}"


KINDS = (Kind(ModeBody, _said, _turned, refuse=_no_heating, sweeps=True),)
