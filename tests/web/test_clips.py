"""Clips: kept as they were recorded with a still that stands for them, and shown in ranges; what is none is said so."""

from __future__ import annotations

import io
from base64 import b64encode

import httpx2
import pytest
import uuid6
from PIL import Image

from tests.web.calls import Browser
from tests.web.test_register import words

WEBM, MP4 = b"\x1a\x45\xdf\xa3" + bytes(range(256)) * 40, b"\0\0\0\x18ftypmp42" + bytes(range(256)) * 40


def still(size=(64, 48)) -> str:
    out = io.BytesIO()
    Image.new("RGB", size, "gray").save(out, "JPEG")
    return f"data:image/jpeg;base64,{b64encode(out.getvalue()).decode()}"


def send(browser, shop, raw, entry=None, **fields):
    told = {"entry_id": str(entry or uuid6.uuid7()), "caption": "rattles at start", "seconds": "12.3", "still": still()} | fields
    cookies = "; ".join(f"{key}={value}" for key, value in browser.cookies.items())
    with httpx2.Client(base_url=browser.base, timeout=40) as client:
        headers = {"cookie": cookies, "hx-request": "true", "x-csrftoken": browser.token}
        return client.post(f"/visits/{shop.visit}/photos", headers=headers, data=told, files={"photo": ("clip", raw)})


@pytest.mark.parametrize(("raw", "sort"), [(WEBM, "video/webm"), (MP4, "video/mp4")])
def test_a_clip_is_kept_once_and_shown_in_ranges(browser, shop, make_shop, server, raw, sort):
    entry = uuid6.uuid7()
    for _ in range(2):
        assert send(browser, shop, raw, entry).status_code == 200
    page = browser.get(f"/visits/{shop.visit}")
    assert page.text.count(f'href="/photos/{entry}/clip"') == 1
    assert "Clip, 12 s" in words(page)
    assert "Clip, 12 s: rattles at start" in words(browser.get(f"/visits/{shop.visit}/record"))
    whole = browser.get(f"/photos/{entry}/clip")
    assert (whole.content, whole.headers["content-type"]) == (raw, sort)
    assert whole.headers["x-content-type-options"] == "nosniff"
    assert "media-src 'self'" in whole.headers["content-security-policy"]
    cookies = "; ".join(f"{key}={value}" for key, value in browser.cookies.items())
    part = httpx2.get(f"{server}/photos/{entry}/clip", headers={"cookie": cookies, "range": "bytes=4-9"})
    assert (part.status_code, part.content) == (206, raw[4:10])
    assert browser.get(f"/photos/{entry}").headers["content-type"] == "image/jpeg"
    stranger = Browser(server)
    stranger.sign_in(make_shop().logins["lead"])
    assert stranger.get(f"/photos/{entry}/clip").status_code == 404


@pytest.mark.parametrize(
    ("raw", "fields", "reason"),
    [
        (WEBM, {"still": ""}, "Record it here"),
        (WEBM, {"still": "data:image/jpeg;base64,%%%"}, "Record it here"),
        (WEBM, {"still": "data:image/jpeg;base64,AAAA"}, "not a photo"),
        (WEBM, {"seconds": ""}, "30 s long at the most"),
        (WEBM, {"seconds": "nan"}, "30 s long at the most"),
        (WEBM, {"seconds": "95"}, "30 s long at the most"),
        (MP4 + b"\xa9xyz\0\x12\x15\xc7+40.7-074.0/", {}, "holds the place"),
        (b"\0\0\0\x18ftypheic" + bytes(4000), {}, "send JPEG, PNG or WebP"),
        (WEBM + bytes(13 * 2**20), {}, "over 12 MB"),
    ],
)
def test_what_is_no_clip_of_ours_is_said_so(browser, shop, raw, fields, reason):
    answer = send(browser, shop, raw, **fields)
    assert answer.status_code == 422
    assert reason in words(answer)


def test_a_photo_has_no_clip(browser, shop):
    entry = uuid6.uuid7()
    out = io.BytesIO()
    Image.new("RGB", (40, 30)).save(out, "PNG")
    assert send(browser, shop, out.getvalue(), entry).status_code == 200
    assert browser.get(f"/photos/{entry}/clip").status_code == 404
    assert "Clip" not in words(browser.get(f"/visits/{shop.visit}/record"))
