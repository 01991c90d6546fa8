"""Options and prices: put together, offered, decided on the spot and under the link; nothing by halves."""

from __future__ import annotations

import json

import httpx2
import pytest
import uuid6
from bs4 import BeautifulSoup
from sqlalchemy import select, text, update

from dry_gauge.store.models import DecisionRow, PriceRow, Shop
from tests.web.calls import PATIENCE_SECONDS, Browser

SIGNED = json.dumps([[[10, 20], [110, 60], [200, 20], [300, 90]]])


def words(answer):
    return BeautifulSoup(answer.text, "html.parser").get_text(" ", strip=True)


@pytest.fixture
def lead(server, shop, owner):
    with owner.begin() as connection:
        connection.execute(update(Shop).where(Shop.id == shop.id).values(settings={"currency": "USD"}))
    made = Browser(server)
    made.sign_in(shop.logins["lead"])
    made.get("/register/prices")
    return made


def option(lead, shop, sort="repair", **more):
    return lead.post(f"/visits/{shop.visit}/options", False, sort=sort, **more)


def add(lead, shop, place="0", **more):
    return lead.post(f"/visits/{shop.visit}/options/lines", False, place=place, **more)


@pytest.fixture
def offered(lead, shop):
    assert option(lead, shop, leaves="the ducts").status_code == 303
    assert add(lead, shop, what="Compressor", sort="part", per="each", cents="1,485.00", quantity="1").status_code == 303
    assert option(lead, shop, "replace", new_seer="16").status_code == 303
    assert add(lead, shop, "1", what="Unit", sort="unit", per="each", cents="8650", quantity="1").status_code == 303
    assert lead.post(f"/visits/{shop.visit}/options/offer", False).status_code == 303
    page = BeautifulSoup(lead.get(f"/visits/{shop.visit}/options").text, "html.parser")
    return page.select_one("input[name=proposal]")["value"]


def answer(proposal, **more):
    return {
        "decision_id": str(uuid6.uuid7()),
        "proposal": proposal,
        "chosen": "0",
        "name": "Ada Harbour",
        "read": "yes",
        "signature": SIGNED,
        **more,
    }


def link_of(lead, shop):
    lead.post(f"/visits/{shop.visit}/links", False, language="en", days="7")
    page = BeautifulSoup(lead.get(f"/visits/{shop.visit}/report").text, "html.parser")
    return "/o/" + page.select(".owner-link a")[0]["href"].rpartition("/o/")[2]


def decide(server, link, sent):
    return httpx2.post(f"{server}{link}/decide", data=sent, timeout=PATIENCE_SECONDS)


def kept(owner, shop):
    with owner.begin() as connection:
        return connection.execute(select(DecisionRow).where(DecisionRow.shop_id == shop.id).order_by(DecisionRow.at)).all()


def test_an_owner_decides_under_the_link_and_it_is_one_decision(lead, shop, offered, server, owner):
    link = link_of(lead, shop)
    read = httpx2.get(server + link, timeout=PATIENCE_SECONDS)
    assert "$1,485.00" in read.text
    assert "$8,650.00" in read.text
    sent = answer(offered, words="as soon as you can")
    for _ in range(2):  # sent twice is one
        decided = decide(server, link, sent)
        assert decided.status_code == 303, words(decided)
    rows = kept(owner, shop)
    assert [(row.chosen, row.name, row.words, row.person_id) for row in rows] == [(0, "Ada Harbour", "as soon as you can", None)]
    assert rows[0].link_id is not None
    after = httpx2.get(server + link, timeout=PATIENCE_SECONDS).text
    assert "Ada Harbour chose: Repair" in after
    assert 'class="signed"' in after
    # Another way later counts, and the first stays on record.
    assert decide(server, link, answer(offered, chosen="none")).status_code == 303
    assert [row.chosen for row in kept(owner, shop)] == [0, None]
    assert "None of these" in words(lead.get(f"/visits/{shop.visit}/options"))
    assert "declined" in kept(owner, shop)[-1].risks


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"chosen": ""}, "Please choose one"),
        ({"chosen": "7"}, "Please choose one"),
        ({"name": " x "}, "write your name"),
        ({"read": ""}, "tick that you have read"),
        ({"signature": "[[[5,5]]]"}, "a dot is too little"),
        ({"signature": "junk"}, "a dot"),
    ],
)
def test_half_a_decision_is_none_and_nothing_typed_is_lost(lead, shop, offered, server, owner, fields, says):
    link = link_of(lead, shop)
    refused = decide(server, link, answer(offered, words="please by Friday", **fields))
    assert refused.status_code == 422
    assert says in words(refused)
    assert "please by Friday" in refused.text
    assert kept(owner, shop) == []


def test_a_name_typed_is_a_signature_for_who_cannot_draw(lead, shop, offered, owner):
    sent = answer(offered, signature="", typed="yes")
    assert lead.post(f"/visits/{shop.visit}/options/decide", False, **sent).status_code == 303
    row = kept(owner, shop)[0]
    assert row.signature == {"strokes": [], "typed": True}
    assert row.person_id == shop.people["lead"]  # taken down on the spot
    assert "Signed before Ida lead." in lead.get(f"/visits/{shop.visit}/options").text


