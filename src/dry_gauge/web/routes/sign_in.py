"""Signing in and out, and how each person reads numbers."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Form, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import BaseModel

from dry_gauge.present.hints import HINTS
from dry_gauge.service.sign_in import TooManyTries, sign_in, sign_out
from dry_gauge.store.people import put_hint_away, set_preferences
from dry_gauge.web.form_token import NEW_SESSION
from dry_gauge.web.pending import Pending, safe_path
from dry_gauge.web.render import page
from dry_gauge.web.security import (
    SignInNeeded,
    engine_of,
    forget_session_cookie,
    session_token,
    set_session_cookie,
    signed_in,
)

router = APIRouter()


@router.get("/sign-in")
def show_sign_in(request: Request, to: str = "/") -> Response:
    """The sign-in page; someone signed in already goes on."""
    try:
        with signed_in(request):
            return RedirectResponse(safe_path(to), 303)
    except SignInNeeded:
        return page(request, "sign_in.html", to=safe_path(to), login="", error="", pending=None)


class SignInForm(BaseModel):
    """Login and password, and the form that was being sent while the session had ended."""

    login: str = ""
    password: str = ""
    to: str = "/"
    pending: str = ""


@router.post("/sign-in")
def do_sign_in(request: Request, form: Annotated[SignInForm, Form()]) -> Response:
    """Sign in; a waiting entry is then sent as if nothing had happened."""
    to, error, status = safe_path(form.to), "", 401
    pending = Pending.read(form.pending)
    address = request.client.host if request.client else "unknown"
    token = None
    if not form.login.strip() or not form.password:
        error, status = "Type your login and your password.", 422
    else:
        try:
            token = sign_in(engine_of(request), form.login, form.password, address)
            error = "Login or password is wrong."
        except TooManyTries:
            error, status = "Too many tries. Wait 15 minutes, or ask a lead of your shop.", 429
    if token is None:
        refused = page(
            request, "sign_in.html", status=status, to=to, login=form.login, error=error, pending=pending
        )
        if status == 429:
            refused.headers["retry-after"] = "900"
        return refused
    request.scope[NEW_SESSION] = token
    answer: Response = (
        page(request, "resend.html", to=to, pending=pending) if pending else RedirectResponse(to, 303)
    )
    set_session_cookie(request, answer, token)
    return answer


@router.post("/sign-out")
def do_sign_out(request: Request) -> Response:
    """End this session."""
    token = session_token(request)
    if token:
        sign_out(engine_of(request), token)
    answer = RedirectResponse("/sign-in", 303)
    forget_session_cookie(request, answer)
    answer.headers["clear-site-data"] = '"cache"'  # never "storage": entries wait there
    return answer


class PreferencesForm(BaseModel):
    """What to change; what is left out stays."""

    temperature_unit: Literal["F", "C"] | None = None
    pressure_unit: Literal["psi", "kPa", "bar"] | None = None
    theme: Literal["auto", "day", "night"] | None = None
    weight_unit: Literal["lb_oz", "kg"] | None = None
    to: str = "/"


@router.post("/me/preferences")
def change_preferences(request: Request, form: Annotated[PreferencesForm, Form()]) -> Response:
    """Read numbers another way from now on, on every screen."""
    changes = form.model_dump(exclude={"to"}, exclude_none=True)
    with signed_in(request) as (connection, someone):
        if changes:
            set_preferences(connection, someone, changes)
    return RedirectResponse(safe_path(form.to), 303)


@router.post("/me/hints")
def put_away(request: Request, hint: Annotated[str, Form()], to: Annotated[str, Form()] = "/") -> Response:
    """A first-visit hint is put away for good."""
    with signed_in(request) as (connection, someone):
        if hint in HINTS:
            put_hint_away(connection, someone, hint)
    return RedirectResponse(safe_path(to), 303)
