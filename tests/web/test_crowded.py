"""Many at once: what waits for one visit holds nobody else up, and pages that look on have a limit with words."""

from __future__ import annotations

import threading
import time
from contextlib import ExitStack

import httpx2
import uuid6
from sqlalchemy import text

from dry_gauge.web import feeds
from tests.web.calls import Browser, read


def test_a_locked_visit_holds_up_nobody_else(server, shop, make_shop, owner):
    other = make_shop()
    mine, theirs = Browser(server), Browser(server)
    for browser, of in ((mine, shop), (theirs, other)):
        browser.sign_in(of.logins["technician"])
        browser.get(f"/visits/{of.visit}")
    answered: list[int] = []

    def post() -> None:
        try:
            answer = mine.ask(
                "POST",
                f"/visits/{shop.visit}/entries",
                {"csrftoken": mine.token, "entry_id": str(uuid6.uuid7()), "kind": "note", "text": "waits"},
                **{"hx-request": "true"},
            )
        except httpx2.TimeoutException:  # the machine was so slow that this client gave up before the lock ended
            answered.append(503)
        else:
            answered.append(answer.status_code)

    with owner.begin() as lock:
        lock.execute(text("SELECT 1 FROM visit WHERE id = :id FOR UPDATE"), {"id": shop.visit})
        waiting = [threading.Thread(target=post) for _ in range(12)]
        for one in waiting:
            one.start()
        time.sleep(1)
        for value in range(110, 116):
            assert read(theirs, other, str(value)).status_code == 200
        assert 200 not in answered  # beside another load some may have given up by now, with words
    for one in waiting:
        one.join(60)
    assert len(answered) == 12
    assert set(answered) <= {200, 503}


def test_pages_that_look_on_have_a_limit_with_words(server, shop):
    browser = Browser(server)
    browser.sign_in(shop.logins["technician"])
    headers = {"cookie": "; ".join(f"{key}={value}" for key, value in browser.cookies.items())}
    path = f"/visits/{shop.visit}/live"
    with httpx2.Client(base_url=server, timeout=30) as client, ExitStack() as pages:
        held = []  # an iterator that is let go closes its page
        for _ in range(feeds.MOST_OF_PERSON):
            held.append(pages.enter_context(client.stream("GET", path, headers=headers)).iter_lines())
            assert next(held[-1]).startswith("retry")
        with client.stream("GET", path, headers=headers) as refused:
            assert (refused.status_code, refused.headers["retry-after"]) == (503, "60")
            assert "Close some" in refused.read().decode()
        colleague = Browser(server)
        colleague.sign_in(shop.logins["lead"])
        theirs = {"cookie": "; ".join(f"{key}={value}" for key, value in colleague.cookies.items())}
        with client.stream("GET", path, headers=theirs) as page:
            lines = page.iter_lines()
            assert next(lines).startswith("retry")
            read(browser, shop, "118")  # told to every page, worked out once for those that read alike
            assert any(line.startswith("event: changed") for line in lines)
            # Whoever joins later, with a page that was drawn before, hears of it all the same.
            with client.stream("GET", f"{path}?seen=0", headers=theirs) as late:
                lines = late.iter_lines()
                assert "event: changed" in [next(lines) for _ in range(3)]
    for _ in range(100):  # what was closed makes room
        with httpx2.stream("GET", f"{server}{path}", headers=headers, timeout=30) as page:
            if page.status_code == 200:
                return
        time.sleep(0.1)
    raise AssertionError("no room was made")
