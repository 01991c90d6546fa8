"""Sites, unit cards, people, instruments, photos: what is kept, what is refused, who may."""

from __future__ import annotations

import io
from datetime import date, timedelta

import httpx2
import pytest
import uuid6
from bs4 import BeautifulSoup
from PIL import Image
from sqlalchemy import func, select, text, update

from dry_gauge.core.errors import Refused
from dry_gauge.service.pictures import PictureWorker
from dry_gauge.store.models import Instrument, Photo, Unit, UnitChange
from tests.conftest import PASSWORD
from tests.web.calls import Browser, read

CARD = {"tag": "RTU-9", "kind": "package_ac", "refrigerant": "r410a", "metering": "txv", "size": "60,000",
        "charge_lb": "6", "charge_oz": "11.2", "target_subcooling": "10", "serial": "NL1806", "made_year": "2018",
        "disconnects": "roof\nbreaker 4"}  # fmt: skip


def words(answer) -> str:
    return BeautifulSoup(answer.text, "html.parser").get_text(" ", strip=True)


@pytest.fixture
def site(browser):
    answer = browser.post("/register/sites", False, name="Gull Pier", address="Pier 3", access="key at the desk")
    assert answer.status_code == 303
    return answer.headers["location"]


def test_a_site_and_a_unit_are_registered_found_and_carried_on_the_record(browser, site, owner):
    refused = browser.post(f"{site}/units/new", False, **CARD)
    assert refused.status_code == 422  # 60,000 can be read two ways: the form comes back with everything typed
    assert "two ways" in words(refused)
    assert 'value="RTU-9"' in refused.text
    made = browser.post(f"{site}/units/new", False, **{**CARD, "size": "60000"})
    assert made.status_code == 303
    unit = made.headers["location"]
    assert "6 lb 11.2 oz" in words(browser.get(unit))
    assert "RTU-9" in words(browser.get("/register?q=gull+nl1806"))
    assert "Nothing has all" in words(browser.get("/register?q=%25"))
    changed = browser.post(f"{unit}/edit", False, **{**CARD, "size": "60000", "charge_oz": "12"})
    assert changed.status_code == 303
    with owner.connect() as connection:
        (change,) = connection.execute(select(UnitChange.changed).where(UnitChange.unit_id == unit.rpartition("/")[2])).all()
    assert change.changed == {"label_charge_g": [3039.1, 3061.7]}
    assert "Ida technician" in words(browser.get(unit))
    assert "<svg" in browser.get(f"{unit}/label").text


@pytest.mark.parametrize(
    ("field", "value", "reason"),
    [
        ("tag", "", "needed"),
        ("refrigerant", "R-999", "refrigerant"),
        ("charge_oz", "17", "Ounces beside pounds"),
        ("charge_kg", "3", "not in both"),
        ("made_year", "1492", "whole number"),
        ("seer", "-3", "above zero"),
        ("seer", "lots", "not a number"),
        ("kind", "", "Choose what sort"),
        ("tag", "x" * 201, "too long"),
        ("elevation_ft", "99999", "Elevation"),
        ("size", "3", "3 of what? Write 3 ton"),
        ("size", "3 gallons", "no unit of size"),
        ("size", "0 ton", "between"),
        ("size", "900 ton", "between"),
    ],
)
def test_a_card_that_cannot_be_is_refused_beside_the_field_and_nothing_is_lost(browser, site, field, value, reason):
    answer = browser.post(f"{site}/units/new", False, **{**CARD, "size": "60000", field: value})
    assert answer.status_code == 422
    assert reason in words(answer)
    assert "breaker 4" in answer.text


def test_model_and_serial_are_read_several_ways_and_nothing_is_kept(browser, site, owner, shop):
    before = browser.post(f"{site}/units/new", False, **{**CARD, "model": "NR-060-4A", "read": "yes"})
    assert all(reading in words(before) for reading in ("5 ton", "week 6 of 2018", "week 18 of 2006"))
    with owner.connect() as connection:
        assert connection.execute(select(func.count()).select_from(Unit).where(Unit.shop_id == shop.id)).scalar_one() == 1


