"""One's own account: password, the second step at sign-in, and where else one is signed in."""

from __future__ import annotations

from uuid import UUID

import segno
from fastapi import APIRouter, Request, Response
from fastapi.responses import RedirectResponse
from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.service import audit, second_step
from dry_gauge.service.second_step import Keeper
from dry_gauge.service.sign_in import change_own, check_own_password, token_hash
from dry_gauge.store import people
from dry_gauge.store.people import Someone
from dry_gauge.web.fields import FORM, Fields
from dry_gauge.web.render import page
from dry_gauge.web.security import engine_of, session_token, signed_in

router = APIRouter(prefix="/me")


def _keeper(request: Request) -> Keeper:
    keeper: Keeper = request.app.state.keeper
    return keeper


def _page(request: Request, connection: Connection, someone: Someone, refusal: Refused | None = None, done: str = "") -> Response:
    key = token_hash(session_token(request))
    return page(
        request,
        "me.html",
        status=422 if refusal else 200,
        someone=someone,
        done=done,
        error=refusal.message if refusal else "",
        error_at=refusal.path if refusal else "",
        sessions=people.own_sessions(connection, key),
        codes_left=people.own_second_factor(connection, key),
    )


@router.get("")
def show_me(request: Request) -> Response:
    """The account."""
    with signed_in(request) as (connection, someone):
        return _page(request, connection, someone)


def _checked(request: Request, fields: Fields, field: str) -> Refused | None:
    """Why the present password is not the one that was typed; None where it is."""
    try:
        check_own_password(engine_of(request), session_token(request), fields.get(field, ""), field)
    except Refused as refusal:
        return refusal
    return None


@router.post("/password")
def change_password(request: Request, fields: Fields = FORM) -> Response:
    """Another password; everybody else who is signed in under this name is signed out."""
    with signed_in(request) as (_, someone):
        pass
    refusal = None
    try:
        change_own(
            engine_of(request),
            session_token(request),
            fields.get("old", ""),
            fields.get("password", ""),
            someone.name,
            someone.shop_name,
        )
    except Refused as problem:
        refusal = problem
    with signed_in(request) as (connection, someone):
        if refusal is None:
            audit.note(connection, someone, "password_changed")
        done = "" if refusal else "Changed. Whoever else was signed in under your name is signed out."
        return _page(request, connection, someone, refusal, done)


@router.post("/sessions/end")
def end_sessions(request: Request, fields: Fields = FORM) -> Response:
    """Sign out one other device, or all."""
    with signed_in(request) as (connection, someone):
        key = token_hash(session_token(request))
        try:
            ended = (
                people.end_own_session(connection, key, UUID(fields["session"]))
                if fields.get("session")
                else bool(people.end_other_sessions(connection, key))
            )
        except ValueError:
            ended = False
        if ended:
            audit.note(connection, someone, "sessions_ended")
    return RedirectResponse("/me", 303)


def _set_up_page(request: Request, someone: Someone, secret: str, refusal: Refused | None = None) -> Response:
    address = second_step.address_of(secret, someone.name, someone.shop_name)
    code = segno.make(address, error="m", micro=False)
    picture = code.svg_inline(scale=4, border=3, svgclass="qr", lineclass=None, omitsize=True)
    return page(
        request,
        "second_step.html",
        status=422 if refusal else 200,
        someone=someone,
        secret=secret,
        kept=_keeper(request).hide(secret),
        picture=Markup(picture),  # noqa: S704
        refusal=refusal,
    )


@router.get("/second-step")
def show_second_step(request: Request) -> Response:
    """Set up a second step: a picture for the phone, and a code that shows that it was taken."""
    with signed_in(request) as (_, someone):
        return _set_up_page(request, someone, second_step.new_secret())


@router.post("/second-step")
def set_up_second_step(request: Request, fields: Fields = FORM) -> Response:
    """Turn it on; the recovery codes are shown once."""
    secret = _keeper(request).show(fields.get("kept", ""))
    with signed_in(request) as (_, someone):
        if secret is None:
            return RedirectResponse("/me/second-step", 303)
    refusal = _checked(request, fields, "old")
    with signed_in(request) as (connection, someone):
        try:
            if refusal is not None:
                raise refusal
            codes = second_step.turn_on(connection, _keeper(request), session_token(request), secret, fields.get("code", ""))
        except Refused as problem:
            return _set_up_page(request, someone, secret, problem)
        audit.note(connection, someone, "second_step_on")
        return page(request, "recovery_codes.html", someone=someone, codes=codes)


@router.post("/second-step/end")
def end_second_step(request: Request, fields: Fields = FORM) -> Response:
    """Take it away again."""
    with signed_in(request):
        pass
    refusal = _checked(request, fields, "off")
    with signed_in(request) as (connection, someone):
        if refusal is None:
            people.end_own_second_factor(connection, token_hash(session_token(request)))
            audit.note(connection, someone, "second_step_off")
        return _page(request, connection, someone, refusal, "" if refusal else "The second step is gone.")
