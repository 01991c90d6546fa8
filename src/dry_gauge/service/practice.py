"""Practising on made-up calls: cases behind codes, plays step by step, and how they came out.

A play is its steps; what the unit shows follows from them and the case's seed, which stays here. Cases and plays are rows of
one's own shop; the notebook of a play is a visit in the practice shop, which a session enters for as long as it plays.
"""

from __future__ import annotations

import secrets
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import lru_cache
from typing import Any
from uuid import UUID, uuid5

import numpy as np
import uuid6
from sqlalchemy import Connection

from dry_gauge.bench.practice import game
from dry_gauge.bench.practice.debrief import LINK, in_order, link_named, truth_of
from dry_gauge.bench.practice.hidden import parts_behind
from dry_gauge.bench.practice.unit import PracticeCall
from dry_gauge.bench.practice.worker import Worker
from dry_gauge.core.errors import Refused
from dry_gauge.core.local_time import day_of
from dry_gauge.core.vocabulary import Fault, Kind
from dry_gauge.core.words import Reader
from dry_gauge.service.allowed import NotAllowed, NotHere, writer
from dry_gauge.service.notebooks import facts_of
from dry_gauge.service.practice_visit import begin_visit, entries_of, write
from dry_gauge.store import practice as store
from dry_gauge.store.database import see_shop
from dry_gauge.store.people import Practising, Someone, at_home, enter_practice, practising
from dry_gauge.store.visits import find_visit

_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"  # without what looks alike
_CODE_LETTERS = 7
_DAY_LEVEL, _TRIES = 2, 4
AGAIN_AFTER_DAYS = (0, 2, 7, 21, 60)
"""When a cause should be met again: after a miss, and after so many times in a row in which it was named. Chosen (R72)."""
# Every shop begins with these: their words, how hard, and the seed that makes each.
SHIPPED: tuple[tuple[str, int, int], ...] = (
    ("The first call, five minutes", 1, 7), ("Second call of the morning", 1, 209), ("Before lunch", 1, 34),
    ("The ice cream is soft", 2, 41), ("The one that was serviced", 2, 42), ("Nobody knows since when", 2, 43),
    ("Off since the painters", 5, 102), ("Called back twice", 2, 45), ("It was better last year", 3, 51),
    ("Two voices on the phone", 3, 52), ("Nothing moves outside", 5, 128), ("Only a look", 4, 72),
)  # fmt: skip
HELPS: dict[str, str] = {
    "asked": "The judgement on request, 5 min each time",
    "shown": "The judgement always",
    "hidden": "No judgement",
}
_MOST_TOLD, _MOST_FAULTS = 1000, 3


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


def _call_of(case: Any) -> PracticeCall:
    call = _call(case.seed, case.level, None if case.faults is None else tuple(case.faults), case.kind)
    if case.version != game.VERSION or call is None:
        raise Refused("This case was made by another version, and would be another call today. Take a new one.", "code")
    return call


def begin(connection: Connection, someone: Someone, code: str, help_: str, now: datetime) -> UUID:
    """Begin a case, or go on with the play of it that is not ended.

    Parameters
    ----------
    help_ : str
        One of `HELPS`.

    Raises
    ------
    NotAllowed
        For who only reads: a play is written.
    Refused
        For a code that nobody has, or of another version.
    """
    writer(someone, "plays a call")
    case = store.find_case(connection, code.strip().upper())
    if case is None:
        raise Refused("No call of your shop has this code. Codes are seven letters and digits.", "code")
    _call_of(case)
    known = store.open_game(connection, someone.person_id, case.code)
    if known is not None:
        return known
    game_id = uuid6.uuid7()
    store.add_game(
        connection,
        shop_id=someone.shop_id,
        id=game_id,
        code=case.code,
        person_id=someone.person_id,
        begun_at=now,
        help=_chosen(help_),
    )
    return game_id


def begin_again(connection: Connection, someone: Someone, game_id: UUID, now: datetime) -> UUID:
    """Three weeks after a play whose unit did not stay mended: a play that goes on from how it was left.

    Raises
    ------
    NotHere
    Refused
        Where it is not over, or held.
    """
    writer(someone, "plays a call")
    row, _, worker = play_of(connection, someone, game_id)
    if row.person_id != someone.person_id:
        raise NotHere("There is no such call to practice on.")
    if row.ended_at is None or worker.unit.held:
        raise Refused("It has not come back.", "code")
    known = store.open_game(connection, someone.person_id, row.code)
    if known is not None:
        return known
    again = uuid6.uuid7()
    store.add_game(
        connection,
        shop_id=someone.shop_id,
        id=again,
        code=row.code,
        person_id=someone.person_id,
        begun_at=now,
        steps=[*row.steps, game.COMEBACK.name],
        minutes=worker.minutes,
        help=_chosen(row.help),
    )
    return again


