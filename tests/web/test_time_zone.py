"""A shop far from its server: its board, entries and dates go by its own clock, beside another shop on another one."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
import uuid6
from bs4 import BeautifulSoup
from sqlalchemy import select, update

from dry_gauge.store.models import Person, Shop, Visit
from tests.web.calls import Browser, read

EAST, WEST = "Pacific/Kiritimati", "Pacific/Pago_Pago"  # 14 hours ahead of UTC and 11 behind: never the same day


def in_zone(owner, shop, zone, clock="24"):
    with owner.begin() as connection:
        connection.execute(update(Shop).where(Shop.id == shop.id).values(settings={"time_zone": zone}))
        connection.execute(update(Person).where(Person.shop_id == shop.id).values(clock=clock))


def signed_in(server, shop, role="technician"):
    browser = Browser(server)
    assert browser.sign_in(shop.logins[role]).status_code == 303
    return browser


def words(answer):
    return BeautifulSoup(answer.text, "html.parser").get_text(" ", strip=True)


def moments(zone, later=timedelta()):
    """This minute there, the one before and the next, which may begin before an answer comes; or some later."""
    here = datetime.now(ZoneInfo(zone)) + later
    return [here + timedelta(minutes=away) for away in (0, -1, 1)]


def hours(zone, later=timedelta()):
    """The same as a clock there says them."""
    return [f"{moment:%H:%M}" for moment in moments(zone, later)]


@pytest.mark.parametrize("zone", [EAST, WEST])
def test_the_day_and_the_hour_are_the_shops(server, shop, make_shop, owner, zone):
    other = make_shop()
    in_zone(owner, shop, zone)
    in_zone(owner, other, WEST if zone == EAST else EAST)
    browser, there = signed_in(server, shop), signed_in(server, other)
    today = datetime.now(ZoneInfo(zone)).date()
    board = words(browser.get("/"))
    assert f"{today:%a} {today.day} {today:%b %Y}" in board
    assert "Signal House" in board
    assert words(there.get("/")) != board
    browser.get(f"/visits/{shop.visit}")
    kept = read(browser, shop, "118")
    assert any(hour in words(kept) for hour in hours(zone))
    page = words(browser.get(f"/visits/{shop.visit}"))
    assert any(hour in page for hour in hours(zone))
    timer = {"kind": "timer", "what": "Cleaner on the condenser", "minutes": "90"}
    assert browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), **timer).status_code == 200
    for path in (f"/visits/{shop.visit}?at=mend", f"/calls/{shop.visit}"):
        shown = BeautifulSoup(browser.get(path).text, "html.parser").select_one(".timer")
        assert shown["data-due"] in hours(zone, timedelta(minutes=90)), path
    # Today is not past, yesterday is.
    for due, status in ((today, 200), (today - timedelta(days=1), 422)):
        left = {"kind": "follow_up", "sort": "return", "what": "the fan", "due": str(due)}
        answer = browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), **left)
        assert answer.status_code == status, words(answer)
    planned = browser.post("/plan/calls", False, unit=str(shop.unit), day=str(today), at="23:30", minutes="30", complaint="hums")
    assert planned.status_code == 303
    with owner.connect() as connection:
        at = connection.execute(select(Visit.planned_for).where(Visit.complaint == "hums", Visit.shop_id == shop.id)).scalar_one()
    assert at == datetime(today.year, today.month, today.day, 23, 30, tzinfo=ZoneInfo(zone)).astimezone(UTC)
    assert "23:30" in words(browser.get(f"/plan?day={today}"))


def test_two_on_one_visit_each_read_their_own_clock(server, shop, owner):
    in_zone(owner, shop, EAST)
    one, other = signed_in(server, shop), signed_in(server, shop, "lead")
    assert other.post("/me/preferences", False, clock="13").status_code == 422
    assert other.post("/me/preferences", False, clock="12", to="/").status_code == 303
    for browser in (one, other):
        browser.get(f"/visits/{shop.visit}")
    twelve = [f"{moment:%I:%M %p}".lstrip("0").lower() for moment in moments(EAST)]
    for value in ("118", "119"):
        assert any(f"kept {hour}" in words(read(one, shop, value)) for hour in hours(EAST))
        assert any(f"kept {hour}" in words(read(other, shop, value)) for hour in twelve)
    assert any(f"kept {hour}" in words(one.get(f"/visits/{shop.visit}")) for hour in hours(EAST))
    # A field for a time takes 24 hours, whoever reads it.
    today = datetime.now(ZoneInfo(EAST)).date()
    planned = {"unit": str(shop.unit), "day": str(today), "at": "14:30", "minutes": "30"}
    call = other.post("/plan/calls", False, **planned).headers["location"].split("call=")[1].split("#")[0]
    page = BeautifulSoup(other.get(f"/plan?day={today}&call={call}").text, "html.parser")
    assert page.select_one("#c-at")["value"] == "14:30"
    assert "2:30 pm" in page.get_text(" ", strip=True)


HOURS = [("America/Denver", "2:30 pm"), ("Europe/Berlin", "14:30"), ("Antarctica/Troll", "14:30")]


@pytest.mark.parametrize(("zone", "hour"), HOURS)
def test_who_never_chose_reads_hours_as_they_are_said_there(server, shop, owner, zone, hour):
    in_zone(owner, shop, zone, clock="")
    browser, today = signed_in(server, shop, "lead"), datetime.now(ZoneInfo(zone)).date()
    browser.get("/plan")
    planned = {"unit": str(shop.unit), "day": str(today), "at": "14:30", "minutes": "30", "complaint": "hums"}
    assert browser.post("/plan/calls", False, **planned).status_code == 303
    assert hour in words(browser.get(f"/plan?day={today}"))
    chosen = BeautifulSoup(browser.get("/").text, "html.parser").select_one("[name=clock][aria-pressed=true]")
    assert chosen["value"] == ("12" if "pm" in hour else "24")


def test_a_lead_sets_the_zone_from_the_list(server, shop, owner):
    in_zone(owner, shop, WEST)
    lead = signed_in(server, shop, "lead")

    def fields():
        form = BeautifulSoup(lead.get("/register/settings").text, "html.parser").select_one(".settings-form")
        shown = {one["name"]: one.get("value", "") for one in form.select("input[name]") if one.get("type") != "checkbox"}
        shown |= {one["name"]: one.get_text() for one in form.select("textarea")}
        for one in form.select("select"):
            chosen = one.select_one("option[selected]") or one.select_one("option")
            shown[one["name"]] = chosen["value"]
        return shown

    refused = lead.post("/register/settings", False, **fields() | {"time_zone": "Mars/Olympus"})
    assert refused.status_code == 422
    assert "Time zone is none of the list." in words(refused)
    assert lead.post("/register/settings", False, **fields() | {"time_zone": EAST}).status_code == 303
    assert fields()["time_zone"] == EAST
    page = words(lead.get("/register/settings"))
    assert any(f"it is {hour} by the one that is set" in page for hour in hours(EAST))
    # A zone that is known no more, from another installation, breaks no page.
    in_zone(owner, shop, "Mars/Olympus")
    assert lead.get("/").status_code == 200
    assert lead.get("/register/settings").status_code == 200
