"""Requests as nobody sends them: every route with mutated fields, bodies, headers and cookies, by everyone who may be signed in.

Not one may be answered with 500, and the visits must open afterwards. Prints its seed; `make fuzz SEED=... REQUESTS=...` repeats.
"""

from __future__ import annotations

import json
import os
import random
import re
import sys
import time
from collections import Counter
from collections.abc import Sequence
from datetime import datetime
from http.client import HTTPConnection, HTTPException
from urllib.parse import quote, urlencode
from uuid import UUID

import uuid6
from fastapi.routing import APIRoute
from sqlalchemy import text

from dry_gauge.demo.cluster import APPLICATION, OWNER
from dry_gauge.demo.ports import free_port
from dry_gauge.demo.shop import PASSWORD, seed
from dry_gauge.notebook.entries import KINDS
from dry_gauge.store.database import connect
from dry_gauge.web.app import create_app
from dry_gauge.web.settings import Settings
from scripts.bench_live import own_cluster
from tests.conftest import start_server
from tests.web.calls import Browser

NASTY = (
    "", " ", "0", "-1", "1e309", "nan", "inf", "-inf", "²", "½", "१२", "9" * 400, "2147483648", "9223372036854775808", "0x10",
    "\0", "\ud7ff", "\u202e", "\ufeff", "🧊" * 50, "<script>alert(1)</script>", "'; DROP TABLE entry; --", "{{7*7}}", "%00",
    "../../etc/passwd", "a" * 5000, "9999-12-31T23:59:59+14:00", "0001-01-01T00:00:00Z", "2026-02-30", "null", "[]", "{}",
    "true", "\r\nSet-Cookie: x=1", "120 psig", "-459.67 F", "1,250 oz", "3 lb 99 oz", "1/0", "3/4", "on", "yes", "no",
    "refrigerant", "R-410A", "reading",
)  # fmt: skip
_WORDS = """
    kind quantity value unit what state text entry_id voids circuit place reason cylinder way weight weight_lb weight_oz
    minutes_ago to login password person role do session token code kept site tag facts refrigerant elevation_ft at size seen
    year q hub photo csrftoken pending step call outcome summary condition on event stage
"""
_NAMES = tuple(_WORDS.split())
_HEADERS: dict[str, Sequence[str]] = {
    "hx-request": ["true", "x"],
    "x-outbox": ["1"],
    "cookie": ["=;;", "a=" + "b" * 3000],
    **dict.fromkeys(
        (
            "x-seen",
            "x-page",
            "x-circuit",
            "x-waited-ms",
            "x-sender",
            "x-writer",
            "accept",
            "x-station",
            "authorization",
            "x-forwarded-for",
        ),
        NASTY,
    ),
}


LOGINS = ("maren", "ines", "odile")


class Fuzz:
    """One run."""

    def __init__(self, host: str, people: list[Browser], ids: dict[str, list[str]], chance: random.Random) -> None:
        self.host, self.people, self.ids, self.chance = host, people, ids, chance
        never = {"live", "stream"}
        self.routes = [route for route in _routes() if not never & set(route.path.split("/"))]
        self.answers: Counter[int] = Counter()
        self.failed: list[str] = []

    def value(self) -> str:
        """Something odd, something that exists, or a mixture of both."""
        pick = self.chance.random()
        if pick < 0.6:
            return self.chance.choice(NASTY)
        known = self.chance.choice([*self.ids.values(), list(KINDS)])
        word = str(self.chance.choice(known))
        if pick < 0.85:
            return word
        i = self.chance.randrange(len(word) + 1)
        return word[:i] + self.chance.choice(NASTY)[:20] + word[i + 1 :]

    def path(self, route: APIRoute) -> str:
        """The route's address, its parts filled with what exists or with something odd."""

        def part(found: re.Match[str]) -> str:
            of = self.ids.get(found[1].partition("_")[0], [])
            return str(self.chance.choice(of)) if of and self.chance.random() < 0.8 else quote(self.value()[:200], safe="")

        path = re.sub(r"\{(\w+)(?::\w+)?\}", part, route.path)
        if self.chance.random() < 0.3:
            path += "?" + urlencode([(self.chance.choice(_NAMES), self.value()) for _ in range(3)], errors="replace")
        return path

    def body(self, token: str) -> tuple[bytes, str]:
        """A body and what it says it is."""
        fields = [("csrftoken", token), ("entry_id", str(uuid6.uuid7())), ("kind", self.chance.choice(list(KINDS)))]
        fields += [(self.chance.choice(_NAMES), self.value()) for _ in range(self.chance.randrange(9))]
        self.chance.shuffle(fields)
        form = urlencode(fields, errors="replace").encode()
        match self.chance.randrange(6):
            case 0:
                boundary = self.chance.choice(["x", "-" * 80, "a b", ""])
                parts = "".join(
                    f'--{boundary}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n' for name, value in fields
                )
                raw = (parts + f"--{boundary}--").encode(errors="replace")
                return raw[: self.chance.randrange(len(raw) + 1)], f"multipart/form-data; boundary={boundary}"
            case 1:
                doc = {name: self.chance.choice([value, [value], {name: value}, None, 1e308, -1]) for name, value in fields}
                return json.dumps(doc).encode(errors="replace"), "application/json"
            case 2:
                return self.chance.randbytes(self.chance.randrange(400)), self.chance.choice(
                    ["application/json", "application/x-www-form-urlencoded", "text/plain", "multipart/form-data", ""]
                )
            case _:
                return form, "application/x-www-form-urlencoded"

    def once(self) -> None:
        """One request."""
        route, who = self.chance.choice(self.routes), self.chance.choice(self.people)
        method = self.chance.choice([*(route.methods or {"GET"})])
        if self.chance.random() < 0.05:
            method = self.chance.choice(["GET", "POST", "PUT", "DELETE", "HEAD", "OPTIONS", "TRACE"])
        path = self.path(route)
        if path.startswith(("/sign-out", "/me/sessions", "/me/password", "/me/second-step")) and method == "POST":
            who = self.people[-1]  # nobody
        headers = {"cookie": "; ".join(f"{name}={value}" for name, value in who.cookies.items()), "x-csrftoken": who.token}
        for name, values in _HEADERS.items():
            if self.chance.random() < 0.12:
                headers[name] = self.chance.choice(values)
        headers = {name: value.encode("latin-1", "ignore").decode("latin-1") for name, value in headers.items()}
        headers = {name: value for name, value in headers.items() if not re.search(r"[\r\n\0]", value)}
        raw, kind = self.body(who.token) if method not in ("GET", "HEAD") else (b"", "")
        if kind:
            headers["content-type"] = kind
        connection = HTTPConnection(self.host, timeout=60)
        try:
            connection.request(method, path, raw, headers)
            status = connection.getresponse().status
        except (HTTPException, OSError) as problem:
            status = -1
            if not isinstance(problem, ConnectionError | HTTPException):
                self.failed.append(f"{method} {path}: {problem!r}")
        finally:
            connection.close()
        self.answers[status] += 1
        if status == 500:
            self.failed.append(f"{method} {path} {kind} {raw[:600]!r} {headers}")