def test_parts_come_and_go_and_stay_on_record(browser, shop, owner):
    browser.post(f"/units/{shop.unit}/components", False, what="Compressor", installed_on="2020-02-30")
    bad = browser.post(f"/units/{shop.unit}/components", False, what="Compressor", installed_on="yesterday")
    assert "is a date" in words(bad)
    made = int(date.today().year) - 6
    with owner.begin() as connection:
        connection.execute(update(Unit).where(Unit.id == shop.unit).values(made_year=made))
    older = browser.post(f"/units/{shop.unit}/components", False, what="Coil", details="NR-33", installed_on=f"{made - 1}-05-01")
    assert older.status_code == 422
    form = BeautifulSoup(older.text, "html.parser").select_one("form[action$='components#parts']")
    assert f"made in {made}" in form.select_one("[role=alert]").get_text()
    assert [form.select_one(f"[name={name}]")["value"] for name in ("what", "details", "installed_on")] == [
        "Coil",
        "NR-33",
        f"{made - 1}-05-01",
    ]
    tomorrow = str(date.today() + timedelta(days=9))
    assert "still to come" in words(browser.post(f"/units/{shop.unit}/components", False, what="Coil", installed_on=tomorrow))
    browser.post(f"/units/{shop.unit}/components", False, what="Compressor", installed_on=str(date.today() - timedelta(days=90)))
    page = BeautifulSoup(browser.get(f"/units/{shop.unit}").text, "html.parser")
    part = page.select_one("button[name=remove]")["value"]
    browser.post(f"/units/{shop.unit}/components", False, remove=part)
    assert "out" in words(browser.get(f"/units/{shop.unit}"))


def test_the_chart_of_another_card_of_the_model_is_taken_over_before_anything_is_kept(browser, site, owner):
    chart = "65 67 110 290\n95 67 123 410"
    card = CARD | {"size": "60000", "model": "NR-060"}
    first = browser.post(f"{site}/units/new", False, **card | {"maker_chart": chart}).headers["location"]
    second = browser.post(f"{site}/units/new", False, **card | {"tag": "RTU-10", "model": "nr-060 "}).headers["location"]
    third = browser.post(f"{site}/units/new", False, **card | {"tag": "RTU-11", "model": "NR-061"}).headers["location"]

    def offered(unit):
        return "Take over that of RTU-9, Gull Pier" in words(browser.get(f"{unit}/edit"))

    assert [offered(unit) for unit in (first, second, third)] == [False, True, False]
    taken = browser.post(f"{second}/edit", False, **card | {"tag": "RTU-10b", "model": "NR-060", "chart": "take"})
    shown = BeautifulSoup(taken.text, "html.parser")
    assert shown.find(id="f-maker_chart").text.strip().replace("\r", "") == chart
    assert shown.find(id="f-tag")["value"] == "RTU-10b"
    assert offered(second)  # nothing is kept yet
    browser.post(f"{second}/edit", False, **card | {"tag": "RTU-10", "maker_chart": chart})
    with owner.begin() as connection:
        kept = connection.execute(select(Unit.facts).where(Unit.id == second.rsplit("/")[-1])).scalar()
    assert kept["maker_chart"][1]["head_psig"] == pytest.approx(410)
    assert not offered(second)


