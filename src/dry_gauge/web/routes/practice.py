"""Practising on made-up calls: choose one, work through it, say what was wrong, and look at how it went."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from datetime import UTC, datetime
from time import monotonic, sleep
from typing import Any
from uuid import UUID

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.bench.practice import game
from dry_gauge.bench.practice.hidden import REMEDIES
from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.faults import FAULTS
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Fault, Kind
from dry_gauge.drawing.belief import BeliefStep, belief_svg
from dry_gauge.present.card import card_rows
from dry_gauge.present.headline import headline
from dry_gauge.present.judge import likelihood_words
from dry_gauge.present.practice import known, shown_step, step_words, truths, worth_said
from dry_gauge.service import practice
from dry_gauge.store import practice as store
from dry_gauge.store.people import Someone
from dry_gauge.web.drawings import drawn
from dry_gauge.web.fields import FORM, Fields
from dry_gauge.web.render import page, reader_of
from dry_gauge.web.security import signed_in

router = APIRouter(prefix="/practice")
_BEAT_SECONDS = 0.3
_CAUSES = tuple(fault for fault in Fault if fault is not Fault.NONE)


@router.get("")
def show_cases(request: Request) -> Response:
    """Calls to practise on, and how it went so far."""
    with signed_in(request) as (connection, someone):
        practice.ensure_shipped(connection, someone, datetime.now(UTC))
        return _cases_page(request, connection, someone)


def _cases_page(
    request: Request, connection: Connection, someone: Someone, fields: Fields | None = None, problem: Refused | None = None
) -> Response:  # fmt: skip
    games = store.games_of(connection, someone.person_id)
    latest = {one.code: one for one in reversed(games)}
    today = practice.day_code(datetime.now().astimezone().date())
    cases = [one for one in store.all_cases(connection) if one.code == today or not one.code.startswith("DAY")]
    cases.sort(key=lambda one: (one.code == today) != bool(games))  # the first call before the day's, for who is new
    return page(
        request, "practice/index.html", status=422 if problem else 200, someone=someone, cases=cases, latest=latest, today=today,
        games=games, problem=problem, typed=defaultdict(str, fields or {}), LEVELS=game.LEVELS, CAUSES=_CAUSES, kinds=list(Kind),
        missed=_missed(games), request_made=request.query_params.get("made", "")[:12], may_compose=someone.role == "lead",
        team=store.team(connection) if someone.role == "lead" else (),
    )  # fmt: skip


def _missed(games: Sequence[Any]) -> list[tuple[str, int, int]]:
    """Of each cause that was met in ended plays: how often, and how often it was named; the least named first."""
    ended = [one.result for one in games if one.result]
    met: dict[str, list[bool]] = {}
    for result in ended:
        for fault in result["truth"]:
            met.setdefault(fault, []).append(fault not in result["missed"])
    return sorted(((fault, len(named), sum(named)) for fault, named in met.items()), key=lambda row: (row[2] / row[1], -row[1]))


@router.post("")
def begin(request: Request, fields: Fields = FORM) -> Response:
    """Begin a call: by its code, drawn by level, or composed by a lead."""
    now = datetime.now(UTC)
    with signed_in(request) as (connection, someone):
        try:
            code = fields.get("code", "")
            if fields.get("do") == "compose":
                faults = [fault for fault in _CAUSES if fields.get(f"fault-{fault.value}")]
                kind = Kind(fields["kind"]) if fields.get("kind") in set(Kind) else None
                code = practice.composed(connection, someone, faults, kind, fields.get("title", "").strip()[:80], now)
                return RedirectResponse(f"/practice?made={code}#made", 303)
            if fields.get("do") == "again":
                code = practice.once_more(connection, someone, now)
            elif fields.get("level"):
                code = practice.new_case(connection, someone, int(fields["level"]) if fields["level"].isdecimal() else 0, now)
            game_id = practice.begin(connection, someone, code, now)
        except Refused as problem:
            return _cases_page(request, connection, someone, fields, problem)
    return RedirectResponse(f"/practice/{game_id}", 303)


@router.get("/{game_id}")
def show_game(request: Request, game_id: UUID) -> Response:
    """The call as it stands, or how it went."""
    began = monotonic()
    with signed_in(request) as (connection, someone):
        answer = _game_page(request, connection, someone, game_id)
    _in_step(began)
    return answer


def _in_step(began: float) -> None:
    """Answers take whole beats: how long it took to work the unit out says nothing of what is wrong with it."""
    sleep(-(monotonic() - began) % _BEAT_SECONDS)


def _game_page(
    request: Request, connection: Connection, someone: Someone, game_id: UUID, problem: Refused | None = None
) -> Response:  # fmt: skip
    try:
        row, call, worker = practice.play_of(connection, someone, game_id)
    except Refused as other_version:
        return _cases_page(request, connection, someone, problem=other_version)
    reader = reader_of(someone, call.facts)
    common = {"row": row, "rows": card_rows(call.facts, reader), "said": practice.words_of(connection, row), "facts": call.facts,
              "worker": worker}  # fmt: skip
    if row.ended_at is not None:
        return _debrief_page(request, someone, {**common, "problem": problem})
    now = worker.judge()
    found = now if worker.log and worker.log[-1].name == "judge" else None
    ladder = now if {"suction_pressure", "liquid_pressure"} & worker.readings.keys() else None
    return page(
        request, "practice/play.html", status=422 if problem else 200, someone=someone, problem=problem,
        known=known(worker, reader),
        log=[shown_step(step, reader) for step in worker.log], reads=game.reads_on(call.facts), looks=game.looks_on(call.facts),
        remedies=game.remedies_on(call.facts), JUDGE=game.JUDGE, CAUSES=_CAUSES, judged=found, units=reader,
        headline=headline(found, reader) if found else None, likelihood=likelihood_words,
        drawings=drawn(ladder, None, reader, 1) if ladder else {},
        at=_group(worker.log[-1].name if worker.log else "", call.facts), **common,
    )  # fmt: skip


def _group(step: str, facts: UnitFacts) -> str:
    """Under which heading the last step stands: that one stays open."""
    groups = {"read": game.reads_on(facts), "do": game.remedies_on(facts)}
    return next((name for name, offers in groups.items() if step in {one.name for one in offers}), "look")


def _debrief_page(request: Request, someone: Someone, common: dict[str, Any]) -> Response:
    row, worker = common["row"], common["worker"]
    call, named = worker.unit.call, frozenset(map(Fault, row.named))
    reader = reader_of(someone, call.facts)
    found = game.debrief(call, worker, named)
    steps = [
        BeliefStep(one.step.at, one.step.at + one.step.minutes, {fault.value: share for fault, share in one.believed.items()},
                   step_words(one.step.name), one.step.name in REMEDIES, bool(one.step.harms))
        for one in found.worths
    ]  # fmt: skip
    causes = [(one.fault.value, one.part.words) for one in call.wrong]
    picture = Markup(belief_svg(causes, steps, 760.0, 260.0, "belief")) if steps and causes else ""  # noqa: S704  (our own)
    missed = [Fault(fault) for fault in row.result["missed"]] or [one.fault for one in call.wrong]
    return page(
        request, "practice/debrief.html", status=422 if common["problem"] else 200, someone=someone, found=found,
        truths=truths(call, worker, named), named=sorted(named),
        steps=[shown_step(one.step, reader, worth_said(one)) for one in found.worths],
        shortest=[shown_step(one, reader) for one in found.shortest], picture=picture,
        lesson=FAULTS[missed[0]].page[2] if missed else "", lesson_of=missed[0] if missed else None, **common,
    )  # fmt: skip


@router.post("/{game_id}")
def go_on(request: Request, game_id: UUID, fields: Fields = FORM) -> Response:
    """Do one thing, or say what was wrong."""
    began = monotonic()
    with signed_in(request) as (connection, someone):
        try:
            if fields.get("do") == "commit":
                named = [fault for fault in _CAUSES if fields.get(f"fault-{fault.value}")]
                if not named and not fields.get("nothing"):
                    raise Refused("Tick what you found, or that nothing is wrong.", "named")
                practice.commit(connection, someone, game_id, named, datetime.now(UTC))
            else:
                count = fields.get("known", "")
                practice.step(connection, someone, game_id, fields.get("step", ""), int(count) if count.isdecimal() else -1)
        except Refused as problem:
            return _game_page(request, connection, someone, game_id, problem)
    _in_step(began)
    return RedirectResponse(f"/practice/{game_id}#now", 303)
