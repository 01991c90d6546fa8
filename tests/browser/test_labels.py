"""A photo of a label read, corrected and kept; a code scanned by photo and by the live camera."""

from __future__ import annotations

import io

import pytest
import segno
from PIL import Image
from playwright.sync_api import expect

from dry_gauge.demo.plates import COOLER, plate
from tests.browser.chromium import launch
from tests.browser.conftest import sign_in
from tests.browser.steps import findings


def photo(raw: bytes, sort: str = "image/jpeg") -> dict:
    return {"name": "label.jpg", "mimeType": sort, "buffer": raw}


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_a_label_photo_is_read_corrected_and_kept(open_page, shop, size, scheme):
    page = open_page(size, scheme)
    sign_in(page, shop.logins["lead"])
    page.goto(f"/units/{shop.unit}")
    page.set_input_files("#label-photo", files=[photo(plate(COOLER))])
    page.click("button:has-text('Keep and read it')")
    expect(page.locator(".lead")).to_contain_text("Compare each line")
    assert findings(page) == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    assert page.locator(".label-form input:checked").count() == 0
    page.fill("input[name=serial]", "CHX 1207K31B")
    page.check("input[name=take-serial]")
    page.fill("input[name=charge]", "5.8 lb")
    page.check("input[name=take-charge]")
    page.click(".label-form [type=submit]")
    expect(page.locator("#wrong-charge")).to_contain_text("Or did you mean")
    expect(page.locator("input[name=serial]")).to_have_value("CHX 1207K31B")
    page.fill("input[name=charge]", "5 lb 8 oz")
    page.click(".label-form [type=submit]")
    expect(page.locator(".next-line")).to_contain_text("Nothing is kept yet")
    expect(page.locator("#f-charge_lb")).to_have_value("5")
    expect(page.locator("#f-charge_oz")).to_have_value("8")
    assert findings(page) == []
    page.click("button:has-text('Keep card')")
    expect(page.locator(".facts").first).to_contain_text("CHX 1207K31B")
    expect(page.locator(".facts").first).to_contain_text("its own label")


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_a_code_is_scanned_from_a_photo(open_page, shop, server, size, scheme):
    page = open_page(size, scheme)
    sign_in(page, shop.logins["technician"])
    page.goto("/here")
    page.click("a:has-text('Scan its label')")
    assert findings(page) == []
    page.set_input_files("#scan-photo", files=[photo(plate(COOLER))])
    page.click("button:has-text('Read the code')")
    expect(page.locator(".error")).to_contain_text("No bar or QR code")
    code = io.BytesIO()
    segno.make(f"{server}/units/{shop.unit}").save(code, kind="png", scale=8)
    page.set_input_files("#scan-photo", files=[photo(code.getvalue(), "image/png")])
    page.click("button:has-text('Read the code')")
    page.wait_for_url(f"**/units/{shop.unit}")


def test_the_live_camera_finds_the_code_by_itself(chromium, shop, server, tmp_path):
    code = io.BytesIO()
    segno.make(f"{server}/units/{shop.unit}").save(code, kind="png", scale=8)
    view, frame = Image.new("RGB", (640, 480), "white"), io.BytesIO()
    view.paste(Image.open(code).convert("RGB"), (120, 60))
    view.save(frame, "JPEG", quality=92)
    film = tmp_path / "label.mjpeg"
    film.write_bytes(frame.getvalue() * 30)
    browser = launch(
        chromium.browser_type,
        "--use-fake-ui-for-media-stream",
        "--use-fake-device-for-media-stream",
        f"--use-file-for-fake-video-capture={film}",
    )
    try:
        page = browser.new_context(base_url=server).new_page()
        page.set_default_timeout(40_000)
        sign_in(page, shop.logins["technician"])
        page.goto("/scan")
        page.click("#scan-start")
        page.wait_for_url(f"**/units/{shop.unit}")
    finally:
        browser.close()
