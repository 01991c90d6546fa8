"""Board, unit card and timeline: what a technician finds again tomorrow."""

from __future__ import annotations

from datetime import datetime, timedelta

import pytest
import uuid6
from bs4 import BeautifulSoup
from sqlalchemy import insert, text

from dry_gauge.store.models import Visit
from tests.builders import HEALTHY
from tests.web.calls import Browser, read


@pytest.fixture
def browser(server, shop):
    made = Browser(server)
    made.sign_in(shop.logins["technician"])
    made.get(f"/visits/{shop.visit}")
    return made


def plan(owner, shop, when, **values):
    visit = uuid6.uuid7()
    with owner.begin() as connection:
        connection.execute(
            insert(Visit).values(
                shop_id=shop.id,
                id=visit,
                call_id=visit,
                unit_id=shop.unit,
                technician_id=shop.people["technician"],
                planned_for=when,
                **values,
            )
        )
    return visit


def soup(response):
    return BeautifulSoup(response.text, "html.parser")


def test_the_board_lists_today_in_order_and_what_is_still_open(browser, shop, owner):
    now = datetime.now().astimezone().replace(hour=12)
    later = plan(owner, shop, now.replace(hour=23, minute=59, second=59), complaint="later")
    plan(owner, shop, now - timedelta(days=2), status="open", complaint="from before")
    plan(owner, shop, now - timedelta(days=2), status="closed", complaint="done before")
    plan(owner, shop, now + timedelta(days=1), complaint="tomorrow")
    page = soup(browser.get("/"))
    calls = [call["href"] for call in page.select(".call")]
    assert calls[-1] == f"/visits/{later}?at=arrive"
    assert len(calls) == 2
    assert len(page.select(".board-lower .follow")) == 1
    assert "tomorrow" not in page.text


def test_a_call_shows_its_verdict_and_its_fingerprint(browser, shop):
    for quantity, value in HEALTHY.items():
        read(browser, shop, f"{value}", quantity=quantity, unit="psig" if "pressure" in quantity else "F")
    call = soup(browser.get("/")).select_one(".call")
    assert "healthy so far" in call.text
    drawing = call.select_one("svg.fingerprint")
    assert len(drawing.select(".block-full")) >= 4
    assert drawing.select_one("title").text == "Signal House, U-1"


def test_an_empty_board_says_what_to_do(browser, owner, shop):
    with owner.begin() as connection:
        connection.execute(text("UPDATE visit SET planned_for = now() - interval '9 days' WHERE shop_id = :id"), {"id": shop.id})
    assert "Open one with New visit here" in browser.get("/").text


def test_the_unit_card_marks_the_unknown_and_warns_of_flammables(server, make_shop):
    shop = make_shop({"kind": "split_heat_pump", "refrigerant": "R-32"})
    browser = Browser(server)
    browser.sign_in(shop.logins["lead"])
    page = soup(browser.get(f"/units/{shop.unit}"))
    unknown = {row.find("dt").text for row in page.select(".facts .unknown")}
    assert {"Metering", "Size", "Label charge", "Efficiency"} <= unknown
    assert "Mildly flammable" in page.select_one(".caution").text


def test_what_people_write_is_shown_as_they_wrote_it(browser, shop):
    nasty = "<img src=x onerror=alert(1)> & \"quotes\" 'n' ünïcode"
    browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), kind="note", text=nasty)
    page = browser.get(f"/visits/{shop.visit}")
    assert "<img src=x" not in page.text
    assert soup(page).select_one(".kind-note .how").text == nasty


def test_an_empty_or_endless_note_is_refused_and_given_back(browser, shop):
    for words, reason in (("   ", "few words"), ("x" * 4001, "4000")):
        answer = browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), kind="note", text=words)
        assert answer.status_code == 422
        assert reason in answer.text
        assert soup(answer).find("textarea").text.strip() == words.strip()