def test_partners_are_one_pair_on_both_cards_and_leave_whom_they_had(browser, site, shop, owner):
    units = []
    for tag in ("AC-1", "AH-1", "AH-2"):
        made = browser.post(f"{site}/units/new", False, **{**CARD, "size": "60000", "tag": tag})
        units.append(made.headers["location"].removeprefix("/units/"))
    first, indoor, other = units

    def partner_of(unit: str) -> str:
        with owner.connect() as connection:
            return str(connection.execute(select(Unit.partner_id).where(Unit.shop_id == shop.id, Unit.id == unit)).scalar_one())

    assert browser.post(f"/units/{first}/partner", False, partner=indoor).status_code == 303
    assert (partner_of(first), partner_of(indoor)) == (indoor, first)
    assert "with AC-1" in words(browser.get(site))
    assert browser.post(f"/units/{other}/partner", False, partner=first).status_code == 303
    assert (partner_of(first), partner_of(indoor), partner_of(other)) == (other, "None", first)
    assert "partner: AC-1 to unknown" in words(browser.get(f"/units/{indoor}"))
    for wrong in (first, str(shop.unit)):
        answer = browser.post(f"/units/{first}/partner", False, partner=wrong)
        assert (answer.status_code, "another unit of this site" in words(answer)) == (422, True)
    assert browser.post(f"/units/{first}/partner", False, partner="nonsense").status_code == 404
    browser.post(f"/units/{first}/partner", False, partner="")
    assert (partner_of(first), partner_of(other)) == ("None", "None")


def test_who_reads_along_changes_nothing_and_only_a_lead_changes_people(server, shop, site):
    reader = Browser(server)
    reader.sign_in(shop.logins["read_only"])
    reader.get("/register")
    for path in ("/register/sites", site, "/register/instruments", f"/units/{shop.unit}/components"):
        assert reader.post(path, False, name="x", what="x").status_code == 403
    technician = Browser(server)
    technician.sign_in(shop.logins["technician"])
    technician.get("/register")
    assert technician.post("/register/people", False, role="lead", login="sneak", name="S", password="x" * 12).status_code == 403


def test_a_lead_adds_someone_who_can_then_sign_in_and_be_shut_out(server, shop):
    lead = Browser(server)
    lead.sign_in(shop.logins["lead"])
    lead.get("/register/people")
    login = f"new-{shop.id.hex[-8:]}"
    short = lead.post("/register/people", False, role="technician", login=login, name="New One", password="short")
    assert "at least 10" in words(short)
    lead.post("/register/people", False, role="technician", login=login, name="New One", password=PASSWORD)
    taken = lead.post("/register/people", False, role="technician", login=login, name="Twin", password=PASSWORD)
    assert "taken" in words(taken)
    new = Browser(server)
    assert new.sign_in(login).headers["location"] == "/"
    page = BeautifulSoup(lead.get("/register/people").text, "html.parser")
    item = next(one for one in page.select(".line-item") if login in one.text)
    person = item.select_one("input[name=person]")["value"]
    lead.post("/register/people", False, person=person, role="technician", active="no")
    assert new.get("/").status_code == 303  # signed out at once
    own = next(one for one in page.select(".line-item") if shop.logins["lead"] in one.text).select_one("input[name=person]")
    refused = lead.post("/register/people", False, person=own["value"], role="technician", active="yes")
    assert "another lead" in words(refused)


def test_another_unit_of_the_site_joins_the_call_with_a_notebook_of_its_own(browser, shop, owner):
    with owner.connect() as connection:
        site_id = connection.execute(select(Unit.site_id).where(Unit.id == shop.unit)).scalar_one()
    made = browser.post(f"/register/sites/{site_id}/units/new", False, tag="U-2", kind="split_ac", refrigerant="R-32")
    second = made.headers["location"].rpartition("/")[2]
    browser.get(f"/calls/{shop.visit}")
    joined = browser.post(f"/calls/{shop.visit}", False, unit=second)
    again = browser.post(f"/calls/{shop.visit}", False, unit=second)
    assert joined.headers["location"] == again.headers["location"]
    assert "U-2" in words(browser.get(f"/visits/{shop.visit}"))
    assert browser.post(f"/calls/{shop.visit}", False, unit="nonsense").status_code == 404


# -- photos -----------------------------------------------------------------


