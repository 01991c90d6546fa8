"""No page, part of a page or script names an address that nobody answers."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from starlette.routing import Match

from dry_gauge import web
from dry_gauge.web.app import create_app
from dry_gauge.web.settings import Settings

WEB = Path(web.__file__).parent
METHODS = {"href": "GET", "src": "GET", "hx-get": "GET", "hx-post": "POST", "formaction": "POST"}
_TAG = re.compile(r"<[a-z][^<>]*(?:{%.*?%}[^<>]*|{{.*?}}[^<>]*)*>", re.S)
_NAMED = re.compile(r'\b(href|src|hx-get|hx-post|formaction|action)="(/[^"]*)"')
_SCRIPTED = re.compile(r"[\"'`](/(?:visits|units|me|sign-in|offline|plan|pocket)[^\"'`?#]*)[\"'`?#]")
_SAID = re.compile(r"{{.*?}}|\${[^}]*}", re.S)


def addresses():
    for page in sorted((*WEB.glob("templates/**/*.html"), *WEB.glob("stations/**/*.html"))):
        for tag in _TAG.findall(page.read_text()):
            for attribute, address in _NAMED.findall(tag):
                if "{{ action }}" in address:
                    continue  # of a macro, whose callers name the rest
                posted = attribute == "action" and 'method="post"' in tag
                yield page.relative_to(WEB), "POST" if posted else METHODS.get(attribute, "GET"), address
    for rest in re.findall(r"start\(['\"](/[^'\"]*)['\"]\)", (WEB / "templates/owner/options.html").read_text()):
        yield Path("templates/owner/options.html"), "POST", f"/visits/x/options{rest}"
    for script in sorted((*WEB.glob("static/scripts/*.js"), WEB / "static/sw.js")):
        for address in _SCRIPTED.findall(script.read_text()):
            yield script.relative_to(WEB), None, address


@pytest.fixture(scope="module")
def routes():
    nowhere = "postgresql+psycopg://nobody@127.0.0.1:1/none"
    app = create_app(Settings(database_url=nowhere, secret_key="only for tests, long enough", patterns=True))
    while hasattr(app, "app"):
        app = app.app
    return app.router.routes


def answered(routes, method, address):
    path = re.sub(r"{%.*?%}", "", _SAID.sub("x", address)).split("?")[0].split("#")[0]
    methods = (method,) if method else ("GET", "POST")
    scopes = [{"type": "http", "path": path, "root_path": "", "method": one, "headers": []} for one in methods]
    return any(route.matches(scope)[0] is Match.FULL for route in routes for scope in scopes)


def test_every_address_is_answered(routes):
    listed = list(addresses())
    assert len(listed) > 250
    assert [one for one in listed if not answered(routes, *one[1:])] == []
