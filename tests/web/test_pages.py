"""Over real HTTP: who may see what, what bad input is told, and what each answer carries."""

from __future__ import annotations

import io
import json

import httpx2
import pytest
import uuid6
from bs4 import BeautifulSoup
from PIL import Image

from dry_gauge.core.errors import Refused
from dry_gauge.web.typed import parse_number
from tests.builders import HEALTHY, TXV, sheet
from tests.conftest import PASSWORD
from tests.web.calls import Browser, read


def test_every_page_of_the_shop_asks_to_sign_in(server, shop):
    stranger = Browser(server)
    for path in ("/", "/me", f"/visits/{shop.visit}", f"/units/{shop.unit}"):
        answer = stranger.get(path)
        assert answer.status_code == 303
        assert answer.headers["location"].startswith("/sign-in?to=%2F")


def test_sign_in_goes_on_to_where_one_was_going_but_not_off_the_site(server, shop):
    for to, expected in (
        ("/pocket", "/pocket"),
        ("//evil.example/x", "/"),
        ("https://evil.example", "/"),
        ("/\\evil.example", "/"),
    ):
        browser = Browser(server)
        browser.get("/sign-in")
        answer = browser.post("/sign-in", False, login=shop.logins["lead"], password=PASSWORD, to=to)
        assert (answer.status_code, answer.headers["location"]) == (303, expected)


def test_cookies_are_secure_host_only_and_out_of_reach_of_scripts(server, shop):
    browser = Browser(server)
    lines = browser.sign_in(shop.logins["lead"]).headers.get_list("set-cookie")
    # Over http on this machine they have plain names, since not every browser takes Secure ones there; nowhere else.
    assert any(line.startswith("dry-gauge=") and "Secure" not in line for line in lines)
    elsewhere = Browser(server)
    elsewhere.host = "shop.example"
    lines = elsewhere.sign_in(shop.logins["lead"]).headers.get_list("set-cookie")
    session = next(line for line in lines if line.startswith("__Host-dry-gauge="))
    assert "Secure" in session
    assert "HttpOnly" in session
    assert "samesite=lax" in session.lower()
    assert "Domain" not in session


def test_a_token_is_of_its_session(server, shop):
    """It changes at sign-in and sign-out, and one of another session is refused."""
    ida, lead = Browser(server), Browser(server)
    ida.get("/sign-in")
    before = ida.token
    ida.sign_in(shop.logins["technician"])
    ida.get("/pocket")
    lead.sign_in(shop.logins["lead"])
    lead.get("/pocket")
    assert len({before, ida.token, lead.token}) == 3
    lead.token = ida.token
    assert read(lead, shop, "120").status_code == 403
    ida.cookies.pop("dry-gauge-form")  # gone: a new one is had, and what waits goes on
    assert read(ida, shop, "120").headers["x-token-expired"] == "1"
    ida.get("/pocket")
    assert read(ida, shop, "120").status_code == 200


def test_what_someone_wrote_is_never_kept_as_another_persons(server, shop):
    browser = Browser(server)
    browser.sign_in(shop.logins["lead"])
    browser.get("/pocket")
    sent = {"entry_id": str(uuid6.uuid7()), "kind": "note", "text": "mine", "csrftoken": browser.token}
    writer = {"x-writer": str(shop.people["technician"]), "x-outbox": "1", "hx-request": "true"}
    answer = browser.ask("POST", f"/visits/{shop.visit}/entries", sent, **writer)
    assert answer.status_code == 401
    assert "Somebody else is signed in here now" in answer.text
    assert "mine" not in browser.get(f"/visits/{shop.visit}").text


