"""The record itself: what is taken back, and why two entries that cannot both be so stand beside each other."""

from __future__ import annotations

from typing import Literal
from uuid import UUID

from dry_gauge.core.errors import Refused
from dry_gauge.notebook.fields import FewWords, Reason
from dry_gauge.notebook.kind import Body, Case, Kind, Obstacle, VisitState, Weight


class VoidBody(Body):
    """Takes an earlier entry back; the entry stays in the notebook."""

    kind: Literal["void"] = "void"
    voids: UUID
    reason: FewWords = ""


class ExplainedBody(Body):
    """Why two entries that clash are both right; or why one that did not fit its place was kept."""

    kind: Literal["explained"] = "explained"
    clash: UUID
    """The entry that does not fit."""
    reason: Reason


def _clash_of(case: Case[ExplainedBody]) -> dict[str, object]:
    body = case.body
    return {"clash": next((one for one in case.visit.clashes if one.entry_id == body.clash), None)}


def _explained_already(case: Case[ExplainedBody]) -> None:
    body = case.body
    if any(one.entry_id == body.clash and one.reason for one in case.visit.clashes):
        raise Refused("That is explained already.", "reason")


def _clashes(visit: VisitState) -> list[Obstacle]:
    return [
        Obstacle(
            "clash",
            f"Two entries do not go together: {one.words} Take one back, or say why both are right.",
            str(one.entry_id),
            one.firm,
            Weight.SAFETY if one.firm else Weight.PROOF,
        )
        for one in visit.clashes
        if not one.reason
    ]


KINDS = (
    Kind(VoidBody, lambda body, _: ("Taken back", body.reason), sweeps=True),
    Kind(
        ExplainedBody,
        lambda body, _: ("Both are right", body.reason),
        refers=_clash_of,
        collides=_explained_already,
        leaves_open=_clashes,
    ),
)
