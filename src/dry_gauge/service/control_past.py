"""What other visits and like units say of a unit's controls, read from the tables."""

from __future__ import annotations

from collections import Counter
from datetime import UTC, datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.notebook.subjects.codes import Codes
from dry_gauge.notebook.subjects.control_chain import ChainBody
from dry_gauge.present.scene import CodeMeaning, ControlPast
from dry_gauge.present.visit import VisitView
from dry_gauge.store import controls


def control_past(connection: Connection, view: VisitView) -> ControlPast:
    """All of it, for one visit."""
    visit, codes = view.visit, view.state[Codes]
    own, like = controls.chain_of_unit(connection, visit.unit_id, visit.id), controls.chain_of_like(connection, visit.unit_id)
    found = controls.findings_on_like(connection, visit.unit_id, visit.id)
    links = [row for row in found if row.sort == "link"]
    meanings = controls.meanings_of(connection)
    shown = [one.body.read for one in codes.read.values()]
    boards = codes.boards()
    history = controls.code_history(connection, boards, visit.id) if boards else ()
    beside = controls.neighbours_with(connection, visit.unit_id, shown, datetime.now(UTC)) if shown else ()
    return ControlPast(
        _chain(own),
        _chain(like),
        f"{like.tag}, {like.site_name}" if like else "",
        Counter(row.name for row in links if row.here),
        Counter(row.name for row in links if not row.here),
        tuple(dict.fromkeys(row.board for row in meanings)),
        {(row.board.casefold(), row.code.casefold()): CodeMeaning(row.meaning, row.first_test, row.latches) for row in meanings},
        {(row.board.casefold(), row.code.casefold()): (row.times, row.units) for row in history},
        [(row.board, row.name, row.at) for row in found if row.sort == "code" and row.here],
        [(row.id, row.tag, row.name) for row in beside],
    )


def _chain(row: Any) -> ChainBody | None:
    """A chain as it was kept; None for one that rules of today do not take any more."""
    if row is None:
        return None
    try:
        body = ChainBody.model_validate(row.chain)
        body.chain  # noqa: B018  (raises)
    except (ValidationError, Refused):
        return None
    return body
