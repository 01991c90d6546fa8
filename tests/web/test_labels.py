"""Labels: the maker's read from a photo, ours scanned; nothing goes onto a card that was not ticked and kept."""

from __future__ import annotations

import io

import httpx2
import pytest
import segno
from sqlalchemy import select, update

from dry_gauge.demo.plates import COOLER, plate
from dry_gauge.store.models import Unit
from tests.web.calls import Browser
from tests.web.test_register import words


def send(browser: Browser, path: str, raw: bytes, **headers: str) -> httpx2.Response:
    cookies = "; ".join(f"{key}={value}" for key, value in browser.cookies.items())
    with httpx2.Client(base_url=browser.base, timeout=60) as client:
        sent = {"cookie": cookies, "x-csrftoken": browser.token, **headers}
        return client.post(path, headers=sent, files={"photo": ("x.jpg", raw)})


def qr(text: str) -> bytes:
    out = io.BytesIO()
    segno.make(text, error="m").save(out, kind="png", scale=8, border=4)
    return out.getvalue()


def card(owner, shop):
    with owner.connect() as connection:
        return connection.execute(select(Unit).where(Unit.shop_id == shop.id, Unit.id == shop.unit)).one()


@pytest.fixture
def photographed(browser, shop):
    answer = send(browser, f"/units/{shop.unit}/photos", plate(COOLER))
    assert answer.headers["location"] == f"/units/{shop.unit}/label-photo"
    return f"/units/{shop.unit}/label-photo"


def test_only_what_is_ticked_reaches_the_form_and_only_keeping_reaches_the_card(browser, shop, owner, photographed):
    before = card(owner, shop)
    seen = browser.get(photographed)
    assert 'value="5 lb 8 oz"' in seen.text
    assert "checked" not in seen.text
    assert f'action="/units/{shop.unit}/photos"' in seen.text  # a better photo may be taken from here
    form = browser.post(
        photographed,
        False,
        **{
            "serial": "CHX 1207K316",
            "take-serial": "yes",
            "charge": "5 lb 8 oz",
            "take-charge": "yes",
            "model": "CH-05M",
            "refrigerant": "R-134a",
        },
    )
    assert form.status_code == 200
    assert 'value="CHX 1207K316"' in form.text
    assert "from the photo" in form.text
    assert "CH-05M" not in form.text
    after = card(owner, shop)
    assert (after.serial, after.facts) == (before.serial, before.facts)


@pytest.mark.parametrize(
    ("name", "text", "said"),
    [
        ("charge", "7.4 lb", "Or did you mean"),
        ("charge", "a lot", "charge"),
        ("refrigerant", "R-41OX", "R-41OX"),
        ("serial", " ", "ticked and empty"),
    ],
)
def test_what_cannot_be_is_said_beside_its_field_with_all_that_was_typed(browser, photographed, name, text, said):
    typed = {"model": "CH-05M typed", "take-model": "yes", name: text, f"take-{name}": "yes"}
    answer = browser.post(photographed, False, **typed)
    assert answer.status_code == 422
    assert said in words(answer)
    assert f'id="wrong-{name}"' in answer.text
    assert "CH-05M typed" in answer.text


def test_a_label_past_reading_says_how_to_take_it_and_stays_with_the_card(browser, shop):
    answer = send(browser, f"/units/{shop.unit}/photos", plate(COOLER, unsharp=7))
    page = browser.get(answer.headers["location"])
    assert "Nothing on this photo could be read" in words(page)
    assert "Take it again" in page.text


def test_a_code_opens_its_unit_and_another_shops_does_not(browser, shop, make_shop, owner):
    ours = send(browser, "/scan/photos", qr(f"https://example.invalid/units/{shop.unit}"))
    assert (ours.status_code, ours.headers["location"]) == (303, f"/units/{shop.unit}")
    theirs = send(browser, "/scan/photos", qr(f"https://example.invalid/units/{make_shop().unit}"))
    assert theirs.status_code == 422
    assert "not in your shop" in words(theirs)
    with owner.begin() as connection:
        connection.execute(update(Unit).where(Unit.shop_id == shop.id, Unit.id == shop.unit).values(serial="QZ-77120-A"))
    frame = send(browser, "/scan/photos", plate((), code="QZ-77120-A"), accept="application/json")
    assert frame.json() == {"seen": "QZ-77120-A", "to": f"/units/{shop.unit}"}


@pytest.mark.parametrize(
    ("raw", "said"),
    [
        (b"", "Choose a photo"),
        (b"no picture", "not a photo"),
        (qr("hello there"), "The code says hello there"),
        (qr("x" * 1000), "The code says xxx"),
        (plate(COOLER), "No bar or QR code"),
        (qr("/units/not-an-id"), "No unit"),
    ],
    ids=["none", "text", "words", "long", "no code", "no id"],
)
def test_what_is_no_code_of_ours_is_said_so(browser, raw, said):
    browser.get("/scan")
    answer = send(browser, "/scan/photos", raw)
    assert answer.status_code == 422
    assert said in words(answer)


def test_the_camera_may_be_opened_on_the_scan_page_alone(browser):
    assert "camera=(self)" in browser.get("/scan").headers["permissions-policy"]
    assert "camera=()" in browser.get("/here").headers["permissions-policy"]
