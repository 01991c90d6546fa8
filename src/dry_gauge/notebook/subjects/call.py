"""Why the call was made, and what they say: a claim stays a claim until it is seen."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from dry_gauge.core.visit.complaints import TRIAGE, Complaint
from dry_gauge.notebook.fields import FewWords, SomeWords
from dry_gauge.notebook.kind import Answered, Body, Case, Entry, Kept, Kind, Part, VisitState, kept, with_one


class ComplaintBody(Body):
    """Why the call was made, in the customer's words and in ours."""

    kind: Literal["complaint"] = "complaint"
    sorts: tuple[Complaint, ...] = ()
    words: FewWords = ""
    since: FewWords = ""
    who_touched_it: FewWords = ""


class ClaimBody(Body):
    """Something the customer says; true or not is another entry."""

    kind: Literal["claim"] = "claim"
    text: SomeWords


class ClaimCheckBody(Body):
    """Whether a claim turned out to be so."""

    kind: Literal["claim_check"] = "claim_check"
    claim: UUID
    true: bool
    how: FewWords = ""


class Call(Part):
    """Claims go by the entry's id."""

    complaint: Kept[ComplaintBody] | None = None
    claims: dict[str, Answered[ClaimBody]] = {}

    @property
    def sorts(self) -> tuple[Complaint, ...]:
        """What sorts of complaint it is."""
        return self.complaint.body.sorts if self.complaint else ()


def _complained(visit: VisitState, entry: Entry, _: ComplaintBody) -> VisitState:
    return visit.changing(Call, complaint=Kept[ComplaintBody](**kept(entry)))


def _claimed(visit: VisitState, entry: Entry, _: ClaimBody) -> VisitState:
    return visit.changing(Call, claims=visit[Call].claims | {str(entry.id): Answered[ClaimBody](**kept(entry))})


def _checked(visit: VisitState, entry: Entry, body: ClaimCheckBody) -> VisitState:
    claims = with_one(visit[Call].claims, body.claim, answered_at=entry.written_at, good=body.true, how=body.how)
    return visit.changing(Call, claims=claims)


def _complaint_said(body: ComplaintBody, _: VisitState) -> tuple[str, str]:
    sorts = ", ".join(TRIAGE[sort].label.lower() for sort in body.sorts)
    told = (
        sorts,
        body.words,
        body.since and f"since {body.since}",
        body.who_touched_it and f"worked on since: {body.who_touched_it}",
    )
    return "Complaint", "; ".join(filter(None, told))


def _check_said(body: ClaimCheckBody, visit: VisitState) -> tuple[str, str]:
    claim = visit[Call].claims.get(str(body.claim))
    return "So it is" if body.true else "Not so", "; ".join(filter(None, (claim.body.text if claim else "", body.how)))


def _claim_of(case: Case[ClaimCheckBody]) -> dict[str, Answered[ClaimBody] | None]:
    body = case.body
    return {"claim": case.visit[Call].claims.get(str(body.claim))}


KINDS = (
    Kind(ComplaintBody, _complaint_said, _complained),
    Kind(ClaimBody, lambda body, _: ("They say", body.text), _claimed),
    Kind(ClaimCheckBody, _check_said, _checked, refers=_claim_of),
)
