"""The plan: who goes where and when, what waits for a day, and what is asked weeks later."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from urllib.parse import parse_qs, urlsplit
from uuid import UUID

import uuid6
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.faults import FAULT_WORDS
from dry_gauge.core.local_time import clock, day_of, local
from dry_gauge.core.vocabulary import SIGHTS, Fault
from dry_gauge.drawing.day_plan import DAY_DESK, DAY_PHONE, Block, LaneHead, day_svg, load_words, week_svg
from dry_gauge.service import planning as service
from dry_gauge.service.allowed import NotAllowed, NotHere
from dry_gauge.service.planning import SYMPTOMS, Plan, Wanted, plan_of
from dry_gauge.service.today import today_here
from dry_gauge.store.people import Someone
from dry_gauge.store.planning import PlannedCall
from dry_gauge.store.visits import all_units
from dry_gauge.web.fields import FORM, Fields, day_in, text_in, whole_in
from dry_gauge.web.render import fragments, page, wants_fragments
from dry_gauge.web.security import signed_in

router = APIRouter(prefix="/plan")

_FIRST_YEAR, _LAST_YEAR = 2000, 2100


@dataclass(frozen=True, slots=True)
class _Asked:
    """Which days the page shows, and which call is chosen."""

    day: date
    week: bool
    call: str

    @property
    def url(self) -> str:
        return f"/plan?day={self.day}" + ("&span=week" if self.week else "")


def _asked(day: str, span: str, call: str = "") -> _Asked:
    try:
        found = date.fromisoformat(day)
    except ValueError:
        found = today_here()
    if not _FIRST_YEAR <= found.year < _LAST_YEAR:
        found = today_here()
    return _Asked(found, span == "week", call)


@router.get("")
def show_plan(request: Request, day: str = "", span: str = "", call: str = "") -> Response:
    """A day or a week as it is planned."""
    with signed_in(request) as (connection, someone):
        return _page(request, connection, someone, _asked(day, span, call))


def _page(
    request: Request,
    connection: Connection,
    someone: Someone,
    asked: _Asked,
    error: str = "",
    at: str = "",
    fields: Mapping[str, str] | None = None,
) -> Response:
    now = local(datetime.now(UTC))
    plan = plan_of(connection, asked.day, asked.week, now)
    calls = [call for lane in plan.lanes for call in lane.calls]
    chosen = next((call for call in calls if str(call.id) == asked.call), None)
    step = timedelta(days=7 if asked.week else 1)
    return page(
        request,
        "plan/show.html",
        status=422 if error else 200,
        someone=someone,
        plan=plan,
        asked=asked,
        chosen=chosen,
        earlier=asked.day - step,
        later=asked.day + step,
        today=day_of(now),
        units=all_units(connection),
        error=error,
        error_at=at,
        fields=defaultdict(str, fields or {}),
        SYMPTOMS=SYMPTOMS,
        may_move=_may_move(someone, chosen),
        **_pictures(plan, asked, someone, now),
    )


def _may_move(someone: Someone, call: PlannedCall | None) -> bool:
    own = call is not None and call.technician_id == someone.person_id
    return call is not None and call.status == "planned" and someone.is_trained and (someone.role == "lead" or own)


def _pictures(plan: Plan, asked: _Asked, someone: Someone, now: datetime) -> dict[str, Any]:
    heads = [LaneHead(str(lane.person_id), lane.name, *load_words(lane.minutes, plan.days)) for lane in plan.lanes]
    names = {one.id: one.name for one in plan.hands}
    blocks = [_block(call, place, plan, asked, someone, names) for place, lane in enumerate(plan.lanes) for call in lane.calls]
    days = [plan.first + timedelta(days=i) for i in range(plan.days)]
    if asked.week:
        words = [f"{day:%a} {day.day}" for day in days]
        today = days.index(day_of(now)) if day_of(now) in days else None
        desk = week_svg("The week", heads, words, blocks, today, "plan-week-picture")
        phone = ""
    else:
        minute = now.hour * 60 + now.minute if day_of(now) == asked.day else None
        desk = day_svg("The day", heads, blocks, DAY_DESK, minute, "plan-day")
        phone = day_svg("The day", heads, blocks, DAY_PHONE, minute, "plan-day-phone")
    return {"heads": heads, "desk_picture": Markup(desk), "phone_picture": Markup(phone)}  # noqa: S704  our own drawings


def _block(call: PlannedCall, place: int, plan: Plan, asked: _Asked, someone: Someone, names: Mapping[UUID, str]) -> Block:
    """A call in somebody's lane: in the lane of whoever leads it, it can be moved; the other is told with whom."""
    here, leads = local(call.planned_for), plan.lanes[place].person_id == call.technician_id
    other = call.along_id if leads else call.technician_id
    together = f"with {names.get(other, 'somebody no longer here')}" if other else ""
    days = (day_of(here) - plan.first).days
    href = f"/visits/{call.id}" if call.status != "planned" else f"{asked.url}&call={call.id}#call"
    return Block(
        str(call.id) if leads else f"{call.id}-along",
        href,
        place,
        days * 24 * 60 + here.hour * 60 + here.minute,
        call.minutes,
        clock(here),
        call.tag,
        call.site_name,
        "; ".join(filter(None, (together, call.complaint))),
        call.status,
        leads and _may_move(someone, call),
        str(call.id) == asked.call,
        not leads,
    )


