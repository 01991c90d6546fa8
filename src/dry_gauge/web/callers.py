"""Where a request comes from: its address, its browser in words, and whether that browser has signed in here before."""

from __future__ import annotations

import secrets
from dataclasses import dataclass

from fastapi import Request, Response
from itsdangerous import BadSignature, URLSafeSerializer, URLSafeTimedSerializer

from dry_gauge.service.sign_in import Caller
from dry_gauge.web.cookies import DEVICE_COOKIE, cookie_named, is_secure
from dry_gauge.web.settings import Settings

_YEAR_SECONDS = 365 * 86400
_MOST_LOGINS = 8
STEP_SECONDS = 300

# Each names itself as those after it, too.
_BROWSERS = (
    ("Firefox", "Firefox"),
    ("FxiOS", "Firefox"),
    ("Edg", "Edge"),
    ("OPR", "Opera"),
    ("CriOS", "Chrome"),
    ("Chrome", "Chrome"),
    ("Safari", "Safari"),
)
_SYSTEMS = (
    ("Android", "Android"),
    ("iPhone", "iPhone"),
    ("iPad", "iPad"),
    ("Windows", "Windows"),
    ("Macintosh", "Mac"),
    ("CrOS", "ChromeOS"),
    ("Linux", "Linux"),
)


def device_words(user_agent: str) -> str:
    """A browser in words, as the list of sessions shows it: 'Firefox on Android'."""
    browser = next((words for mark, words in _BROWSERS if mark in user_agent), "")
    system = next((words for mark, words in _SYSTEMS if mark in user_agent), "")
    return f"{browser or 'a browser'} on {system}" if system else browser or "a program"


@dataclass(frozen=True, slots=True)
class _Device:
    """A browser's own random name, and the logins under which it has signed in."""

    name: str
    logins: tuple[str, ...]


def _settings(request: Request) -> Settings:
    settings: Settings = request.app.state.settings
    return settings


def _devices(request: Request) -> URLSafeSerializer:
    return URLSafeSerializer(_settings(request).secret_key, salt="device")


def _device(request: Request) -> _Device:
    try:
        name, logins = _devices(request).loads(request.cookies.get(cookie_named(DEVICE_COOKIE, request.scope), ""))
        return _Device(str(name), tuple(str(one) for one in logins))
    except (BadSignature, TypeError, ValueError):
        return _Device("", ())


def address_of(request: Request) -> str:
    """The client's address: what a trusted proxy says, else who connected."""
    return request.client.host if request.client else "unknown"


def caller(request: Request, login: str) -> Caller:
    """Where a sign-in under that login comes from."""
    device = _device(request)
    known = device.name if login.strip().lower() in device.logins else ""
    return Caller(address_of(request), device_words(request.headers.get("user-agent", "")), known)


def remember_device(request: Request, response: Response, login: str) -> None:
    """Let the browser prove next time that it has signed in under that login: strangers' tries then never stop it."""
    device = _device(request)
    logins = (login, *(one for one in device.logins if one != login))[:_MOST_LOGINS]
    value = _devices(request).dumps([device.name or secrets.token_urlsafe(12), logins])
    response.set_cookie(
        cookie_named(DEVICE_COOKIE, request.scope),
        value,
        max_age=_YEAR_SECONDS,
        secure=is_secure(request.scope),
        httponly=True,
        samesite="lax",
        path="/",
    )


def _steps(request: Request) -> URLSafeTimedSerializer:
    return URLSafeTimedSerializer(_settings(request).secret_key, salt="second step")


def first_step_done(request: Request, login: str) -> str:
    """What the page of the second step sends back: that the password of this login was right, a moment ago."""
    return str(_steps(request).dumps(login))


def login_of_step(request: Request, sent: str) -> str | None:
    """Whose password was right; None where it was not ours, or too long ago."""
    try:
        return str(_steps(request).loads(sent, max_age=STEP_SECONDS))
    except BadSignature:
        return None
