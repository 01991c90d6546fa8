"""A roof with bad signal: what is typed waits in the browser, through reloads and closed tabs, and arrives once."""

from __future__ import annotations

import gzip
import io
import json
import re
from datetime import UTC, datetime, timedelta
from pathlib import Path
from urllib.parse import urlsplit

import pytest
import uuid6
from PIL import Image
from playwright.sync_api import Page, expect
from sqlalchemy import insert, select, text

from dry_gauge.store.models import EntryRow, Site, Unit, Visit
from tests.browser.conftest import sign_in, sign_in_by_hand
from tests.browser.steps import at_visit, findings, kept_bodies, until
from tests.conftest import FACTS, PASSWORD

pytestmark = pytest.mark.service_worker


def worker_ready(page: Page) -> None:
    """The service worker holds this visit's stations."""
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    me = page.evaluate("document.body.dataset.me")
    until(page, f"caches.open('pages-of-{me}').then((c) => c.keys()).then((all) => all.length >= 6)")


def cut_off(page: Page) -> None:
    """No signal, the service worker's fetches among them: one that was asleep hears of it only as it wakes."""
    page.context.set_offline(True)
    until(page, "fetch('/healthz', { cache: 'no-store' }).then(() => false, () => true)")


def enter(page: Page, name: str, value: str) -> None:
    page.fill(f"#q-{name}", value)
    page.keyboard.press("Enter")


@pytest.mark.parametrize("size", ["desk", "phone"])
def test_two_minutes_without_signal_and_a_killed_tab_lose_nothing_and_double_nothing(open_page, shop, owner, size):
    page = at_visit(open_page(size), shop)
    worker_ready(page)
    enter(page, "outdoor_air_temp", "90")
    expect(page.locator("#said-outdoor_air_temp .kept")).to_be_visible()

    page.clock.install()
    cut_off(page)
    enter(page, "suction_pressure", "120")
    expect(page.locator("#said-suction_pressure")).to_contain_text("waiting to send")
    enter(page, "suction_line_temp", "52")
    page.click("label[for=s-evaporator_air_proven-yes]")
    page.fill("#note-text", "roof hatch rusted")
    page.click("#note-form button")
    expect(page.locator("#outbox summary")).to_have_text("No connection: 4 waiting to send")
    page.clock.fast_forward(120_000)
    expect(page.locator("#outbox summary")).to_contain_text("waiting")

    # The tab dies; a new one comes up from what the browser kept, and shows what waits.
    context = page.context
    page.close(run_before_unload=False)
    page = context.new_page()
    page.set_default_timeout(25_000)
    page.goto(f"/visits/{shop.visit}")
    expect(page.locator("#q-suction_pressure")).to_have_value("120")
    expect(page.locator("#said-suction_pressure")).to_contain_text("waiting to send")
    expect(page.locator("#s-evaporator_air_proven-yes")).to_be_checked()
    enter(page, "liquid_pressure", "365")
    expect(page.locator("#outbox summary")).to_contain_text("5 waiting")
    page.goto(f"/visits/{shop.visit}?at=mend")  # another station works, too
    expect(page.locator("#permit")).to_be_visible()

    context.set_offline(False)
    expect(page.locator("#outbox")).to_be_hidden(timeout=20_000)
    expect(page.locator("#timeline h2")).to_contain_text("6 entries")
    bodies = kept_bodies(owner, shop)
    assert [body.get("quantity") or body.get("what") or body["kind"] for body in bodies] == [
        "outdoor_air_temp",
        "suction_pressure",
        "suction_line_temp",
        "evaporator_air_proven",
        "note",
        "liquid_pressure",
    ]
    assert bodies[0]["waited"] < 2


@pytest.mark.parametrize("size", ["desk", "phone"])
def test_a_page_without_signal_shows_what_was_kept_on_it_says_of_when_and_catches_up(open_page, shop, owner, size):
    page, other = at_visit(open_page(size), shop), open_page()
    worker_ready(page)
    enter(page, "outdoor_air_temp", "90")
    expect(page.locator("#said-outdoor_air_temp .kept")).to_be_visible()
    until(page, "caches.match(location.href).then((kept) => kept.text()).then((text) => /data-kept=.90./.test(text))")
    cut_off(page)
    page.reload()
    expect(page.locator("#q-outdoor_air_temp")).to_have_value("90")
    expect(page.locator("#outbox summary")).to_contain_text("No connection: shown as of ")
    page.click("#outbox summary")
    expect(page.locator("#outbox li")).to_contain_text("What was kept since is safe")
    enter(at_visit(other, shop), "return_air_temp", "76")  # by somebody else, meanwhile
    expect(other.locator("#said-return_air_temp .kept")).to_be_visible()
    page.context.set_offline(False)
    expect(page.locator("#q-return_air_temp")).to_have_value("76")
    expect(page.locator("#outbox")).to_be_hidden()


