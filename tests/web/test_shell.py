"""A hard shell: what cannot be stored, counted or decoded is refused at the door, and nothing that stands is hurt by it."""

from __future__ import annotations

import io
import re

import httpx2
import pytest
import uuid6
from PIL import Image

from dry_gauge.web.cookies import cookie_named, is_secure
from dry_gauge.web.styles import FOLDER, parts
from tests.web.calls import read


@pytest.mark.parametrize(
    ("scheme", "host", "server", "secure"),
    [
        ("http", "127.0.0.1:8000", "127.0.0.1", False),
        ("http", "localhost", "127.0.0.1", False),
        ("http", "[::1]:80", "::1", False),
        ("http", "shop.example", "127.0.0.1", True),
        ("http", "127.0.0.1:8000", "10.0.0.5", True),
        ("https", "127.0.0.1:8000", "127.0.0.1", True),
        ("http", "", "127.0.0.1", True),
        ("http", "localhost:1", "web", True),
    ],
)
def test_cookies_are_plain_only_over_http_on_this_machine(scheme, host, server, secure):
    scope = {"scheme": scheme, "headers": [(b"host", host.encode())], "server": (server, 8000)}
    assert is_secure(scope) is secure
    assert cookie_named("dry-gauge", scope) == ("__Host-dry-gauge" if secure else "dry-gauge")


def note(text: str = "n") -> dict[str, str]:
    return {"entry_id": str(uuid6.uuid7()), "kind": "note", "text": text}


@pytest.mark.parametrize("moment", ["9999-12-31T23:59:59-14:00", "0001-01-01T00:00:00+14:00", "1969-07-20T20:17:00Z", "noon"])
def test_an_impossible_clock_of_a_device_poisons_no_visit(browser, shop, moment):
    sent = {"csrftoken": browser.token, **note("on the roof")}
    headers = {"hx-request": "true", "x-device-time": moment, "x-waited-ms": "9" * 13}
    assert browser.ask("POST", f"/visits/{shop.visit}/entries", sent, **headers).status_code == 200
    together = {
        "sender": "s",
        "entries": [{"writer": str(shop.people["technician"]), "device_time": moment, "fields": list(note("later").items())}],
    }
    assert browser.send_json(f"/visits/{shop.visit}/entries/together", together).status_code in (200, 422)
    page = browser.get(f"/visits/{shop.visit}")
    assert page.status_code == 200
    assert "on the roof" in page.text


def test_digits_that_are_none_and_numbers_past_every_column_are_refused(browser, shop):
    assert read(browser, shop, "120", circuit="\u00b2").status_code in (200, 422)
    assert browser.get(f"/visits/{shop.visit}/entries?before={2**63}").status_code == 422
    too_long = {"sender": "s", "entries": [{"writer": str(shop.people["technician"]), "waited_ms": 2**63, "fields": []}]}
    assert browser.send_json(f"/visits/{shop.visit}/entries/together", too_long).status_code == 422
    for field in ("made_year", "circuits"):
        assert (
            browser.post(
                f"/units/{shop.unit}/edit", False, tag="U-1", kind="split_ac", refrigerant="R-22", **{field: "\u00b2"}
            ).status_code
            == 422
        )


def test_a_nul_is_refused_in_words_wherever_it_comes(browser, shop):
    assert browser.post("/register/sites", False, name="a\0b").status_code == 422
    assert browser.post(f"/visits/{shop.visit}/entries", **note("a\0b")).status_code == 422
    for path in ("/register?q=%00", "/here/known?site=%00", f"/visits/{shop.visit}%00"):
        assert browser.get(path).status_code == 400
    assert browser.get("/register").status_code == 200


