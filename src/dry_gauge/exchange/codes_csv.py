"""Tables of board codes out of a file, and into one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Protocol

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.sheets_csv import RefusedLine, cell, read_table, table_text

COLUMNS = {
    "board": ("control", "module", "placa", "tarjeta"),
    "code": ("flash code", "blink", "código", "codigo"),
    "meaning": ("description", "fault", "significado", "falla"),
    "first_test": ("first test", "check", "prueba"),
    "latches": ("lockout", "locks out", "bloqueo"),
}
LONGEST = {"board": 60, "code": 20, "meaning": 200, "first_test": 160}
_YES = frozenset({"yes", "y", "1", "true", "x", "sí", "si"})
_NO = frozenset({"", "no", "n", "0", "false"})


class CodeLike(Protocol):
    """What stands in such a table."""

    board: str
    code: str
    meaning: str
    first_test: str
    latches: bool


@dataclass(frozen=True, slots=True)
class CodeLine:
    """What one code of a board means, what to test first, and whether it stays until it is reset."""

    board: str
    code: str
    meaning: str
    first_test: str = ""
    latches: bool = False

    @property
    def key(self) -> tuple[str, str]:
        """As it is looked up."""
        return self.board.casefold(), self.code.casefold()


def code_line(cells: Mapping[str, str]) -> CodeLine:
    """One line, looked at.

    Raises
    ------
    Refused
        Where board, code or meaning is missing, or something is too long.
    """
    texts = {name: cells.get(name, "").removeprefix("'").strip() for name in LONGEST}
    for name, words in (("board", "which board it is of"), ("code", "the code"), ("meaning", "what it means")):
        if not texts[name]:
            raise Refused(f"A line needs {words}.", name)
    for name, longest in LONGEST.items():
        if len(texts[name]) > longest:
            raise Refused(f"{name.replace('_', ' ').capitalize()} has at most {longest} characters.", name)
    latches = cells.get("latches", "").strip().casefold()
    if latches not in _YES | _NO:
        raise Refused(f"{latches[:20]!r} is neither yes nor no.", "latches")
    return CodeLine(**texts, latches=latches in _YES)


def codes_from(raw: bytes) -> tuple[list[CodeLine], list[RefusedLine]]:
    """Lines, and those that were refused, each with its number and why.

    Raises
    ------
    Refused
        For a file that is no table at all.
    """
    taken: dict[tuple[str, str], CodeLine] = {}
    refused = []
    for line in read_table(raw, COLUMNS):
        try:
            one = code_line(line.cells)
            if one.key in taken:
                raise Refused(f"{one.board}, {one.code} stands twice; the first counts.")
            taken[one.key] = one
        except Refused as refusal:
            refused.append(RefusedLine(line.number, "; ".join(line.cells.values())[:120], refusal.message))
    return list(taken.values()), refused


def codes_to(lines: Iterable[CodeLike]) -> str:
    """Tables as CSV, as they are read again."""
    return table_text(
        COLUMNS,
        [
            (cell(one.board), cell(one.code), cell(one.meaning), cell(one.first_test), "yes" if one.latches else "no")
            for one in lines
        ],
    )
