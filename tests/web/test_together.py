"""What waited in a browser, sent together over HTTP."""

from __future__ import annotations

import json

import uuid6
from bs4 import BeautifulSoup
from sqlalchemy import select

from dry_gauge.store.models import EntryRow


def note(text="seen", entry_id=None):
    return [["entry_id", str(entry_id or uuid6.uuid7())], ["kind", "note"], ["text", text]]


def together(browser, shop, *entries, writer=None, **more):
    rows = [
        {"writer": str(writer or shop.people["technician"]), "waited_ms": 60_000 * (len(entries) - i), "fields": fields}
        for i, fields in enumerate(entries)
    ]
    return browser.send_json(f"/visits/{shop.visit}/entries/together", {"sender": "phone-1", "entries": rows, **more})


def texts(owner, shop):
    with owner.connect() as connection:
        rows = connection.execute(select(EntryRow.body).where(EntryRow.visit_id == shop.visit).order_by(EntryRow.written_at))
        return [row.body["text"] for row in rows]


def test_each_is_answered_and_a_refused_one_is_said_alone(browser, shop, owner):
    once = uuid6.uuid7()
    answer = together(browser, shop, note("one", once), note(""), note("nul\0"), note("two"))
    said = json.loads(answer.content)["answers"]
    assert [one["status"] for one in said] == [200, 422, 422, 200]
    assert said[1]["why"] == "Write a few words first."
    assert "NUL" in said[2]["why"]
    again = json.loads(together(browser, shop, note("one", once)).content)["answers"]
    assert [one["status"] for one in again] == [200]
    assert texts(owner, shop) == ["one", "two"]


def test_nothing_is_kept_in_another_name(browser, shop, owner):
    answer = together(browser, shop, note("theirs"), writer=shop.people["lead"])
    assert [one["status"] for one in json.loads(answer.content)["answers"]] == [401]
    assert texts(owner, shop) == []


def test_more_than_fits_or_something_else_is_refused_without_a_trace(browser, shop):
    assert together(browser, shop, *[note() for _ in range(101)]).status_code == 422
    assert together(browser, shop, note(), surprise=1).status_code == 422
    assert browser.send_json(f"/visits/{shop.visit}/entries/together", "x").status_code == 422


def test_a_safety_found_lifted_after_closing_stands_first_on_the_board(browser, shop):
    close = {"entry_id": str(uuid6.uuid7()), "kind": "closing", "outcome": "waiting", "summary": "part ordered"}
    assert browser.post(f"/visits/{shop.visit}/entries", **close).status_code == 200
    assert "opened-after" not in browser.get("/").text
    lifted = [
        ["entry_id", str(uuid6.uuid7())],
        ["kind", "temporary"],
        ["sort", "safety"],
        ["where", "high-pressure switch jumpered"],
    ]
    (answer,) = json.loads(together(browser, shop, lifted).content)["answers"]
    assert answer == {"status": 200, "why": ""}
    (line,) = BeautifulSoup(browser.get("/").text, "html.parser").select(".opened-after li")
    assert "high-pressure switch jumpered" in line.select_one(".firm").text
    assert line.select_one("a")["href"] == f"/visits/{shop.visit}?at=close"