def photo_with_place(size=(2400, 1800)) -> bytes:
    image, out = Image.new("RGB", size, (180, 90, 20)), io.BytesIO()
    exif = Image.Exif()
    exif[0x010F] = "Some Camera"
    exif.get_ifd(0x8825)[2] = (54.0, 10.0, 0.0)
    image.save(out, "JPEG", exif=exif, comment=b"taken by Some Camera")
    return out.getvalue()


def send_photo(browser, shop, raw, name="x.jpg", entry=None, about=""):
    cookies = "; ".join(f"{key}={value}" for key, value in browser.cookies.items())
    with httpx2.Client(base_url=browser.base, timeout=40) as client:
        return client.post(
            f"/visits/{shop.visit}/photos",
            headers={"cookie": cookies, "hx-request": "true", "x-csrftoken": browser.token},
            data={"entry_id": str(entry or uuid6.uuid7()), "caption": "burnt lug", "about": str(about)},
            files={"photo": (name, raw)},
        )


def test_a_photo_is_made_small_and_loses_its_place(browser, shop, owner):
    entry = uuid6.uuid7()
    for _ in range(2):
        assert send_photo(browser, shop, photo_with_place(), entry=entry).status_code == 200
    with owner.connect() as connection:
        (row,) = connection.execute(select(Photo).where(Photo.shop_id == shop.id)).all()
    kept = Image.open(io.BytesIO(row.picture))
    assert max(kept.size) == 1600
    assert not kept.getexif()
    assert b"Some Camera" not in row.picture
    assert browser.get(f"/photos/{entry}/small").headers["content-type"] == "image/jpeg"
    assert "burnt lug" in browser.get(f"/visits/{shop.visit}").text


def test_a_photo_belongs_to_a_reading_until_that_is_taken_back(browser, shop):
    seen = uuid6.uuid7()
    read(browser, shop, 128, entry_id=str(seen))
    choices = browser.get(f"/visits/{shop.visit}?at=look").text
    assert f'<option value="{seen}">Suction pressure: 128 psig</option>' in choices
    send_photo(browser, shop, photo_with_place((40, 30)), about=seen)
    assert "burnt lug, of Suction pressure: 128 psig" in words(browser.get(f"/visits/{shop.visit}"))
    assert "burnt lug, of Suction pressure" in words(browser.get(f"/visits/{shop.visit}/record"))
    browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), kind="void", voids=str(seen), reason="wrong port")
    assert "of Suction pressure" not in words(browser.get(f"/visits/{shop.visit}/record"))


@pytest.mark.parametrize(
    ("raw", "reason"),
    [
        (b"", "Choose a photo"),
        (b"<svg onload=alert(1)>", "not a photo"),
        (photo_with_place()[:9000], "broken"),
        (b"%PDF-1.7 nothing", "not a photo"),
    ],
)
def test_what_is_no_photo_is_said_so(browser, shop, raw, reason):
    answer = send_photo(browser, shop, raw)
    assert answer.status_code == 422
    assert reason in words(answer)


def test_a_decoder_that_dies_takes_one_photo_with_it_and_nothing_else():
    worker = PictureWorker()
    try:
        assert worker.made_small(photo_with_place()).width == 1600
        for process in worker._pool._processes.values():
            process.kill()
            process.join(10)
        with pytest.raises(Refused, match="could not be read here"):
            worker.made_small(photo_with_place())
        assert worker.made_small(photo_with_place((60, 40))).width == 60
    finally:
        worker.close()


def test_thirty_megabytes_are_taken_and_more_than_forty_are_not(browser, shop):
    small = photo_with_place()
    assert send_photo(browser, shop, small + b"\0" * 30_000_000).status_code == 200
    try:
        answer = send_photo(browser, shop, small + b"\0" * 42_000_000)
    except httpx2.HTTPError:  # turned away before all of it was sent
        return
    assert answer.status_code == 413


