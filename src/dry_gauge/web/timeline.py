"""The timeline: every entry in a line, latest first, what was taken back struck through."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy import Connection

from dry_gauge.core.cautions import BY_CODE
from dry_gauge.core.complaints import TRIAGE
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS
from dry_gauge.exchange.assessment import FAULT_WORDS
from dry_gauge.notebook import calling as c
from dry_gauge.notebook import measuring as m
from dry_gauge.notebook.call_state import CallState
from dry_gauge.notebook.entries import Body, VoidBody
from dry_gauge.service.notebooks import Appended, VisitView, may_reopen
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import TimelineRow, timeline
from dry_gauge.web.sealed_words import sealed_said

Fragment = tuple[str, Mapping[str, Any]]
TIMELINE_LENGTH = 40


def timeline_part(
    connection: Connection, view: VisitView, someone: Someone, *, before: int | None = None, after: int | None = None
) -> Fragment:
    """The latest entries, older ones before a number, or only those that came after what the page shows."""
    rows = timeline(connection, view.visit.id, before=before, after=after, limit=TIMELINE_LENGTH + 1)
    if after is not None and len(rows) > TIMELINE_LENGTH:
        return timeline_part(connection, view, someone)
    return _part_of(rows, view, someone, before=before, after=after)


def new_lines(connection: Connection, view: VisitView, someone: Someone, appended: Appended, seen: int) -> Fragment:
    """What the page does not show yet: nearly always just this entry, and then there is nothing to ask for."""
    if seen == appended.entry.sequence - 1 and not appended.repeated:
        return _part_of([TimelineRow(appended.entry, someone.name, None, "")], view, someone, after=seen)
    return timeline_part(connection, view, someone, after=seen)


def _part_of(
    rows: list[TimelineRow], view: VisitView, someone: Someone, *, before: int | None = None, after: int | None = None
) -> Fragment:
    more = rows[TIMELINE_LENGTH - 1].entry.sequence if len(rows) > TIMELINE_LENGTH else None
    told = [(row, said(row.entry.body, view.state.call)) for row in rows[:TIMELINE_LENGTH]]
    return "visits/_timeline_new.html" if after is not None else "visits/_timeline.html", {
        "visit": view.visit, "rows": told, "more": more, "before": before, "view": view,
        "may_write": someone.may_write and view.visit.status != "closed",
        "may_reopen": may_reopen(someone, view.state) and view.visit.status == "closed",
    }  # fmt: skip


def said(body: Body, call: CallState) -> tuple[str, str]:
    """An entry as the timeline writes it: what, and how it read."""
    return _measured(body) or sealed_said(body) or _called(body, call)


def _measured(body: Body) -> tuple[str, str] | None:
    match body:
        case m.ReadingBody():
            quantity = QUANTITIES[body.quantity]
            kind = " pressure" if quantity.dimension == "pressure" else ""
            circuit = f", circuit {body.circuit}" if body.circuit and body.circuit > 1 else ""
            live = ", live" if body.source == "probe" else ""
            return f"{quantity.label}{kind}{circuit}", f"{body.value:.10g} {body.unit}{live}"
        case m.ObservationBody():
            return SIGHTS[body.what].label, body.state.value.replace("_", " ")
        case m.ClockBody():
            return "Unit started" if body.event == "started" else "Last change", f"{body.minutes_ago:g} min before"
        case m.ModeBody():
            return "Mode", body.mode.value
        case m.StageBody():
            witness = f", by {body.witness}" if body.witness else ""
            return "Stage", f"called {body.commanded}, runs {body.actual}{witness}"
        case m.ConditionBody():
            return m.CONDITION_WORDS[body.condition].capitalize(), "from here on" if body.on else "no longer"
        case m.InUseBody():
            accuracy = f", ±{body.accuracy:g} {body.unit}" if body.accuracy is not None else ""
            return f"Instrument for {body.dimension}", f"{body.instrument}{accuracy}"
        case m.NoteBody():
            return "Note", body.text
        case m.OverrideBody():
            return f"Own verdict: {FAULT_WORDS[body.fault]}", body.reason
        case m.AsideBody():
            return "Warning put aside", body.reason
        case VoidBody():
            return "Taken back", body.reason
    return None


def _called(body: Body, call: CallState) -> tuple[str, str]:
    match body:
        case c.ComplaintBody():
            sorts = ", ".join(TRIAGE[sort].label.lower() for sort in body.sorts)
            return "Complaint", "; ".join(filter(None, (sorts, body.words, body.since and f"since {body.since}")))
        case c.ClaimBody():
            return "They say", body.text
        case c.ClaimCheckBody():
            claim = call.claims.get(str(body.claim))
            return "So it is" if body.true else "Not so", "; ".join(
                filter(None, (claim.body.text if claim else "", body.how))
            )
        case c.TimerBody():
            return "Timer", f"{body.what}, {body.minutes:g} min"
        case c.TimerEndBody():
            timer = call.timers.get(str(body.timer))
            return "Timer ended", timer.body.what if timer else ""
        case c.ActionBody():
            against = f", against {FAULT_WORDS[body.against].lower()}" if body.against else ""
            return c.ACTION_WORDS[body.sort], f"{body.words or body.part}{against}".strip(", ")
        case c.FailedTestBody():
            return f"To prove: {QUANTITIES[body.quantity].label}", body.should
        case c.ProofBody():
            return "Repeated and passed" if body.passed else "Repeated, still failing", body.how
        case c.TemporaryBody():
            return c.CHANGE_WORDS[body.sort], "; ".join(filter(None, (body.where, body.was and f"was {body.was}")))
        case c.RestoredBody():
            change = call.temporary.get(str(body.change))
            return "Put back", change.body.where if change else body.how
        case c.TripBody():
            cause = body.cause or ("cause not known" if body.event == "reset" else "")
            return f"{body.switch} {'tripped' if body.event == 'trip' else 'reset'}", cause
        case c.CautionBody():
            return "Caution read", BY_CODE[body.code].words if body.code in BY_CODE else body.code
        case c.LockoutBody():
            return "Locked out, proven dead" if body.locked else "Unlocked", body.disconnect
        case c.RedTagBody():
            return "Red tag", f"{body.danger}; told {body.told}"
        case c.FollowUpBody():
            return "Follow-up", f"{body.what}, {body.due:%d %b %Y}"
        case c.FollowUpDoneBody():
            return "Follow-up seen to", body.how
        case c.TaskBody():
            return "To do", body.what
        case c.TaskDoneBody():
            task = call.tasks.get(str(body.task))
            return "Done", task.body.what if task else ""
        case c.PhotoBody():
            return "Photo", body.caption
        case c.ClosingBody():
            return f"Closed: {c.OUTCOME_WORDS[body.outcome].lower()}", body.summary
        case _:
            raise AssertionError(body.kind)