def _wanted(fields: Mapping[str, str]) -> Wanted:
    typed = text_in(fields, "at", "The time")
    try:
        at = time.fromisoformat(typed) if typed else None
    except ValueError:
        raise Refused("The time is hours and minutes, such as 09:30.", "at") from None
    day = day_in(fields, "day", "The day")
    if day is not None and not _FIRST_YEAR <= day.year < _LAST_YEAR:
        raise Refused(f"The day lies between {_FIRST_YEAR} and {_LAST_YEAR}.", "day")
    return Wanted(
        day,
        at.replace(tzinfo=None, second=0, microsecond=0) if at else None,
        whole_in(fields, "minutes", "How long it takes, in minutes,", 15, 720),
        _id(fields, "person"),
        text_in(fields, "complaint", "What they called for", longest=service.MOST_WORDS) if "complaint" in fields else None,
        text_in(fields, "bring", "What to bring", longest=service.MOST_WORDS) if "bring" in fields else None,
        (_id(fields, "along") or "nobody") if "along" in fields else None,
    )


def _id(fields: Mapping[str, str], name: str) -> UUID | None:
    try:
        return UUID(fields[name]) if fields.get(name) else None
    except ValueError:
        raise Refused("Choose one of the list.", name) from None


def _back(fields: Mapping[str, str]) -> _Asked:
    """The days from which a form was sent."""
    return _asked(fields.get("shown", ""), fields.get("span", ""))


@router.post("/calls")
def add_call(request: Request, fields: Fields = FORM) -> Response:
    """Plan a call."""
    with signed_in(request) as (connection, someone):
        try:
            visit_id, unit_id = _id(fields, "visit_id") or uuid6.uuid7(), _id(fields, "unit")
            if unit_id is None:
                raise Refused("Choose the unit.", "unit")
            call = service.add_call(connection, someone, visit_id, unit_id, _wanted(fields))
        except Refused as refusal:
            return _page(request, connection, someone, _back(fields), refusal.message, refusal.path, fields)
    return _to(call, fields)


@router.post("/follow-ups/{follow_up_id}")
def plan_follow_up(request: Request, follow_up_id: UUID, fields: Fields = FORM) -> Response:
    """What was left for later becomes a call, in one tap."""
    with signed_in(request) as (connection, someone):
        try:
            call = service.plan_follow_up(connection, someone, follow_up_id, _id(fields, "visit_id") or uuid6.uuid7())
        except Refused as refusal:
            return _page(request, connection, someone, _back(fields), refusal.message)
    return _to(call, fields)


def _to(call: PlannedCall, fields: Mapping[str, str]) -> Response:
    week = "&span=week" if fields.get("span") == "week" else ""
    return RedirectResponse(f"/plan?day={local(call.planned_for):%Y-%m-%d}{week}&call={call.id}#call", 303)


@router.post("/calls/{visit_id}")
def change_call(request: Request, visit_id: UUID, fields: Fields = FORM) -> Response:
    """Move a call, give it to somebody else, change its words, or call it off."""
    with signed_in(request) as (connection, someone):
        try:
            if fields.get("off"):
                service.call_off(connection, someone, visit_id, text_in(fields, "why", "Why", longest=service.MOST_WORDS))
                return RedirectResponse(_back(fields).url, 303)
            call = service.change_call(connection, someone, visit_id, _wanted(fields))
        except (Refused, NotAllowed, NotHere) as problem:
            words = problem.message if isinstance(problem, Refused) else str(problem)
            if wants_fragments(request):
                return Response(words, 422, media_type="text/plain")
            if not isinstance(problem, Refused):
                raise
            asked = _asked(fields.get("shown", ""), fields.get("span", ""), str(visit_id))
            return _page(request, connection, someone, asked, words, problem.path, fields)
        if wants_fragments(request):
            asked = _from_url(fields.get("to", ""), str(visit_id))
            now = local(datetime.now(UTC))
            pictures = _pictures(plan_of(connection, asked.day, asked.week, now), asked, someone, now)
            return fragments(request, ("plan/_pictures.html", {"asked": asked, **pictures}))
    return _to(call, fields)


def _from_url(url: str, call: str) -> _Asked:
    """The days that a page shows, by its own address."""
    asked = parse_qs(urlsplit(url).query)
    return _asked(asked.get("day", [""])[0], asked.get("span", [""])[0], call if "call" in asked else "")


# -- whether it held -------------------------------------------------------


@router.post("/held/{visit_id}")
def say_held(request: Request, visit_id: UUID, fields: Fields = FORM) -> Response:
    """Say whether a repair held, weeks later."""
    with signed_in(request) as (connection, someone):
        try:
            words = text_in(fields, "words", "What it was", longest=service.MOST_WORDS)
            service.say_held(
                connection, someone, visit_id, fields.get("held") == "yes", fields.get("symptom", ""), words, datetime.now(UTC)
            )
        except Refused as refusal:
            return _page(request, connection, someone, _back(fields), refusal.message, f"{refusal.path}-{visit_id}", fields)
    return RedirectResponse(f"{_back(fields).url}#held", 303)


@router.get("/held")
def show_held(request: Request) -> Response:
    """What held and what came back, by cause and by part."""
    with signed_in(request) as (connection, someone):
        found = service.what_held(connection)
        return page(request, "plan/held.html", someone=someone, held=found, cause_words=_cause_words)


def _cause_words(name: str) -> str:
    if name in set(Fault):
        return FAULT_WORDS[Fault(name)]
    return SIGHTS[name].label if name in SIGHTS else name