def test_how_long_an_entry_waited_is_told_by_the_phones_clock_against_itself(open_page, shop, owner):
    page = at_visit(open_page(), shop)
    page.clock.install(time="2031-05-05T03:00:00Z")  # a clock that is wrong by years
    page.goto(f"/visits/{shop.visit}")
    cut_off(page)
    enter(page, "suction_pressure", "120")
    expect(page.locator("#said-suction_pressure")).to_contain_text("waiting to send")
    page.clock.fast_forward(300_000)
    page.context.set_offline(False)
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator("#said-suction_pressure .kept")).to_be_visible()
    (body,) = kept_bodies(owner, shop)
    assert 295 <= body["waited"] <= 330


def test_a_refused_entry_that_waited_is_shown_until_it_is_seen(open_page, shop):
    page = at_visit(open_page(), shop)
    cut_off(page)
    enter(page, "suction_pressure", "1580")
    expect(page.locator("#said-suction_pressure")).to_contain_text("waiting to send")
    page.goto("about:blank")
    page.context.set_offline(False)
    page.goto("/")
    expect(page.locator("#outbox summary")).to_contain_text("1 not kept")
    page.click("#outbox summary")
    expect(page.locator("#outbox .refused")).to_contain_text("1580")
    expect(page.locator("#outbox .refused")).to_contain_text("decimal point")
    page.click("#outbox .refused button")
    expect(page.locator("#outbox")).to_be_hidden()


def test_a_session_that_ended_keeps_what_waits_and_asks_to_sign_in(open_page, shop, owner):
    page = at_visit(open_page(), shop)
    with owner.begin() as connection:
        connection.execute(text("DELETE FROM web_session WHERE shop_id = :shop"), {"shop": shop.id})
    enter(page, "suction_pressure", "121.5")
    expect(page.locator("dialog.again")).to_contain_text("Sign in to go on")
    expect(page.locator("#outbox summary")).to_have_text("Sign in to send 1")
    page.fill("dialog #login", shop.logins["technician"])
    page.fill("dialog #password", PASSWORD)
    page.click("dialog button[type=submit]")
    page.wait_for_url(f"**/visits/{shop.visit}*")
    expect(page.locator("#said-suction_pressure .kept")).to_be_visible()
    expect(page.locator("#q-suction_pressure")).to_have_value("121.5")
    assert len(kept_bodies(owner, shop)) == 1


def test_an_old_form_token_is_renewed_not_lost(open_page, shop, owner):
    page = at_visit(open_page(), shop)
    page.context.clear_cookies(name="__Host-dry-gauge-form")
    enter(page, "suction_pressure", "119")
    expect(page.locator("#said-suction_pressure .kept")).to_be_visible()
    assert len(kept_bodies(owner, shop)) == 1


def test_a_long_queue_goes_off_in_order_and_only_once(open_page, shop, owner):
    page = at_visit(open_page(), shop)
    page.evaluate(
        """async () => {
          const main = document.querySelector("script[src*='/main.js']").src;
          const { put } = await import(main.replace("main.js", "outbox.js"));
          const { newId } = await import(main.replace("main.js", "queue.js"));
          for (let i = 0; i < 150; i++) await put({url: `/visits/${document.body.dataset.visit}/entries`, form: "",
            label: `note ${i}`, fields: [["entry_id", newId()], ["kind", "note"], ["text", `n${i}`]]});
        }"""
    )
    expect(page.locator("#timeline h2")).to_contain_text("150 entries", timeout=60_000)
    expect(page.locator("#outbox")).to_be_hidden()
    assert [body["text"] for body in kept_bodies(owner, shop)] == [f"n{i}" for i in range(150)]


def test_two_people_see_each_others_entries_and_what_is_being_typed_stays(open_page, shop):
    mine, theirs = at_visit(open_page(), shop), open_page()
    sign_in(theirs, shop.logins["lead"])
    theirs.goto(f"/visits/{shop.visit}")
    mine.press("#q-liquid_line_temp", "9")  # not sent yet
    enter(theirs, "suction_pressure", "117")
    expect(mine.locator("#timeline")).to_contain_text("117 psig")
    expect(mine.locator("#q-suction_pressure")).to_have_value("117")
    expect(mine.locator("#q-liquid_line_temp")).to_have_value("9")
    mine.keyboard.type("8")
    mine.keyboard.press("Enter")
    expect(theirs.locator("#timeline")).to_contain_text("98 °F")
    theirs.click("[aria-label^='Take back Suction']")
    expect(mine.locator(".entries .voided")).to_contain_text("117 psig")


