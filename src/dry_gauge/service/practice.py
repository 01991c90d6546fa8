"""Practising on made-up calls: cases behind codes, plays step by step, and how they came out.

A play is its steps; everything else follows from them and the case's seed, which stays here.
"""

from __future__ import annotations

import secrets
from collections.abc import Collection
from datetime import date, datetime, timedelta
from functools import lru_cache
from typing import Any
from uuid import UUID, uuid5

import numpy as np
import uuid6
from sqlalchemy import Connection

from dry_gauge.bench.practice import game
from dry_gauge.bench.practice.unit import PracticeCall
from dry_gauge.bench.practice.worker import Worker
from dry_gauge.core.errors import Refused
from dry_gauge.core.vocabulary import Fault, Kind
from dry_gauge.service.allowed import NotAllowed, NotHere
from dry_gauge.store import practice as store
from dry_gauge.store.people import Someone

_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"  # without what looks alike
_CODE_LETTERS = 7
_DAY_LEVEL, _TRIES = 2, 4
# What was missed weighs 1 and what was named takes half of one away, each a tenth less for every play since. Chosen.
_NAMED_COUNTS, _FADES = 0.5, 0.9
# Every shop begins with these: their words, how hard, and the seed that makes each.
SHIPPED: tuple[tuple[str, int, int], ...] = (
    ("The first call, five minutes", 1, 7), ("Second call of the morning", 1, 33), ("Before lunch", 1, 34),
    ("A warm office", 2, 41), ("The one that was serviced", 2, 42), ("Nobody knows since when", 2, 43),
    ("Weak on the ground floor", 2, 44), ("Called back twice", 2, 45), ("It was better last year", 3, 51),
    ("Two voices on the phone", 3, 52), ("Late in the day", 4, 61), ("Only a look", 4, 72),
)  # fmt: skip


def _code() -> str:
    return "".join(secrets.choice(_LETTERS) for _ in range(_CODE_LETTERS))


def _own_code(shop_id: UUID, title: str) -> str:
    """The code of a shipped case in this shop: the same for two people who come first at the same moment."""
    number = uuid5(shop_id, title).int
    return "".join(_LETTERS[number >> 8 * i & 31] for i in range(_CODE_LETTERS))


def ensure_shipped(connection: Connection, someone: Someone, now: datetime) -> None:
    """The cases that every shop begins with, each under a code of this shop's own; and the one of the day."""
    if not store.all_cases(connection):
        for i, (title, level, seed) in enumerate(SHIPPED):  # a little apart: they are listed as they were made
            store.add_case(connection, shop_id=someone.shop_id, code=_own_code(someone.shop_id, title), title=title, seed=seed,
                           level=level, version=game.VERSION, made_at=now + timedelta(milliseconds=i))  # fmt: skip
    today = day_code(now.astimezone().date())
    if store.find_case(connection, today) is None:
        store.add_case(connection, shop_id=someone.shop_id, code=today, title="The call of the day", seed=_seed(_DAY_LEVEL),
                       level=_DAY_LEVEL, version=game.VERSION, made_at=now)  # fmt: skip


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
    connection: Connection, someone: Someone, faults: Collection[Fault], kind: Kind | None, title: str, now: datetime
) -> str:  # fmt: skip
    """A case that a lead chose for others; its code.

    Raises
    ------
    NotAllowed
    Refused
        For too many faults, or such as show on no such unit.
    """
    if someone.role != "lead":
        raise NotAllowed("A lead composes calls for others; draw one for yourself.")
    if len(faults) > 3:
        raise Refused("Three things at most: nobody would find more.", "faults")
    return _made(connection, someone, 4, now, faults, kind, title)


def once_more(connection: Connection, someone: Someone, now: datetime) -> str:
    """A case with what somebody missed most lately; its code. The later a miss, the sooner it comes again.

    Raises
    ------
    Refused
        Where nothing was missed.
    """
    weights: dict[str, float] = {}
    ended = (row.result for row in store.games_of(connection, someone.person_id, most=40) if row.result)
    for age, result in enumerate(ended):
        for fault in result["truth"]:
            counts = 1.0 if fault in result["missed"] else -_NAMED_COUNTS
            weights[fault] = weights.get(fault, 0.0) + counts * _FADES**age
    again = max((fault for fault in weights if weights[fault] > 0), key=lambda fault: weights[fault], default=None)
    if again is None:
        raise Refused("You have missed nothing lately. Take another call.", "level")
    return _made(connection, someone, 2, now, (Fault(again),), title="Once more")


