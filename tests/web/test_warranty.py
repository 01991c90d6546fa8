"""A unit's warranties: counted in days, claimed with evidence, and handed on."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
import uuid6
from bs4 import BeautifulSoup
from sqlalchemy import text, update

from dry_gauge.store.models import Unit
from tests.web.calls import Browser


def words(answer):
    return BeautifulSoup(answer.text, "html.parser").get_text(" ", strip=True)


GOOD = {"what": "Compressor", "whose": "Norrland", "start_from": "installed", "parts_months": "60", "labour_months": "12"}


def test_a_warranty_counts_its_days_and_a_claim_keeps_its_evidence(browser, shop, owner):
    where = f"/units/{shop.unit}/warranty"
    started = date.today() - timedelta(days=500)
    with owner.begin() as connection:
        connection.execute(update(Unit).where(Unit.id == shop.unit).values(serial="NL1806 22417", model="NR-060"))
    assert "week 18 of 2006" in words(browser.get(where)) or "week 6 of 2018" in words(browser.get(where))
    assert browser.post(where, False, **GOOD, starts_on=str(started)).status_code == 303
    page = browser.get(where)
    assert "days left" in words(page)
    assert "over since" in words(page)  # labour
    warranty = BeautifulSoup(page.text, "html.parser").select_one("input[name=warranty]")["value"]
    reading = {"kind": "reading", "quantity": "suction_pressure", "value": "95", "unit": "psig"}
    browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), **reading)
    failed = {"failed": "Windings to ground", "why": "lightning", "visit": str(shop.visit)}
    claimed = browser.post(f"{where}/claims", False, warranty=warranty, **failed)
    assert claimed.status_code == 303
    claim = claimed.headers["location"].rpartition("claim-")[2]
    assert browser.post(f"{where}/claims/{claim}", False, evidence="part_kept", sent="yes", answer="granted").status_code == 303
    with owner.begin() as connection:
        row = connection.execute(text("SELECT evidence, sent_on, answer FROM warranty_claim WHERE id = :id"), {"id": claim}).one()
    assert (row.evidence, row.sent_on, row.answer) == ({"part_kept": True}, date.today(), "granted")
    page = BeautifulSoup(browser.get(where).text, "html.parser")
    ticked = {one["value"] for one in page.select("[name=evidence][checked]")}
    assert ticked == {"part_kept", "serial", "readings"}  # what the card and the notebook show counts by itself
    assert browser.get(f"{where}/claims/{claim}.pdf").content.startswith(b"%PDF")
    assert browser.post(f"{where}/claims/{claim}", False, answer="perhaps").status_code == 422
    typed = {"evidence": "failed_photo", "parts_cents": "a lot", "labour_cents": "90", "answer": "in part"}
    odd = browser.post(f"{where}/claims/{claim}", False, **typed)
    assert (odd.status_code, "is no price" in words(odd)) == (422, True)
    for kept in ('value="a lot"', 'value="90"', 'value="failed_photo" checked', "selected>in part"):
        assert kept in odd.text
    asked = {"parts_cents": "1,240.50", "labour_cents": "90", "granted_cents": "800", "answer": "in part"}
    assert browser.post(f"{where}/claims/{claim}", False, **asked).status_code == 303
    assert "asks for 1,330.50" in words(browser.get(where))
    assert "in part" in words(browser.get(where))
    assert ": 800.00" in words(browser.get(where))
    assert browser.post(f"{where}/claims/{claim}", False, labour_cents="-5").status_code == 422
    assert "in part" in words(browser.get(where))  # what was refused changed nothing
    assert browser.post(where, False, drop=warranty).status_code == 303
    assert "No warranty is on record" in words(browser.get(where))


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"starts_on": ""}, "needs its first day"),
        ({"starts_on": "2999-01-01"}, "after today"),
        ({"parts_months": "0", "labour_months": ""}, "parts or labor"),
        ({"parts_months": "x"}, "whole number"),
        ({"start_from": "rumour"}, "what its first day rests on"),
        ({"what": ""}, "What it covers is needed"),
    ],
)
def test_an_odd_warranty_is_refused_and_nothing_typed_is_lost(browser, shop, fields, says):
    answer = browser.post(f"/units/{shop.unit}/warranty", False, **{**GOOD, "starts_on": "2026-01-01", **fields})
    assert answer.status_code == 422
    assert says in words(answer)
    assert 'value="Norrland"' in answer.text


def test_what_is_over_is_claimed_no_more_and_others_units_are_not_here(browser, server, shop, make_shop):
    where = f"/units/{shop.unit}/warranty"
    assert browser.post(where, False, **{**GOOD, "starts_on": "2001-01-01"}).status_code == 303
    warranty = BeautifulSoup(browser.get(where).text, "html.parser").select_one("input[name=warranty]")["value"]
    over = browser.post(f"{where}/claims", False, warranty=warranty, failed="x")
    assert (over.status_code, "cover of this warranty is over" in words(over)) == (422, True)
    other = make_shop()
    assert browser.get(f"/units/{other.unit}/warranty").status_code == 404
    assert browser.post(f"/units/{other.unit}/warranty", False, **GOOD, starts_on="2026-01-01").status_code == 404
    assert browser.post(f"{where}/claims", False, warranty=str(uuid6.uuid7()), failed="x").status_code == 404
    reading = Browser(server)
    reading.sign_in(shop.logins["read_only"])
    assert reading.post(where, False, **GOOD, starts_on="2026-01-01").status_code == 403