def _routes() -> list[APIRoute]:
    settings = Settings("postgresql://nobody@127.0.0.1:1/none", "only to list the routes, and long enough to be taken")
    found: list[APIRoute] = []

    def walk(routes: object) -> None:
        for one in routes:  # type: ignore[attr-defined]
            if isinstance(one, APIRoute):
                found.append(one)
            elif hasattr(one, "original_router"):
                walk(one.original_router.routes)
            elif hasattr(one, "routes") and one.routes:
                walk(one.routes)

    app: object = create_app(settings)
    while not hasattr(app, "routes"):
        app = app.app  # type: ignore[attr-defined]
    walk(app.routes)
    return found


def main() -> int:
    number = int(os.environ.get("SEED") or time.time_ns() % 10**9)
    requests = int(os.environ.get("REQUESTS") or 10_000)
    print(f"seed {number}, {requests:,} requests", flush=True)
    with own_cluster() as cluster:
        owner = connect(cluster.url(OWNER), pool_size=1)
        with owner.begin() as connection:
            seed(connection, datetime.now().astimezone())
            ids = {
                name: [str(one) for one in connection.execute(text(f"SELECT id FROM {name}")).scalars()]
                for name in ("visit", "unit", "site", "cylinder", "person", "entry")
            }
            connection.execute(text("CREATE TABLE person_before AS SELECT id, role, password_hash FROM person"))
        ids |= {"call": ids["visit"], "follow": [str(UUID(int=1))], "photo": [str(UUID(int=1))], "fault": ["undercharge", "none"]}
        port = free_port()
        server = start_server(cluster.url(APPLICATION), port, API_CALLS_PER_MINUTE="1000000", LOG_LEVEL="ERROR", PATTERNS="1")
        try:
            people = []
            for login in LOGINS:
                people.append(Browser(f"http://127.0.0.1:{port}"))
                people[-1].sign_in(login, PASSWORD)
            people.append(Browser(f"http://127.0.0.1:{port}"))
            run = Fuzz(f"127.0.0.1:{port}", people, ids, random.Random(number))
            print(f"{len(run.routes)} routes", flush=True)
            for i in range(requests):
                if i % 250 == 0:  # what the last ones did to people is put right
                    with owner.begin() as connection:
                        connection.execute(
                            text(
                                "UPDATE person SET active = true, role = was.role, password_hash = was."
                                "password_hash FROM person_before was WHERE was.id = person.id"
                            )
                        )
                        connection.execute(text("DELETE FROM rate_window"))
                    for browser, login in zip(people, LOGINS, strict=False):
                        if browser.get("/pocket").status_code != 200 or browser.get("/me").status_code != 200:
                            browser.sign_in(login, PASSWORD)
                run.once()
                if i % 1000 == 999:
                    print(f"  {i + 1:,}: {dict(sorted(run.answers.items()))}", flush=True)
            survivor = Browser(f"http://127.0.0.1:{port}")
            assert survivor.sign_in("tobin", PASSWORD).status_code == 303
            broken = [visit for visit in ids["visit"] if survivor.get(f"/visits/{visit}").status_code != 200]
            run.failed += [f"the visit {visit} does not open any more" for visit in broken]
        finally:
            server.terminate()
            server.wait(15)
            owner.dispose()
    print("\n".join(run.failed[:20]) or "No 500, and every visit opens.")
    return 1 if run.failed else 0


if __name__ == "__main__":
    sys.exit(main())
