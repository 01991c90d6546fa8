"""Practising on made-up calls: choose one, work through it at the ordinary stations, say what was wrong, and see how it went."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.bench.practice import game
from dry_gauge.bench.practice.debrief import LINK, debrief, link_named, truth_of
from dry_gauge.bench.practice.hidden import REMEDIES
from dry_gauge.bench.practice.unit import PracticeCall
from dry_gauge.bench.practice.worker import Worker
from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.faults import FAULTS
from dry_gauge.core.office.outcomes import CameBack, came_back
from dry_gauge.core.statements import Statement
from dry_gauge.core.vocabulary import Fault, Kind
from dry_gauge.drawing.belief import BeliefStep, belief_svg
from dry_gauge.exchange.language import language_named
from dry_gauge.present.practice import Truth, named_words, shown_step, step_words, truths, worth_said
from dry_gauge.service import practice, practice_cases
from dry_gauge.service.sign_in import token_hash
from dry_gauge.service.today import today_here
from dry_gauge.store import practice as store
from dry_gauge.store.people import Someone, at_home, leave_practice
from dry_gauge.web.fields import FORM, Fields
from dry_gauge.web.practice_hand import in_step
from dry_gauge.web.render import page, reader_of, visit_url
from dry_gauge.web.routes.visits import visit_page
from dry_gauge.web.security import session_token, signed_in
from dry_gauge.web.stations import station_named

router = APIRouter(prefix="/practice")
_CAUSES = tuple(fault for fault in Fault if fault is not Fault.NONE)
_PLACES = ("first", "second", "third")


@router.get("")
def show_cases(request: Request) -> Response:
    """Calls to practise on, and how it went so far."""
    with signed_in(request) as (connection, someone):
        home = at_home(connection, someone)
        practice_cases.ensure_shipped(connection, home, datetime.now(UTC))
        return _cases_page(request, connection, home)


def _cases_page(
    request: Request, connection: Connection, someone: Someone, fields: Fields | None = None, problem: Refused | None = None
) -> Response:
    games = store.games_of(connection, someone.person_id)
    latest = {one.code: one for one in reversed(games)}
    today = practice_cases.day_code(today_here())
    cases = [one for one in store.all_cases(connection) if one.code == today or not one.code.startswith("DAY")]
    cases = [one for one in cases if one.version == game.VERSION]
    cases.sort(key=lambda one: (one.code == today) != bool(games))  # the first call before the day's, for who is new
    return page(
        request,
        "practice/index.html",
        status=422 if problem else 200,
        someone=someone,
        cases=cases,
        latest=latest,
        today=today,
        games=games,
        problem=problem,
        typed=defaultdict(str, fields or {}),
        LEVELS=game.LEVELS,
        CAUSES=_CAUSES,
        request_made=request.query_params.get("made", "")[:12],
        may_compose=someone.role == "lead",
        HELPS=practice.HELPS,
        due=len(practice_cases.due_again(connection, someone, datetime.now(UTC))),
        rates=_rates(games),
        closed=practice_cases.closed_calls(connection) if someone.role == "lead" else (),
        team=store.team(connection) if someone.role == "lead" else (),
    )


def _rates(games: Sequence[Any]) -> list[tuple[str, CameBack]]:
    """Of each cause that was met how often it was missed, with what few calls leave open; the most missed first."""
    met: dict[str, list[bool]] = {}
    for result in (one.result for one in games if one.result):
        for cause in result["truth"]:
            met.setdefault(cause.partition(":")[0], []).append(cause in result["missed"])
    rates = [(cause, came_back(sum(missed), len(missed))) for cause, missed in met.items()]
    return sorted(rates, key=lambda row: (-row[1].share, -row[1].of))


def _to_say(told: Sequence[Truth]) -> list[str]:
    """What the owner could have been told of each thing, in the words of the owner's report."""
    english = language_named("en")
    return [
        english.tell(Statement(f"cause-{one.fault.value}") if one.fault else Statement("open-link-found", {"part": one.link}))
        for one in told
    ]


@router.post("")
def begin(request: Request, fields: Fields = FORM) -> Response:
    """Begin a call, or go on with it: by its code, drawn by level, or gone back to; or make one for others."""
    with in_step():
        try:
            with signed_in(request) as (connection, someone):
                where = _begun(request, connection, at_home(connection, someone), fields, datetime.now(UTC))
            return RedirectResponse(where, 303)
        except Refused as problem:
            with signed_in(request) as (connection, someone):
                return _cases_page(request, connection, at_home(connection, someone), fields, problem)


def _begun(request: Request, connection: Connection, someone: Someone, fields: Fields, now: datetime) -> str:
    """Where to go on.

    Raises
    ------
    NotHere, NotAllowed, Refused
    """
    title, code = fields.get("title", "").strip()[:80], fields.get("code", "")
    match fields.get("do"):
        case "like":
            code = practice_cases.like_closed(connection, someone, _id_in(fields, "like") or UUID(int=0), title, now)
            return f"/practice?made={code}#made"
        case "compose":
            faults = [fault for fault in _CAUSES if fields.get(f"fault-{fault.value}")]
            kind = Kind(fields["kind"]) if fields.get("kind") in set(Kind) else None
            code = practice_cases.composed(connection, someone, faults, kind, title, now, dead=bool(fields.get("dead")))
            return f"/practice?made={code}#made"
        case "again":
            code = practice_cases.once_more(connection, someone, now)
        case _ if fields.get("level"):
            code = practice_cases.new_case(connection, someone, int(fields["level"]) if fields["level"].isdecimal() else 0, now)
    back = _id_in(fields, "comeback")
    game_id = (
        practice.begin_again(connection, someone, back, now)
        if back
        else practice.begin(connection, someone, code, fields.get("help", ""), now)
    )
    visit_id = practice.enter(connection, someone, token_hash(session_token(request)), game_id, reader_of(someone))
    return visit_url(visit_id, "arrive")