def test_a_browser_that_may_keep_nothing_still_sends(open_page, shop, owner):
    page = open_page()
    page.add_init_script("IDBFactory.prototype.open = () => { throw new DOMException('denied', 'SecurityError'); };")
    at_visit(page, shop)
    enter(page, "suction_pressure", "118")
    expect(page.locator("#timeline")).to_contain_text("118 psig")
    assert len(kept_bodies(owner, shop)) == 1


def test_a_call_of_the_day_opens_in_a_cellar_though_it_was_never_opened_before(open_page, shop, owner):
    with owner.begin() as connection:
        site = connection.execute(select(Unit.site_id).where(Unit.id == shop.unit)).scalar_one()
        unit = uuid6.uuid7()
        connection.execute(insert(Unit).values(shop_id=shop.id, id=unit, site_id=site, tag="U-9", facts=FACTS))
        connection.execute(
            insert(Visit).values(
                shop_id=shop.id,
                id=unit,
                call_id=unit,
                unit_id=unit,
                planned_for=datetime.now(UTC),
                technician_id=shop.people["lead"],
            )
        )
    page = open_page("phone")
    sign_in_by_hand(page, shop.logins["technician"])
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.wait_for_selector("body[data-ahead]", state="attached")
    me = page.evaluate("document.body.dataset.me")
    there = f"/units/{shop.unit}"
    ahead = "JSON.parse(document.body.dataset.ahead)"
    kept = f"caches.open('pages-of-{me}').then((c) => Promise.all({ahead}.map((a) => c.match(a))))"
    until(page, f"{kept}.then((pages) => pages.every(Boolean))")  # nothing is under way that would bring a cookie of its own
    page.goto("/pocket")
    page.context.clear_cookies()  # the session ended, and with it what was kept
    sign_in_by_hand(page, shop.logins["technician"])  # the board is all that is looked at
    page.wait_for_selector("body[data-ahead]", state="attached")
    until(page, f"{kept}.then((pages) => pages.every(Boolean))")
    cut_off(page)
    page.goto("/")
    expect(page.locator("a.call", has_text="U-9").locator(".not-kept")).to_be_visible()  # somebody else's: never kept here
    expect(page.locator("a.call", has_text="U-1").locator(".not-kept")).to_be_hidden()
    page.locator("a.call", has_text="U-1").click()
    expect(page.locator(".stations .here")).to_be_visible()
    page.click(".stations a:has-text('Read')")
    enter(page, "suction_pressure", "118")
    expect(page.locator("#said-suction_pressure")).to_have_text("waiting to send")
    page.goto(there)
    expect(page.locator("h1")).to_contain_text("Signal House")
    page.context.set_offline(False)
    page.evaluate("window.dispatchEvent(new Event('online'))")
    page.goto(f"/visits/{shop.visit}?at=read")
    expect(page.locator("#said-suction_pressure .kept")).to_be_visible()
    assert [body["value"] for body in kept_bodies(owner, shop)] == [118]


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_a_visit_to_the_unit_beside_is_opened_in_the_cellar_and_is_of_that_moment(open_page, shop, owner, size, scheme):
    with owner.begin() as connection:
        site = connection.execute(select(Unit.site_id).where(Unit.id == shop.unit)).scalar_one()
        elsewhere, beside, far = (uuid6.uuid7() for _ in range(3))
        connection.execute(insert(Site).values(shop_id=shop.id, id=elsewhere, name="Far House"))
        for unit, tag, where in ((beside, "U-2", site), (far, "U-7", elsewhere)):
            connection.execute(insert(Unit).values(shop_id=shop.id, id=unit, site_id=where, tag=tag, facts=FACTS))
        connection.execute(
            insert(Visit).values(
                shop_id=shop.id,
                id=far,
                call_id=far,
                unit_id=far,
                status="closed",
                planned_for=datetime.now(UTC) - timedelta(days=9),
                technician_id=shop.people["technician"],
            )
        )
    page = open_page(size, scheme)
    sign_in_by_hand(page, shop.logins["technician"])
    me = page.locator("body[data-ahead]").get_attribute("data-me")
    until(page, f"caches.open('pages-of-{me}').then((c) => c.match('/units/{beside}')).then((kept) => !!kept)")
    page.goto(f"/parts?unit={beside}")
    page.clock.install()
    cut_off(page)
    page.goto(f"/parts?unit={far}")  # a page of one unit never stands in for another's
    expect(page.locator("h1")).to_have_text("No connection")
    page.goto("/")
    page.get_by_role("link", name="New visit here").locator("visible=true").click()
    expect(page.locator(".without-signal")).to_be_visible()
    expect(page.locator("#here-form")).to_be_hidden()
    expect(page.locator(".here-unit", has_text="U-7").locator(".not-kept")).to_be_visible()
    page.locator(".here-unit", has_text="U-7").click()
    expect(page.locator("h1")).to_have_text("New visit here")
    assert findings(page) == []
    page.context.set_offline(False)  # what needs a signal is offered again once there is one
    expect(page.locator(".without-signal")).to_be_hidden()
    expect(page.locator(".here-unit .not-kept:visible")).to_have_count(0)
    cut_off(page)
    page.reload()
    expect(page.locator(".without-signal")).to_be_visible()
    page.locator(".here-unit", has_text="U-2").click()
    expect(page.locator(".stations .here")).to_be_visible()
    expect(page.locator("#outbox summary")).to_have_text("No connection: 1 waiting to send")
    opened = page.url
    page.click(".stations a:has-text('Read')")
    enter(page, "suction_pressure", "118")
    expect(page.locator("#said-suction_pressure")).to_have_text("waiting to send")
    page.goto("/")
    page.click("#outbox summary")
    page.click("#outbox a:has-text('A visit to')")  # the way back
    page.click(".stations a:has-text('Read')")
    expect(page.locator("#q-suction_pressure")).to_have_value("118")
    page.clock.fast_forward(120_000)
    page.route("**/units/*/visits", lambda route: route.abort())
    page.context.set_offline(False)
    page.goto(opened)  # the server does not know it yet
    expect(page.locator(".stations .here")).to_be_visible()
    page.unroute("**/units/*/visits")
    page.goto(opened.replace("arrive", "read"))
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator("#said-suction_pressure .kept")).to_be_visible()
    expect(page.locator("#outbox")).to_be_hidden()
    page.goto(opened)
    expect(page.locator("#timeline h2")).to_contain_text("1 entry")
    with owner.connect() as connection:
        visits = connection.execute(select(Visit.id, Visit.status, Visit.planned_for).where(Visit.unit_id == beside)).all()
    assert [(str(visit.id) in opened, visit.status) for visit in visits] == [(True, "open")]
    assert 115 <= (datetime.now(UTC) - visits[0].planned_for).total_seconds() <= 240