def _chosen(help_: str) -> str:
    return help_ if help_ in HELPS else "asked"


def enter(connection: Connection, someone: Someone, session: bytes, game_id: UUID, reader: Reader) -> UUID:
    """Go into a play that is not over: from here on, that session is in the practice shop. Its notebook's visit.

    A notebook that is not there (the shop came out of an archive) is written anew from the play's steps.

    Raises
    ------
    NotHere
    Refused
        Of another version.
    """
    row, call, worker = play_of(connection, someone, game_id)
    where = enter_practice(connection, session, game_id)
    if where is None:
        raise NotHere("There is no such call to practice on, or it is over.")
    play = Practising(someone.shop_id, someone.person_id, game_id, row.visit_id, row.begun_at, row.help, row.title)
    there = practising(someone, *where, play)
    said, seed = words_of(connection, row), store.find_case(connection, row.code).seed
    see_shop(connection, there.shop_id)
    if row.visit_id is not None and find_visit(connection, row.visit_id) is not None:
        visit_id: UUID = row.visit_id
        return visit_id
    visit_id = begin_visit(connection, there, call, said, seed, row.begun_at)
    before = None
    for one in worker.log:
        write(connection, there, visit_id, entries_of(call, one, before, reader), row.begun_at + timedelta(minutes=one.end))
        before = one
    at_home(connection, there)
    store.keep_visit(connection, game_id, visit_id)
    return visit_id


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
        raise NotHere("There is no such call to practice on.")
    call = _call_of(store.find_case(connection, row.code))
    return row, call, game.played(call, row.steps)


def words_of(connection: Connection, row: Any) -> tuple[str, str]:
    """What the customer of a play says, and claims."""
    case = store.find_case(connection, row.code)
    return game.complaint_of(_call_of(case), np.random.default_rng((case.seed, 1)))


def step(connection: Connection, someone: Someone, name: str, known: int, reader: Reader) -> None:
    """Do one thing in the play that somebody is in; what it shows stands in its notebook.

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
    if someone.practice is None:
        raise NotHere("You are in no call to practice on.")
    home = at_home(connection, someone)
    row, call, worker = play_of(connection, home, someone.practice.game_id, lock=True)
    if known != len(row.steps):
        raise Refused("This call went on in another window; here is how it stands now.", "step")
    if len(row.steps) >= game.MOST_STEPS:
        raise Refused("The day is over: say what you found.", "step")
    offer = game.offers_on(call).get(name)
    if offer is None or offer is game.COMEBACK or (offer is game.JUDGE and row.help == "hidden"):
        raise Refused("That cannot be done on this unit.", "step")
    before = worker.log[-1] if worker.log else None
    game.take(worker, offer)
    help_ = row.help if row.help in ("shown", "hidden") else "answered" if offer is game.JUDGE else "asked"
    store.keep_steps(connection, row.id, [*row.steps, name], worker.minutes, help_)
    see_shop(connection, someone.shop_id)
    told = entries_of(call, worker.log[-1], before, reader)
    if told:
        write(connection, someone, row.visit_id, told, row.begun_at + timedelta(minutes=worker.minutes))


def commit(connection: Connection, someone: Someone, named: Sequence[str], told: str, now: datetime) -> UUID:
    """Say what was wrong, in the order in which it was to be mended, and what the owner is told; the play is over.

    Raises
    ------
    NotHere
    Refused
        Before anything was read or looked at, for something named twice, or nothing that could be.
    """
    if someone.practice is None:
        raise NotHere("You are in no call to practice on.")
    home = at_home(connection, someone)
    row, call, worker = play_of(connection, home, someone.practice.game_id, lock=True)
    if not any(one.readings or one.seen or one.volts for one in worker.log):
        raise Refused("Read or look at something first: this would be a guess.", "named")
    possible = {fault.value for fault in Fault if fault is not Fault.NONE} | {
        link_named(link.name) for link in (call.dead.chain.links if call.dead else ())
    }
    if not set(named) <= possible or len(set(named)) < len(named):
        raise Refused("Name each thing once, from the list.", "named")
    truth = truth_of(call)
    missed, beside = truth - set(named), set(named) - truth
    store.end_game(
        connection,
        row.id,
        named,
        told[:_MOST_TOLD],
        now,
        {
            "right": not missed and not beside,
            "held": worker.unit.held,
            "minutes": round(worker.minutes),
            "harm": worker.unit.harm,
            "truth": sorted(truth),
            "missed": sorted(missed),
            "beside": sorted(beside),
            "in_order": in_order(named),
        },
    )
    return row.id  # type: ignore[no-any-return]
