"""Fault codes as they were read: tapped along, from a menu, in their order; and what a shop's tables say of them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from dry_gauge.core.controls.blinks import Count, count
from dry_gauge.core.errors import Refused
from dry_gauge.notebook.fields import FewWords, SomeWords
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Obstacle, Part, VisitState, Weight, kept
from dry_gauge.notebook.subjects.agenda import RECHECKS, RETURNS, Agenda

Board = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]
CodeName = Annotated[str, StringConstraints(strip_whitespace=True, max_length=20)]


class CodeBody(Body):
    """One code of a board. `taps_s` are moments of flashes [s] from the first; `order` 1 is the newest."""

    kind: Literal["code"] = "code"
    board: Board
    code: CodeName = ""
    taps_s: Annotated[tuple[Annotated[float, Field(allow_inf_nan=False, ge=0, le=600)], ...], Field(max_length=150)] = ()
    slow: bool = False
    times: Annotated[int, Field(ge=1, le=999)] = 1
    shown_on: FewWords = ""
    """The date beside it in a menu, as written there."""
    order: Annotated[int, Field(ge=1, le=99)] | None = None

    @property
    def counted(self) -> Count | None:
        """What the taps say; None for a code that was typed."""
        return count(self.taps_s) if self.taps_s else None

    @property
    def read(self) -> str:
        """The code, whichever way it was read."""
        counted = self.counted
        return self.code or (counted.code if counted else "")


class CodeMeaningBody(Body):
    """One line of a board's table, for the whole shop: typed once from the legend on its door."""

    kind: Literal["code_meaning"] = "code_meaning"
    board: Board
    code: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=20)]
    meaning: SomeWords
    first_test: FewWords = ""
    latches: bool = False


class NoMoreCodesBody(Body):
    """A second, hidden code was looked for on this board, and there is none."""

    kind: Literal["no_more_codes"] = "no_more_codes"
    board: Board


class Codes(Part):
    """Codes in order, meanings typed on this visit, boards that were looked through."""

    read: dict[str, Kept[CodeBody]] = {}
    meanings: dict[str, Kept[CodeMeaningBody]] = {}
    looked_through: dict[str, Kept[NoMoreCodesBody]] = {}

    def boards(self) -> tuple[str, ...]:
        """Boards whose codes were read, in their order."""
        return tuple(dict.fromkeys(one.body.board for one in self.read.values()))


def _read(visit: VisitState, entry: Entry, _: CodeBody) -> VisitState:
    return visit.changing(Codes, read=visit[Codes].read | {str(entry.id): Kept[CodeBody](**kept(entry))})


def _meant(visit: VisitState, entry: Entry, body: CodeMeaningBody) -> VisitState:
    key = f"{body.board.casefold()}/{body.code.casefold()}"
    return visit.changing(Codes, meanings=visit[Codes].meanings | {key: Kept[CodeMeaningBody](**kept(entry))})


def _through(visit: VisitState, entry: Entry, body: NoMoreCodesBody) -> VisitState:
    looked = visit[Codes].looked_through | {body.board.casefold(): Kept[NoMoreCodesBody](**kept(entry))}
    return visit.changing(Codes, looked_through=looked)


def _says_something(case: Case[CodeBody]) -> None:
    body, counted = case.body, case.body.counted
    if body.code:
        return
    if counted is None:
        raise Refused("Tap the flashes along, or type the code.", "code")
    if not counted.sure:
        raise Refused(counted.words or "Count once more: that was not sure.", "code")


def _second_one(visit: VisitState) -> list[Obstacle]:
    """A code that was read hides another one: it is looked for before leaving."""
    state = visit[Codes]
    if visit[Agenda].booked(RECHECKS | RETURNS):
        return []
    return [
        Obstacle("second_code", f"{board}: is there a second code behind the first? Look, and say so.", weight=Weight.ERRAND)
        for board in state.boards()
        if board.casefold() not in state.looked_through
    ]


def _code_said(body: CodeBody, _: VisitState) -> tuple[str, str]:
    more = [
        body.shown_on,
        f"{body.times} times" if body.times > 1 else "",
        "slow flash" if body.slow else "",
        "tapped along" if body.taps_s else "",
    ]
    return f"Code {body.read}", "; ".join(filter(None, (body.board, *more)))


KINDS = (
    Kind(CodeBody, _code_said, _read, refuse=_says_something, leaves_open=_second_one),
    Kind(CodeMeaningBody, lambda body, _: (f"{body.board}, code {body.code}", body.meaning), _meant),
    Kind(NoMoreCodesBody, lambda body, _: (body.board, "no second code"), _through),
)
