"""Made-up calls behind codes: those that every shop begins with, the one of the day, composed ones, and what is due again.

A case is its seed, which stays here: what its unit shows follows from it. Cases are rows of one's own shop.
"""

from __future__ import annotations

import secrets
from collections.abc import Collection
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import lru_cache
from typing import Any
from uuid import UUID, uuid5

import numpy as np
from sqlalchemy import Connection

from dry_gauge.bench.practice import game
from dry_gauge.bench.practice.debrief import LINK
from dry_gauge.bench.practice.hidden import parts_behind
from dry_gauge.bench.practice.unit import PracticeCall
from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import day_of
from dry_gauge.core.vocabulary import Fault, Kind
from dry_gauge.service.allowed import NotAllowed
from dry_gauge.service.notebooks import facts_of
from dry_gauge.store import practice as store
from dry_gauge.store.people import Someone

_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"  # without what looks alike
_CODE_LETTERS = 7
_DAY_LEVEL, _TRIES, _MOST_FAULTS = 2, 4, 3
AGAIN_AFTER_DAYS = (0, 2, 7, 21, 60)
"""When a cause should be met again: after a miss, and after so many times in a row in which it was named. Chosen (R72)."""
# Every shop begins with these: their words, how hard, and the seed that makes each.
SHIPPED: tuple[tuple[str, int, int], ...] = (
    ("The first call, five minutes", 1, 7), ("Second call of the morning", 1, 209), ("Before lunch", 1, 34),
    ("The ice cream is soft", 2, 41), ("The one that was serviced", 2, 42), ("Nobody knows since when", 2, 43),
    ("Off since the painters", 5, 102), ("Called back twice", 2, 45), ("It was better last year", 3, 51),
    ("Two voices on the phone", 3, 52), ("Nothing moves outside", 5, 128), ("Only a look", 4, 72),
)  # fmt: skip


def _code() -> str:
    return "".join(secrets.choice(_LETTERS) for _ in range(_CODE_LETTERS))


def _own_code(shop_id: UUID, title: str) -> str:
    """The code of a shipped case in this shop: the same for two people who come first at the same moment."""
    number = uuid5(shop_id, f"{title} {game.VERSION}").int
    return "".join(_LETTERS[number >> 8 * i & 31] for i in range(_CODE_LETTERS))


def ensure_shipped(connection: Connection, someone: Someone, now: datetime) -> None:
    """The cases that every shop begins with, each under a code of this shop's own; and the one of the day."""
    if store.find_case(connection, _own_code(someone.shop_id, SHIPPED[0][0])) is None:
        for i, (title, level, seed) in enumerate(SHIPPED):  # a little apart: they are listed as they were made
            store.add_case(
                connection,
                shop_id=someone.shop_id,
                code=_own_code(someone.shop_id, title),
                title=title,
                seed=seed,
                level=level,
                version=game.VERSION,
                made_at=now + timedelta(milliseconds=i),
            )
    today = day_code(day_of(now))
    if store.find_case(connection, today) is None:
        store.add_case(
            connection,
            shop_id=someone.shop_id,
            code=today,
            title="The call of the day",
            seed=_seed(_DAY_LEVEL),
            level=_DAY_LEVEL,
            version=game.VERSION,
            made_at=now,
        )


def day_code(day: date) -> str:
    """Under which everybody finds the call of that day."""
    return f"DAY{day:%y%m%d}"


def new_case(connection: Connection, someone: Someone, level: int, now: datetime) -> str:
    """A new case of that level; its code.

    Raises
    ------
    Refused
        For a level that is none.
    """
    if level not in game.LEVELS:
        raise Refused("Choose how hard it is.", "level")
    return _made(connection, someone, level, now)


def composed(
    connection: Connection,
    someone: Someone,
    faults: Collection[Fault],
    kind: Kind | None,
    title: str,
    now: datetime,
    *,
    dead: bool = False,
) -> str:
    """A case that a lead chose for others; its code. Of a unit that does not run, what keeps it from it is drawn.

    Raises
    ------
    NotAllowed
    Refused
        For too many faults, or such as show on no such unit.
    """
    if someone.role != "lead":
        raise NotAllowed("A lead composes calls for others; draw one for yourself.")
    if len(faults) > _MOST_FAULTS:
        raise Refused("Three things at most: nobody would find more.", "faults")
    if dead:
        if faults:
            raise Refused("A unit that does not run is drawn with what is behind that: tick nothing besides.", "faults")
        return _made(connection, someone, game.DEAD_LEVEL, now, None, kind, title)
    return _made(connection, someone, 4, now, faults, kind, title)


