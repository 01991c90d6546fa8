"""A second step at sign-in, devices by name, whose address is believed, and the trail of what was done."""

from __future__ import annotations

import re
import time
from urllib.parse import urlencode

import httpx2
import pyotp
import pytest
from bs4 import BeautifulSoup
from sqlalchemy import text

from dry_gauge.demo.ports import free_port
from dry_gauge.service import audit
from dry_gauge.service.sign_in import TRIES_PER_LOGIN
from dry_gauge.web.callers import device_words
from dry_gauge.web.settings import Settings
from tests.conftest import PASSWORD, start_server
from tests.web.calls import Browser, push, token_of


def lead_of(server, shop, role="lead"):
    browser = Browser(server)
    browser.sign_in(shop.logins[role])
    return browser


def set_up(browser):
    """A second step: its secret, the code that set it up, and the recovery codes."""
    page = browser.get("/me/second-step").text
    secret = re.search(r'class="mono">([A-Z2-7 ]+)<', page)[1].replace(" ", "")
    kept = re.search(r'name="kept" value="([^"]+)"', page)[1]
    for code, old, words in (("000000", PASSWORD, "not right"), (pyotp.TOTP(secret).now(), "guess", "not your current")):
        refused = browser.post("/me/second-step", False, kept=kept, code=code, old=old)
        assert (refused.status_code, words in refused.text) == (422, True)
    used = pyotp.TOTP(secret).now()
    done = browser.post("/me/second-step", False, kept=kept, code=used, old=PASSWORD)
    assert done.status_code == 200
    return secret, used, re.findall(r"<li>([a-z2-9-]{14})</li>", done.text)


def ask_code(server, login):
    """Signed in with the password: the page that asks for a code, and what it sends back."""
    browser = Browser(server)
    browser.get("/sign-in")
    page = browser.post("/sign-in", False, login=login, password=PASSWORD)
    assert page.status_code == 200
    assert "Second step" in page.text
    assert browser.get("/").status_code == 303  # not in yet
    return browser, re.search(r'name="step" value="([^"]+)"', page.text)[1]


def test_a_second_step_is_asked_for_and_each_code_is_good_once(server, shop, owner):
    secret, used, codes = set_up(lead_of(server, shop))
    assert len(set(codes)) == 10
    with owner.connect() as connection:
        kept = connection.execute(text("SELECT secret FROM second_factor WHERE shop_id = :shop"), {"shop": shop.id}).scalar_one()
    assert secret not in kept
    browser, step = ask_code(server, shop.logins["lead"])
    for wrong in (used, "", "123456", codes[0][:-1] + "!", "x" * 3000):
        refused = browser.post("/sign-in/code", False, step=step, code=wrong)
        assert (refused.status_code, "not right" in refused.text) == (401, True)
    later = pyotp.TOTP(secret).at(int(time.time()) + 30)  # of a clock half a minute ahead
    assert browser.post("/sign-in/code", False, step=step, code=f"{later[:3]} {later[3:]}").status_code == 303
    assert browser.get("/").status_code == 200
    for status in (303, 401):  # a recovery code too is good once
        other, step = ask_code(server, shop.logins["lead"])
        assert other.post("/sign-in/code", False, step=step, code=codes[0].upper()).status_code == status
    assert "9 recovery codes left" in browser.get("/me").text
    name, sign, rest = step.rpartition(".")
    forged = f"{name}{sign}{'B' if rest[0] == 'A' else 'A'}{rest[1:]}"
    assert "took too long" in other.post("/sign-in/code", False, step=forged, code=codes[1]).text


def test_a_lead_ends_a_lost_second_step_and_nobody_else_does(server, shop, make_shop):
    technician = lead_of(server, shop, "technician")
    set_up(technician)
    person = str(shop.people["technician"])
    for stranger in (lead_of(server, make_shop()), technician):
        stranger.post("/register/people", False, person=person, do="end_second_step")
    ask_code(server, shop.logins["technician"])
    lead = lead_of(server, shop)
    assert "second step" in lead.get("/register/people").text
    assert "password alone" in lead.post("/register/people", False, person=person, do="end_second_step").text
    assert Browser(server).sign_in(shop.logins["technician"]).status_code == 303
    trail = lead.get("/register/trail").text
    for words in ("took somebody&#39;s second step away: Ida technician", "set up a second step"):
        assert words in trail