def test_another_shops_photo_does_not_exist(browser, shop, make_shop, server):
    entry = uuid6.uuid7()
    send_photo(browser, shop, photo_with_place((40, 30)), entry=entry)
    stranger = Browser(server)
    stranger.sign_in(make_shop().logins["lead"])
    assert stranger.get(f"/photos/{entry}").status_code == 404


def test_an_instrument_carries_its_accuracy_into_the_readings(browser, shop):
    browser.post(
        "/register/instruments", False, name="Gauge 1", dimension="pressure", accuracy="2.5", calibrated_until="2020-01-01"
    )
    assert "past" in words(browser.get("/register/instruments"))
    assert "Choose what it reads" in words(browser.post("/register/instruments", False, name="X", dimension="mood"))
    entries = f"/visits/{shop.visit}/entries"
    browser.post(
        entries,
        entry_id=str(uuid6.uuid7()),
        kind="in_use",
        dimension="pressure",
        instrument="Gauge 1",
        accuracy="2.5",
        unit="psig",
    )
    for quantity, value, unit in (("suction_pressure", "120", "psig"), ("suction_line_temp", "52", "F")):
        browser.post(entries, entry_id=str(uuid6.uuid7()), kind="reading", quantity=quantity, value=value, unit=unit)
    page = browser.get(f"/visits/{shop.visit}").text
    assert "±1.9" in page  # superheat: 1.5 F of the clamp, and 2.5 psi through R-410A's slope at 120 psig
    # The same gauge read in another unit is as accurate, and knows its range there as well.
    browser.post(
        entries,
        entry_id=str(uuid6.uuid7()),
        kind="in_use",
        dimension="pressure",
        instrument="Gauge 1",
        accuracy="2.5",
        unit="psig",
        high="500",
    )
    browser.post(entries, entry_id=str(uuid6.uuid7()), kind="reading", quantity="suction_pressure", value="8.274", unit="barg")
    assert "±1.9" in browser.get(f"/visits/{shop.visit}").text
    browser.post(entries, entry_id=str(uuid6.uuid7()), kind="reading", quantity="liquid_pressure", value="36", unit="barg")
    assert "Gauge 1 reads to 500 psig" in browser.get(f"/visits/{shop.visit}").text


def test_instruments_are_registered_in_the_units_that_are_read(browser, shop, owner):
    browser.post("/me/preferences", False, temperature_unit="C", pressure_unit="bar")
    assert "pressure, barg" in words(browser.get("/register/instruments"))
    browser.post("/register/instruments", False, name="Gauge 7", dimension="pressure", accuracy="2.5 psi", range_high="35")
    browser.post("/register/instruments", False, name="Clamp 7", dimension="temperature", accuracy="0.5", range_low="-40 F")
    with owner.connect() as connection:
        asked = select(Instrument.name, Instrument.unit, Instrument.accuracy, Instrument.range_low, Instrument.range_high)
        kept = {row.name: row[1:] for row in connection.execute(asked.where(Instrument.shop_id == shop.id))}
    assert kept["Gauge 7"] == ("barg", pytest.approx(0.172, abs=0.001), None, 35)
    assert kept["Clamp 7"] == ("C", 0.5, pytest.approx(-40), None)
    wrong = browser.post("/register/instruments", False, name="Gauge 8", dimension="pressure", accuracy="2 F")
    assert wrong.status_code == 422
    assert "'F' is not a known unit here" in words(wrong)
    assert 'value="Gauge 8"' in wrong.text  # nothing typed is lost
    turned = browser.post("/register/instruments", False, name="Gauge 8", dimension="pressure", range_low="35", range_high="0")
    assert "low end lies above its high end" in words(turned)


