"""The timeline: every entry in a line, latest first, what was taken back struck through."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.judgement.faults import fault_words, in_its_words
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import CHOSEN_DIMENSIONS, Reader
from dry_gauge.notebook.kind import Body, Clash, said
from dry_gauge.notebook.subjects.actions import ActionBody, how_done
from dry_gauge.notebook.subjects.cleaning import CleaningStep, CleaningStepBody
from dry_gauge.notebook.subjects.closing import Closing
from dry_gauge.notebook.subjects.findings import FindingEndBody
from dry_gauge.notebook.subjects.hold import HoldReadingBody
from dry_gauge.notebook.subjects.movements import MovementBody, PourEndBody
from dry_gauge.notebook.subjects.moving_air import FilterBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.readings import ReadingBody
from dry_gauge.notebook.subjects.remarks import PhotoBody
from dry_gauge.notebook.subjects.verdicts import OverrideBody
from dry_gauge.notebook.subjects.walk_in_box import PressureSettingBody
from dry_gauge.present.photo_subjects import photo_subjects, subject_of
from dry_gauge.present.visit import VisitView
from dry_gauge.service.reopening import may_reopen
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import TimelineRow, timeline
from dry_gauge.web.render import Fragment, reader_of

TIMELINE_LENGTH = 40


def timeline_part(connection: Connection, view: VisitView, someone: Someone, *, before: int | None = None) -> Fragment:
    """The latest entries, or older ones before a number."""
    rows = timeline(connection, view.visit.id, before=before, limit=TIMELINE_LENGTH + 1)
    return "visits/_timeline.html", {**_values(rows, view, someone), "before": before}


def new_lines(rows: list[TimelineRow], view: VisitView, someone: Someone) -> Fragment:
    """What came on top of the entries that a page shows."""
    return "visits/_timeline_new.html", {**_values(rows, view, someone), "before": None}


def clashes_by_line(view: VisitView) -> dict[UUID, Clash]:
    """Entries that do not go together, shown at both lines."""
    found = {}
    for clash in view.state.clashes:
        found[clash.entry_id] = clash
        if clash.other_id:
            found.setdefault(clash.other_id, clash)
    return found


def told_to(body: Body, view: VisitView, reader: Reader) -> tuple[str, str]:
    """An entry as this reader reads it: in their units, and as typed where that was in others; in its unit's words."""
    what, how = said(body, view.state)
    match body:
        case ObservationBody() | FindingEndBody() | OverrideBody():
            return in_its_words(what, view.facts), how
        case ActionBody(against=Fault() as cause):
            return what, how_done(body, fault_words(cause, view.facts))
        case ReadingBody() if UNITS[body.unit].dimension in CHOSEN_DIMENSIONS and not reader.reads(body.unit):
            own = reader.own(body.value, body.unit)
        case HoldReadingBody() if not (reader.reads(body.temp_unit) and reader.reads(body.pressure_unit)):
            own = f"{reader.own(body.pressure, body.pressure_unit)} at {reader.own(body.temp, body.temp_unit)}"
        case PressureSettingBody() if not reader.reads("psig"):  # kept in psig, whatever it was typed in
            way, _, _ = how.partition(": ")
            return what, f"{way}: out {reader.own(body.cut_out_psig, 'psig')}, in {reader.own(body.cut_in_psig, 'psig')}"
        case PhotoBody() if body.about is not None and (of := subject_of(body.about, view.state)) is not None:
            return what, ", of ".join(filter(None, (how, ": ".join(filter(None, told_to(of.body, view, reader))))))
        case _:
            own = ""
    return what, f"{own}, typed {how}" if own else how


def photo_choices(view: VisitView, reader: Reader) -> list[tuple[UUID, str]]:
    """What a photo may belong to, in this reader's words."""
    return [(one.entry_id, ": ".join(filter(None, told_to(one.body, view, reader)))) for one in photo_subjects(view.state)]


def makes_a_before(body: Body) -> bool:
    """Whether what was read up to that entry is the before of a pair, which no later reading replaces."""
    match body:
        case ActionBody() | FilterBody(changed=True):
            return not body.read_since
        case CleaningStepBody():
            return body.step is CleaningStep.DONE
        case _:
            return isinstance(body, MovementBody | PourEndBody)


def _values(rows: list[TimelineRow], view: VisitView, someone: Someone) -> dict[str, Any]:
    more = rows[TIMELINE_LENGTH - 1].entry.sequence if len(rows) > TIMELINE_LENGTH else None
    reader = reader_of(someone, view.facts)
    told = [(row, told_to(row.entry.body, view, reader)) for row in rows[:TIMELINE_LENGTH]]
    return {
        "visit": view.visit,
        "rows": told,
        "more": more,
        "view": view,
        "may_write": someone.may_write and view.visit.status != "closed",
        "clashes": clashes_by_line(view),
        "closed_with": view.state[Closing].sequence,
        "may_reopen": may_reopen(someone, view.state) and view.visit.status == "closed",
        "makes_a_before": makes_a_before,
    }
