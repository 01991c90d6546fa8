"""The live load and long visits, measured: 20 visits with 12 probes each at 1 Hz, pages that look on, 2,000 entries."""

from __future__ import annotations

import gzip
import json
import multiprocessing
import os
import re
import statistics
import tempfile
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from datetime import datetime, timedelta
from http.client import HTTPConnection
from pathlib import Path
from urllib.parse import urlencode

import httpx2
import uuid6
from playwright.sync_api import sync_playwright
from sqlalchemy import text

from dry_gauge.demo.cluster import APPLICATION, OWNER, Cluster
from dry_gauge.demo.ports import free_port
from dry_gauge.demo.shop import PASSWORD, seed
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.readings import ReadingBody
from dry_gauge.notebook.subjects.remarks import NoteBody
from dry_gauge.probes.simulated import Hub
from dry_gauge.service.append import Sent, append
from dry_gauge.service.probes import make_token
from dry_gauge.store.database import connect, migrate, see_shop
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import add_visit
from tests.browser.chromium import launch
from tests.conftest import start_server
from tests.web.calls import Browser

VISITS, PROBES, SECONDS = 20, 12, 25
WRAP = 500.0
Line = Callable[..., None]
QUANTITIES = ("suction_pressure", "liquid_pressure", "suction_line_temp", "liquid_line_temp", "outdoor_air_temp",
              "return_air_temp", "return_air_wet_bulb", "supply_air_temp", "discharge_line_temp", "compressor_amps",
              "condenser_leaving_air_temp")  # fmt: skip
VALUES = (120.0, 365.0, 52.0, 100.0, 90.0, 76.0, 63.0, 55.0, 165.0, 12.0, 108.0)