def test_a_shop_can_want_a_second_step_of_its_leads(server, shop):
    lead = lead_of(server, shop)
    settings = lead.get("/register/settings").text
    fields = dict(re.findall(r'<input[^>]* name="([a-z_]+)"[^>]* value="([^"]*)"', settings))
    fields.pop("leads_second_step")
    recovery = re.search(r"<textarea[^>]*>([^<]*)<", settings)[1]
    fields |= {"recovery": recovery, "method": "annualising", "vacuum_school": "strict", "leads_second_step": "yes"}
    assert lead.post("/register/settings", False, **{k: v for k, v in fields.items() if k != "csrftoken"}).status_code == 303
    assert lead.get("/").headers["location"] == "/me/second-step"
    assert lead.post("/register/people", False, login="x").status_code == 403
    kept = lead.ask(
        "POST",
        f"/visits/{shop.visit}/entries",
        {"csrftoken": lead.token, "kind": "note", "text": "waited", "entry_id": "0192f0c0-0000-7000-8000-000000000001"},
        **{"x-outbox": "1", "hx-request": "true"},
    )
    assert kept.status_code == 200  # what waited on the device is kept all the same
    assert lead_of(server, shop, "technician").get("/").status_code == 200
    set_up(lead)
    assert lead.get("/").status_code == 200
    assert "leads second step: False to True" in lead.get("/register/trail").text


def test_another_device_is_signed_out_by_name(server, shop):
    here, phone = Browser(server), Browser(server)
    here.sign_in(shop.logins["technician"])
    phone.get("/sign-in")
    agent = "Mozilla/5.0 (Linux; Android 15) AppleWebKit/537.36 Chrome/156.0 Mobile Safari/537.36"
    phone.ask(
        "POST",
        "/sign-in",
        {"csrftoken": phone.token, "login": shop.logins["technician"], "password": PASSWORD},
        **{"user-agent": agent},
    )
    assert phone.get("/").status_code == 200
    page = here.get("/me").text
    assert "Chrome on Android" in page
    for session in ("nonsense", "0192f0c0-0000-7000-8000-000000000001", re.search(r'name="session" value="([^"]+)"', page)[1]):
        assert here.post("/me/sessions/end", False, session=session).status_code == 303
    assert (phone.get("/").status_code, here.get("/").status_code) == (303, 200)


@pytest.mark.parametrize(
    ("agent", "words"),
    [
        ("Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0", "Firefox on Linux"),
        (
            "Mozilla/5.0 (iPhone; CPU iPhone OS 26_0 like Mac OS X) AppleWebKit/605.1 Version/26.0 Safari/604.1",
            "Safari on iPhone",
        ),
        ("curl/8", "a program"),
        ("", "a program"),
        ("<script>alert(1)</script>" * 50, "a program"),
    ],
)
def test_a_browser_in_words(agent, words):
    assert device_words(agent) == words


def test_a_stranger_locks_nobody_out_and_a_lead_lets_one_try_again(server, shop):
    known = lead_of(server, shop, "technician")  # this browser has signed in before
    stranger = Browser(server)
    # Hits are counted in windows of the clock: one may end in the middle of the guessing.
    guesses = (stranger.sign_in(shop.logins["technician"], "guess").status_code for _ in range(2 * TRIES_PER_LOGIN + 1))
    assert 429 in guesses
    assert stranger.sign_in(shop.logins["technician"]).status_code == 429
    assert known.sign_in(shop.logins["technician"]).status_code == 303
    lead = lead_of(server, shop)
    assert "stopped: too many tries" in lead.get("/register/trail").text
    lead.post("/register/people", False, person=str(shop.people["technician"]), do="forgive_tries")
    assert stranger.sign_in(shop.logins["technician"]).status_code == 303


def test_a_probe_token_is_listed_and_ended(server, shop, owner):
    browser = lead_of(server, shop, "technician")
    token = token_of(browser, shop.visit)
    assert push(server, shop.visit, token, b"").status_code == 200
    listed = re.search(r'name="token" value="([^"]+)"', browser.get(f"/visits/{shop.visit}/probes").text)[1]
    assert lead_of(server, shop, "read_only").post(f"/visits/{shop.visit}/probes/end", False, token=listed).status_code == 403
    for _ in range(2):
        assert browser.post(f"/visits/{shop.visit}/probes/end", False, token=listed).status_code == 303
    assert push(server, shop.visit, token, b"").status_code == 401
    token = token_of(browser, shop.visit)
    with owner.begin() as connection:
        connection.execute(text("UPDATE person SET active = false WHERE id = :id"), {"id": shop.people["technician"]})
    assert push(server, shop.visit, token, b"").status_code == 401


