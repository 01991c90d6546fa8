"""One's own account: password, and where else one is signed in."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.service.sign_in import SESSION_LIFETIME, change_own, token_hash
from dry_gauge.store.people import Someone, end_other_sessions, own_sessions
from dry_gauge.web.fields import FORM, Fields
from dry_gauge.web.render import page
from dry_gauge.web.security import engine_of, session_token, signed_in

router = APIRouter(prefix="/me")


def _page(request: Request, connection: Connection, someone: Someone, refusal: Refused | None = None, done: str = "") -> Response:
    sessions = own_sessions(connection, token_hash(session_token(request)))
    return page(request, "me.html", status=422 if refusal else 200, someone=someone, done=done,
                error=refusal.message if refusal else "", error_at=refusal.path if refusal else "",
                sessions=[(one.expires_at - SESSION_LIFETIME, one.is_this) for one in sessions])  # fmt: skip


@router.get("")
def show_me(request: Request) -> Response:
    """The account."""
    with signed_in(request) as (connection, someone):
        return _page(request, connection, someone)


@router.post("/password")
def change_password(request: Request, fields: Fields = FORM) -> Response:
    """Another password; everybody else who is signed in under this name is signed out."""
    with signed_in(request) as (_, someone):
        pass
    refusal = None
    try:
        change_own(engine_of(request), session_token(request), fields.get("old", ""), fields.get("password", ""), someone.name,
                   someone.shop_name)  # fmt: skip
    except Refused as problem:
        refusal = problem
    with signed_in(request) as (connection, someone):
        done = "" if refusal else "Changed. Whoever else was signed in under your name is signed out."
        return _page(request, connection, someone, refusal, done)


@router.post("/sessions/end")
def end_others(request: Request) -> Response:
    """Sign out everywhere else."""
    with signed_in(request) as (connection, _):
        end_other_sessions(connection, token_hash(session_token(request)))
    return RedirectResponse("/me", 303)
