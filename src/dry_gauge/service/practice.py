"""Practising on made-up calls: plays step by step, and how they came out.

A play is its steps; what the unit shows follows from them and from its case. Plays are rows of one's own shop; the notebook of
a play is a visit in the practice shop, which a session enters for as long as it plays.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

import numpy as np
import uuid6
from sqlalchemy import Connection

from dry_gauge.bench.practice import game
from dry_gauge.bench.practice.debrief import in_order, link_named, truth_of
from dry_gauge.bench.practice.unit import PracticeCall
from dry_gauge.bench.practice.worker import Worker
from dry_gauge.core.errors import Refused
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Reader
from dry_gauge.service.allowed import NotHere, writer
from dry_gauge.service.practice_cases import call_of
from dry_gauge.service.practice_visit import begin_visit, entries_of, write
from dry_gauge.store import practice as store
from dry_gauge.store.database import see_shop
from dry_gauge.store.people import Practising, Someone, at_home, enter_practice, practising
from dry_gauge.store.visits import find_visit

HELPS: dict[str, str] = {
    "asked": "The judgement on request, 5 min each time",
    "shown": "The judgement always",
    "hidden": "No judgement",
}
_MOST_TOLD = 1000


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
    call_of(case)
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
    call = call_of(store.find_case(connection, row.code))
    return row, call, game.played(call, row.steps)


def words_of(connection: Connection, row: Any) -> tuple[str, str]:
    """What the customer of a play says, and claims."""
    case = store.find_case(connection, row.code)
    return game.complaint_of(call_of(case), np.random.default_rng((case.seed, 1)))


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
