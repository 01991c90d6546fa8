"""What a technician holds against the judgement: warnings put aside, and an own verdict; each with its reason."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import StringConstraints

from dry_gauge.core.judgement.faults import FAULT_WORDS
from dry_gauge.core.vocabulary import Fault
from dry_gauge.notebook.fields import FewWords, Reason
from dry_gauge.notebook.kind import Body, Entry, Kept, Kind, Part, VisitState, kept


class OverrideBody(Body):
    """The technician's own verdict, in place of the one offered or held back; on the record with its reason."""

    kind: Literal["override"] = "override"
    fault: Fault
    reason: Reason
    rule_set: FewWords = ""
    """What the judgement was made by when it was overruled."""
    filled_in: ClassVar[frozenset[str]] = frozenset({"rule_set"})


class AsideBody(Body):
    """A warning put aside with a reason; it comes back when one of the readings it rests on is read again."""

    kind: Literal["aside"] = "aside"
    warning: FewWords
    basis: Annotated[str, StringConstraints(max_length=64)]
    reason: Reason


class Verdicts(Part):
    """Warnings put aside go by their name."""

    override: Kept[OverrideBody] | None = None
    asides: dict[str, Kept[AsideBody]] = {}

    def aside(self, warning: str, basis: str) -> Kept[AsideBody] | None:
        """The reason for which that warning was put aside, as long as it rests on the same readings."""
        found = self.asides.get(warning)
        return found if found and found.body.basis == basis else None


def _aside(visit: VisitState, entry: Entry, body: AsideBody) -> VisitState:
    asides = visit[Verdicts].asides | {body.warning: Kept[AsideBody](**kept(entry))}
    return visit.changing(Verdicts, asides=asides)


KINDS = (
    Kind(
        OverrideBody,
        lambda body, _: (f"Own verdict: {FAULT_WORDS[body.fault]}", body.reason),
        lambda visit, entry, body: visit.changing(Verdicts, override=Kept[OverrideBody](**kept(entry))),
    ),
    Kind(AsideBody, lambda body, _: ("Warning put aside", body.reason), _aside),
)
