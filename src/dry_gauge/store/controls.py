"""Control chains, links found open, codes read and what they mean, across visits and units."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, delete, func, literal, select, union_all
from sqlalchemy.dialects.postgresql import distinct_on, insert
from sqlalchemy.orm import aliased

from dry_gauge.store.models import BoardCode, BoardLine, ControlChainRow, ControlFinding, Site, Unit, of_model

_MOST_FINDINGS = 300
_LATELY = timedelta(days=60)


def drop_chain(connection: Connection, visit_id: UUID) -> None:
    """This visit's chain was taken back."""
    connection.execute(delete(ControlChainRow).where(ControlChainRow.visit_id == visit_id))


def keep_chain(connection: Connection, **values: Any) -> None:
    """The chain as a visit left it."""
    row = insert(ControlChainRow).values(**values)
    anew = {"at": row.excluded.at, "chain": row.excluded.chain}
    connection.execute(row.on_conflict_do_update(index_elements=["shop_id", "visit_id"], set_=anew))


def keep_findings(connection: Connection, visit_id: UUID, rows: Sequence[dict[str, Any]]) -> None:
    """What this visit found, all of it anew."""
    connection.execute(delete(ControlFinding).where(ControlFinding.visit_id == visit_id))
    if rows:
        connection.execute(insert(ControlFinding), list(rows))


def keep_meanings(connection: Connection, visit_id: UUID, rows: Sequence[dict[str, Any]]) -> None:
    """Lines of the tables that were typed on this visit, all of them anew."""
    connection.execute(delete(BoardCode).where(BoardCode.visit_id == visit_id))
    if rows:
        connection.execute(insert(BoardCode), list(rows))


def chain_of_unit(connection: Connection, unit_id: UUID, but: UUID) -> Any:
    """The unit's own chain as another visit left it last."""
    return connection.execute(
        select(ControlChainRow.chain, ControlChainRow.at)
        .where(ControlChainRow.unit_id == unit_id, ControlChainRow.visit_id != but)
        .order_by(ControlChainRow.at.desc())
        .limit(1)
    ).one_or_none()


def chain_of_like(connection: Connection, unit_id: UUID) -> Any:
    """The latest chain of another unit of that model, and whose it is."""
    own, other = aliased(Unit), aliased(Unit)
    return connection.execute(
        select(ControlChainRow.chain, ControlChainRow.at, other.tag, Site.name.label("site_name"))
        .join(other, (other.shop_id == ControlChainRow.shop_id) & (other.id == ControlChainRow.unit_id))
        .join(own, (own.shop_id == other.shop_id) & (own.id != other.id) & of_model(other, own.model))
        .join(Site, (Site.shop_id == other.shop_id) & (Site.id == other.site_id))
        .where(own.id == unit_id)
        .order_by(ControlChainRow.at.desc())
        .limit(1)
    ).one_or_none()


def findings_on_like(connection: Connection, unit_id: UUID, but: UUID) -> Sequence[Any]:
    """What other visits found on this unit and on others of its model, latest first."""
    own, other = aliased(Unit), aliased(Unit)
    return connection.execute(
        select(
            ControlFinding.sort, ControlFinding.board, ControlFinding.name, ControlFinding.at, (other.id == own.id).label("here")
        )
        .join(other, (other.shop_id == ControlFinding.shop_id) & (other.id == ControlFinding.unit_id))
        .join(own, (own.shop_id == other.shop_id) & ((own.id == other.id) | of_model(other, own.model)))
        .where(own.id == unit_id, ControlFinding.visit_id != but)
        .order_by(ControlFinding.at.desc())
        .limit(_MOST_FINDINGS)
    ).all()


def code_history(connection: Connection, boards: Sequence[str], but: UUID) -> Sequence[Any]:
    """Codes of those boards on any unit of the shop, counted: how often, on how many units, when last."""
    return connection.execute(
        select(
            func.lower(ControlFinding.board).label("board"),
            func.lower(ControlFinding.name).label("code"),
            func.count().label("times"),
            func.count(ControlFinding.unit_id.distinct()).label("units"),
            func.max(ControlFinding.at).label("last"),
        )
        .where(
            ControlFinding.sort == "code",
            func.lower(ControlFinding.board).in_([board.lower() for board in boards]),
            ControlFinding.visit_id != but,
        )
        .group_by(func.lower(ControlFinding.board), func.lower(ControlFinding.name))
    ).all()


def neighbours_with(connection: Connection, unit_id: UUID, codes: Sequence[str], now: datetime) -> Sequence[Any]:
    """Other units of the site that showed one of those codes lately."""
    own, other = aliased(Unit), aliased(Unit)
    return connection.execute(
        select(other.id, other.tag, ControlFinding.name, func.max(ControlFinding.at).label("last"))
        .join(other, (other.shop_id == ControlFinding.shop_id) & (other.id == ControlFinding.unit_id))
        .join(own, (own.shop_id == other.shop_id) & (own.site_id == other.site_id) & (own.id != other.id))
        .where(
            own.id == unit_id,
            ControlFinding.sort == "code",
            ControlFinding.at > now - _LATELY,
            func.lower(ControlFinding.name).in_([code.lower() for code in codes]),
        )
        .group_by(other.id, other.tag, ControlFinding.name)
        .order_by(other.tag)
    ).all()


def add_board_lines(connection: Connection, rows: Sequence[dict[str, Any]]) -> None:
    """Lines of the shop's tables that no visit left behind."""
    if rows:
        connection.execute(insert(BoardLine), list(rows))


def _lines() -> Any:
    """The latest line of each code, whoever wrote it; also one that was taken off."""
    columns = ("board", "code", "meaning", "first_test", "latches", "at")
    every = union_all(
        select(*(getattr(BoardCode, name) for name in columns), literal(False).label("dropped")),
        select(*(getattr(BoardLine, name) for name in columns), BoardLine.dropped),
    ).subquery()
    return (
        select(every)
        .ext(distinct_on(func.lower(every.c.board), func.lower(every.c.code)))
        .order_by(func.lower(every.c.board), func.lower(every.c.code), every.c.at.desc())
    ).subquery()


def meanings_of(connection: Connection) -> Sequence[Any]:
    """The shop's tables of codes, the latest line of each."""
    line = _lines().c
    asked = select(line.board, line.code, line.meaning, line.first_test, line.latches).where(~line.dropped)
    return connection.execute(asked.order_by(func.lower(line.board), func.lower(line.code))).all()


@dataclass(frozen=True, slots=True)
class CodeOfBoard:
    """One code of a board: what it means, empty where nobody has said, and how often, on how many units and when it was read."""

    board: str
    code: str
    meaning: str = ""
    first_test: str = ""
    latches: bool = False
    times: int = 0
    units: int = 0
    last: datetime | None = None


def tables(connection: Connection) -> list[CodeOfBoard]:
    """Every code that stands in a table or was read on a visit, by board."""
    found = {(row.board.casefold(), row.code.casefold()): CodeOfBoard(*row) for row in meanings_of(connection)}
    read = connection.execute(
        select(
            func.max(ControlFinding.board),
            func.max(ControlFinding.name),
            func.count(),
            func.count(ControlFinding.unit_id.distinct()),
            func.max(ControlFinding.at),
        )
        .where(ControlFinding.sort == "code")
        .group_by(func.lower(ControlFinding.board), func.lower(ControlFinding.name))
    )
    for board, code, times, units, last in read:
        key = board.casefold(), code.casefold()
        found[key] = replace(found.get(key) or CodeOfBoard(board, code), times=times, units=units, last=last)
    return [found[key] for key in sorted(found)]
