"""What an owner reads: the report in both languages, and a link that shows it and nothing else until it ends."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from io import BytesIO
from uuid import UUID

import httpx2
import pytest
import uuid6
from bs4 import BeautifulSoup
from PIL import Image
from sqlalchemy import text

from dry_gauge.service.owners import GUESSES, LinkSigner
from tests.web.calls import PATIENCE_SECONDS, Browser


def words(answer):
    return BeautifulSoup(answer.text, "html.parser").get_text(" ", strip=True)


def as_owner(server, url, address="", **headers):
    return httpx2.get(f"{server}{url[url.index('/o/') :]}{address}", timeout=PATIENCE_SECONDS, headers=headers)


@pytest.fixture
def entered(browser, shop):
    """A visit with words of the customer, a finding, something done, and a photo."""
    where = f"/visits/{shop.visit}/entries"
    for fields in (
        {"kind": "complaint", "sorts": "ice", "words": "<b>cold & wet</b>"},
        {"kind": "observation", "what": "filter_dirty", "state": "yes"},
        {"kind": "action", "sort": "filter_changed", "words": "four of them"},
    ):
        assert browser.post(where, entry_id=str(uuid6.uuid7()), **fields).status_code == 200
    shot = BytesIO()
    Image.new("RGB", (60, 40), "navy").save(shot, "JPEG")
    photo = uuid6.uuid7()
    sent = httpx2.post(
        f"{browser.base}/visits/{shop.visit}/photos",
        data={"entry_id": str(photo), "caption": "the old filter"},
        files={"photo": ("a.jpg", shot.getvalue(), "image/jpeg")},
        timeout=PATIENCE_SECONDS,
        headers={"cookie": "; ".join(f"{k}={v}" for k, v in browser.cookies.items()), "x-csrftoken": browser.token},
    )
    assert sent.status_code == 303
    return photo


def link_of(browser, shop, language="en", days="30"):
    browser.get(f"/visits/{shop.visit}/report")
    assert browser.post(f"/visits/{shop.visit}/links", False, language=language, days=days).status_code == 303
    page = BeautifulSoup(browser.get(f"/visits/{shop.visit}/report").text, "html.parser")
    return page.select(".owner-link a")[0]["href"]


def test_both_languages_tell_the_same_visit(browser, shop, entered):
    english, spanish = (words(browser.get(f"/visits/{shop.visit}/report?lang={code}")) for code in ("en", "es"))
    for said in (
        "The filter was full of dirt. That is mended.",
        "We put in a new filter.",
        "Our note: four of them",
        "There was ice.",
        "“<b>cold & wet</b>”",
        "We are still at work",
    ):
        assert said in english
    for said in (
        "El filtro estaba lleno de polvo. Eso ya está listo.",
        "Pusimos un filtro nuevo.",
        "Había hielo.",
        "«<b>cold & wet</b>»",
    ):
        assert said in spanish
    record = words(browser.get(f"/visits/{shop.visit}/record"))
    assert "filter changed: four of them" in record
    for kind in ("report", "record"):
        made = browser.get(f"/visits/{shop.visit}/{kind}.pdf")
        assert made.content.startswith(b"%PDF")


def test_a_link_shows_the_report_and_what_was_chosen_for_it(browser, server, shop, entered):
    url = link_of(browser, shop, "es")
    read = as_owner(server, url)
    assert read.status_code == 200
    assert "Su informe de servicio" in read.text
    assert read.headers["x-robots-tag"].startswith("noindex")
    assert read.headers["cache-control"] == "no-store"
    assert "csrftoken" not in read.text
    picture = f"/pictures/{entered}"
    assert as_owner(server, url, picture).status_code == 404  # not chosen
    chosen = {"words": "Bring <i>two</i> next time.", "picture": str(entered)}
    assert browser.post(f"/visits/{shop.visit}/report", False, **chosen).status_code == 303
    read = as_owner(server, url)
    assert "Bring <i>two</i> next time." in words(read)
    assert "the old filter" in read.text
    assert as_owner(server, url, picture).headers["content-type"] == "image/jpeg"
    assert as_owner(server, url, f"/pictures/{uuid6.uuid7()}").status_code == 404
    assert as_owner(server, url, "/report.pdf").content.startswith(b"%PDF")
    # Nothing else: the photo's own address, the visit and its report want a sign-in.
    for path in (f"/photos/{entered}", f"/visits/{shop.visit}", f"/visits/{shop.visit}/report"):
        assert httpx2.get(server + path, timeout=PATIENCE_SECONDS).status_code == 303
    too_long = browser.post(f"/visits/{shop.visit}/report", False, words="x" * 2001)
    assert too_long.status_code == 422
    assert "at most 2000" in words(too_long)


def test_a_link_that_was_withdrawn_or_is_over_tells_nothing(browser, server, shop, owner):
    url, other = link_of(browser, shop), link_of(browser, shop, days="7")
    page = BeautifulSoup(browser.get(f"/visits/{shop.visit}/report").text, "html.parser")
    assert len(page.select(".owner-link")) == 2
    ending = page.select(".owner-link form")[1]["action"]  # the older one
    assert url in str(page.select(".owner-link")[1])
    for _ in range(2):  # twice does no harm
        assert browser.post(ending, False).status_code == 303
    gone = as_owner(server, url, **{"accept-language": "es-MX,es;q=0.9"})
    assert gone.status_code == 404
    assert "Aquí no hay nada que leer." in gone.text
    assert "U-1" not in gone.text
    assert as_owner(server, other).status_code == 200
    with owner.begin() as connection:
        connection.execute(
            text("UPDATE owner_link SET expires_at = :then WHERE shop_id = :shop"),
            {"then": datetime.now(UTC) - timedelta(seconds=1), "shop": shop.id},
        )
    assert as_owner(server, other).status_code == 404
    assert "Expired" in words(browser.get(f"/visits/{shop.visit}/report"))


def test_a_guessed_link_opens_nothing_and_soon_waits(server, owner):
    tries, status = 0, 404
    while status == 404 and tries < 3 * GUESSES:
        made = LinkSigner("a secret of somebody else that is long enough").address(UUID(int=tries + 1))
        status = httpx2.get(f"{server}/o/{made}", timeout=PATIENCE_SECONDS).status_code
        tries += 1
    assert status == 429
    for odd in ("", "x", "%00", "a" * 5000, "é"):
        assert httpx2.get(f"{server}/o/{odd}", timeout=PATIENCE_SECONDS).status_code in (400, 404, 414, 429)
    with owner.begin() as connection:  # other tests come from the same address
        connection.execute(text("DELETE FROM rate_window WHERE key LIKE 'owner link from %'"))


def test_who_reads_along_writes_to_no_owner(server, shop):
    reading = Browser(server)
    reading.sign_in(shop.logins["read_only"])
    page = reading.get(f"/visits/{shop.visit}/report")
    assert page.status_code == 200
    assert "Make a link" not in page.text
    assert reading.post(f"/visits/{shop.visit}/links", False, language="en", days="30").status_code == 403
    assert reading.post(f"/visits/{shop.visit}/report", False, words="x").status_code == 403


@pytest.mark.parametrize(
    "fields", [{"language": "xx", "days": "30"}, {"language": "en", "days": "4000"}, {"language": "en", "days": "-1"}, {}]
)
def test_an_odd_link_is_refused_in_words(browser, shop, fields):
    assert browser.post(f"/visits/{shop.visit}/links", False, **fields).status_code == 422


def test_another_shops_visit_has_no_report_here(browser, make_shop):
    other = make_shop()
    assert browser.get(f"/visits/{other.visit}/report").status_code == 404
    assert browser.get(f"/visits/{other.visit}/record.pdf").status_code == 404
    assert browser.post(f"/visits/{other.visit}/links", False, language="en", days="30").status_code == 404
