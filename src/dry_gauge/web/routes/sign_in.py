"""Signing in and out, and how each person reads numbers."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Form, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import BaseModel

from dry_gauge.present.hints import HINTS
from dry_gauge.service.second_step import WRONG_CODE, Keeper, known_by, pass_second_step
from dry_gauge.service.sign_in import Known, TooManyTries, begin_session, sign_in, sign_out
from dry_gauge.store.people import put_hint_away, set_preferences
from dry_gauge.web import callers
from dry_gauge.web.form_token import NEW_SESSION
from dry_gauge.web.pending import Pending, safe_path
from dry_gauge.web.render import page
from dry_gauge.web.security import SignInNeeded, engine_of, forget_session_cookie, session_token, set_session_cookie, signed_in

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
    if not form.login.strip() or not form.password:
        return _again(request, form, "Type your login and your password.", 422)
    caller = callers.caller(request, form.login)
    try:
        found = sign_in(engine_of(request), form.login, form.password, caller)
    except TooManyTries:
        return _again(request, form, "Too many tries. Wait 15 minutes, or ask a lead of your shop.", 429)
    if found is None:
        return _again(request, form, "Login or password is wrong.", 401)
    if isinstance(found, Known):
        return _code_page(request, form, callers.first_step_done(request, found.login))
    return _let_in(request, form, found, form.login.strip().lower())


class CodeForm(SignInForm):
    """The code, and the proof that the password was right."""

    code: str = ""
    step: str = ""


@router.post("/sign-in/code")
def do_second_step(request: Request, form: Annotated[CodeForm, Form()]) -> Response:
    """The second step: a code from the phone, or a recovery code."""
    login = callers.login_of_step(request, form.step)
    known = known_by(engine_of(request), login) if login else None
    if known is None:
        return _again(request, form, "That took too long. Type your password once more.", 401)
    keeper: Keeper = request.app.state.keeper
    caller = callers.caller(request, known.login)
    try:
        good = pass_second_step(engine_of(request), keeper, known, form.code[:60], caller)
    except TooManyTries:
        return _again(request, form, "Too many tries. Wait 15 minutes, or ask a lead of your shop.", 429)
    if not good:
        return _code_page(request, form, form.step, WRONG_CODE)
    return _let_in(request, form, begin_session(engine_of(request), known, caller), known.login)


def _again(request: Request, form: SignInForm, error: str, status: int) -> Response:
    refused = page(
        request,
        "sign_in.html",
        status=status,
        to=safe_path(form.to),
        login=form.login,
        error=error,
        pending=Pending.read(form.pending),
    )
    if status == 429:
        refused.headers["retry-after"] = "900"
    return refused


def _code_page(request: Request, form: SignInForm, step: str, error: str = "") -> Response:
    return page(
        request,
        "sign_in_code.html",
        status=401 if error else 200,
        to=safe_path(form.to),
        step=step,
        error=error,
        pending=Pending.read(form.pending),
    )


def _let_in(request: Request, form: SignInForm, token: str, login: str) -> Response:
    request.scope[NEW_SESSION] = token
    to, pending = safe_path(form.to), Pending.read(form.pending)
    answer: Response = page(request, "resend.html", to=to, pending=pending) if pending else RedirectResponse(to, 303)
    set_session_cookie(request, answer, token)
    callers.remember_device(request, answer, login)
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
    clock: Literal["12", "24"] | None = None
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