@pytest.mark.parametrize(("size", "scheme"), [("desk", "dark"), ("phone", "light")])
def test_one_sheet_takes_readings_in_a_cellar_and_is_judged_outside(open_page, shop, size, scheme):
    """A unit that nobody knows yet: a visit to it needs a signal, what is read there does not."""
    page = open_page(size, scheme)
    sign_in_by_hand(page, shop.logins["technician"])
    me = page.locator("body[data-ahead]").get_attribute("data-me")
    until(page, f"caches.open('pages-of-{me}').then((c) => c.match('/sheet')).then((kept) => !!kept)")
    cut_off(page)
    page.goto("/")
    expect(page.get_by_role("link", name="New visit here").locator("visible=true")).to_have_count(0)
    page.get_by_role("link", name="type on one sheet").locator("visible=true").click()
    page.fill("#q-suction_pressure", "41")
    expect(page.locator("#sheet-waits")).to_be_visible()
    expect(page.locator("#sheet-answer")).to_be_hidden()  # nothing is said of other numbers
    page.select_option("#kind", "walk_in_cooler")
    page.wait_for_url("**kind=walk_in_cooler**")
    page.check("#evaporator_air_proven")
    page.fill("#q-suction_line_temp", "45")
    page.reload()
    assert page.input_value("#q-suction_pressure") == "41"
    assert page.input_value("#q-suction_line_temp") == "45"
    assert page.is_checked("#evaporator_air_proven")
    assert page.input_value("#kind") == "walk_in_cooler"
    assert findings(page) == []
    page.context.set_offline(False)
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator("#q-box_air_temp")).to_be_visible()  # its own rows
    expect(page.locator("#sheet-answer")).to_contain_text("Still to read")
    expect(page.locator("#sheet-waits")).to_be_hidden()
    expect(page.locator("#outbox")).to_be_hidden()
    assert page.input_value("#q-suction_line_temp") == "45"
    page.goto("/sheet")
    assert page.input_value("#q-suction_line_temp") == ""  # the next one begins empty