def test_every_form_of_a_page_is_taken_as_a_browser_sends_it(browser, shop):
    """Files go in parts, with the token as their first field; odd bodies and cookies get words, never a bare 500."""
    path = f"/units/{shop.unit}/photos"
    with httpx2.Client(base_url=browser.base, timeout=40) as client:
        cookie = {"cookie": "; ".join(f"{name}={value}" for name, value in browser.cookies.items())}
        picture = io.BytesIO()
        Image.new("RGB", (40, 30)).save(picture, "PNG")
        sent = {"photo": ("label.png", picture.getvalue(), "image/png")}
        kept = client.post(path, data={"csrftoken": browser.token}, files=sent, headers=cookie)
        assert kept.status_code == 303
        assert client.post(path, data={"csrftoken": "forged"}, files=sent, headers=cookie).status_code == 403
        plain = "application/x-www-form-urlencoded"
        for body, kind in (
            (b"--x\r\n", "multipart/form-data; boundary=x"),
            (b"\xff\xfe=&&&", plain),
            (b"--", "multipart/form-data"),
            (b"{", "application/json"),
        ):
            answer = client.post(path, content=body, headers={**cookie, "content-type": kind})
            assert answer.status_code in (400, 403, 422), (kind, answer.status_code)
        for odd in ("dry-gauge", 'dry-gauge="', "=;;;=", f"dry-gauge-form={'x' * 4000}"):
            assert client.get("/sign-in", headers={"cookie": odd}).status_code == 200
        assert client.get("/sign-in", headers={"cookie": "dry-gauge-form=\x7f"}).status_code == 400  # belongs in no header


def test_wrong_password_says_so_and_trying_on_is_stopped(server, shop):
    browser = Browser(server)
    for _ in range(8):
        answer = browser.sign_in(shop.logins["lead"], "guess")
        assert answer.status_code == 401
        assert "wrong" in answer.text
        assert shop.logins["lead"] in answer.text  # what was typed stays
    answer = browser.sign_in(shop.logins["lead"], PASSWORD)
    assert answer.status_code == 429
    assert "Retry-After" in answer.headers


def test_a_form_without_its_token_is_not_obeyed(browser, shop):
    browser.token = "forged"
    answer = read(browser, shop, "120")
    assert (answer.status_code, answer.headers["x-token-expired"]) == (403, "1")
    assert "permission to send" in answer.text  # what pages of the release before look for
    assert browser.ask("POST", "/sign-in", {"login": "x", "password": "y"}).status_code == 403


def test_security_headers_allow_no_inline_script(server):
    answer = Browser(server).get("/sign-in")
    policy = answer.headers["content-security-policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    assert answer.headers["x-content-type-options"] == "nosniff"
    page = BeautifulSoup(answer.text, "html.parser")
    assert all(script.get("src") and not script.text for script in page.find_all("script"))
    assert not page.find_all(style=True)


JUDGED = {"timeline", "stops", "banner", "judge", "dock", "ladder", "stations", "proofs", "checks"}


def test_a_reading_answers_with_the_changed_fragments_only(browser, shop):
    answer = read(browser, shop, "120")
    parts = list(BeautifulSoup(answer.text, "html.parser").find_all(recursive=False))
    assert {part["id"] for part in parts} == {"said-suction_pressure", "settling", *JUDGED}
    assert "120 psig" in answer.text
    note = browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), kind="note", text="two fans")
    ids = {part["id"] for part in BeautifulSoup(note.text, "html.parser").find_all(recursive=False)}
    assert ids == {"timeline", "note-form"}


def test_a_page_that_says_what_it_shows_gets_only_the_newer_lines(browser, shop):
    read(browser, shop, "118")
    data = {
        "entry_id": str(uuid6.uuid7()),
        "kind": "reading",
        "quantity": "suction_pressure",
        "value": "120",
        "unit": "psig",
        "csrftoken": browser.token,
    }
    answer = browser.ask("POST", f"/visits/{shop.visit}/entries", data, **{"hx-request": "true", "x-seen": "1"})
    page = BeautifulSoup(answer.text, "html.parser")
    assert page.find(id="timeline") is None
    assert [item["data-sequence"] for item in page.find_all("li", {"data-sequence": True})] == ["2"]
    assert "2 entries" in page.find(id="timeline-head").text