def test_a_body_without_a_length_is_counted_as_it_comes(browser):
    def endless():
        for _ in range(2000):
            yield b"login=" + b"x" * 8192

    cookies = "; ".join(f"{name}={value}" for name, value in browser.cookies.items())
    headers = {"cookie": cookies, "x-csrftoken": browser.token}
    form, sheet = "application/x-www-form-urlencoded", "application/json"
    for path, kind in (("/sign-in", form), ("/register/sites", form), ("/api/v1/assess", sheet)):
        headers["content-type"] = kind
        try:
            answer = httpx2.post(f"{browser.base}{path}", content=endless(), headers=headers)
        except (httpx2.WriteError, httpx2.ReadError):
            continue  # turned away before everything was sent; what was answered may be lost with the rest
        assert answer.status_code == 413, path
    assert browser.get("/pocket").status_code == 200


def test_a_picture_that_would_take_all_memory_is_not_decoded(browser, shop):
    flat = io.BytesIO()
    Image.new("1", (8000, 6000)).save(flat, "PNG")  # 48 million pixels in a few kilobytes
    assert len(flat.getvalue()) < 100_000
    cookies = "; ".join(f"{name}={value}" for name, value in browser.cookies.items())
    answer = httpx2.post(
        f"{browser.base}/units/{shop.unit}/photos",
        data={"csrftoken": browser.token},
        files={"photo": ("p.png", flat.getvalue(), "image/png")},
        headers={"cookie": cookies},
    )
    assert answer.status_code == 422
    assert "too many pixels" in answer.text


def test_the_style_sheet_is_all_its_parts(browser):
    assert {*FOLDER.glob("*.css"), *(FOLDER.parents[1] / "stations").glob("*/*.css")} == {*parts()}
    page = browser.get("/pocket").text
    answer = browser.get(re.search(r"/static/app\.css\?v=[0-9a-f]+", page)[0])
    assert answer.headers["content-type"].startswith("text/css")
    assert "immutable" in answer.headers["cache-control"]
    assert all(part.read_text() in answer.text for part in parts()[1:])
    assert "light-dark" not in answer.text  # a phone of 2022 draws it
    assert answer.text.count("--ink: #14201f;") == 1
    assert answer.text.count("--ink: #f3f0e6;") == 2  # by night: chosen, or as the device has it


def test_nothing_is_read_by_scrolling_sideways():
    web = FOLDER.parents[1]
    own = [*web.rglob("*.html"), *web.rglob("*.css"), *web.rglob("*.js")]
    generated = {"vendor", "coefficients.js"}  # and what others wrote
    long = [
        f"{one.relative_to(web)}:{number}"
        for one in own
        if not generated & set(one.parts)
        for number, line in enumerate(one.read_text().splitlines(), 1)
        if len(line) > (120 if one.suffix == ".css" else 130)
    ]
    assert not long


def test_letters_come_in_ten_sizes_at_most():
    sheets = [*parts(), *(FOLDER.parent).glob("*.css")]
    sizes = {size for sheet in sheets for size in re.findall(r"font(?:-size)?: (?:\d+ )?([\d.]+px)", sheet.read_text())}
    assert len(sizes) <= 10, sizes


def test_an_icon_of_the_home_screen_is_of_the_size_it_is_said_to_be(browser):
    told = browser.get("/static/dry-gauge.webmanifest")
    assert told.headers["content-type"].startswith("application/manifest+json")
    sheet = browser.get("/static/app.css").text
    by_night = re.search(r'name="theme-color" content="([^"]+)"', browser.get("/me").text)[1]
    for colour in (told.json()["theme_color"], told.json()["background_color"], by_night):
        assert f"--paper: {colour};" in sheet
    pictures = [icon for icon in told.json()["icons"] if icon["type"] == "image/png"]
    assert {icon.get("purpose", "any") for icon in pictures} == {"any", "maskable"}
    for icon in pictures:
        drawn = Image.open(io.BytesIO(browser.get(f"/static/{icon['src']}").content))
        assert f"{drawn.width}x{drawn.height}" == icon["sizes"]
    apple = re.search(r'rel="apple-touch-icon" href="([^"]+)"', browser.get("/me").text)[1]
    assert Image.open(io.BytesIO(browser.get(apple).content)).size == (180, 180)