@pytest.mark.parametrize("size", ["desk", "phone"])
def test_a_phone_without_room_holds_what_waits_in_its_tab_and_still_shows_pages(open_page, shop, server, owner, size):
    page = at_visit(open_page(size), shop)
    worker_ready(page)
    devtools = page.context.new_cdp_session(page)
    devtools.send("Storage.overrideQuotaForOrigin", {"origin": server, "quotaSize": 1})
    page.goto("/register/people")  # not kept before, and cannot be now
    expect(page.locator("h1")).to_contain_text("People")
    page.goto(f"/visits/{shop.visit}?at=read")
    enter(page, "outdoor_air_temp", "91")
    expect(page.locator("#said-outdoor_air_temp .kept")).to_be_visible()
    cut_off(page)
    enter(page, "suction_pressure", "118")
    expect(page.locator("#said-suction_pressure")).to_have_text("waiting to send")
    page.goto(f"/visits/{shop.visit}?at=look")  # another page of the same tab
    expect(page.locator("#outbox summary")).to_have_text("No connection: 1 waiting to send")
    page.click("#outbox summary")
    expect(page.locator("#outbox li").filter(has_text="no room")).to_contain_text("Leave this tab open until it is sent.")
    page.context.set_offline(False)
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator("#outbox")).to_be_hidden()
    page.goto(f"/visits/{shop.visit}?at=read")
    expect(page.locator("#q-suction_pressure")).to_have_value("118")
    assert [body["value"] for body in kept_bodies(owner, shop)] == [91, 118]


# A quota that is taken away is only felt once the browser looks at it again.
FULL = """() => ["add", "put"].forEach((way) => {
  IDBObjectStore.prototype[way] = () => { throw new DOMException("full", "QuotaExceededError"); };
})"""


def test_an_entry_that_the_server_fails_at_goes_aside_though_the_phone_is_full(open_page, shop, owner):
    page = at_visit(open_page("phone"), shop)
    page.route("**/entries", lambda route: route.abort())
    enter(page, "suction_pressure", "118")
    expect(page.locator("#said-suction_pressure")).to_have_text("waiting to send")  # kept in the browser's database
    page.evaluate(FULL)
    page.unroute("**/entries")
    page.route("**/entries", lambda r: r.fulfill(status=500) if "suction" in r.request.post_data else r.continue_())
    enter(page, "liquid_pressure", "298")
    expect(page.locator("#said-liquid_pressure .kept")).to_be_visible(timeout=60_000)
    expect(page.locator("#outbox")).to_contain_text("The server failed at it")
    assert [body["value"] for body in kept_bodies(owner, shop)] == [298]
    page.unroute("**/entries")
    page.locator("#outbox summary").click()
    page.click("#outbox button:text-is('send again')")
    expect(page.locator("#said-suction_pressure .kept")).to_be_visible(timeout=60_000)


def test_a_server_that_cannot_keep_it_now_is_told_apart_from_no_signal(open_page, shop, owner):
    page = at_visit(open_page(), shop)
    page.route("**/entries", lambda route: route.fulfill(status=503, body="away"))
    enter(page, "suction_pressure", "118")
    expect(page.locator("#outbox summary")).to_have_text("The server is busy: 1 waiting to send")
    page.unroute("**/entries")
    expect(page.locator("#said-suction_pressure .kept")).to_be_visible(timeout=20_000)
    assert len(kept_bodies(owner, shop)) == 1


OLD = json.loads(gzip.decompress((Path(__file__).parent.parent / "reference/scripts_0003.json.gz").read_bytes()))
"""Scripts of the release before entries stood where they were written."""
_ENTRANCES = re.compile(r"/static/scripts/\w+/(main|live)\.js")