def test_only_the_ladder_that_is_shown_is_sent(browser, shop):
    data = {
        "entry_id": str(uuid6.uuid7()),
        "kind": "reading",
        "quantity": "suction_pressure",
        "value": "120",
        "unit": "psig",
        "csrftoken": browser.token,
    }
    answer = browser.ask("POST", f"/visits/{shop.visit}/entries", data, **{"hx-request": "true", "x-page": "phone"})
    assert "only-phone" in answer.text
    assert "ladder-desk" not in answer.text


@pytest.mark.parametrize(
    ("value", "unit", "words"),
    [
        ("", "psig", "Type a number"),
        ("lots", "psig", "not a number"),
        ("nan", "psig", "not a number"),
        ("inf", "psig", "not a number"),
        ("1e9", "psig", "not a known unit"),
        ("1000000000", "psig", "1,500 psig"),
        ("-20", "psig", "zero or less"),
        ("1,180", "psig", "two ways"),
        ("1.2.3", "psig", "decimal point"),
        ("72", "F", "psig"),
        ("72 furlongs", "psig", "psig"),
        ("<script>alert(1)</script>", "psig", "not a number"),
    ],
)
def test_bad_numbers_get_their_reason_beside_the_field(browser, shop, value, unit, words):
    answer = read(browser, shop, value, unit=unit)
    assert answer.status_code == 422
    page = BeautifulSoup(answer.text, "html.parser")
    assert words in page.find(id="said-suction_pressure").text
    assert "<script>alert" not in answer.text
    assert "suction" not in (page.find(id="timeline") or "")


@pytest.mark.parametrize(
    ("typed", "number", "unit"),
    [
        ("72.5", 72.5, ""),
        (" 72,5 ", 72.5, ""),
        ("−12", -12, ""),
        ("+7", 7, ""),
        (".5", 0.5, ""),
        ("118 psi", 118, "psi"),
        ("20°C", 20, "°C"),
        ("14.", 14, ""),
    ],
)
def test_numbers_are_read_as_people_type_them(typed, number, unit):
    assert parse_number(typed) == (number, unit)


@pytest.mark.parametrize("typed", ["1,180", "1,180.5", "1.180,5", "--4", "4 4", "²"])
def test_numbers_that_could_mean_two_things_are_asked_about(typed):
    with pytest.raises(Refused):
        parse_number(typed)


def test_a_unit_written_behind_the_number_counts(browser, shop):
    answer = read(browser, shop, "24 C", quantity="return_air_temp", unit="F")
    assert "24 °C" in BeautifulSoup(answer.text, "html.parser").find(id="timeline").text


def test_unknown_names_and_forged_ids_have_clear_answers(browser, shop, make_shop):
    assert read(browser, shop, "1", quantity="sucktion").status_code == 422
    assert browser.get("/visits/not-an-id").status_code == 404
    assert browser.get(f"/visits/{make_shop().visit}").status_code == 404
    assert read(browser, make_shop(), "120").status_code == 404
    answer = read(browser, shop, "120", entry_id="not-an-id")
    assert answer.status_code == 422
    assert "Traceback" not in answer.text
    assert browser.get("/nowhere").status_code == 404


def test_the_same_entry_again_says_it_was_here_and_another_under_its_id_is_refused(browser, shop):
    entry_id = str(uuid6.uuid7())
    assert read(browser, shop, "120", entry_id=entry_id).status_code == 200
    again = read(browser, shop, "120", entry_id=entry_id)
    assert again.status_code == 200
    assert "was here already" in again.text
    assert read(browser, shop, "121", entry_id=entry_id).status_code == 409


def test_reading_along_is_enforced(server, shop):
    browser = Browser(server)
    browser.sign_in(shop.logins["read_only"])
    page = browser.get(f"/visits/{shop.visit}")
    assert 'name="value"' in page.text
    assert "readonly" in page.text
    assert read(browser, shop, "120").status_code == 403
    assert browser.post(f"/units/{shop.unit}/visits", fragments=False).status_code == 403


