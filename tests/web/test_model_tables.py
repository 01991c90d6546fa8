"""Tables of a blower, a coil and orifices over HTTP: kept for the model, refused with words where they are none."""

from __future__ import annotations

import pytest
import uuid6
from sqlalchemy import select, update

from dry_gauge.store.models import Unit, Visit
from tests.web.test_register import words


def post(browser, visit, kind, **fields):
    return browser.post(f"/visits/{visit}/entries", entry_id=str(uuid6.uuid7()), kind=kind, **fields)


def static(browser, visit):
    for quantity, value in (("external_static_return", "-0.30"), ("static_after_filter", "-0.42"), ("static_after_coil", "-0.67"),
                            ("external_static_supply", "0.32")):  # fmt: skip
        assert post(browser, visit, "reading", quantity=quantity, value=value, unit="inwc").status_code == 200


def next_of_the_model(owner, shop):
    """A visit to another unit of the same model."""
    other, there = uuid6.uuid7(), uuid6.uuid7()
    with owner.begin() as connection:
        connection.execute(update(Unit).where(Unit.id == shop.unit).values(model="BX-36"))
        row = dict(connection.execute(select(Unit.__table__).where(Unit.id == shop.unit)).mappings().one())
        connection.execute(Unit.__table__.insert().values({**row, "id": other, "tag": "Other"}))
        row = dict(connection.execute(select(Visit.__table__).where(Visit.id == shop.visit)).mappings().one())
        fresh = {"id": there, "call_id": there, "unit_id": other, "sequence": 0, "state": {}, "fold_version": 0}
        connection.execute(Visit.__table__.insert().values({**row, **fresh}))
    return there


def test_a_table_counts_on_this_visit_and_on_the_next_unit_of_the_model(browser, shop, owner):
    table = {"speed": "Tap 4", "points": "0.1 1400\n0.5 = 1200\n0,8; 900"}
    assert post(browser, shop.visit, "fan_table", **table).status_code == 200
    assert post(browser, shop.visit, "drop_table", part="coil", drop="0.25", flow="1100").status_code == 200
    static(browser, shop.visit)
    shown = words(browser.get(f"/visits/{shop.visit}?at=air"))
    assert "Tap 4, at the external static 1080 cfm" in shown
    assert "Coil drop" in shown
    there = next_of_the_model(owner, shop)
    static(browser, there)
    shown = words(browser.get(f"/visits/{there}?at=air"))
    assert "Tap 4, at the external static 1080 cfm" in shown
    assert "Known: Tap 4." in shown


def test_a_table_in_pascals_is_the_same_table(browser, shop):
    browser.post("/me/preferences", False, temperature_unit="C")
    static(browser, shop.visit)
    units = {"static_unit": "Pa", "flow_unit": "m3/h"}
    table = {"speed": "Tap 4", "points": "24.9 2379\n124.5 2039\n199.3 1529"}
    assert post(browser, shop.visit, "fan_table", **table, **units).status_code == 200
    assert post(browser, shop.visit, "drop_table", part="coil", drop="62.3", flow="1869", **units).status_code == 200
    shown = words(browser.get(f"/visits/{shop.visit}?at=air"))
    assert "Tap 4, at the external static 1835 m³/h" in shown  # 1080 cfm
    assert "62 Pa at 1869 m³/h when clean" in shown
    assert "a line each, Pa and m³/h" in shown
    answer = post(browser, shop.visit, "drop_table", part="coil", drop="62.3", flow="1869", static_unit="F")
    assert (answer.status_code, "'F' is not a known unit here" in words(answer)) == (422, True)


@pytest.mark.parametrize(
    ("kind", "fields", "said"),
    [("fan_table", {"speed": "High", "points": "0.1"}, "a line has a static and an airflow"),
     ("fan_table", {"speed": "High", "points": "0.5 900\n0.1 1000"}, "the static rises and the airflow falls"),
     ("fan_table", {"speed": "High", "points": ""}, "two points at least"), ("fan_table", {"speed": "", "points": "0.1 9"}, ""),
     ("fan_table", {"speed": "High", "points": "0.1 2e9\n0.5 1"}, ""),
     ("fan_table", {"speed": "High", "points": "0.1 1,340\n0.5 900"}, "'1,340' can be read two ways: write 1340"),
     ("drop_table", {"drop": "0.2"}, "needs the airflow"),
     ("drop_table", {"drop": "lots", "flow": "9"}, "The drop"), ("fan_speed", {"speed": " "}, "")],
)  # fmt: skip
def test_what_is_no_table_is_said(browser, shop, kind, fields, said):
    answer = post(browser, shop.visit, kind, **fields)
    assert answer.status_code == 422
    assert said in words(answer)


def test_an_orifice_table_says_what_is_due_on_the_next_unit_of_the_model(browser, shop, owner):
    for rows, words_of in (("CK36", "has coil and number"), ("CK36 big", "no orifice's number"), ("", "a line at least"),
                           ("CK36 .063\nck36 .067", "stands there twice")):  # fmt: skip
        answer = post(browser, shop.visit, "orifice_table", rows=rows)
        assert answer.status_code == 422
        assert words_of in words(answer)
    assert post(browser, shop.visit, "orifice_table", rows="CK36 .063\nCK 42 TX; 67").status_code == 200
    there = next_of_the_model(owner, shop)
    shown = words(browser.get(f"/visits/{there}?at=controls"))
    assert "CK 42 TX: 67" in shown
    assert post(browser, there, "metering_check", orifice_found="59", by_table=".063|CK36").status_code == 200
    shown = words(browser.get(f"/visits/{there}?at=controls"))
    assert "Orifice 59 where the table asks for .063 behind CK36" in shown
    assert post(browser, there, "metering_check", orifice_found="063", by_table="63|CK36").status_code == 200
    assert "The orifice is the one that the outdoor unit asks for" in words(browser.get(f"/visits/{there}?at=controls"))
