"""Who stood by while a helper did a step with consequence, and which step an entry is."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from dry_gauge.core.visit.teach import CARDS, STANDS_FOR, Step
from dry_gauge.notebook.fields import FewWords
from dry_gauge.notebook.kind import Body, Entry, Kept, Kind, Part, VisitState, kept
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.ledger import ChangeSort, TemporaryBody, TripBody
from dry_gauge.notebook.subjects.movements import INTO_UNIT, OUT_OF_UNIT, MovementBody, PourBody


class StoodByBody(Body):
    """A technician stands by for this step; from the moment it is written."""

    kind: Literal["stood_by"] = "stood_by"
    step: Step
    who: FewWords


class StoodBy(Part):
    """The latest of each step."""

    latest: dict[str, Kept[StoodByBody]] = {}

    def at(self, step: Step, moment: datetime) -> str:
        """Who stands by for a step at a moment; nobody where nothing was said, or too long ago."""
        said = self.latest.get(step.value)
        return said.body.who if said is not None and said.at <= moment <= said.at + STANDS_FOR else ""


# Kinds that are a step whatever they say. What warns, locks or takes something back is nobody's to limit.
_OF_KIND = {
    "supply": Step.LIVE_PANEL,
    "machine_amps": Step.LIVE_PANEL,
    "power": Step.LIVE_PANEL,
    "strip_heat": Step.LIVE_PANEL,
    "capacitor": Step.ELECTRICAL_PART,
    "cleaning": Step.CLEAN,
    "sealed_plan": Step.OPEN_SYSTEM,
    "hold": Step.NITROGEN,
    "evacuation": Step.EVACUATE,
    "closing": Step.CLOSE,
}
_OF_ACTION = {
    ActionSort.ELECTRICAL_PART: Step.ELECTRICAL_PART,
    ActionSort.EVAPORATOR_CLEANED: Step.CLEAN,
    ActionSort.CONDENSER_CLEANED: Step.CLEAN,
    ActionSort.DRIER_CHANGED: Step.OPEN_SYSTEM,
    ActionSort.METERING_DEVICE: Step.OPEN_SYSTEM,
    ActionSort.CHARGE_ADJUSTED: Step.CHARGE,
}


def step_of(body: Body) -> Step | None:
    """The step with consequence that an entry tells of, if it is one."""
    match body:
        case MovementBody() | PourBody():
            return Step.CHARGE if body.way in INTO_UNIT else Step.RECOVER if body.way in OUT_OF_UNIT else None
        case TripBody():
            return Step.RESET if body.event == "reset" else None
        case TemporaryBody():
            return Step.BRIDGE if body.sort in (ChangeSort.JUMPER, ChangeSort.SAFETY) else None
        case ActionBody():
            return _OF_ACTION.get(body.sort)
        case _:
            return _OF_KIND.get(body.kind)


def _said(visit: VisitState, entry: Entry, body: StoodByBody) -> VisitState:
    return visit.changing(StoodBy, latest=visit[StoodBy].latest | {body.step.value: Kept[StoodByBody](**kept(entry))})


KINDS = (Kind(StoodByBody, lambda body, _: ("Stands by", f"{body.who}: {CARDS[body.step].title.lower()}"), _said),)