def test_without_a_signal_pages_are_read_by_whoever_is_signed_in_and_nobody_else(open_page, shop, make_shop):
    page = at_visit(open_page("phone"), shop)
    worker_ready(page)
    page.goto(f"/visits/{shop.visit}?at=look")
    picture = io.BytesIO()
    Image.new("RGB", (40, 30)).save(picture, "PNG")
    page.set_input_files("#photo-file", files=[{"name": "x.png", "mimeType": "image/png", "buffer": picture.getvalue()}])
    page.click("#photo-form button[type=submit]")
    photo = page.locator("#timeline a.photo").get_attribute("href")
    page.goto(photo)
    page.goto(f"/visits/{shop.visit}")
    assert not page.evaluate("(address) => caches.match(address).then(Boolean)", photo)  # what is no page of anybody is not kept
    mine = page.context.cookies()
    page.context.clear_cookies()  # somebody else signs in on this phone, past the page that would forget
    other = make_shop()
    guest = page.context.browser.new_context(base_url=page.url.split("/visits/")[0])
    sign_in(guest.new_page(), other.logins["lead"])
    page.context.add_cookies(guest.cookies())
    guest.close()
    page.goto("/")
    cut_off(page)
    page.goto(f"/visits/{shop.visit}")
    expect(page.locator("body")).to_contain_text("No connection")
    page.context.set_offline(False)
    page.context.clear_cookies()
    page.context.add_cookies(mine)  # and hers are still there when she is back
    page.goto("/")
    cut_off(page)
    page.goto(f"/visits/{shop.visit}")
    expect(page.locator("#q-suction_pressure")).to_be_visible()
    page.context.set_offline(False)
    page.context.clear_cookies()
    page.goto("/sign-in")  # the page that anyone else would come by forgets hers
    until(page, f"caches.has('pages-of-{shop.people['technician']}').then((there) => !there)")
    cut_off(page)
    page.goto(f"/visits/{shop.visit}")
    expect(page.locator("body")).to_contain_text("No connection")
    page.context.set_offline(False)


def test_what_waits_in_a_page_of_the_release_before_arrives_once_under_this_one(open_page, shop, owner):
    page = open_page("phone")
    served = {"main": f"{OLD['outbox']}\n{OLD['app']}", "live": OLD["live"]}
    page.context.route(
        _ENTRANCES,
        lambda route: route.fulfill(body=served[Path(urlsplit(route.request.url).path).stem], content_type="text/javascript"),
    )
    at_visit(page, shop)
    enter(page, "outdoor_air_temp", "90")
    expect(page.locator("#said-outdoor_air_temp .kept")).to_be_visible()
    cut_off(page)
    enter(page, "suction_pressure", "120")
    expect(page.locator("#said-suction_pressure")).to_contain_text("waiting to send")
    page.wait_for_timeout(3500)
    # The page of before is still open and sends what it holds, with its own headers, while something is half typed.
    page.fill("#note-text", "half a")
    page.context.set_offline(False)
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.locator("#said-suction_pressure .kept")).to_be_visible()
    expect(page.locator("#note-text")).to_have_value("half a")
    # More waits, and this release's scripts find it.
    cut_off(page)
    enter(page, "suction_line_temp", "52")
    expect(page.locator("#said-suction_line_temp")).to_contain_text("waiting to send")
    page.context.unroute(_ENTRANCES)
    page.evaluate("caches.keys().then((all) => Promise.all(all.map((name) => caches.delete(name))))")
    context = page.context
    page.close()
    context.set_offline(False)
    page = context.new_page()
    page.goto(f"/visits/{shop.visit}")
    expect(page.locator("#timeline h2")).to_contain_text("3 entries")
    expect(page.locator("#outbox")).to_be_hidden()
    bodies = kept_bodies(owner, shop)
    assert [body["quantity"] for body in bodies] == ["outdoor_air_temp", "suction_pressure", "suction_line_temp"]
    assert bodies[1]["waited"] >= 3
    with owner.connect() as connection:
        senders = connection.scalars(
            select(EntryRow.sender).where(EntryRow.visit_id == shop.visit).order_by(EntryRow.sequence)
        ).all()
    assert [bool(sender) for sender in senders] == [False, False, True]  # the release before named no sender


def test_tabs_that_show_the_same_share_one_stream_and_the_next_one_takes_over(open_page, shop):
    page, asked = open_page(), list[str]()
    page.context.on("request", lambda request: asked.append(request.url) if "/live?" in request.url else None)
    at_visit(page, shop)
    other = page.context.new_page()
    other.goto(page.url)
    writer = at_visit(open_page(), shop)
    enter(writer, "outdoor_air_temp", "90")
    for tab in (page, other):
        expect(tab.locator("#q-outdoor_air_temp")).to_have_value("90")
    assert len(asked) == 1
    page.close()
    enter(writer, "return_air_temp", "76")
    expect(other.locator("#q-return_air_temp")).to_have_value("76")
    assert len(asked) == 2