def test_options_that_have_changed_are_read_again(lead, shop, offered, server, owner):
    link = link_of(lead, shop)
    assert add(lead, shop, what="Drier", sort="part", per="each", cents="36").status_code == 303
    # A draft changes nothing for the owner; offered it does.
    assert "Drier" not in httpx2.get(server + link, timeout=PATIENCE_SECONDS).text
    assert lead.post(f"/visits/{shop.visit}/options/offer", False).status_code == 303
    late = decide(server, link, answer(offered))
    assert (late.status_code, "have changed" in words(late), "Drier" in late.text) == (422, True, True)
    assert kept(owner, shop) == []
    report = BeautifulSoup(lead.get(f"/visits/{shop.visit}/report").text, "html.parser")
    lead.post(report.select(".owner-link form")[0]["action"], False)
    gone = decide(server, link, answer(offered))
    assert gone.status_code == 404
    with owner.begin() as connection:  # what was offered first stands as it stood
        options = connection.execute(text("SELECT options FROM proposal WHERE id = :id"), {"id": offered}).scalar()
    assert len(options[0]["lines"]) == 1


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"what": "x", "cents": "12 EUR"}, "not in USD"),
        ({"what": "x", "cents": "-5", "sort": "part"}, "discount"),
        ({"what": "", "cents": "5"}, "What it is for is needed"),
        ({"what": "x", "cents": "1,234"}, "without thousands"),
        ({"price": str(uuid6.uuid7())}, "price of the list"),
        ({"price": "x"}, "price of the list"),
        ({"what": "x", "cents": ""}, "no price"),
        ({"what": "x", "cents": "5", "quantity": "0"}, "above zero"),
        ({"what": "x", "cents": "5", "per": "furlong"}, "what sort of line"),
        ({"what": "x", "cents": "5", "place": "9"}, "no such option"),
    ],
)
def test_an_odd_line_is_refused(lead, shop, fields, says):
    option(lead, shop)
    answered = add(lead, shop, **{"place": "0", **fields})
    assert answered.status_code == 422
    assert says in words(answered)


def test_only_what_is_whole_is_offered(lead, shop, server):
    nothing = lead.post(f"/visits/{shop.visit}/options/offer", False)
    assert (nothing.status_code, "at least one option" in words(nothing)) == (422, True)
    option(lead, shop)
    empty = lead.post(f"/visits/{shop.visit}/options/offer", False)
    assert (empty.status_code, "has no line yet" in words(empty)) == (422, True)
    for sort, status in (("repair_more", 303), ("replace", 303), ("assembly", 422), ("gift", 422)):
        assert option(lead, shop, sort).status_code == status
    assert option(lead, shop, "replace", new_seer="hot").status_code == 422
    reading = Browser(server)
    reading.sign_in(shop.logins["read_only"])
    assert reading.get(f"/visits/{shop.visit}/options").status_code == 200
    assert reading.post(f"/visits/{shop.visit}/options", False, sort="repair").status_code == 403
    assert reading.post(f"/visits/{shop.visit}/options/decide", False, chosen="0").status_code == 403


def send_file(lead, raw, **more):
    return httpx2.post(
        f"{lead.base}/register/prices/file",
        data={"csrftoken": lead.token, **more},
        files={"file": ("p.csv", raw, "text/csv")},
        headers={"cookie": "; ".join(f"{k}={v}" for k, v in lead.cookies.items())},
        timeout=PATIENCE_SECONDS,
    )


def test_a_price_list_is_looked_at_before_it_is_taken(lead, shop, owner, server):
    assert lead.post("/register/prices", False, code="A", what="Valve", sort="part", per="each", price="10").status_code == 303
    raw = "code;what;price\nA;Valve;12,50\nB;Motor;99\nC;;5\n".encode("latin-1")
    looked = send_file(lead, raw)
    assert "1 new, 1 changed, 0 as they are, 1 refused" in words(looked)
    assert "Line 4" in words(looked)
    with owner.begin() as connection:
        assert connection.execute(select(PriceRow.cents).where(PriceRow.shop_id == shop.id)).scalars().all() == [1000]
    again = BeautifulSoup(looked.text, "html.parser").select_one("input[name=raw]")["value"]
    assert lead.post("/register/prices/file", False, raw=again, take="yes").status_code == 303
    listed = words(lead.get("/register/prices"))
    assert "$12.50" in listed
    assert "$99.00" in listed
    assert lead.get("/register/prices.csv").text.splitlines()[1] == "A,Valve,part,each,12.50,"
    for odd in (b"", b"PK\x03\x04", b"x" * 200_000):
        assert send_file(lead, odd).status_code == 422
    with owner.begin() as connection:
        valve = connection.execute(select(PriceRow.id).where(PriceRow.shop_id == shop.id, PriceRow.code == "A")).scalar_one()
    assert lead.post("/register/prices", False, retire=str(valve)).status_code == 303
    assert "A: taken off the list" in words(lead.get("/register/trail"))
    assert "no such price" in words(lead.post("/register/prices", False, retire=str(uuid6.uuid7())))
    technician = Browser(server)
    technician.sign_in(shop.logins["technician"])
    assert technician.get("/register/prices").status_code == 200
    assert technician.post("/register/prices", False, code="A", what="x", sort="part", per="each", price="1").status_code == 403
    for fields in ({"price": "x"}, {"code": ""}, {"sort": "magic"}, {"on_hand": "-1"}):
        sent = {"code": "Z", "what": "x", "sort": "part", "per": "each", "price": "1", **fields}
        assert lead.post("/register/prices", False, **sent).status_code == 422
