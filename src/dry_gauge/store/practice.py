"""Cases to practise on, and plays of them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, func, insert, select, update
from sqlalchemy.dialects.postgresql import insert as insert_or_not

from dry_gauge.store.models import Person, PracticeCaseRow, PracticeGameRow, Site, Unit, VisitResult

_GAMES = (
    select(PracticeGameRow.id, PracticeGameRow.code, PracticeGameRow.person_id, PracticeGameRow.begun_at, PracticeGameRow.steps,
           PracticeGameRow.named, PracticeGameRow.ended_at, PracticeGameRow.result, PracticeGameRow.visit_id,
           PracticeGameRow.minutes, PracticeGameRow.help, PracticeGameRow.told, PracticeCaseRow.title,
           PracticeCaseRow.level)
    .join(PracticeCaseRow, (PracticeCaseRow.shop_id == PracticeGameRow.shop_id) & (PracticeCaseRow.code == PracticeGameRow.code))
)  # fmt: skip


def add_case(connection: Connection, **values: Any) -> None:
    """Keep a case; one of that code stays as it is."""
    connection.execute(insert_or_not(PracticeCaseRow).values(**values).on_conflict_do_nothing())


def find_case(connection: Connection, code: str) -> Any:
    """A case by its code."""
    return connection.execute(
        select(
            PracticeCaseRow.code,
            PracticeCaseRow.title,
            PracticeCaseRow.seed,
            PracticeCaseRow.level,
            PracticeCaseRow.kind,
            PracticeCaseRow.faults,
            PracticeCaseRow.version,
        ).where(PracticeCaseRow.code == code)
    ).one_or_none()


def all_cases(connection: Connection) -> Sequence[Any]:
    """Codes, titles and levels, the first made first."""
    return connection.execute(
        select(PracticeCaseRow.code, PracticeCaseRow.title, PracticeCaseRow.level, PracticeCaseRow.version).order_by(
            PracticeCaseRow.made_at, PracticeCaseRow.code
        )
    ).all()


def add_game(connection: Connection, **values: Any) -> None:
    """A play begins."""
    connection.execute(insert(PracticeGameRow).values(**values))


def find_game(connection: Connection, game_id: UUID, *, lock: bool = False) -> Any:
    """One play with its case's title and level."""
    asked = _GAMES.where(PracticeGameRow.id == game_id)
    return connection.execute(asked.with_for_update(of=PracticeGameRow) if lock else asked).one_or_none()


def open_game(connection: Connection, person_id: UUID, code: str) -> UUID | None:
    """The play of a case that somebody has not ended."""
    found: UUID | None = connection.execute(
        select(PracticeGameRow.id)
        .where(PracticeGameRow.person_id == person_id, PracticeGameRow.code == code, PracticeGameRow.ended_at.is_(None))
        .order_by(PracticeGameRow.begun_at.desc())
        .limit(1)
    ).scalar()
    return found


def games_of(connection: Connection, person_id: UUID, most: int = 200) -> Sequence[Any]:
    """Somebody's plays, the latest first."""
    return connection.execute(
        _GAMES.where(PracticeGameRow.person_id == person_id).order_by(PracticeGameRow.begun_at.desc()).limit(most)
    ).all()


def closed_with_cause(connection: Connection, most: int = 60) -> Sequence[Any]:
    """Closed visits that named a cause or found something, with their unit, the latest first."""
    return connection.execute(
        select(VisitResult.visit_id, Unit.tag, Site.name, VisitResult.closed_at, VisitResult.causes, Unit.facts)
        .join(Unit, (Unit.shop_id == VisitResult.shop_id) & (Unit.id == VisitResult.unit_id))
        .join(Site, (Site.shop_id == Unit.shop_id) & (Site.id == Unit.site_id))
        .where(VisitResult.causes != [])
        .order_by(VisitResult.closed_at.desc())
        .limit(most)
    ).all()


def team(connection: Connection) -> Sequence[Any]:
    """Of everybody who ended a play: how many, how many named right, how many held, and points of harm."""
    result = PracticeGameRow.result
    return connection.execute(
        select(
            Person.name,
            func.count().label("ended"),
            func.count().filter(result["right"].as_boolean()).label("right"),
            func.count().filter(result["held"].as_boolean()).label("held"),
            func.sum(result["harm"].as_integer()).label("harm"),
        )
        .join(PracticeGameRow, (PracticeGameRow.shop_id == Person.shop_id) & (PracticeGameRow.person_id == Person.id))
        .where(PracticeGameRow.ended_at.is_not(None))
        .group_by(Person.name)
        .order_by(Person.name)
    ).all()


def keep_visit(connection: Connection, game_id: UUID, visit_id: UUID) -> None:
    """Which notebook of the practice shop belongs to a play."""
    connection.execute(update(PracticeGameRow).where(PracticeGameRow.id == game_id).values(visit_id=visit_id))


def keep_steps(connection: Connection, game_id: UUID, steps: Sequence[str], minutes: float, help_: str) -> None:
    """What was done so far, how late that makes it, and how the judgement helps from here on."""
    kept = {"steps": list(steps), "minutes": minutes, "help": help_}
    connection.execute(update(PracticeGameRow).where(PracticeGameRow.id == game_id).values(kept))


def end_game(
    connection: Connection, game_id: UUID, named: Sequence[str], told: str, at: datetime, result: dict[str, Any]
) -> None:
    """It is over."""
    over = {"named": list(named), "told": told, "ended_at": at, "result": result}
    connection.execute(update(PracticeGameRow).where(PracticeGameRow.id == game_id).values(over))