def _id_in(fields: Fields, name: str) -> UUID | None:
    try:
        return UUID(fields.get(name, ""))
    except ValueError:
        return None


@router.post("/hand")
def do_one_thing(request: Request, fields: Fields = FORM) -> Response:
    """Do one thing on the unit; what it shows stands in the notebook."""
    count, station = fields.get("known", ""), station_named(fields.get("at", ""))
    with in_step():
        try:
            with signed_in(request) as (connection, someone):
                known = int(count) if count.isdecimal() else -1
                practice.step(connection, someone, fields.get("step", ""), known, reader_of(someone))
                play = someone.practice
        except Refused as problem:
            with signed_in(request) as (connection, someone):
                play = someone.practice
                if play and play.visit_id:
                    return visit_page(request, connection, someone, play.visit_id, station.name, refused=problem.message)
    if play is None or play.visit_id is None:
        return RedirectResponse("/practice", 303)
    return RedirectResponse(visit_url(play.visit_id, station.name), 303)


@router.get("/say")
def show_say(request: Request) -> Response:
    """What was wrong, to be said."""
    with in_step(), signed_in(request) as (connection, someone):
        return _say_page(request, connection, someone, {})


def _say_page(
    request: Request, connection: Connection, someone: Someone, fields: Fields, problem: Refused | None = None
) -> Response:
    if someone.practice is None:
        return RedirectResponse("/practice", 303)
    home = at_home(connection, someone)
    try:
        _, call, _ = practice.play_of(connection, home, someone.practice.game_id)
    except Refused as other_version:
        return _cases_page(request, connection, home, problem=other_version)
    links = [(link_named(link.name), link.name) for link in call.dead.chain.links] if call.dead else []
    return page(
        request,
        "practice/say.html",
        status=422 if problem else 200,
        someone=someone,
        problem=problem,
        links=links,
        CAUSES=_CAUSES,
        facts=call.facts,
        typed=defaultdict(str, fields),
    )


@router.post("/say")
def say(request: Request, fields: Fields = FORM) -> Response:
    """Say what was wrong: the call is over, and one is in one's own shop again."""
    named = [fields[place] for place in _PLACES if fields.get(place)]
    with in_step():
        try:
            with signed_in(request) as (connection, someone):
                if not fields.get("first"):
                    raise Refused("Choose what is to be mended first, or that nothing is wrong.", "named")
                named = [] if named == ["nothing"] else named
                game_id = practice.commit(connection, someone, named, fields.get("told", "").strip(), datetime.now(UTC))
                leave_practice(connection, token_hash(session_token(request)))
        except Refused as problem:
            with signed_in(request) as (connection, someone):
                return _say_page(request, connection, someone, fields, problem)
    return RedirectResponse(f"/practice/{game_id}", 303)


@router.post("/leave")
def leave(request: Request) -> Response:
    """Leave the call as it is: it waits."""
    with signed_in(request) as (connection, _):
        leave_practice(connection, token_hash(session_token(request)))
    return RedirectResponse("/practice", 303)


@router.get("/{game_id}")
def show_game(request: Request, game_id: UUID) -> Response:
    """How a call went; one that is not over is gone on with from the list."""
    with signed_in(request) as (connection, someone):
        home = at_home(connection, someone)
        try:
            row, call, worker = practice.play_of(connection, home, game_id)
        except Refused as other_version:
            return _cases_page(request, connection, home, problem=other_version)
        if row.ended_at is None:
            return RedirectResponse("/practice", 303)
        return _debrief_page(request, connection, home, row, call, worker)


def _debrief_page(
    request: Request, connection: Connection, someone: Someone, row: Any, call: PracticeCall, worker: Worker
) -> Response:
    reader = reader_of(someone, call.facts)
    found = debrief(call, worker, row.named)
    steps = [
        BeliefStep(
            one.step.at,
            one.step.end,
            one.believed,
            step_words(call, one.step.name),
            one.step.name in REMEDIES,
            bool(one.step.harms),
        )
        for one in found.worths
    ]
    causes = [(one.fault.value, one.part.words) for one in call.wrong] + ([(LINK, call.dead.words)] if call.dead else [])
    picture = Markup(belief_svg(causes, steps, 760.0, 260.0, "belief")) if steps and causes else ""  # noqa: S704  (our own)
    told = truths(call, worker, row.named)
    lesson_of = next((one.fault for one in told if one.fault and not one.named), call.wrong[0].fault if call.wrong else None)
    return page(
        request,
        "practice/debrief.html",
        someone=someone,
        row=row,
        said=practice.words_of(connection, row),
        found=found,
        truths=told,
        beside=[named_words(one) for one in row.named if one not in truth_of(call)],
        picture=picture,
        steps=[shown_step(call, one.step, reader, worth_said(one)) for one in found.worths],
        shortest=[shown_step(call, one, reader) for one in found.shortest],
        lesson=FAULTS[lesson_of].page[2] if lesson_of else "",
        lesson_of=lesson_of,
        may_go_back=row.person_id == someone.person_id and not found.held,
        to_say=_to_say(told),
    )
