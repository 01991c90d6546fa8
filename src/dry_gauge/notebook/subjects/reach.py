"""Checks that cannot be made here: no probe for it, no way to it, no port. Another is proposed instead."""

from __future__ import annotations

from typing import Literal

from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.checks import CHECKS
from dry_gauge.notebook.fields import FewWords
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Part, VisitState, kept

_WORDS = {check.name: check.words for check in CHECKS}


class OutOfReachBody(Body):
    """A proposed check that cannot be made here; taking the entry back proposes it again."""

    kind: Literal["out_of_reach"] = "out_of_reach"
    check: FewWords


class Reach(Part):
    """By the check's name."""

    out: dict[str, Kept[OutOfReachBody]] = {}


def _out(visit: VisitState, entry: Entry, body: OutOfReachBody) -> VisitState:
    return visit.changing(Reach, out=visit[Reach].out | {body.check: Kept[OutOfReachBody](**kept(entry))})


def _known(case: Case[OutOfReachBody]) -> None:
    if case.body.check not in _WORDS:
        raise Refused("There is no such check. Reload the page and look at what is proposed.", "check")


KINDS = (Kind(OutOfReachBody, lambda body, _: ("Cannot be done here", _WORDS.get(body.check, body.check)), _out, _known),)
