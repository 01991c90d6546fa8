"""A small browser over HTTP, and the entries that tests send with it."""

from __future__ import annotations

import asyncio
import re
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any, TypeVar

import httpx2
import uuid6

from tests.conftest import PASSWORD

PATIENCE_SECONDS = 40.0
"""Of a client: beside another load an answer may take long, and that is no failure of what is tried."""


@dataclass
class Browser:
    """A small browser: keeps Secure cookies on loopback, as real ones do, and sends the form token."""

    base: str
    cookies: dict[str, str] = field(default_factory=dict)
    token: str = ""
    host: str = ""
    """Under which name it asks, where that is not the server's own."""

    def ask(
        self, method: str, path: str, data: dict[str, str] | None = None, content: object = None, **headers: str
    ) -> httpx2.Response:
        sent = {"cookie": "; ".join(f"{name}={value}" for name, value in self.cookies.items()), "host": self.host, **headers}
        # Nothing here is under TLS; making ready for it takes 70 ms of every call.
        with httpx2.Client(base_url=self.base, follow_redirects=False, timeout=PATIENCE_SECONDS, verify=False) as client:
            response = client.request(method, path, data=data, json=content, headers={k: v for k, v in sent.items() if v})
        for line in response.headers.get_list("set-cookie"):
            name, value = line.split(";")[0].split("=", 1)
            self.cookies[name] = value.strip('"')
        found = re.search(r'name="csrftoken" value="([^"]+)"', response.text)
        self.token = found[1] if found else self.token
        return response

    def get(self, path: str, **headers: str) -> httpx2.Response:
        return self.ask("GET", path, **headers)

    def post(self, path: str, fragments: bool = True, **data: str) -> httpx2.Response:
        return self.ask("POST", path, {"csrftoken": self.token, **data}, **({"hx-request": "true"} if fragments else {}))

    def send_json(self, path: str, content: object) -> httpx2.Response:
        return self.ask("POST", path, content=content, **{"x-csrftoken": self.token})

    def sign_in(self, login: str, password: str = PASSWORD) -> httpx2.Response:
        self.get("/sign-in")
        answer = self.post("/sign-in", fragments=False, login=login, password=password)
        if answer.status_code == 303:
            self.get("/me")  # a token is of its session
        return answer


T = TypeVar("T")


def by_itself(scene: Coroutine[Any, Any, T]) -> T:
    """Play a scene on an event loop of its own: the browser tests' loop may run on this thread."""
    with ThreadPoolExecutor(1) as own:
        return own.submit(asyncio.run, scene).result()


def read(browser, shop, value, quantity="suction_pressure", unit="psig", **more):
    return browser.post(
        f"/visits/{shop.visit}/entries",
        **{"entry_id": str(uuid6.uuid7()), "kind": "reading", "quantity": quantity, "value": value, "unit": unit, **more},
    )


def token_of(browser: Browser, visit: object) -> str:
    browser.get(f"/visits/{visit}/probes")
    page = browser.post(f"/visits/{visit}/probes", False).text
    return page.split('class="mono token">')[1].split("<")[0]


def push(base: str, visit: object, token: str, body: bytes, hub: str = "h") -> httpx2.Response:
    return httpx2.post(
        f"{base}/api/v1/visits/{visit}/probes/samples?hub={hub}",
        content=body,
        timeout=PATIENCE_SECONDS,
        headers={"authorization": f"Bearer {token}"},
    )