@dataclass(frozen=True, slots=True)
class ClosedCall:
    """A closed visit from which a case can be made: where and when it was, and what was wrong."""

    visit_id: UUID
    tag: str
    site: str
    closed_at: datetime
    kind: Kind
    faults: tuple[Fault, ...]


def closed_calls(connection: Connection) -> list[ClosedCall]:
    """Closed visits of the shop with one to three known causes, the latest first; what was seen counts as what it causes."""
    found = []
    for row in store.closed_with_cause(connection):
        facts, named = facts_of(row.facts), set(row.causes)
        faults = tuple(
            fault
            for fault in Fault
            if fault is not Fault.NONE
            and (fault.value in named or any(named & set(part.sights) for part in parts_behind(fault, facts)))
        )
        if 1 <= len(faults) <= _MOST_FAULTS:
            found.append(ClosedCall(row.visit_id, row.tag, row.name, row.closed_at, facts.kind, faults))
    return found


def like_closed(connection: Connection, someone: Someone, visit_id: UUID, title: str, now: datetime) -> str:
    """The code of a case made from a closed visit: a unit like it with what was wrong there, under no customer's name.

    Raises
    ------
    NotAllowed
    Refused
        Where no cause is known of that visit, or it shows on no such unit.
    """
    found = next((one for one in closed_calls(connection) if one.visit_id == visit_id), None)
    if found is None:
        raise Refused("Choose a closed visit whose cause is known.", "like")
    return composed(connection, someone, found.faults, found.kind, title, now)


def due_again(connection: Connection, someone: Someone, now: datetime) -> list[str]:
    """Causes that somebody should meet again by now, the longest due first; `LINK` for what keeps a unit from running.

    What was missed is due at once, what was named later and later.
    """
    streaks: dict[str, tuple[int, datetime]] = {}
    for row in reversed(store.games_of(connection, someone.person_id)):
        for named in row.result["truth"] if row.result else ():
            cause = named.partition(":")[0]
            streak = 0 if named in row.result["missed"] else streaks.get(cause, (0, now))[0] + 1
            streaks[cause] = streak, row.ended_at
    due = {
        cause: at + timedelta(days=AGAIN_AFTER_DAYS[min(streak, len(AGAIN_AFTER_DAYS) - 1)])
        for cause, (streak, at) in streaks.items()
    }
    return sorted((cause for cause in due if due[cause] <= now), key=lambda cause: due[cause])


def once_more(connection: Connection, someone: Someone, now: datetime) -> str:
    """A case with what is longest due to be met again; its code.

    Raises
    ------
    Refused
        Where nothing is.
    """
    due = due_again(connection, someone, now)
    if not due:
        raise Refused("Nothing is due again yet. Take another call.", "level")
    if due[0] == LINK:
        return _made(connection, someone, game.DEAD_LEVEL, now, title="Once more")
    return _made(connection, someone, 2, now, (Fault(due[0]),), title="Once more")


def _made(
    connection: Connection,
    someone: Someone,
    level: int,
    now: datetime,
    faults: Collection[Fault] | None = None,
    kind: Kind | None = None,
    title: str = "",
) -> str:
    chosen = None if faults is None else sorted(fault.value for fault in faults)
    seed, code = _seed(level, None if chosen is None else tuple(chosen), kind.value if kind else ""), _code()
    store.add_case(
        connection,
        shop_id=someone.shop_id,
        code=code,
        title=title or game.LEVELS[level].words.capitalize(),
        seed=seed,
        level=level,
        kind=kind.value if kind else "",
        faults=chosen,
        version=game.VERSION,
        made_by=someone.person_id,
        made_at=now,
    )
    return code


def _seed(level: int, faults: tuple[str, ...] | None = None, kind: str = "") -> int:
    """A seed that makes a call.

    Raises
    ------
    Refused
        Where what was chosen shows on no unit that was drawn.
    """
    for _ in range(_TRIES):
        seed = secrets.randbits(40)
        if _call(seed, level, faults, kind) is not None:
            return seed
    raise Refused("These do not show together on such a unit: choose others, or another sort.", "faults")


@lru_cache(maxsize=64)
def _call(seed: int, level: int, faults: tuple[str, ...] | None, kind: str) -> PracticeCall | None:
    spec = game.CaseSpec(seed, level, None if faults is None else frozenset(map(Fault, faults)), Kind(kind) if kind else None)
    return game.call_for(spec, np.random.default_rng(seed))


def call_of(case: Any) -> PracticeCall:
    """The call behind a case.

    Raises
    ------
    Refused
        Of another version.
    """
    call = _call(case.seed, case.level, None if case.faults is None else tuple(case.faults), case.kind)
    if case.version != game.VERSION or call is None:
        raise Refused("This case was made by another version, and would be another call today. Take a new one.", "code")
    return call
