"""Forms come from our own pages, and from whoever is signed in now: a token that only a page of this session knows.

The token is made of a random cookie and the session's, so it changes at sign-in and sign-out and lives as long as they do.
A page sends it as a header or as the form's first field; of the body only as much is read here as it takes to find it.
"""

from __future__ import annotations

import re
import secrets
from collections.abc import Awaitable, Callable
from hashlib import sha256
from hmac import compare_digest, new
from http.cookies import CookieError, SimpleCookie

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from dry_gauge.web.cookies import FORM_COOKIE, SESSION_COOKIE, cookie_named, is_secure

HEADER = b"x-csrftoken"
NEW_SESSION = "dry-gauge.new-session"
"""Where an answer that begins a session says so: its own forms are sent under that one."""
_SAFE = frozenset({"GET", "HEAD", "OPTIONS", "TRACE"})
_RANDOM = re.compile(r"[A-Za-z0-9_-]{20,80}")
_IN_FORM = re.compile(rb"(?:^|&)csrftoken=([^&]*)(?=&)")
_IN_PARTS = re.compile(rb'name="csrftoken"\r\n\r\n([^\r]{0,200})\r\n')
_MOST_READ = 64 * 1024  # our pages send it first
_YEAR_SECONDS = 365 * 86400

Refuse = Callable[[Scope, Send], Awaitable[None]]


def cookies_of(scope: Scope) -> dict[str, str]:
    """The cookies of a request; odd ones are as good as none."""
    found: dict[str, str] = {}
    for name, value in scope["headers"]:
        if name != b"cookie":
            continue
        try:
            found |= {key: morsel.value for key, morsel in SimpleCookie(value.decode("latin-1")).items()}
        except CookieError:
            continue
    return found


class FormGuard:
    """Lets a changing request through with the token of its cookies, and gives pages theirs by ``scope["csrftoken"]()``."""

    def __init__(self, app: ASGIApp, secret_key: str, refuse: Refuse) -> None:
        self.app, self.key, self.refuse = app, secret_key.encode(), refuse

    def token(self, form_cookie: str, session: str) -> str:
        """The token that goes with those cookies."""
        return new(self.key, f"form|{form_cookie}|{session}".encode(), sha256).hexdigest()[:40]

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request through."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        cookies = cookies_of(scope)
        name, session = cookie_named(FORM_COOKIE, scope), cookies.get(cookie_named(SESSION_COOKIE, scope), "")
        known = cookies.get(name, "")
        known = known if _RANDOM.fullmatch(known) else ""
        form_cookie = known or secrets.token_urlsafe(24)
        given = False

        def give() -> str:
            nonlocal given
            given = True
            return self.token(form_cookie, scope.get(NEW_SESSION, session))

        async def send_with_cookie(message: Message) -> None:
            if message["type"] == "http.response.start" and given and not known:
                words = f"{name}={form_cookie}; Path=/; Max-Age={_YEAR_SECONDS}; HttpOnly; SameSite=Lax"
                words += "; Secure" if is_secure(scope) else ""
                message = {**message, "headers": [*message.get("headers", []), (b"set-cookie", words.encode())]}
            await send(message)

        scope["csrftoken"] = give
        # Without a session nothing can be changed: it ends at the sign-in, which carries what was typed.
        asks = session or scope["path"].startswith("/sign-in")
        if scope["method"] not in _SAFE and asks and not scope["path"].startswith("/api/"):
            sent, receive = await _token_sent(scope, receive)
            if not known or not compare_digest(sent.encode(), self.token(known, session).encode()):
                await self.refuse(scope, send_with_cookie)
                return
        await self.app(scope, receive, send_with_cookie)


async def _token_sent(scope: Scope, receive: Receive) -> tuple[str, Receive]:
    """The token of a request, and a `receive` that gives again what was read to find it."""
    headers = dict(scope["headers"])
    if HEADER in headers:
        return headers[HEADER].decode("latin-1"), receive
    in_parts = headers.get(b"content-type", b"").startswith(b"multipart/form-data")
    if not in_parts and not headers.get(b"content-type", b"").startswith(b"application/x-www-form-urlencoded"):
        return "", receive
    read: list[Message] = []
    body = b""
    while True:
        message = await receive()
        read.append(message)
        more = message["type"] == "http.request" and message.get("more_body", False)
        body += message.get("body", b"")
        # The last field of a form ends with the body.
        found = _IN_PARTS.search(body) if in_parts else _IN_FORM.search(body if more else body + b"&")
        if found or not more or len(body) > _MOST_READ:
            break

    async def again() -> Message:
        return read.pop(0) if read else await receive()

    return found[1].decode("latin-1") if found else "", again
