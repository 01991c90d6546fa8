"""Codes as they were read, by board: what each means by the shop's table, how often before, strikes within a day."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import timedelta

from dry_gauge.core.controls.chain import HABITS, Chain, LinkSort
from dry_gauge.notebook.kind import Kept, in_time
from dry_gauge.notebook.subjects.codes import CodeBody, Codes
from dry_gauge.present.scene import CodeMeaning, ControlPast, Scene

STRIKE_WINDOW = timedelta(hours=24)
_STRIKES = 3


@dataclass(frozen=True, slots=True)
class CodeRow:
    """One code that was read: what it means by the shop's table, its first test, how often before."""

    board: str
    code: str
    read: str
    meaning: CodeMeaning | None
    before: str


@dataclass(frozen=True, slots=True)
class BoardRow:
    """One board: its codes, and whether a second one was looked for; strikes within a day."""

    name: str
    codes: Sequence[CodeRow]
    looked_through: bool
    strikes: int


def boards(scene: Scene, past: ControlPast) -> list[BoardRow]:
    state = scene.view.state[Codes]
    typed = [one.body for one in state.meanings.values()]
    meanings = {
        **past.meanings,
        **{(one.board.casefold(), one.code.casefold()): CodeMeaning(one.meaning, one.first_test, one.latches) for one in typed},
    }
    rows = []
    for board in state.boards():
        read = [one for one in in_time(state.read.values()) if one.body.board == board]
        read.sort(key=lambda one: one.body.order or 99)
        codes = [_code(one, meanings, past) for one in read]
        rows.append(BoardRow(board, codes, board.casefold() in state.looked_through, _strikes(scene, board, read)))
    return rows


def named_links(rows: Sequence[BoardRow], chain: Chain) -> list[str]:
    """Links of a chain that the meaning of a code names, by their own name or by what they are."""
    meanings = [code.meaning.meaning.casefold() for row in rows for code in row.codes if code.meaning is not None]
    return [
        link.name
        for link in chain.links
        if link.sort is not LinkSort.BOARD
        and any(link.name.casefold() in one or HABITS[link.sort].label.casefold() in one for one in meanings)
    ]


def _code(one: Kept[CodeBody], meanings: Mapping[tuple[str, str], CodeMeaning], past: ControlPast) -> CodeRow:
    body = one.body
    key = (body.board.casefold(), body.read.casefold())
    how = [
        f"{body.times} times" if body.times > 1 else "",
        body.shown_on,
        f"number {body.order} in its list" if body.order else "",
        "slow flash" if body.slow else "",
    ]
    times, units = past.code_times.get(key, (0, 0))
    often = "once" if times == 1 else f"{times} times"
    before = f"Seen {often} before, on {units} unit{'s' if units != 1 else ''} of the shop." if times else ""
    return CodeRow(body.board, body.read, ", ".join(filter(None, how)), meanings.get(key), before)


def _strikes(scene: Scene, board: str, read: Sequence[Kept[CodeBody]]) -> int:
    """How often within a day the code that came most did: boards lock out after about three."""
    lately = [
        code
        for name, code, at in scene.controls.codes_here
        if name.casefold() == board.casefold() and scene.now - at < STRIKE_WINDOW
    ]
    counts = {one.body.read: one.body.times + lately.count(one.body.read) for one in read}
    most = max(counts.values(), default=0)
    return most if most >= _STRIKES else 0


def known_boards(scene: Scene, past: ControlPast) -> Sequence[str]:
    return tuple(dict.fromkeys([*scene.view.state[Codes].boards(), *past.boards]))