def test_an_expired_session_keeps_the_entry_until_signed_in_again(browser, shop, owner):
    from sqlalchemy import text

    with owner.begin() as connection:
        connection.execute(text("UPDATE web_session SET expires_at = now() - interval '1 second'"))
    answer = read(browser, shop, "117.5")
    assert answer.status_code == 401
    form = BeautifulSoup(answer.text, "html.parser").find("form")
    waiting = {item["name"]: item.get("value", "") for item in form.find_all("input") if item.get("name")}
    assert ["value", "117.5"] in json.loads(waiting["pending"])["fields"]
    assert "117.5 suction pressure" in answer.text
    waiting |= {"login": shop.logins["technician"], "password": PASSWORD}
    signed_in = browser.ask("POST", "/sign-in", waiting)
    assert signed_in.status_code == 200
    form = BeautifulSoup(signed_in.text, "html.parser").find("form", {"data-send-now": True})
    kept = browser.ask("POST", form["action"], {item["name"]: item["value"] for item in form.find_all("input")})
    assert kept.status_code == 303
    assert "117.5 psig" in browser.get(f"/visits/{shop.visit}").text


def test_without_scripts_a_form_still_works(browser, shop):
    answer = browser.post(
        f"/visits/{shop.visit}/entries",
        False,
        entry_id=str(uuid6.uuid7()),
        kind="reading",
        quantity="suction_pressure",
        value="111",
        unit="psig",
    )
    assert (answer.status_code, answer.headers["location"]) == (303, f"/visits/{shop.visit}?at=read")
    refused = browser.post(
        f"/visits/{shop.visit}/entries",
        False,
        entry_id=str(uuid6.uuid7()),
        kind="reading",
        quantity="suction_pressure",
        value="lots",
        unit="psig",
    )
    assert refused.status_code == 422
    assert "not a number" in refused.text


def test_preferences_follow_the_person(browser, shop):
    read(browser, shop, "120")
    read(browser, shop, "90", quantity="outdoor_air_temp", unit="F")
    answer = browser.post("/me/preferences", False, temperature_unit="C", pressure_unit="kPa", to=f"/visits/{shop.visit}")
    assert answer.status_code == 303
    page = BeautifulSoup(browser.get(f"/visits/{shop.visit}").text, "html.parser")
    assert page.find(id="q-outdoor_air_temp")["value"] == "32.2"
    assert page.find(id="q-suction_pressure")["value"] == "827"
    assert "32.2" in page.find("svg", {"class": "ladder"}).text
    assert browser.post("/me/preferences", False, temperature_unit="K").status_code == 422


def test_pocket_answers_while_typing_and_explains_what_it_cannot(browser):
    answer = browser.get("/pocket?refrigerant=R-448A&pressure=71.2", **{"hx-request": "true"})
    assert "40.0 °F" in answer.text
    assert "Bubble, for subcooling" in answer.text
    assert "estimated" not in answer.text
    assert "Estimated" in browser.get("/pocket?refrigerant=R-409A").text
    for query, words in (
        ("pressure=9999", "runs from"),
        ("pressure=abc", "not a number"),
        ("temperature=-500", "absolute zero"),
        ("refrigerant=R-9", "not a refrigerant"),
        ("elevation_ft=99999", "Elevation lies"),
    ):
        found = browser.get(f"/pocket?{query}")
        assert found.status_code == 200
        assert words in found.text, query


def test_a_closed_visit_stays_as_it_is(browser, shop, owner):
    from sqlalchemy import text

    with owner.begin() as connection:
        connection.execute(text("UPDATE visit SET status = 'closed' WHERE id = :id"), {"id": shop.visit})
    assert read(browser, shop, "120").status_code == 422
    assert "Closed." in browser.get(f"/visits/{shop.visit}").text


def test_a_new_visit_opens_from_the_unit_card(browser, shop):
    answer = browser.post(f"/units/{shop.unit}/visits", fragments=False)
    assert answer.status_code == 303
    assert browser.get(answer.headers["location"]).status_code == 200
    assert "U-1" in browser.get("/").text