def feed(server: str, pairs: list[tuple[str, str]], seconds: int) -> None:
    """In a process of its own: every hub once a second; the scale shows the time at which it was read."""
    hubs = [Hub(server, visit, token) for visit, token in pairs]
    for hub in hubs:
        hub.connect()

    def run(hub: Hub, offset: float) -> None:
        time.sleep(offset)
        for second in range(seconds):
            started = time.time()
            lines: list[dict[str, object]] = [
                {
                    "t": float(second),
                    "probe": f"P{i}",
                    "quantity": quantity,
                    "value": value + (second % 3) / 10,
                    "unit": "psig" if "pressure" in quantity else "A" if "amps" in quantity else "F",
                }
                for i, (quantity, value) in enumerate(zip(QUANTITIES, VALUES, strict=True))
            ]
            lines.append(
                {"t": float(second), "probe": "Scale", "quantity": "scale_weight", "value": started % WRAP, "unit": "kg"}
            )
            hub.add(lines)
            hub.send()
            time.sleep(max(0.0, started + 1 - time.time()))

    threads = [threading.Thread(target=run, args=(hub, i / len(hubs))) for i, hub in enumerate(hubs)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def watch(server: str, visit: str, cookies: str, late: list[float], over: threading.Event) -> None:
    """One page's stream: how old each weight is when it arrives."""
    address = f"{server}/visits/{visit}/live?at=read&size=desk"
    with suppress(httpx2.HTTPError), httpx2.stream("GET", address, headers={"cookie": cookies}, timeout=60) as news:
        kind = ""
        for told in news.iter_lines():
            if over.is_set():
                return
            if told.startswith("event: "):
                kind = told[7:]
            elif told.startswith("data: ") and kind == "live":
                for probe in json.loads(told[6:])["probes"]:
                    if probe["probe"] == "Scale" and probe["value"] is not None:
                        late.append((time.time() - probe["value"]) % WRAP)


def cpu_seconds(pid: int) -> float:
    """User and system time of a process so far."""
    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def family(pid: int) -> list[int]:
    """A process and its children."""
    children = Path(f"/proc/{pid}/task/{pid}/children").read_text().split()
    return [pid, *map(int, children)]


SEE = """() => {
  window.late = [];
  new MutationObserver(() => {
    const item = [...document.querySelectorAll("#live-probes li")].find((one) => one.textContent.startsWith("Scale"));
    const read = item && parseFloat(item.textContent.slice(6));
    if (read && read !== window.before) { window.before = read; window.late.push((Date.now() / 1000 - read + 50000) % 500); }
  }).observe(document.getElementById("live-probes"), {childList: true, subtree: true, characterData: true});
}"""


def live(cluster: Cluster, server: str, pid: int, someone: Someone, line: Line) -> None:
    """20 visits at 1 Hz, each with a page that looks on; one of them a real browser."""
    owner = connect(cluster.url(OWNER), pool_size=1)
    with owner.begin() as connection:
        see_shop(connection, someone.shop_id)
        units = [row.id for row in connection.execute(text("SELECT id FROM unit WHERE facts ->> 'kind' <> 'walk_in_freezer'"))]
        pairs = []
        for i in range(VISITS):
            visit = uuid6.uuid7()
            add_visit(
                connection,
                shop_id=someone.shop_id,
                id=visit,
                unit_id=units[i % len(units)],
                technician_id=someone.person_id,
                planned_for=datetime.now().astimezone(),
                status="open",
            )
            pairs.append((str(visit), make_token(connection, someone, visit)))
    owner.dispose()
    browser = Browser(server)
    browser.sign_in("ines", PASSWORD)
    browser.get("/pocket")
    browser.post("/me/preferences", False, weight_unit="kg")  # the scale's figure carries the time: it must stay decimal
    cookies = "; ".join(f"{name}={value}" for name, value in browser.cookies.items())
    late: list[float] = []
    over = threading.Event()
    watchers = [threading.Thread(target=watch, args=(server, visit, cookies, late, over), daemon=True) for visit, _ in pairs[1:]]
    for watcher in watchers:
        watcher.start()
    with sync_playwright() as playwright:
        chromium = launch(playwright.chromium)
        page = chromium.new_page(viewport={"width": 1280, "height": 800}, base_url=server)
        _sign_in(page)
        page.goto(f"/visits/{pairs[0][0]}")
        page.evaluate(SEE)
        postmaster = int((cluster._data / "postmaster.pid").read_text().split()[0])
        feeder = multiprocessing.get_context("spawn").Process(target=feed, args=(server, pairs, SECONDS))
        feeder.start()
        time.sleep(4)  # the feeder's own start
        late.clear()
        started = {number: cpu_seconds(number) for number in family(pid)}
        database = {number: cpu_seconds(number) for number in family(postmaster)}
        begun = time.time()
        feeder.join()
        elapsed = time.time() - begun
        spent = sum(cpu_seconds(number) - before for number, before in started.items() if Path(f"/proc/{number}").exists())
        stored = sum(cpu_seconds(number) - before for number, before in database.items() if Path(f"/proc/{number}").exists())
        seen = sorted(page.evaluate("window.late"))
        chromium.close()
    over.set()
    ordered = sorted(late)
    line(f"{VISITS} visits, {PROBES} probes, 1 Hz: samples to stream, median", f"{statistics.median(ordered) * 1e3:.0f} ms")
    line("  95 % within", f"{ordered[int(len(ordered) * 0.95)] * 1e3:.0f} ms", "under 1 s")
    line(
        "  one of them a browser: on the screen, 95 % within",
        f"{seen[int(len(seen) * 0.95)] * 1e3:.0f} ms" if seen else "none",
        "under 1 s",
    )
    line("  ticks that arrived of those sent", f"{len(ordered) / ((VISITS - 1) * elapsed) * 100:.0f} %")
    line("  application, share of one core", f"{spent / elapsed * 100:.0f} %")
    line("  PostgreSQL, share of one core (its lasting processes)", f"{stored / elapsed * 100:.0f} %")


def _sign_in(page) -> None:  # type: ignore[no-untyped-def]
    page.goto("/sign-in")
    page.fill("#login", "ines")
    page.fill("#password", PASSWORD)
    page.click("button[type=submit]")
    page.wait_for_url("**/")


def long_visits(cluster: Cluster, server: str, someone: Someone, line: Line) -> None:
    """A visit with 2,000 entries beside one with 20: the page, and a posted reading."""
    engine = connect(cluster.url(OWNER), pool_size=1)
    visits = {}
    with engine.begin() as connection:
        see_shop(connection, someone.shop_id)
        unit = connection.execute(text("SELECT id FROM unit WHERE tag = 'AC-2'")).scalar_one()
        now = datetime.now().astimezone() - timedelta(hours=9)
        for count in (20, 2000):
            visits[count] = uuid6.uuid7()
            add_visit(
                connection,
                shop_id=someone.shop_id,
                id=visits[count],
                unit_id=unit,
                technician_id=someone.person_id,
                planned_for=now,
                status="open",
            )
            for i in range(count):
                quantity, value = QUANTITIES[i % 9], VALUES[i % 9]
                unit_name = "psig" if "pressure" in quantity else "F"
                body = (
                    ReadingBody(quantity=quantity, value=value, unit=unit_name),
                    NoteBody(text=f"note {i}"),
                    ObservationBody(what="filter_dirty", state="no"),
                )[i % 3 if i > 9 else 0]
                append(connection, someone, visits[count], Sent(uuid6.uuid7(), body), now + timedelta(seconds=10 * i))
    engine.dispose()
    browser = Browser(server)
    browser.sign_in("ines", PASSWORD)
    pages: dict[int, list[float]] = {20: [], 2000: []}
    posts: dict[int, list[float]] = {20: [], 2000: []}
    for i in range(25):
        for count, visit in visits.items():
            start = time.perf_counter()
            browser.get(f"/visits/{visit}")
            pages[count].append(time.perf_counter() - start)
            start = time.perf_counter()
            data = {
                "csrftoken": browser.token,
                "entry_id": str(uuid6.uuid7()),
                "kind": "reading",
                "unit": "psig",
                "quantity": "suction_pressure",
                "value": str(100 + i),
            }
            headers = {"hx-request": "true", "x-page": "desk", "x-seen": str(count + i)}
            answer = browser.ask("POST", f"/visits/{visit}/entries", data, **headers)
            posts[count].append(time.perf_counter() - start)
            assert answer.status_code == 200
    for what, spent in (("page", pages), ("posted reading", posts)):
        short, long = (statistics.median(spent[count]) * 1e3 for count in (20, 2000))
        line(f"{what}: 2,000 entries against 20", f"{long:.0f} / {short:.0f} ms", f"{long / short:.2f} x, at most 1.5")


def crowd(server: str, visit: str, line: Line) -> None:
    """32 pages of one visit, each posting one reading after another."""
    browser = Browser(server)
    browser.sign_in("ines", PASSWORD)
    first = re.findall(r'data-seen="(\d+)"', browser.get(f"/visits/{visit}").text)[0]
    cookies = "; ".join(f"{name}={value}" for name, value in browser.cookies.items())
    headers = {
        "cookie": cookies,
        "hx-request": "true",
        "x-page": "desk",
        "x-csrftoken": browser.token,
        "content-type": "application/x-www-form-urlencoded",
        "accept-encoding": "gzip",
    }
    spent: list[float] = []

    def post(client: int) -> None:
        connection, seen = HTTPConnection(server.removeprefix("http://")), first
        for i in range(15):
            quantity = QUANTITIES[(client + i) % 9]
            data = {
                "entry_id": str(uuid6.uuid7()),
                "kind": "reading",
                "quantity": quantity,
                "value": VALUES[(client + i) % 9],
                "unit": "psig" if "pressure" in quantity else "F",
            }
            start = time.perf_counter()
            shows = {"x-sender": f"page-{client}", "x-seen": seen}
            connection.request("POST", f"/visits/{visit}/entries", urlencode(data), {**headers, **shows})
            answer = connection.getresponse()
            text = gzip.decompress(answer.read()).decode()
            spent.append(time.perf_counter() - start)
            seen = re.findall(r'data-seen="(\d+)"', text)[-1]
            assert answer.status == 200, answer.status

    clients = [threading.Thread(target=post, args=(client,)) for client in range(32)]
    started = time.perf_counter()
    for client in clients:
        client.start()
    for client in clients:
        client.join()
    total = time.perf_counter() - started
    worst = statistics.quantiles(spent, n=20)[-1]
    line("32 pages posting to one visit, full answers", f"{worst * 1e3:.0f} ms at 95 %", "at most 600 ms")
    line("  of them a second", f"{len(spent) / total:.0f}")


def posts_of(server: str, visit: str, headers: dict[str, str], count: int, spent: list[float]) -> None:
    """Readings one after another, over a connection of one's own."""
    connection = HTTPConnection(server.removeprefix("http://"))
    for i in range(count):
        data = {
            "entry_id": str(uuid6.uuid7()),
            "kind": "reading",
            "quantity": "suction_pressure",
            "value": 100 + i % 20,
            "unit": "psig",
        }
        start = time.perf_counter()
        connection.request("POST", f"/visits/{visit}/entries", urlencode(data), headers)
        answer = connection.getresponse()
        answer.read()
        spent.append(time.perf_counter() - start)
        assert answer.status == 200, answer.status


def form_headers(browser: Browser, host: str) -> dict[str, str]:
    """What a page sends with an entry."""
    cookies = "; ".join(f"{name}={value}" for name, value in browser.cookies.items())
    return {
        "cookie": cookies,
        "hx-request": "true",
        "x-page": "desk",
        "x-csrftoken": browser.token,
        "x-seen": "999999",
        "content-type": "application/x-www-form-urlencoded",
        "accept-encoding": "gzip",
        "host": host,
    }


def four_visits(servers: Sequence[str], visits: Sequence[str], line: Line, wanted: int) -> None:
    """32 clients on four visits, spread over the processes."""
    browser = Browser(servers[0])
    browser.sign_in("ines", PASSWORD)
    headers, spent = form_headers(browser, servers[0].removeprefix("http://")), list[float]()
    clients = [
        threading.Thread(target=posts_of, args=(servers[i % len(servers)], visits[i % 4], headers, 20, spent)) for i in range(32)
    ]
    started = time.perf_counter()
    for client in clients:
        client.start()
    for client in clients:
        client.join()
    total = time.perf_counter() - started
    worst = statistics.quantiles(spent, n=20)[-1]
    words = f"32 clients on four visits, {len(servers)} process{'es' if len(servers) > 1 else ''}: full answers a second"
    line(words, f"{len(spent) / total:.0f}", f"at least {wanted}")
    line("  95 % within", f"{worst * 1e3:.0f} ms", "at most 800 ms")


def many_pages(cluster: Cluster, server: str, someone: Someone, line: Line) -> None:
    """A hundred pages look on at one visit that probes feed; somebody posts to another visit."""
    engine = connect(cluster.url(OWNER), pool_size=1)
    with engine.begin() as connection:
        see_shop(connection, someone.shop_id)
        unit = connection.execute(text("SELECT id FROM unit WHERE tag = 'AC-2'")).scalar_one()
        fed, other = uuid6.uuid7(), uuid6.uuid7()
        for visit in (fed, other):
            add_visit(
                connection,
                shop_id=someone.shop_id,
                id=visit,
                unit_id=unit,
                technician_id=someone.person_id,
                planned_for=datetime.now().astimezone(),
                status="open",
            )
        pair = (str(fed), make_token(connection, someone, fed))
    engine.dispose()
    cookies = []
    for login in ("maren", "ines", "tobin", "wren", "odile"):
        browser = Browser(server)
        browser.sign_in(login, PASSWORD)
        cookies.append("; ".join(f"{name}={value}" for name, value in browser.cookies.items()))
    browser = Browser(server)
    browser.sign_in("ines", PASSWORD)
    headers = form_headers(browser, server.removeprefix("http://"))
    feeder = multiprocessing.get_context("spawn").Process(target=feed, args=(server, [pair], 90))
    feeder.start()
    time.sleep(4)
    alone, crowded, late, over = list[float](), list[float](), list[float](), threading.Event()
    posts_of(server, str(other), headers, 60, alone)
    pages = [threading.Thread(target=watch, args=(server, pair[0], cookies[i % 5], late, over), daemon=True) for i in range(100)]
    for page in pages:
        page.start()
    until = time.monotonic() + 60
    while len(late) < len(pages) and time.monotonic() < until:  # a hundred clients of this one process take their time
        time.sleep(0.2)
    late.clear()
    posts_of(server, str(other), headers, 60, crowded)
    over.set()
    for page in pages:  # gone at its next tick: a person may have no more than some pages open
        page.join(20)
    feeder.terminate()
    before, after = (statistics.median(spent) * 1e3 for spent in (alone, crowded))
    line("another visit's post while 100 pages look on", f"{after:.0f} / {before:.0f} ms", f"{after / before:.1f} x, at most 2")
    line("  ticks that reached the pages", f"{len(late)}")


def slow_phone(server: str, visit: str, line: Line) -> None:
    """A phone six times slower than this machine: first load, a typed reading, and 5,000 entries that waited."""
    with sync_playwright() as playwright:
        chromium = launch(playwright.chromium)
        page = chromium.new_page(viewport={"width": 390, "height": 844}, base_url=server)
        _sign_in(page)
        session = page.context.new_cdp_session(page)
        session.send("Emulation.setCPUThrottlingRate", {"rate": 6})
        page.goto(f"/visits/{visit}")
        timing = page.evaluate(
            "(() => { const t = performance.getEntriesByType('navigation')[0]; return t.domContentLoadedEventEnd; })()"
        )
        line("processor six times slower: visit usable after", f"{timing:.0f} ms")
        spent = []
        for value in range(5):
            start = time.perf_counter()
            page.fill("#q-suction_pressure", str(110 + value))
            page.keyboard.press("Enter")
            page.wait_for_selector(f"#entries li:has-text('{110 + value} psig')", state="attached")
            spent.append(time.perf_counter() - start)
        line("  typed reading to the changed page", f"{statistics.median(spent) * 1e3:.0f} ms")
        session.send("Emulation.setCPUThrottlingRate", {"rate": 1})
        start = time.perf_counter()
        page.evaluate("""async () => {
          const main = document.querySelector("script[type=module][src*='/main.js']").src;
          const outbox = await import(main.replace("main.js", "outbox.js"));
          const queue = await import(main.replace("main.js", "queue.js"));
          const visit = document.body.dataset.visit, db = await idb.openDB("dry-gauge", 1);
          const tx = db.transaction("waiting", "readwrite");
          for (let i = 0; i < 5000; i++) tx.store.add({url: `/visits/${visit}/entries`, form: "", label: "note", at: Date.now(),
            me: document.body.dataset.me, fields: [["entry_id", queue.newId()], ["kind", "note"], ["text", `w${i}`]]});
          await tx.done; outbox.now();
        }""")
        while page.evaluate("idb.openDB('dry-gauge', 1).then((db) => db.count('waiting'))"):
            time.sleep(1)
        line("5,000 entries that waited, sent in order", f"{time.perf_counter() - start:.0f} s")
        chromium.close()


@contextmanager
def own_cluster() -> Iterator[Cluster]:
    """A durable cluster for one measurement, with the tables in it."""
    with tempfile.TemporaryDirectory(prefix="dry-gauge-bench-") as name:
        directory = Path(name)
        directory.chmod(0o755)
        cluster = Cluster(directory / "cluster", durable=True)
        cluster.start()
        try:
            migrate(cluster.url(OWNER), cluster.url(APPLICATION))
            yield cluster
        finally:
            cluster.remove()


def main(line: Line) -> None:
    """Everything here, on a cluster of its own."""
    print("Live and long")
    with own_cluster() as cluster:
        owner = connect(cluster.url(OWNER), pool_size=1)
        with owner.begin() as connection:
            seed(connection, datetime.now().astimezone())
            row = connection.execute(text("SELECT shop_id, id FROM person WHERE login = 'ines'")).one()
            open_visits = "SELECT id::text FROM visit WHERE status <> 'closed' ORDER BY planned_for LIMIT 4"
            visits = connection.execute(text(open_visits)).scalars().all()
            visit = visits[0]
        owner.dispose()
        someone = Someone(row.shop_id, "", "common", row.id, "Ines", "technician", "F", "psi", "auto")
        port = free_port()
        server = start_server(cluster.url(APPLICATION), port)
        address = f"http://127.0.0.1:{port}"
        try:
            long_visits(cluster, address, someone, line)
            crowd(address, str(visit), line)
            second_port = free_port()
            second = start_server(cluster.url(APPLICATION), second_port)
            four_visits([address], visits, line, 50)
            four_visits([address, f"http://127.0.0.1:{second_port}"], visits, line, 80)
            second.terminate()
            second.wait(10)
            many_pages(cluster, address, someone, line)
            live(cluster, address, server.pid, someone, line)
            slow_phone(address, str(visit), line)
        finally:
            server.terminate()
            server.wait(10)


if __name__ == "__main__":
    main(lambda what, figure, wanted="": print(f"  {what:58} {figure:>14}   {wanted}"))