def _made(
    connection: Connection, someone: Someone, level: int, now: datetime, faults: Collection[Fault] | None = None,
    kind: Kind | None = None, title: str = "",
) -> str:  # fmt: skip
    chosen = None if faults is None else sorted(fault.value for fault in faults)
    seed, code = _seed(level, None if chosen is None else tuple(chosen), kind.value if kind else ""), _code()
    store.add_case(connection, shop_id=someone.shop_id, code=code, title=title or game.LEVELS[level].words.capitalize(),
                   seed=seed, level=level, kind=kind.value if kind else "", faults=chosen, version=game.VERSION,
                   made_by=someone.person_id, made_at=now)  # fmt: skip
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


def _call_of(case: Any) -> PracticeCall:
    call = _call(case.seed, case.level, None if case.faults is None else tuple(case.faults), case.kind)
    if case.version != game.VERSION or call is None:
        raise Refused("This case was made by another version, and would be another call today. Take a new one.", "code")
    return call


def begin(connection: Connection, someone: Someone, code: str, now: datetime) -> UUID:
    """Begin a case, or go on with the play of it that is not ended.

    Raises
    ------
    Refused
        For a code that nobody has, or of another version.
    """
    case = store.find_case(connection, code.strip().upper())
    if case is None:
        raise Refused("No call of your shop has this code. Codes are seven letters and digits.", "code")
    _call_of(case)
    known = store.open_game(connection, someone.person_id, case.code)
    if known is not None:
        return known
    game_id = uuid6.uuid7()
    store.add_game(connection, shop_id=someone.shop_id, id=game_id, code=case.code, person_id=someone.person_id, begun_at=now)
    return game_id


def play_of(connection: Connection, someone: Someone, game_id: UUID, *, lock: bool = False) -> tuple[Any, PracticeCall, Worker]:
    """A play as it stands; their own, or for a lead anybody's that is ended.

    Raises
    ------
    NotHere
    Refused
        Of another version.
    """
    row = store.find_game(connection, game_id, lock=lock)
    if row is None or (row.person_id != someone.person_id and not (someone.role == "lead" and row.ended_at)):
        raise NotHere("There is no such call to practise on.")
    call = _call_of(store.find_case(connection, row.code))
    return row, call, game.played(call, row.steps)


def words_of(connection: Connection, row: Any) -> tuple[str, str]:
    """What the customer of a play says, and claims."""
    case = store.find_case(connection, row.code)
    return game.complaint_of(_call_of(case), np.random.default_rng((case.seed, 1)))


def step(connection: Connection, someone: Someone, game_id: UUID, name: str, known: int) -> None:
    """Do one thing.

    Parameters
    ----------
    known : int
        How many steps the page showed that it was chosen on.

    Raises
    ------
    NotHere
    Refused
        Where the play is over, went on in another tab, or has no such step.
    """
    row, call, _ = play_of(connection, someone, game_id, lock=True)
    if row.ended_at is not None:
        raise Refused("This call is over. Look at how it went, or take another.", "step")
    if known != len(row.steps):
        raise Refused("This call went on in another window; here is how it stands now.", "step")
    if len(row.steps) >= game.MOST_STEPS:
        raise Refused("The day is over: say what you found.", "step")
    facts = call.facts
    if name not in {one.name for one in (*game.reads_on(facts), *game.looks_on(facts), *game.remedies_on(facts), game.JUDGE)}:
        raise Refused("That cannot be done on this unit.", "step")
    store.keep_steps(connection, game_id, [*row.steps, name])


def commit(connection: Connection, someone: Someone, game_id: UUID, named: Collection[Fault], now: datetime) -> None:
    """Say what was wrong; the play is over.

    Raises
    ------
    NotHere
    Refused
        Before anything was read or looked at.
    """
    row, call, worker = play_of(connection, someone, game_id, lock=True)
    if row.ended_at is not None:
        return
    if not any(one.readings or one.seen for one in worker.log):
        raise Refused("Read or look at something first: this would be a guess.", "named")
    truth = frozenset(one.fault for one in call.wrong)
    missed, beside = truth - set(named), set(named) - truth
    store.end_game(connection, game_id, sorted(fault.value for fault in named), now, {
        "right": not missed and not beside, "held": worker.unit.held, "minutes": round(worker.minutes), "harm": worker.unit.harm,
        "truth": sorted(truth), "missed": sorted(missed), "beside": sorted(beside),
    })  # fmt: skip