@pytest.mark.usefixtures("hundred_notes")
def test_a_long_timeline_comes_in_pages(browser, shop):
    page = soup(browser.get(f"/visits/{shop.visit}"))
    seen = [int(row["data-sequence"]) for row in page.select("#entries li")]
    while button := page.select_one("#older button[hx-get]"):
        page = soup(browser.get(button["hx-get"], **{"hx-request": "true"}))
        assert len(page.select("#older")) <= 1
        assert page.select_one("#older li") is None  # else the next page would replace this one
        seen += [int(row["data-sequence"]) for row in page.select("li[data-sequence]")]
    assert seen == list(range(100, 0, -1))


def test_a_void_strikes_its_line_and_gives_the_field_back(browser, shop):
    read(browser, shop, "110")
    answer = read(browser, shop, "118")
    latest = soup(answer).select_one("input[name=voids]")["value"]
    answer = browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), kind="void", voids=latest)
    page = soup(answer)
    assert page.select_one(".voided .how").text == "118 psig"
    assert page.find(id="q-suction_pressure")["value"] == "110"
    again = browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), kind="void", voids=latest)
    assert again.status_code == 200
    assert "1 taken back" in again.text


def test_two_circuits_are_read_and_judged_apart(browser, shop):
    read(browser, shop, "120")
    read(browser, shop, "90", circuit="2")
    first, second = (soup(browser.get(f"/visits/{shop.visit}?circuit={number}")) for number in (1, 2))
    assert first.find(id="q-suction_pressure")["value"] == "120"
    assert second.find(id="q-suction_pressure")["value"] == "90"
    assert second.select_one("#row-suction_pressure input[name=circuit]")["value"] == "2"
    assert browser.get(f"/visits/{shop.visit}?circuit=99999").status_code == 200


def test_static_files_may_be_kept_and_text_is_compressed(browser):
    page = soup(browser.get("/"))
    script = page.find("script")["src"]
    answer = browser.get(script, **{"accept-encoding": "gzip"})
    assert "immutable" in answer.headers["cache-control"]
    assert answer.headers["content-encoding"] == "gzip"
    assert browser.get(script.split("?")[0]).headers["cache-control"] == "no-cache"
    assert browser.get("/").headers["cache-control"] == "no-store"  # what is private no cache keeps


def test_the_clock_takes_minutes_and_only_minutes(browser, shop):
    def clock(minutes):
        return browser.post(
            f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), kind="clock", event="started", minutes_ago=minutes
        )

    assert clock("18 min").status_code == 200
    for minutes, words in (("-1", "negative"), ("99999", "30 days"), ("soon", "not a number"), ("2 h", "Type minutes")):
        answer = clock(minutes)
        assert answer.status_code == 422
        assert words in answer.text


def test_a_page_on_the_second_circuit_gets_its_own_ladder_back(browser, shop):
    read(browser, shop, "120")
    read(browser, shop, "90", circuit="2")
    read(browser, shop, "55", circuit="2", quantity="suction_line_temp", unit="F")
    data = {
        "entry_id": str(uuid6.uuid7()),
        "kind": "observation",
        "what": "oil_stain",
        "state": "yes",
        "csrftoken": browser.token,
    }
    said = {
        number: soup(
            browser.ask(
                "POST",
                f"/visits/{shop.visit}/entries",
                {**data, "entry_id": str(uuid6.uuid7())},
                **{"hx-request": "true", "x-circuit": number},
            )
        )
        .find(id="judge")
        .text
        for number in ("1", "2", "lots")
    }
    assert said["1"] == said["lots"]
    assert "Still to read: suction line" in said["1"]
    assert "Still to read: liquid" in said["2"]


def test_the_senders_clock_stands_beside_the_servers(browser, shop, owner):
    for sent in ("2026-03-04T05:06:07.000Z", "yesterday", ""):
        data = {"entry_id": str(uuid6.uuid7()), "kind": "note", "text": "n", "csrftoken": browser.token}
        answer = browser.ask("POST", f"/visits/{shop.visit}/entries", data, **{"hx-request": "true", "x-device-time": sent})
        assert answer.status_code == 200
    with owner.connect() as connection:
        rows = connection.execute(
            text("SELECT device_time, received_at FROM entry WHERE visit_id = :id ORDER BY sequence"), {"id": shop.visit}
        ).all()
    assert [row.device_time is not None for row in rows] == [True, False, False]
    assert rows[0].device_time.year == 2026
    assert all(row.received_at for row in rows)