# -- the open way in ---------------------------------------------------------------


def assess(server, body, **headers):
    return httpx2.post(
        f"{server}/api/v1/assess", content=body, timeout=40, headers={"content-type": "application/json", **headers}
    )


def test_the_api_judges_refuses_and_limits(server):
    good = json.dumps(sheet(TXV, **HEALTHY)).encode()
    answer = assess(server, good)
    assert answer.status_code == 200
    assert answer.json()["format"] == "dry-gauge/assessment"
    assert answer.json()["verdict"] == "held"
    for body in (b"{", b"\xff", b'{"unit": {"kind": "split_ac", "refrigerant": "R-410A", "seer": NaN}}', b"[" * 5000):
        refused = assess(server, body)
        assert refused.status_code == 422
        assert set(refused.json()) == {"error", "path", "nearest"}
    assert assess(server, good, **{"content-type": "text/plain"}).status_code == 415
    assert assess(server, b" " * 300_000).status_code == 413
    assert httpx2.get(f"{server}/api/v1/schema/reading-sheet.json").json()["title"] == "dry-gauge/reading-sheet"
    assert httpx2.get(f"{server}/api/v1/assess").status_code == 405
    # Counted by the minute: one that begins meanwhile allows as many again.
    limited = next(answer for answer in (assess(server, good) for _ in range(64)) if answer.status_code == 429)
    assert int(limited.headers["retry-after"]) > 0


def test_right_passwords_never_use_up_the_tries(server, shop):
    for _ in range(12):
        assert Browser(server).sign_in(shop.logins["technician"]).status_code == 303


def test_a_heat_pump_is_judged_in_the_mode_it_runs_in(server, make_shop):
    shop = make_shop({"kind": "split_heat_pump", "refrigerant": "R-410A", "metering": "txv"})
    browser = Browser(server)
    browser.sign_in(shop.logins["technician"])
    browser.get(f"/visits/{shop.visit}")
    for quantity, value in (("return_air_temp", "70"), ("supply_air_temp", "96"), ("outdoor_air_temp", "40")):
        read(browser, shop, value, quantity=quantity, unit="F")
    assert "warmer than return" in browser.get(f"/visits/{shop.visit}").text

    def turned(**more):
        sent = {"entry_id": str(uuid6.uuid7()), "kind": "mode", "mode": "heating", **more}
        return BeautifulSoup(browser.post(f"/visits/{shop.visit}/entries", **sent).text, "html.parser")

    answer = turned()
    assert {part["id"] for part in answer.find_all(recursive=False)} >= {"said-mode", "settling", "row-supply_air_temp", *JUDGED}
    # What it blew while it cooled is no rise: it waits, until it is read again or was of this mode all along.
    assert "Read in cooling, and it runs in heating: supply air" in " ".join(answer.find(id="banner").get_text(" ").split())
    assert "in cooling" in answer.find(id="said-supply_air_temp").get_text()
    assert "Air rise" not in answer.get_text()
    record = (
        BeautifulSoup(browser.get(f"/visits/{shop.visit}/record").text, "html.parser")
        .find("caption", string="Last, in cooling")
        .find_parent("table")
    )
    assert [row.td.get_text() for row in record.tbody.find_all("tr")] == ["Supply air"]
    tap = answer.find(id="banner").find("button", string="it ran in heating already").find_parent("form")
    answer = turned(**{field["name"]: field["value"] for field in tap.find_all("input") if field["name"] == "read_since"})
    assert "Air rise" in answer.get_text()
    assert "warmer than return" not in answer.get_text()
    assert "Read in cooling" not in answer.get_text()


def test_a_unit_without_heating_cannot_be_put_into_it(browser, shop):
    sent = {"entry_id": str(uuid6.uuid7()), "kind": "mode", "mode": "heating"}
    answer = browser.post(f"/visits/{shop.visit}/entries", **sent)
    assert answer.status_code == 422
    assert "no heating mode" in answer.text
