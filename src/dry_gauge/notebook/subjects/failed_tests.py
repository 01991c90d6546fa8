"""The measurement that shows the complaint, and whether it passes: read again after the last change, as the unit ran then.

One rule for the list on the screen, for what a repeat is refused for, and for closing.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field

from dry_gauge.core.errors import Refused
from dry_gauge.core.vocabulary import QUANTITIES, Mode
from dry_gauge.notebook.fields import FewWords, SomeWords
from dry_gauge.notebook.kind import (
    Answered,
    Body,
    Case,
    Entry,
    Kind,
    Obstacle,
    Part,
    VisitState,
    Weight,
    kept,
    with_one,
)
from dry_gauge.notebook.subjects.actions import Actions
from dry_gauge.notebook.subjects.charge import Charge
from dry_gauge.notebook.subjects.readings import KeptReading, Readings
from dry_gauge.notebook.subjects.running import Running


class FailedTestBody(Body):
    """The measurement that shows the complaint: it is repeated at the end, in the same mode and stage."""

    kind: Literal["failed_test"] = "failed_test"
    quantity: str
    circuit: Annotated[int, Field(ge=1, le=99)] = 1
    should: SomeWords


class RepeatBody(Body):
    """The failed measurement, repeated after the last change: passed or not. Stored as ``proof``."""

    kind: Literal["proof"] = "proof"
    failed_test: UUID
    passed: bool
    how: FewWords = ""


class KeptTest(Answered[FailedTestBody]):
    """A failed measurement; its repeat counts only after the last change."""

    before: str = ""
    """What it read when it failed, as it was typed."""
    mode: Mode | None = None
    stage: str = ""
    """What the unit ran in then: it is repeated in the same."""


class FailedTests(Part):
    """By the entry's id."""

    tests: dict[str, KeptTest] = {}


@dataclass(frozen=True, slots=True)
class Repeat:
    """How one failed measurement stands.

    Parameters
    ----------
    again : KeptReading or None
        The reading that repeats it; None until it is read after the last change, in the same mode and stage.
    judged : bool
        Whether someone has said, since the last change, that it passes or fails.
    """

    test: KeptTest
    again: KeptReading | None
    judged: bool

    @property
    def passed(self) -> bool:
        """Whether it is proven."""
        return self.judged and bool(self.test.good)

    @property
    def label(self) -> str:
        """What is measured."""
        return QUANTITIES[self.test.body.quantity].label

    @property
    def to_do(self) -> str:
        """What is still to be read, in words."""
        how = [self.test.mode.value] if self.test.mode else []
        how += [f"stage {self.test.stage}"] if self.test.stage else []
        return f"Read {self.label.lower()} again after the last change{', in ' + ', '.join(how) if how else ''}."


def last_change_at(visit: VisitState) -> datetime | None:
    """When something was last done to the unit: an action, or refrigerant put in or taken out."""
    action = visit[Actions].last
    moments = [one.at for one in visit[Charge].moved.values()] + ([action.at] if action else [])
    return max(moments, default=None)


def repeat_of(visit: VisitState, test: KeptTest) -> Repeat:
    """How one failed measurement of a visit stands now."""
    last_at = last_change_at(visit)
    since = max(test.at, last_at) if last_at else test.at
    found = visit[Readings].of(test.body.quantity, test.body.circuit)
    alike = found is not None and found.mode == test.mode and found.stage.casefold() == test.stage.casefold()
    again = found if found is not None and found.at > since and alike else None
    judged = test.answered_at is not None and (last_at is None or test.answered_at >= last_at)
    return Repeat(test, again, judged)


def _failed(visit: VisitState, entry: Entry, body: FailedTestBody) -> VisitState:
    running = visit[Running]
    shown = visit[Readings].shown(body.quantity, body.circuit)
    before = f"{shown.body.value:.10g} {shown.body.unit}" if shown else ""
    test = KeptTest(**kept(entry), before=before, mode=running.mode, stage=running.running_stage)
    return visit.changing(FailedTests, tests=visit[FailedTests].tests | {str(entry.id): test})


def _repeated(visit: VisitState, entry: Entry, body: RepeatBody) -> VisitState:
    tests = with_one(visit[FailedTests].tests, body.failed_test, answered_at=entry.written_at, good=body.passed, how=body.how)
    return visit.changing(FailedTests, tests=tests)


def _unknown(case: Case[FailedTestBody]) -> None:
    body = case.body
    if body.quantity not in QUANTITIES:
        raise Refused("Choose the measurement that shows the complaint.", "quantity")


def _test_of(case: Case[RepeatBody]) -> dict[str, KeptTest | None]:
    body = case.body
    return {"failed_test": case.visit[FailedTests].tests.get(str(body.failed_test))}


def _not_read_again(case: Case[RepeatBody]) -> None:
    test = _test_of(case)["failed_test"]
    stands = repeat_of(case.visit, test) if test else None
    if stands and stands.again is None:
        raise Refused(f"{stands.to_do} The measurement that failed is the one that proves.", "passed")


def unproven(visit: VisitState) -> list[Obstacle]:
    """What is not proven: only 'fixed' needs it."""
    found = []
    for test in visit[FailedTests].tests.values():
        stands, key = repeat_of(visit, test), str(test.entry_id)
        if not stands.judged:
            words = "The measurement that failed must be repeated after the last change before this is called fixed."
            found.append(Obstacle("unproven", f"{words} ({test.body.should})", key, weight=Weight.PROOF, of_fixed=True))
        elif not stands.passed:
            found.append(Obstacle("failed", f"Still failing: {test.body.should}.", key, weight=Weight.PROOF, of_fixed=True))
    if (visit[Actions].done or visit[Charge].moved) and not visit[FailedTests].tests:
        words = "Name the measurement that showed the complaint, and repeat it: else nothing is proven."
        found.append(Obstacle("no_test", words, weight=Weight.PROOF, of_fixed=True))
    return found


KINDS = (
    Kind(FailedTestBody, lambda body, _: (f"To prove: {QUANTITIES[body.quantity].label}", body.should), _failed,
         refuse=_unknown, leaves_open=unproven),
    Kind(RepeatBody, lambda body, _: ("Repeated and passed" if body.passed else "Repeated, still failing", body.how),
         _repeated, collides=_not_read_again, refers=_test_of),
)  # fmt: skip
