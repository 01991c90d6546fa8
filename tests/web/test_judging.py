"""The judgement over HTTP: warnings put aside with a reason, the technician's own verdict, and the pages behind it."""

from __future__ import annotations

import pytest
import uuid6
from bs4 import BeautifulSoup

from dry_gauge.core.judgement.assess import JUDGED_BY
from dry_gauge.core.vocabulary import Fault
from tests.builders import HEALTHY
from tests.web.calls import Browser, read


def read_all(browser, shop, **changed):
    for name, value in (HEALTHY | changed).items():
        answer = read(browser, shop, str(value), name, "psig" if "pressure" in name else "F")
        assert answer.status_code == 200, answer.text


def page(browser, path):
    answer = browser.get(path)
    assert answer.status_code == 200, answer.text
    return BeautifulSoup(answer.text, "html.parser")


def send(browser, shop, **data):
    return browser.post(f"/visits/{shop.visit}/entries", **{"entry_id": str(uuid6.uuid7()), **data})


def test_a_warning_put_aside_stays_aside_until_its_reading_is_new(browser, shop):
    read_all(browser, shop, suction_line_temp=35.0)
    form = page(browser, f"/visits/{shop.visit}").select_one(".oddities form.reason")
    hidden = {
        item["name"]: item["value"] for item in form.select("input[type=hidden]") if item["name"] not in ("csrftoken", "entry_id")
    }
    assert send(browser, shop, **hidden, reason="x").status_code == 422
    assert "say why" in send(browser, shop, **hidden, reason="").text.lower()
    assert send(browser, shop, **hidden, reason="clamp on cold steel, moved it, same").status_code == 200
    aside = page(browser, f"/visits/{shop.visit}").select_one(".oddities .aside")
    assert "clamp on cold steel" in aside.text
    holding = [gate.get_text() for gate in page(browser, f"/visits/{shop.visit}").select(".gates .holding")]
    assert holding  # the others hold on; what was put aside with a reason holds nothing
    assert not any("Odd readings" in words for words in holding)
    read(browser, shop, "34.5", "suction_line_temp", "F")
    assert not any(
        "clamp on cold steel" in item.text for item in page(browser, f"/visits/{shop.visit}").select(".oddities .aside")
    )


def test_an_own_verdict_needs_a_reason_stands_beside_and_can_be_taken_back(browser, shop):
    read_all(browser, shop)
    assert send(browser, shop, kind="override", fault="undercharge", reason="").status_code == 422
    assert send(browser, shop, kind="override", fault="nonsense", reason="because").status_code == 422
    ident = str(uuid6.uuid7())
    kept = browser.post(
        f"/visits/{shop.visit}/entries",
        entry_id=ident,
        kind="override",
        fault="undercharge",
        reason="weighed it out last week: 20 % short",
    )
    assert kept.status_code == 200
    shown = page(browser, f"/visits/{shop.visit}")
    assert "20 % short" in shown.select_one(".own-verdict").text
    assert shown.select_one(".causes .cause")  # what was judged stays visible beside it
    assert send(browser, shop, kind="void", voids=ident).status_code == 200
    assert page(browser, f"/visits/{shop.visit}").select_one(".own-verdict") is None


def test_who_only_reads_along_cannot_overrule(server, shop):
    reader = Browser(server)
    reader.sign_in(shop.logins["read_only"])
    shown = page(reader, f"/visits/{shop.visit}")
    assert not shown.select(".overrule, .put-aside")
    assert send(reader, shop, kind="override", fault="undercharge", reason="because").status_code == 403


@pytest.mark.parametrize("fault", list(Fault))
def test_every_fault_has_a_page_in_plain_words(browser, fault):
    shown = page(browser, f"/why/{fault.value}?sort=cooler")
    assert len(shown.select(".why-words h2")) == 4
    assert bool(shown.select(".trend")) is (fault not in (Fault.NONE, Fault.WRONG_REFRIGERANT))
    assert page(browser, f"/why/{fault.value}?sort=nothing")


def test_the_cycle_says_what_is_missing_and_draws_what_is_there(browser, shop):
    assert "To close the cycle read" in page(browser, f"/visits/{shop.visit}/cycle").select_one("svg.ph").text
    read_all(browser, shop)
    drawn = page(browser, f"/visits/{shop.visit}/cycle").select_one("svg.ph")
    assert drawn.select_one(".cycle")
    assert drawn.select_one(".cycle-fits")
    assert "discharge estimated" in drawn.text


def test_circuits_stand_side_by_side(browser, shop):
    read_all(browser, shop)
    assert "Only one circuit" in page(browser, f"/visits/{shop.visit}/circuits").text
    for name, value in (("suction_pressure", 95), ("suction_line_temp", 60), ("liquid_pressure", 330), ("liquid_line_temp", 98)):
        read(browser, shop, str(value), name, "psig" if "pressure" in name else "F", circuit="2")
    shown = page(browser, f"/visits/{shop.visit}/circuits")
    assert len(shown.select("svg.ladder")) == 2
    unlike = {row.th.text for row in shown.select(".side-table .unlike")}
    assert {"Superheat", "Condenser gap"} <= unlike


def test_a_visit_remembers_what_judged_it(browser, shop, owner):
    read_all(browser, shop)
    with owner.connect() as connection:
        stored = connection.exec_driver_sql("SELECT rule_set FROM visit WHERE id = %s", (shop.visit,)).scalar_one()
    assert stored == JUDGED_BY


def test_a_check_that_cannot_be_made_here_makes_room_for_another(browser, shop):
    send(browser, shop, kind="clock", event="started", minutes_ago="25")
    read_all(browser, shop, suction_pressure=110.0, suction_line_temp=58.0)
    for what in ("evaporator_air_proven", "condenser_air_proven"):
        send(browser, shop, kind="observation", what=what, state="yes")

    def proposed():
        return page(browser, f"/visits/{shop.visit}").select_one("#judge .next")

    seen = []
    for _ in range(3):
        form = proposed().select_one("form.tap")
        assert form is not None, proposed().text
        check = form.select_one("input[name=check]")["value"]
        assert check not in seen
        seen.append(check)
        entry = str(uuid6.uuid7())
        for _ in range(2):  # sent twice does no harm
            answer = browser.post(f"/visits/{shop.visit}/entries", kind="out_of_reach", check=check, entry_id=entry)
            assert answer.status_code == 200
    answer = browser.post(f"/visits/{shop.visit}/entries", kind="void", voids=entry, entry_id=str(uuid6.uuid7()))
    assert answer.status_code == 200
    assert proposed().select_one("input[name=check]")["value"] == seen[-1]
    assert "no such check" in send(browser, shop, kind="out_of_reach", check="nonsense").text
