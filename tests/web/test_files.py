"""Files over the web: a shop asked for, made beside the requests, fetched, and taken into an empty one; units from a table."""

from __future__ import annotations

import io
import time
import zipfile

import httpx2
import pytest
import uuid6
from bs4 import BeautifulSoup
from sqlalchemy import insert, select, text, update

from dry_gauge.store.models import Job, Person, Shop, Site, Unit
from tests.conftest import ShopOf
from tests.web.calls import PATIENCE_SECONDS, Browser


def words(answer):
    return BeautifulSoup(answer.text, "html.parser").get_text(" ", strip=True)


@pytest.fixture
def lead(server, shop):
    made = Browser(server)
    made.sign_in(shop.logins["lead"])
    made.get("/register/files")
    return made


@pytest.fixture
def empty(server, owner, password_hash):
    """A lead of a shop that holds nothing."""
    shop = ShopOf(uuid6.uuid7())
    with owner.begin() as connection:
        connection.execute(insert(Shop).values(id=shop.id, name="Another yard"))
        connection.execute(
            insert(Person).values(
                shop_id=shop.id,
                id=uuid6.uuid7(),
                login=f"new-{shop.id.hex[-8:]}",
                name="New lead",
                role="lead",
                password_hash=password_hash,
            )
        )
    made = Browser(server)
    made.sign_in(f"new-{shop.id.hex[-8:]}")
    made.get("/register/files")
    return made, shop


def ended(browser):
    """The page once nothing is under way any more."""
    for _ in range(200):
        page = browser.get("/register/files", **{"hx-request": "true"})
        if "hx-trigger" not in page.text:
            return page
        time.sleep(0.3)
    raise AssertionError("the job did not end")


def send(browser, path, name, raw):
    return httpx2.post(
        f"{browser.base}{path}",
        data={"csrftoken": browser.token},
        files={"file": (name, raw)},
        timeout=PATIENCE_SECONDS,
        headers={"cookie": "; ".join(f"{k}={v}" for k, v in browser.cookies.items())},
    )


def test_a_shop_is_taken_along(lead, shop, empty, owner):
    lead.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), kind="note", text="ladder is short")
    assert lead.post("/register/files/out", False, pdfs="yes").status_code == 303
    page = ended(lead)
    link = BeautifulSoup(page.text, "html.parser").select_one("a[href$='.zip']")["href"]
    sent = lead.get(link)
    assert sent.headers["content-disposition"].startswith('attachment; filename="dry-gauge-')
    with zipfile.ZipFile(io.BytesIO(sent.content)) as opened:
        assert f"visits/{shop.visit}.json" in opened.namelist()
    browser, new = empty
    assert browser.get(link).status_code == 404  # another shop's file is not here
    broken = send(browser, "/register/files/archive", "a.zip", sent.content[:-50])
    assert broken.status_code == 303
    assert "not done" in words(ended(browser))
    assert send(browser, "/register/files/archive", "a.zip", sent.content).status_code == 303
    assert "1 units and 1 visits are here" in words(ended(browser))
    assert "ladder is short" in words(browser.get(f"/visits/{shop.visit}"))
    assert "Signal House" in words(browser.get("/register"))
    full = send(browser, "/register/files/archive", "a.zip", sent.content)
    assert (full.status_code, "into an empty shop" in words(full)) == (422, True)
    with owner.begin() as connection:
        assert connection.execute(select(Unit.shop_id).where(Unit.id == shop.unit)).scalars().all().count(new.id) == 1


def test_who_may_and_one_at_a_time(lead, shop, server, owner):
    technician = Browser(server)
    technician.sign_in(shop.logins["technician"])
    assert technician.get("/register/files").status_code == 200
    assert technician.post("/register/files/out", False).status_code == 403
    with owner.begin() as connection:  # one that some process is at work on
        connection.execute(
            text(
                "INSERT INTO job (shop_id, id, person_id, sort, asked, made_at, state, seen_at) VALUES (:shop, "
                "gen_random_uuid(), :person, 'archive_out', '{}', now(), 'going', now())"
            ),
            {"shop": shop.id, "person": shop.people["lead"]},
        )
    busy = lead.post("/register/files/out", False)
    assert (busy.status_code, "under way already" in words(busy)) == (422, True)
    # Its process died: nobody has told of it for minutes, so another takes it up and ends it.
    with owner.begin() as connection:
        connection.execute(update(Job).where(Job.shop_id == shop.id).values(seen_at=text("now() - interval '5 minutes'")))
    assert ".zip" in ended(lead).text
    assert send(lead, "/register/files/archive", "a.zip", b"").status_code == 422
    assert lead.get(f"/register/files/{uuid6.uuid7()}.zip").status_code == 404


TABLE = ("Customer;Unit;Type;Gas;Model;Year;Tons\nHarbour café;RTU-9;rooftop;R410A;NR-060;2018;5\n"
         "Harbour café;RTU-9;rooftop;R-410A;;;\nHarbour café;C-1;cooler;R-448A;;1890;\n"
         "Signal House;U-1;split;R-410A;;;\nPier;;split;R-22;;;\nPier;AC;kettle;R-22;;;\n"
         "Pier;AC;split;R-999;;;\nPier;AC-3;split;r22;;2003;36000\n")  # fmt: skip


def test_units_come_from_a_table_after_a_look(lead, shop, owner):
    looked = send(lead, "/register/units-table", "u.csv", TABLE.encode("latin-1"))
    said = words(looked)
    assert "2 new units at 2 new sites, 1 here already, 5 refused" in said
    for why in ("stands twice", "no year", "a site and a tag", "no sort of unit", "R-999"):
        assert why in said
    again = BeautifulSoup(looked.text, "html.parser").select_one("input[name=raw]")["value"]
    with owner.begin() as connection:
        assert connection.execute(select(Unit.tag).where(Unit.shop_id == shop.id)).scalars().all() == ["U-1"]
    assert lead.post("/register/units-table", False, raw=again, take="yes").status_code == 303
    with owner.begin() as connection:
        found = dict(connection.execute(select(Unit.tag, Unit.facts).where(Unit.shop_id == shop.id)).all())
        assert "Harbour café" in connection.execute(select(Site.name).where(Site.shop_id == shop.id)).scalars().all()
    assert found["RTU-9"]["nominal_capacity_btuh"] == 60000
    assert (found["AC-3"]["refrigerant"], found["AC-3"]["nominal_capacity_btuh"]) == ("R-22", 36000)
    lead.post("/register/units-table", False, raw=again, take="yes")  # twice is once
    with owner.begin() as connection:
        assert len(connection.execute(select(Unit.tag).where(Unit.shop_id == shop.id)).all()) == 3
    for odd in (b"", b"hello", b"\x00;\x01", b"a;b\n1;2"):
        assert send(lead, "/register/units-table", "u.csv", odd).status_code == 422