def test_who_reads_other_units_changes_no_number_that_they_leave_alone(browser, shop, owner):
    kept = {
        "kind": "split_ac",
        "refrigerant": "R-410A",
        "metering": "txv",
        "target_subcooling_f": 10.0,
        "elevation_ft": 5300.0,
        "label_charge_g": 3000.0,
        "high_pressure_cutout_psig": 610.0,
        "nominal_capacity_btuh": 36000.0,
        "maker_chart": [{"outdoor_f": 95.0, "indoor_f": 67.0, "suction_psig": 118.0, "head_psig": 402.0}],
    }
    with owner.begin() as connection:
        connection.execute(update(Unit).where(Unit.id == shop.unit).values(facts=kept))
    browser.post("/me/preferences", False, temperature_unit="C", pressure_unit="bar", weight_unit="kg")
    page = BeautifulSoup(browser.get(f"/units/{shop.unit}/edit").text, "html.parser")
    form = page.select_one("form:has([name=target_subcooling])")
    fields = {one["name"]: one.get("value", "") for one in form.select("input[name]:not([type=radio]):not([type=checkbox])")}
    fields |= {one["name"]: one["value"] for one in form.select("input[checked]")}
    fields |= {one["name"]: (one.select_one("option[selected]") or {"value": ""})["value"] for one in form.select("select")}
    fields |= {one["name"]: one.get_text().replace("\n", "\r\n") for one in form.select("textarea")}  # as browsers send lines
    fields.pop("csrftoken", None)
    assert fields["target_subcooling"] == "5.6"
    assert browser.post(f"/units/{shop.unit}/edit", False, **{**fields, "high_pressure_cutout": "41"}).status_code == 303
    with owner.begin() as connection:
        now = connection.execute(select(Unit.facts).where(Unit.id == shop.unit)).scalar_one()
    assert now == {**kept, "high_pressure_cutout_psig": pytest.approx(594.66, abs=0.01)}


def _how_many(owner, shop, table):
    with owner.begin() as connection:
        return connection.execute(text(f"SELECT count(*) FROM {table} WHERE shop_id = :shop"), {"shop": shop.id}).scalar()


def test_a_form_that_arrives_twice_makes_one_and_with_other_words_two(browser, shop, owner):
    """A line that is slow is pressed again; what a form makes is the form's own."""
    stamped = {"name": "Blue 7", "kind": "in_use", "refrigerant": "R-410A", "tare": "2840", "tare_unit": "g"}
    blue = browser.post("/cylinders", False, **stamped).headers["location"]
    warranty = {
        "whose": "Norrland",
        "start_from": "installed",
        "parts_months": "60",
        "labour_months": "12",
        "starts_on": str(date.today()),
    }
    site = browser.post("/register/sites", False, name="Hollow Road").headers["location"]
    card = {"kind": "split_ac", "refrigerant": "R-410A", "circuits": "1"}
    forms = {
        "site": ("/register", "/register/sites", "name", {}),
        "unit": (f"{site}/units/new", f"{site}/units/new", "tag", card),
        "instrument": ("/register/instruments", "/register/instruments", "name", {"dimension": "pressure"}),
        "cylinder": ("/cylinders", "/cylinders", "name", stamped),
        "part_order": ("/parts", "/parts", "what", {"unit": str(shop.unit)}),
        "component": (f"/units/{shop.unit}", f"/units/{shop.unit}/components", "what", {}),
        "warranty": (f"/units/{shop.unit}/warranty", f"/units/{shop.unit}/warranty", "what", warranty),
        "movement": (blue, f"{blue}/book", "weight", {"what": "bought", "weight_unit": "g"}),
    }
    for table, (page, address, varied, fields) in forms.items():
        before = _how_many(owner, shop, table)
        form = BeautifulSoup(browser.get(page).text, "html.parser").select_one(f'form[action^="{address}"]:has([name=made])')
        made = form.select_one("[name=made]")["value"]
        for words_of in ("1000", "1000", "2000"):
            words = words_of if varied == "weight" else f"No. {words_of}"
            kept = browser.post(address, False, made=made, **fields | {varied: words})
            assert kept.status_code == 303, (table, kept.text[:2000])
        assert _how_many(owner, shop, table) == before + 2, table
