"""Live probes over real HTTP: tokens, garbage, repeats; and 20 streams through kill -9 of server and PostgreSQL."""

from __future__ import annotations

import json
import os
import signal
import threading
import time
from datetime import datetime

import httpx2
import uuid6
from sqlalchemy import select, text

from dry_gauge.cli import main
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind
from dry_gauge.demo.cluster import APPLICATION, OWNER
from dry_gauge.demo.ports import free_port
from dry_gauge.demo.shop import PASSWORD, seed
from dry_gauge.probes.simulated import Hub, Scene
from dry_gauge.store.database import connect
from dry_gauge.store.models import EntryRow, Visit
from tests.conftest import start_server
from tests.probing import feeding
from tests.web.calls import Browser, push, token_of
from tests.web.killing import kill_postgres

SCENE = Scene(UnitFacts(Kind.SPLIT_AC, find("R-410A")), minutes_running=20)


def line(n: int, value: float = 120.0) -> bytes:
    return json.dumps(
        {"n": n, "t": float(n), "probe": "P1", "quantity": "suction_pressure", "value": value, "unit": "psig"}
    ).encode()


def test_samples_are_kept_once_and_acknowledged(browser, shop, owner):
    token = token_of(browser, shop.visit)
    body = b"\n".join([line(2), b"garbage", line(1), line(2)])
    for expected in (2, 2):
        answer = push(browser.base, shop.visit, token, body)
        assert (answer.status_code, answer.json()["acknowledged"]) == (200, expected)
    assert push(browser.base, shop.visit, token, line(9)).json()["gap"]
    with owner.connect() as connection:
        rows = connection.execute(text("SELECT n FROM sample WHERE visit_id = :visit ORDER BY n"), {"visit": shop.visit})
        assert [row.n for row in rows] == [1, 2]


def test_a_token_opens_one_visit_of_one_shop_and_nothing_else(browser, shop, make_shop):
    token = token_of(browser, shop.visit)
    other = make_shop()
    for visit, bearer in ((other.visit, token), (shop.visit, "nonsense"), (uuid6.uuid7(), token)):
        assert push(browser.base, visit, bearer, line(1)).status_code == 401
    assert httpx2.get(f"{browser.base}/api/v1/visits/{shop.visit}/probes/position").status_code == 401
    assert browser.get(f"/visits/{other.visit}/probes").status_code == 404


def test_a_page_hears_the_probes_and_the_entries_of_others(browser, shop):
    token = token_of(browser, shop.visit)
    cookies = "; ".join(f"{name}={value}" for name, value in browser.cookies.items())
    heard: list[str] = []
    with (
        feeding(browser.base, shop.visit, token, SCENE),
        httpx2.stream("GET", f"{browser.base}/visits/{shop.visit}/live?at=read", headers={"cookie": cookies}) as stream,
    ):
        browser.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), kind="note", text="hello")
        for told in stream.iter_lines():
            if told.startswith("event: "):
                heard.append(told[7:])
            if {"live", "ladder", "changed"} <= set(heard):
                break
    assert {"live", "ladder", "changed"} <= set(heard)


def test_a_hub_that_falls_silent_is_said_to_be(browser, shop):
    token = token_of(browser, shop.visit)
    cookies = "; ".join(f"{name}={value}" for name, value in browser.cookies.items())
    with httpx2.stream(
        "GET", f"{browser.base}/visits/{shop.visit}/live?at=read", headers={"cookie": cookies}, timeout=30
    ) as stream:
        shown = []
        for told in stream.iter_lines():
            if not shown and told.startswith("retry"):
                push(browser.base, shop.visit, token, line(1))
            if told.startswith("data: ") and '"probes"' in told:
                shown += [(one["shown"], one["state"]) for one in json.loads(told[6:])["probes"]]
            if len(shown) == 2:
                break
    assert shown == [("120.0", "ok"), ("", "silent")]


def test_who_is_not_signed_in_hears_nothing(server, shop):
    assert httpx2.get(f"{server}/visits/{shop.visit}/live").status_code == 303


def test_a_database_that_is_away_is_said_so_and_nothing_is_doubled_when_it_is_back(durable):
    owner = connect(durable.url(OWNER), pool_size=1)
    with owner.begin() as connection:
        seed(connection, datetime.now().astimezone())
        visit = connection.execute(select(Visit.id).where(Visit.status != "closed")).scalars().first()
    port = free_port()
    server = start_server(durable.url(APPLICATION), port)
    ines = Browser(f"http://127.0.0.1:{port}")
    ines.sign_in("ines", PASSWORD)
    token = token_of(ines, visit)
    ines.get(f"/visits/{visit}")
    sent = {"entry_id": str(uuid6.uuid7()), "kind": "note", "text": "kept once"}
    owner.dispose()
    durable.stop()
    away = ines.post(f"/visits/{visit}/entries", **sent)
    assert away.status_code == 503
    assert "send again in a moment" in away.text
    assert push(ines.base, visit, token, line(1)).status_code == 503
    durable.start()
    for _ in range(2):
        assert ines.post(f"/visits/{visit}/entries", **sent).status_code == 200
    assert push(ines.base, visit, token, line(1)).json()["acknowledged"] == 1
    assert ines.get(f"/visits/{visit}").text.count('"how">kept once') == 1
    server.terminate()
    server.wait(10)


