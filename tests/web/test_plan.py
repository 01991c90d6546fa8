"""The plan: calls added, moved and called off; what waits; parts; and what is asked weeks later."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta

import pytest
import uuid6
from bs4 import BeautifulSoup
from sqlalchemy import select, text, update

from dry_gauge.store.models import FollowUp, Visit, VisitResult
from tests.web.calls import Browser

DAY = date(2027, 3, 10)


@pytest.fixture
def lead(server, shop):
    made = Browser(server)
    made.sign_in(shop.logins["lead"])
    made.get("/plan")
    return made


def words(answer):
    return BeautifulSoup(answer.text, "html.parser").get_text(" ", strip=True)


def planned(lead, shop, **more):
    visit = str(uuid6.uuid7())
    fields = {"visit_id": visit, "unit": str(shop.unit), "day": str(DAY), "person": str(shop.people["technician"]), **more}
    answer = lead.post("/plan/calls", False, **fields)
    assert answer.status_code == 303, words(answer)
    return visit


def row(owner, visit):
    with owner.begin() as connection:
        return connection.execute(select(Visit).where(Visit.id == visit)).one()


def local(moment):
    return moment.astimezone().strftime("%Y-%m-%d %H:%M")


def test_calls_go_where_there_is_room_and_twice_is_once(lead, shop, owner):
    first, second = planned(lead, shop, minutes="60"), planned(lead, shop, complaint="no cold air", bring="ladder")
    assert local(row(owner, first).planned_for) == f"{DAY} 08:00"
    assert local(row(owner, second).planned_for) == f"{DAY} 09:00"
    again = {"visit_id": second, "unit": str(shop.unit), "day": "2027-04-01", "person": str(shop.people["technician"])}
    assert lead.post("/plan/calls", False, **again).status_code == 303
    assert local(row(owner, second).planned_for) == f"{DAY} 09:00"
    page = lead.get(f"/plan?day={DAY}").text
    assert page.count('class="plan-call planned') == 4  # each at both sizes
    assert "2 h 30" in page
    assert "ladder" in words(lead.get(f"/visits/{second}?at=arrive"))


def test_a_call_is_moved_given_away_and_called_off(lead, shop, owner):
    visit = planned(lead, shop)
    moved = lead.post(
        f"/plan/calls/{visit}",
        True,
        day="2027-03-11",
        at="13:15",
        person=str(shop.people["lead"]),
        to=f"/plan?day={DAY}&span=week",
    )
    assert moved.status_code == 200
    assert 'id="plan-pictures"' in moved.text
    stands = row(owner, visit)
    assert (local(stands.planned_for), stands.technician_id) == ("2027-03-11 13:15", shop.people["lead"])
    assert stands.minutes == 90  # what was not sent stays
    assert lead.post(f"/plan/calls/{visit}", False, off="yes", why="they sold it").status_code == 303
    assert "plan-call planned" not in lead.get("/plan?day=2027-03-11").text
    assert lead.post(f"/plan/calls/{visit}", False, day="2027-03-12").status_code == 404
    assert row(owner, visit).called_off == "they sold it"  # its row stays
    with owner.begin() as connection:
        noted = connection.execute(text("SELECT what FROM audit_event WHERE shop_id = :shop"), {"shop": shop.id}).scalars().all()
    assert {"call_moved", "call_off"} <= set(noted)


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"day": "tomorrow"}, "is a date"),
        ({"at": "25:00"}, "hours and minutes"),
        ({"minutes": "2000"}, "whole number from 15"),
        ({"unit": ""}, "Choose the unit"),
        ({"unit": "x"}, "Choose one of the list"),
        ({"day": "0001-01-01"}, "lies between"),
        ({"person": str(uuid6.uuid7())}, "who goes on calls"),
        ({"complaint": "x" * 500}, "too long"),
    ],
)
def test_an_odd_call_is_refused_and_nothing_typed_is_lost(lead, shop, fields, says):
    sent = {"unit": str(shop.unit), "day": str(DAY), "bring": "a ladder", **fields}
    answer = lead.post("/plan/calls", False, visit_id=str(uuid6.uuid7()), **sent)
    assert answer.status_code == 422
    assert says in words(answer)
    assert 'value="a ladder"' in answer.text


def test_who_plans_for_whom(server, shop, lead):
    visit = planned(lead, shop)
    other = planned(lead, shop, person=str(shop.people["lead"]))
    technician = Browser(server)
    technician.sign_in(shop.logins["technician"])
    technician.get("/plan")
    assert technician.post(f"/plan/calls/{visit}", True, day="2027-03-12").status_code == 200  # their own
    assert technician.post(f"/plan/calls/{other}", False, day="2027-03-12").status_code == 403
    given = technician.post(f"/plan/calls/{visit}", True, person=str(shop.people["lead"]))
    assert (given.status_code, "lead plans for others" in given.text) == (422, True)
    reading = Browser(server)
    reading.sign_in(shop.logins["read_only"])
    page = reading.get("/plan")
    assert page.status_code == 200
    assert "Plan it" not in page.text
    assert reading.post("/plan/calls", False, unit=str(shop.unit)).status_code == 403


def test_a_call_that_was_begun_stays(lead, shop, owner):
    with owner.begin() as connection:
        connection.execute(update(Visit).where(Visit.id == shop.visit).values(status="open"))
    answer = lead.post(f"/plan/calls/{shop.visit}", True, day="2027-03-12")
    assert answer.status_code == 422
    assert "was begun" in answer.text
    assert lead.get(f"/plan?day={DAY}&span=year&call=x").status_code == 200
    for odd in ("", "yesterday", "9999-12-31", "0001-01-01", "2027-02-30"):
        assert lead.get(f"/plan?day={odd}").status_code == 200


def close(browser, visit, outcome="improved", **more):
    return browser.post(
        f"/visits/{visit}/entries",
        entry_id=str(uuid6.uuid7()),
        kind="closing",
        outcome=outcome,
        summary="done",
        override="said so here",
        **more,
    )


def test_what_was_left_becomes_a_call_in_one_tap_and_is_seen_to_once_closed(lead, shop, owner):
    where = f"/visits/{shop.visit}/entries"
    due = date.today() + timedelta(days=3)
    left = str(uuid6.uuid7())
    sent = {"kind": "follow_up", "sort": "recheck", "what": "look at the flare", "due": str(due)}
    assert lead.post(where, entry_id=left, **sent).status_code == 200
    assert "look at the flare" in words(lead.get("/plan"))
    visit = str(uuid6.uuid7())
    to = lead.post(f"/plan/follow-ups/{left}", False, visit_id=visit)
    assert to.status_code == 303
    assert f"day={due}" in to.headers["location"]
    assert "look at the flare" not in words(lead.get("/plan"))
    twice = lead.post(f"/plan/follow-ups/{left}", False, visit_id=str(uuid6.uuid7()))
    assert (twice.status_code, "planned for that already" in words(twice)) == (422, True)
    # Called off it waits again; closed it is seen to; opened again it is not.
    lead.post(f"/plan/calls/{visit}", False, off="yes")
    assert "look at the flare" in words(lead.get("/plan"))
    visit = str(uuid6.uuid7())
    lead.post(f"/plan/follow-ups/{left}", False, visit_id=visit)
    closing = close(lead, visit)
    assert closing.status_code == 200, words(closing)
    with owner.begin() as connection:
        assert connection.execute(select(FollowUp.done_at).where(FollowUp.id == left)).scalar() is not None
        result = connection.execute(select(VisitResult).where(VisitResult.visit_id == visit)).one()
    assert result.outcome == "improved"


def test_weeks_later_it_is_asked_whether_it_held(lead, shop, owner):
    where = f"/visits/{shop.visit}/entries"
    for fields in (
        {"kind": "observation", "what": "filter_dirty", "state": "yes"},
        {"kind": "action", "sort": "filter_changed", "part": "20 x 20"},
    ):
        assert lead.post(where, entry_id=str(uuid6.uuid7()), **fields).status_code == 200
    assert close(lead, shop.visit).status_code == 200
    assert "Nothing to ask" in words(lead.get("/plan"))
    with owner.begin() as connection:
        connection.execute(update(Visit).where(Visit.id == shop.visit).values(closed_at=datetime.now(UTC) - timedelta(days=40)))
    assert "Signal House, U-1" in words(lead.get("/plan"))
    wordless = lead.post(f"/plan/held/{shop.visit}", False, held="no")
    assert (wordless.status_code, "with what it came back" in words(wordless)) == (422, True)
    assert lead.post(f"/plan/held/{shop.visit}", False, held="no", symptom="ice", words="ice again").status_code == 303
    assert "Nothing to ask" in words(lead.get("/plan"))
    held = words(lead.get("/plan/held"))
    assert "Filter dirty 1 of 1 few" in held
    assert "20 x 20 1 of 1 few" in held
    unit = f"/units/{shop.unit}"
    assert "It came back: ice: “ice again”" in words(lead.get(unit))
    # Said otherwise later, that counts.
    assert lead.post(f"/plan/held/{shop.visit}", False, held="yes").status_code == 303
    assert "Filter dirty 0 of 1 few" in words(lead.get("/plan/held"))
    assert ("It held" in words(lead.get(unit)), "It came back" in words(lead.get(unit))) == (True, False)
    begun = lead.post(f"{unit}/visits", False, visit_id=str(uuid6.uuid7())).headers["location"].split("?")[0]
    assert "It held" in words(lead.get(f"{begun}?at=arrive"))
    assert lead.post(f"/plan/held/{uuid6.uuid7()}", False, held="yes").status_code == 404


def test_a_part_goes_its_way(lead, shop, owner):
    asked = lead.post("/parts", False, unit=str(shop.unit), what="Fan motor", number="FM 12")
    assert (asked.status_code, "blade and capacitor" in words(asked)) == (422, True)
    assert 'value="FM 12"' in asked.text
    sent = {"unit": str(shop.unit), "what": "Fan motor", "number": "FM 12", "pieces": "2"}
    kept = lead.post("/parts", False, **sent, other_piece="blade comes too")
    assert kept.status_code == 303
    with owner.begin() as connection:
        part = connection.execute(text("SELECT id FROM part_order WHERE shop_id = :shop"), {"shop": shop.id}).scalar()
    assert lead.post(f"/parts/{part}", False, to="ordered", expected_on="2027-03-05").status_code == 303
    assert "expected Fri 5 Mar 2027" in words(lead.get("/plan"))
    assert lead.post(f"/parts/{part}", False, to="arrived", day="2027-03-06").status_code == 303
    assert "book the return" in words(lead.get("/plan"))
    assert "2 x Fan motor here since Sat 6 Mar 2027: take it along" in words(lead.get(f"/units/{shop.unit}"))
    booked = lead.post(f"/parts/{part}", False, to="booked", day="2027-03-09")
    assert "day=2027-03-09" in booked.headers["location"]
    assert "Put in: Fan motor" in lead.get("/plan?day=2027-03-09").text
    for day in ("2027-03-09", "2027-03-08", "2027-03-09"):  # sent again, and moved there and back: still one call
        assert lead.post(f"/parts/{part}", False, to="booked", day=day).status_code == 303
    with owner.begin() as connection:
        asked = text("SELECT count(*) FROM visit WHERE shop_id = :shop AND complaint = 'Put in: Fan motor'")
        assert connection.execute(asked, {"shop": shop.id}).scalar() == 1
    assert "2 x Fan motor (FM 12); blade comes too" in lead.get(booked.headers["location"].split("#")[0]).text
    for odd in ({"to": "lost"}, {"to": "dropped"}, {"to": "arrived", "day": "soon"}):
        assert lead.post(f"/parts/{part}", False, **odd).status_code == 422
    assert lead.post(f"/parts/{part}", False, to="done").status_code == 303
    assert "No part is on its way" in words(lead.get("/parts"))
    assert "Fan motor here since" not in words(lead.get(f"/units/{shop.unit}"))
    for odd in ({"what": ""}, {"what": "x", "unit": "x"}, {"what": "x", "pieces": "0"}):
        assert lead.post("/parts", False, **{"unit": str(shop.unit), **odd}).status_code == 422
    assert lead.post("/parts", False, unit=str(uuid6.uuid7()), what="x").status_code == 404


def test_a_part_let_go_takes_its_planned_return_along(lead, shop, owner):
    assert lead.post("/parts", False, unit=str(shop.unit), what="Thermostat").status_code == 303
    with owner.begin() as connection:
        part = connection.execute(text("SELECT id FROM part_order WHERE shop_id = :shop"), {"shop": shop.id}).scalar()
    lead.post(f"/parts/{part}", False, to="arrived", day="2027-04-06")
    lead.post(f"/parts/{part}", False, to="booked", day="2027-04-09")
    assert "Put in: Thermostat" in lead.get("/plan?day=2027-04-09").text
    assert lead.post(f"/parts/{part}", False, to="dropped", why="mended the old one").status_code == 303
    assert "Put in: Thermostat" not in lead.get("/plan?day=2027-04-09").text
    assert "Thermostat is not needed any more: mended the old one" in words(lead.get("/register/trail"))


def test_two_go_on_a_call(lead, shop, owner):
    people = {name: str(one) for name, one in shop.people.items()}
    visit = planned(lead, shop, at="09:00", minutes="120", along=people["helper"])
    shown = words(lead.get(f"/plan?day={DAY}"))
    assert "with Ida helper" in shown
    assert "with Ida technician" in shown  # in the helper's own lane
    # Whoever goes along is busy then: the next call goes behind it.
    second = planned(lead, shop, person=people["lead"], at="09:00", along=people["technician"])
    third = planned(lead, shop)
    assert row(owner, third).planned_for.astimezone().hour >= 11
    # Moved without a word of who goes along, it stays; given to whoever goes along, the two change places.
    assert lead.post(f"/plan/calls/{visit}", False, day=str(DAY), at="10:00").status_code == 303
    assert str(row(owner, visit).along_id) == people["helper"]
    assert lead.post(f"/plan/calls/{second}", False, person=people["technician"]).status_code == 303
    assert (str(row(owner, second).technician_id), str(row(owner, second).along_id)) == (people["technician"], people["lead"])
    for odd, why in (
        (people["technician"], "on it already"),
        (people["read_only"], "who goes out"),
        (str(uuid6.uuid7()), "who goes out"),
        ("x", "one of the list"),
    ):
        refused = lead.post(f"/plan/calls/{visit}", False, along=odd)
        assert (refused.status_code, why in words(refused)) == (422, True)
    assert lead.post(f"/plan/calls/{visit}", False, person=people["helper"]).status_code == 422  # a helper leads none
    assert lead.post(f"/plan/calls/{visit}", False, along="").status_code == 303
    assert row(owner, visit).along_id is None
    assert "Ida technician and Ida lead" in words(lead.get(f"/visits/{second}?at=arrive"))
