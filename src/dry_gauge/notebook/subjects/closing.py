"""How the visit ended. What still stood open was let go with a reason, and is named."""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.assess import Assessment
from dry_gauge.core.judgement.faults import fault_words
from dry_gauge.core.judgement.stops import STOPS
from dry_gauge.core.visit.findings import FIRM_FINDINGS
from dry_gauge.notebook.fields import FewWords, Words
from dry_gauge.notebook.kind import (
    LEAST_REASON,
    Body,
    Case,
    Entry,
    Kept,
    Kind,
    Obstacle,
    Part,
    VisitState,
    Weight,
    kept,
    obstacles,
)
from dry_gauge.notebook.subjects.findings import anything_found
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.mode import as_last_read
from dry_gauge.notebook.subjects.record import VoidBody
from dry_gauge.notebook.subjects.verdicts import Verdicts

_FEW_WORDS = 200


class Outcome(StrEnum):
    """How a visit ended."""

    FIXED = "fixed"
    IMPROVED = "improved"
    NOTHING_WRONG = "nothing_wrong"
    WAITING = "waiting"
    NOT_FIXED = "not_fixed"


GOOD_ENDS = frozenset({Outcome.FIXED, Outcome.NOTHING_WRONG})
"""After these the unit was left right."""
OUTCOME_WORDS = {
    Outcome.FIXED: "Fixed and proven",
    Outcome.IMPROVED: "Better, not done",
    Outcome.NOTHING_WRONG: "Nothing wrong found",
    Outcome.WAITING: "Waiting for a part or an answer",
    Outcome.NOT_FIXED: "Not fixed",
}


class ClosingBody(Body):
    """The visit is over."""

    kind: Literal["closing"] = "closing"
    outcome: Outcome
    summary: Words
    override: Annotated[str, Field(max_length=400)] = ""
    let_go: tuple[FewWords, ...] = ()
    """What is let go is named by us, not by whoever closes."""
    filled_in: ClassVar[frozenset[str]] = frozenset({"let_go"})


class Closing(Part):
    """The closing, once there is one, and the place up to which the record stands."""

    closing: Kept[ClosingBody] | None = None
    sequence: int = 0


def _closed(visit: VisitState, entry: Entry, _: ClosingBody) -> VisitState:
    return as_last_read(visit).changing(Closing, closing=Kept[ClosingBody](**kept(entry)), sequence=entry.sequence)


def before_leaving(visit: VisitState, judged: Assessment | None, *, fixed: bool = True) -> tuple[Obstacle, ...]:
    """All that is still open, by the entries and by what they are judged to be, most serious first."""
    return (*_must_not_run(visit, judged), *obstacles(visit, fixed=fixed))


_SAID_BY_THEMSELVES = FIRM_FINDINGS | {"supply_unfit"}


def _must_not_run(visit: VisitState, judged: Assessment | None) -> list[Obstacle]:
    """Stops under which nobody leaves a unit able to run (R78); findings and a supply say it by themselves."""
    if judged is None or visit[Ledger].locked or visit[Ledger].red_tags:
        return []
    stops = [
        (f", circuit {number}" if len(judged.circuits) > 1 else "", stop)
        for number, circuit in judged.circuits.items()
        for stop in circuit.stops
    ]
    said = dict.fromkeys(
        f"Stop, {STOPS[stop.code].label.lower()}{where}: mend it and read again, or lock the unit out."
        for where, stop in stops
        if not _SAID_BY_THEMSELVES.issuperset(stop.readings)
    )
    return [Obstacle("stop", words, firm=True, weight=Weight.SAFETY) for words in said]


_SOUND = frozenset({Outcome.FIXED, Outcome.NOTHING_WRONG})


def _still_named(body: ClosingBody, visit: VisitState, judged: Assessment | None) -> list[str]:
    """What the last readings name, where the visit is to end as sound; unless the technician sees it differently."""
    if judged is None or body.outcome not in _SOUND or visit[Verdicts].override is not None:
        return []
    named = [fault_words(one.causes[0].fault, one.view.unit) for one in judged.circuits.values() if one.verdict == "fault"]
    return [f"The readings name: {words.lower()}." for words in dict.fromkeys(named)]


def _not_yet(case: Case[ClosingBody]) -> None:
    body = case.body
    standing = before_leaving(case.visit, case.judged, fixed=body.outcome is Outcome.FIXED)
    firm = [one for one in standing if one.firm]
    if firm:
        raise Refused(firm[0].words, "override")
    alone = next((one for one in standing if one.answered_alone), None)
    if alone is not None:
        raise Refused(alone.words, "override")
    wrong = anything_found(case.visit) if body.outcome is Outcome.NOTHING_WRONG else None
    if wrong is not None:
        raise Refused(f"{wrong.label} was found: this visit did not find nothing wrong. Say how it ended.", "outcome")
    unsaid = [*(one.words for one in standing), *_still_named(body, case.visit, case.judged)]
    if unsaid and len(body.override) < LEAST_REASON:
        raise Refused(f"{unsaid[0]} Or say why it stays so.", "override")


def _let_go(case: Case[ClosingBody]) -> ClosingBody:
    body = case.body
    open_still = obstacles(case.visit, fixed=body.outcome is Outcome.FIXED)
    words = (*(one.words for one in open_still), *_still_named(body, case.visit, case.judged))
    return body.model_copy(update={"let_go": tuple(one[:_FEW_WORDS] for one in words)})


def after_closing(visit: VisitState) -> tuple[Obstacle, ...]:
    """What came to stand open by entries that arrived after the visit was closed, safety first."""
    closed = visit[Closing]
    if closed.closing is None or visit.sequence == closed.sequence:
        return ()
    body = closed.closing.body
    listed = obstacles(visit, fixed=body.outcome is Outcome.FIXED)
    return tuple(one for one in listed if one.words[:_FEW_WORDS] not in body.let_go)


def check_closed(visit: VisitState, entry: Entry, closed_at: datetime | None, *, may_reopen: bool) -> None:
    """What may still be added to a closed visit (R21): what was written before it was closed, or a void that opens it again.

    Parameters
    ----------
    closed_at : datetime or None
        When the visit was closed by its own row: visits of old have no closing entry.

    Raises
    ------
    Refused
    """
    closing = visit[Closing].closing
    if closing is not None and isinstance(entry.body, VoidBody) and entry.body.voids == closing.entry_id:
        if may_reopen:
            return
        raise Refused("This visit is closed. A lead can open it again.")
    # Written on the roof before it was closed, and only now sent: it belongs here.
    if closed_at is None or entry.written_at >= closed_at or isinstance(entry.body, ClosingBody):
        raise Refused("This visit is closed: its record stays as it is. Open a new visit for new readings.")


KINDS = (
    Kind(
        ClosingBody,
        lambda body, _: (f"Closed: {OUTCOME_WORDS[body.outcome].lower()}", body.summary),
        _closed,
        collides=_not_yet,
        needs="judgement",
        at_arrival=True,
        complete=_let_go,
    ),
)