def until(so, most_seconds=60.0):
    """Wait for something to come about, however busy the machine is."""
    end = time.monotonic() + most_seconds
    while not so():
        assert time.monotonic() < end, "it did not come about"
        time.sleep(0.1)


def test_kill_9_under_20_live_streams_loses_and_doubles_nothing_and_they_go_on(durable):
    owner = connect(durable.url(OWNER), pool_size=2)
    with owner.begin() as connection:
        seed(connection, datetime.now().astimezone())
        visits = [row.id for row in connection.execute(select(Visit.id).where(Visit.status != "closed"))]
        units = [row.id for row in connection.execute(text("SELECT id FROM unit"))]
    port = free_port()
    server = start_server(durable.url(APPLICATION), port)
    base = f"http://127.0.0.1:{port}"
    ines = Browser(base)
    ines.sign_in("ines", PASSWORD)
    ines.get("/")
    while len(visits) < 20:
        answer = ines.post(f"/units/{units[len(visits) % len(units)]}/visits", False)
        visits.append(answer.headers["location"].rpartition("/")[2].split("?")[0])
    hubs = [Hub(base, str(visit), token_of(ines, visit), "h") for visit in visits]
    acknowledged: list[str] = []
    over, dead = threading.Event(), threading.Event()

    def feed(hub: Hub) -> None:
        hub.connect()
        number = 0
        while not over.is_set():
            number += 1
            sample = {"t": float(number), "quantity": "suction_pressure", "value": 120.0, "unit": "psig"}
            hub.add([sample | {"probe": f"P{i}"} for i in range(12)])
            hub.send()
            time.sleep(0.3)
        for _ in range(500):  # what it could not send meanwhile; another load may be on the machine
            if not hub.kept or (hub.send() and not hub.kept):
                return
            time.sleep(0.1)

    def post() -> None:
        while not over.is_set():
            entry = str(uuid6.uuid7())
            try:
                answer = ines.post(f"/visits/{visits[0]}/entries", entry_id=entry, kind="note", text="n")
            except httpx2.HTTPError:
                time.sleep(0.1)
                continue
            if answer.status_code == 200:
                acknowledged.append(entry)
            if dead.is_set():
                time.sleep(0.2)

    threads = [threading.Thread(target=feed, args=(hub,)) for hub in hubs] + [threading.Thread(target=post)]
    for thread in threads:
        thread.start()
    until(lambda: len(acknowledged) > 10)
    kill_postgres(durable)
    os.kill(server.pid, signal.SIGKILL)
    dead.set()
    server.wait()
    time.sleep(1)
    durable.start()
    server = start_server(durable.url(APPLICATION), port)
    before = len(acknowledged)
    until(lambda: len(acknowledged) > before + 5)
    over.set()
    for thread in threads:
        thread.join(240)  # each sends what it could not meanwhile
    server.terminate()
    server.wait(10)
    with owner.connect() as connection:
        kept = [str(row.id) for row in connection.execute(select(EntryRow.id).where(EntryRow.visit_id == visits[0]))]
        counts = {
            str(row.visit_id): (row.n, row.distinct)
            for row in connection.execute(
                text("SELECT visit_id, count(*) AS n, count(DISTINCT n) AS distinct FROM sample GROUP BY visit_id")
            )
        }
    owner.dispose()
    assert set(acknowledged) <= set(kept)
    for hub in hubs:
        assert hub.acknowledged == hub.number, "a stream did not resume"
        assert counts[hub.visit] == (hub.number, hub.number)


def test_the_command_feeds_a_visit_and_says_what_is_wrong(browser, shop, capsys, tmp_path):
    token = token_of(browser, shop.visit)
    assert token.isalnum()  # with a dash in front it would be read as an option
    asked = ["probes", "--server", browser.base, "--visit", str(shop.visit)]
    assert main([*asked, "--token", token, "--seconds", "2", "--fault", "undercharge=0.4"]) == 0
    assert "Feeding U-1" in capsys.readouterr().out
    page = browser.get(f"/visits/{shop.visit}/probes").text
    assert "suction pressure" in page
    assert main([*asked, "--token", "nonsense"]) == 2
    assert "is the token of this visit" in capsys.readouterr().err
    assert main([*asked, "--token", token, "--fault", "gremlins=1"]) == 2
    assert "gremlins" in capsys.readouterr().err
    other = tmp_path / "unit.json"
    other.write_text('{"kind": "walk_in_cooler", "refrigerant": "R-134a"}')
    assert main([*asked, "--token", token, "--hub", "box", "--unit", str(other), "--entering", "40", "--seconds", "1"]) == 0
    assert main(["probes", "--server", "http://127.0.0.1:9", "--visit", "x", "--token", "t"]) == 2
    assert "no server" in capsys.readouterr().err
