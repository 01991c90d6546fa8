"""The shop's tables of board codes: what visits typed from legends, what was typed at a desk, what came from a file."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.codes_csv import CodeLine, codes_from
from dry_gauge.exchange.sheets_csv import RefusedLine
from dry_gauge.service import audit
from dry_gauge.service.allowed import trained
from dry_gauge.store import controls
from dry_gauge.store.people import Someone


@dataclass(frozen=True, slots=True)
class Import:
    """What a file would do to the tables: nothing is changed until somebody says so."""

    new: Sequence[CodeLine]
    changed: Sequence[tuple[CodeLine, str]]
    """Each with what it means now."""
    same: int
    refused: Sequence[RefusedLine]


def looked_at(connection: Connection, raw: bytes) -> Import:
    """What a file would do.

    Raises
    ------
    Refused
    """
    found, refused = codes_from(raw)
    known = {(row.board.casefold(), row.code.casefold()): row for row in controls.meanings_of(connection)}
    new, changed, same = [], [], 0
    for line in found:
        row = known.get(line.key)
        if row is None:
            new.append(line)
        elif (row.meaning, row.first_test, row.latches) != (line.meaning, line.first_test, line.latches):
            changed.append((line, str(row.meaning)))
        else:
            same += 1
    return Import(new, changed, same, refused)


def take(connection: Connection, someone: Someone, found: Import, now: datetime) -> None:
    """Take what a file holds into the tables; what it does not name stays.

    Raises
    ------
    NotAllowed
    """
    trained(someone, "keeps tables of codes")
    lines = [*found.new, *(line for line, _ in found.changed)]
    _add(connection, someone.shop_id, lines, now)
    audit.note(connection, someone, "codes_changed", f"from a file: {len(found.new)} new, {len(found.changed)} changed")


def keep(connection: Connection, someone: Someone, line: CodeLine, now: datetime) -> None:
    """Add a line, or another in place of the one of that board and code.

    Raises
    ------
    NotAllowed
    """
    trained(someone, "keeps tables of codes")
    _add(connection, someone.shop_id, [line], now)
    audit.note(connection, someone, "codes_changed", f"{line.board}, {line.code}: {line.meaning}")


def drop(connection: Connection, someone: Someone, board: str, code: str, now: datetime) -> None:
    """Take a line off its table; what was read on visits stays.

    Raises
    ------
    NotAllowed
    Refused
        Where there is none of it.
    """
    trained(someone, "keeps tables of codes")
    line = CodeLine(board, code, "")
    if line.key not in {(row.board.casefold(), row.code.casefold()) for row in controls.meanings_of(connection)}:
        raise Refused("There is no such line any more: load the tables again.", "board")
    _add(connection, someone.shop_id, [line], now, dropped=True)
    audit.note(connection, someone, "codes_changed", f"{board}, {code}: taken off")


def _add(connection: Connection, shop_id: UUID, lines: Sequence[CodeLine], now: datetime, *, dropped: bool = False) -> None:
    controls.add_board_lines(
        connection,
        [
            {
                "shop_id": shop_id,
                "id": uuid6.uuid7(),
                "board": one.board,
                "code": one.code,
                "meaning": one.meaning,
                "first_test": one.first_test,
                "latches": one.latches,
                "dropped": dropped,
                "at": now,
            }
            for one in lines
        ],
    )
