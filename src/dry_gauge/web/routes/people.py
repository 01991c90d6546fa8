"""Who works in a shop, and the trail of what was done to people, rights, cards and settings."""

from __future__ import annotations

from datetime import datetime
from urllib.parse import urlencode

from fastapi import APIRouter, Request, Response
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.service import audit, people
from dry_gauge.service.allowed import NotAllowed
from dry_gauge.store.people import Someone
from dry_gauge.web.fields import FORM, Fields
from dry_gauge.web.render import page
from dry_gauge.web.security import signed_in

router = APIRouter(prefix="/register")


def _people_page(request: Request, connection: Connection, someone: Someone, error: str = "", done: str = "") -> Response:
    return page(
        request,
        "register/people.html",
        status=422 if error else 200,
        someone=someone,
        error=error,
        done=done,
        ROLES=people.ROLES,
        people=people.everyone(connection),
        second_step=people.with_second_step(connection),
    )


@router.get("/people")
def show_people(request: Request) -> Response:
    """Who works here."""
    with signed_in(request) as (connection, someone):
        return _people_page(request, connection, someone)


@router.post("/people")
def change_people(request: Request, fields: Fields = FORM) -> Response:
    """A lead adds someone, changes their role or password, or helps them in again."""
    with signed_in(request) as (connection, someone):
        if someone.role != "lead":
            raise NotAllowed("Only a lead adds people or changes their role.")
        try:
            done = people.change(connection, someone, fields)
        except Refused as refusal:
            return _people_page(request, connection, someone, refusal.message)
        return _people_page(request, connection, someone, done=done)


@router.get("/trail")
def show_trail(request: Request, subject: str = "", person: str = "", words: str = "", before: str = "") -> Response:
    """Who did what to people, rights, cards and settings, and who tried to come in."""
    with signed_in(request) as (connection, someone):
        if someone.role != "lead":
            raise NotAllowed("Only a lead reads the trail.")
        known = people.everyone(connection)
        asked = audit.Asked(
            subject if subject in audit.SUBJECTS else "",
            next((one.id for one in known if str(one.id) == person), None),
            words.strip()[:100],
            _moment(before),
        )
        events = audit.trail(connection, asked)
        kept = {"subject": asked.subject, "person": asked.person_id or "", "words": asked.text}
        older = events[-1].at.isoformat() if len(events) == audit.SHOWN else ""
        return page(
            request,
            "register/trail.html",
            someone=someone,
            events=events,
            asked=asked,
            subjects=audit.SUBJECTS,
            people=known,
            older=f"/register/trail?{urlencode({**kept, 'before': older})}" if older else "",
        )


def _moment(text: str) -> datetime | None:
    """A moment as a link of ours carries it; what is none asks for the newest."""
    try:
        found = datetime.fromisoformat(text)
    except ValueError:
        return None
    return found if found.tzinfo else None
