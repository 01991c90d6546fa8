"""Tables of a blower and a coil over HTTP: kept for the model, refused with words where they are none."""

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


def test_a_table_counts_on_this_visit_and_on_the_next_unit_of_the_model(browser, shop, owner):
    table = {"speed": "Tap 4", "points": "0.1 1400\n0.5 = 1200\n0,8; 900"}
    assert post(browser, shop.visit, "fan_table", **table).status_code == 200
    assert post(browser, shop.visit, "drop_table", part="coil", drop="0.25", flow="1100").status_code == 200
    static(browser, shop.visit)
    shown = words(browser.get(f"/visits/{shop.visit}?at=air"))
    assert "Tap 4, at the external static 1080 cfm" in shown
    assert "Coil drop" in shown
    other, there = uuid6.uuid7(), uuid6.uuid7()
    with owner.begin() as connection:
        connection.execute(update(Unit).where(Unit.id == shop.unit).values(model="BX-36"))
        row = dict(connection.execute(select(Unit.__table__).where(Unit.id == shop.unit)).mappings().one())
        connection.execute(Unit.__table__.insert().values({**row, "id": other, "tag": "Other"}))
        row = dict(connection.execute(select(Visit.__table__).where(Visit.id == shop.visit)).mappings().one())
        fresh = {"id": there, "call_id": there, "unit_id": other, "sequence": 0, "state": {}, "fold_version": 0}
        connection.execute(Visit.__table__.insert().values({**row, **fresh}))
    static(browser, there)
    shown = words(browser.get(f"/visits/{there}?at=air"))
    assert "Tap 4, at the external static 1080 cfm" in shown
    assert "Known: Tap 4." in shown


@pytest.mark.parametrize(
    ("kind", "fields", "said"),
    [("fan_table", {"speed": "High", "points": "0.1"}, "a line has a static and an airflow"),
     ("fan_table", {"speed": "High", "points": "0.5 900\n0.1 1000"}, "the static rises and the airflow falls"),
     ("fan_table", {"speed": "High", "points": ""}, "two points at least"), ("fan_table", {"speed": "", "points": "0.1 9"}, ""),
     ("fan_table", {"speed": "High", "points": "0.1 2e9\n0.5 1"}, ""), ("drop_table", {"drop": "0.2"}, "needs the airflow"),
     ("drop_table", {"drop": "lots", "flow": "9"}, "The drop"), ("fan_speed", {"speed": " "}, "")],
)  # fmt: skip
def test_what_is_no_table_is_said(browser, shop, kind, fields, said):
    answer = post(browser, shop.visit, kind, **fields)
    assert answer.status_code == 422
    assert said in words(answer)