def test_a_stream_ends_with_its_session(server, shop):
    browser = lead_of(server, shop, "technician")
    cookies = "; ".join(f"{key}={value}" for key, value in browser.cookies.items())
    with (
        httpx2.Client(base_url=server, timeout=60) as client,
        client.stream("GET", f"/visits/{shop.visit}/live", headers={"cookie": cookies}) as stream,
    ):
        assert stream.status_code == 200
        browser.post("/sign-out", False)
        for _ in stream.iter_bytes():
            pass  # until the server closes it


def test_only_a_trusted_proxy_is_believed(cluster, shop):
    seen = {}
    for trusted in ("", "127.0.0.1, ::1"):
        port = free_port()
        process = start_server(cluster.url("dry_gauge_app"), port, TRUSTED_PROXIES=trusted)
        try:
            browser = Browser(f"http://127.0.0.1:{port}")
            browser.get("/sign-in")
            browser.ask(
                "POST",
                "/sign-in",
                {"csrftoken": browser.token, "login": shop.logins["lead"], "password": "guess"},
                **{"x-forwarded-for": "203.0.113.9"},
            )
            browser.sign_in(shop.logins["lead"])
            trail = browser.get("/register/trail").text
            seen[trusted] = "203.0.113.9" in trail
            if not trusted:
                assert "from 127.0.0.1" in trail
        finally:
            process.terminate()
            process.wait(10)
    assert list(seen.values()) == [False, True]
    for wrong in ("*", "proxy.example", "10.0.0.0/33"):
        with pytest.raises(SystemExit, match="TRUSTED_PROXIES"):
            Settings.from_environment(
                {"DATABASE_URL": "x", "SECRET_KEY": "only for tests, and long enough to be taken", "TRUSTED_PROXIES": wrong}
            )


def test_a_name_that_is_not_ours_is_printed_nowhere(server, shop):
    for host, status in (("shop.example", 303), ("SHOP.example:8443", 303), ("localhost", 303), ("evil.example", 421)):
        answer = Browser(server, host=host).get("/")
        assert (answer.status_code, "evil" in answer.text) == (status, False)
    assert httpx2.get(f"{server}/healthz", headers={"host": "10.0.0.7"}).status_code == 200


def test_only_a_lead_reads_the_trail(server, shop):
    assert lead_of(server, shop, "technician").get("/register/trail").status_code == 403


def test_the_trail_is_narrowed_by_subject_person_and_words_and_what_is_absurd_asks_for_all(server, shop):
    lead = lead_of(server, shop)
    for part in ("Compressor", "100% drier"):
        lead.post(f"/units/{shop.unit}/components", False, what=part)

    def lines(**asked):
        page = BeautifulSoup(lead.get("/register/trail?" + urlencode(asked)).text, "html.parser")
        return [line.get_text(" ", strip=True) for line in page.select(".trail .line-item")]

    assert len(lines(subject="cards")) == 2
    site = lead.post("/register/sites", False, name="Net Loft").headers["location"]
    for _ in range(2):  # the second time nothing is changed
        lead.post(site, False, name="Net Loft", access="key at the chandler's")
    assert [line.split("Net Loft")[0].split(" ", 2)[2] for line in lines(words="Net Loft")] == [
        "changed a site: ",
        "registered a site: ",
    ]
    assert lines(words="100% dr") == lines(words="100% DRIER")
    assert len(lines(words="100% dr")) == 1  # its sign stands for itself
    assert lines(subject="cards", person=str(shop.people["technician"])) == ["Nothing of that. All of it"]
    assert len(lines(subject="nonsense", person="x", before="yesterday")) == len(lines()) > 2
    assert lines(before="2020-01-01T00:00:00+00:00") == ["Nothing of that. All of it"]


def test_every_sort_of_line_belongs_to_one_subject():
    listed = [what for _, whats in audit.SUBJECTS.values() for what in whats]
    assert sorted(listed) == sorted(audit.WORDS)
