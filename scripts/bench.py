"""Speeds and ratios, printed; `make bench`. One run, one machine: the figures only compare with each other."""

from __future__ import annotations

import gzip
import json
import os
import platform
import re
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from datetime import datetime
from http.client import HTTPConnection
from typing import Any
from urllib.parse import urlencode

import CoolProp.CoolProp as CP
import numpy as np
import uuid6
from sqlalchemy import text

from dry_gauge.bench import field
from dry_gauge.bench.plant import Faults
from dry_gauge.bench.solve import solve
from dry_gauge.core.judgement.assess import assess
from dry_gauge.core.judgement.hypotheses import MECHANISMS
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.words import Reader
from dry_gauge.demo.calls import TODAY
from dry_gauge.demo.cluster import APPLICATION, OWNER, Cluster
from dry_gauge.demo.ports import free_port
from dry_gauge.demo.shop import PASSWORD, seed
from dry_gauge.drawing.geometry import PHONE
from dry_gauge.drawing.ladder import ladder_svg
from dry_gauge.exchange.assessment import to_json
from dry_gauge.exchange.reading_sheet import parse_sheet
from dry_gauge.store.database import connect
from scripts import bench_live, bench_office
from tests.builders import AIR_PROVEN, HEALTHY, TXV, sheet
from tests.conftest import start_server
from tests.web.calls import Browser

POSTS = 150
VALUES = 1_000_000


def timed(call: Callable[[], object], times: int) -> float:
    """Median seconds of one call."""
    spent = []
    for _ in range(times):
        start = time.perf_counter()
        call()
        spent.append(time.perf_counter() - start)
    return statistics.median(spent)


def loop(call: Callable[[float], object], values: list[float]) -> float:
    """Seconds a call, over a plain loop."""
    start = time.perf_counter()
    for value in values:
        call(value)
    return (time.perf_counter() - start) / len(values)


def line(what: str, figure: str, wanted: str = "") -> None:
    print(f"  {what:58} {figure:>14}   {wanted}")


def saturation() -> None:
    print("Saturation, the same states through CoolProp's low-level interface")
    for name, fluid in (("R-22", "R22"), ("R-448A", "R448A.mix")):
        curve, state = saturation_of(find(name)), CP.AbstractState("HEOS", fluid)
        pressures = np.linspace(3e5, 2e6, 400).tolist()

        def direct(pressure: float, state: CP.AbstractState = state) -> None:
            state.update(CP.PQ_INPUTS, pressure, 1.0)
            state.T()

        curve.dew_temperature_k(5e5)
        one = min(loop(curve.dew_temperature_k, pressures * 50) for _ in range(5))
        theirs = min(loop(direct, pressures if name == "R-448A" else pressures * 20) for _ in range(2))
        many = np.linspace(3e5, 2e6, VALUES)
        array = timed(lambda curve=curve, many=many: curve.dew_temperature_k(many), 5) / VALUES
        line(f"{name} one call", f"{one * 1e6:.2f} us", "at most 4")
        line(f"{name} one call, CoolProp / ours", f"{theirs / one:,.0f} x", "at least 100" if name == "R-448A" else "")
        line(f"{name} a million at once, a value", f"{array * 1e9:.1f} ns")
        wanted = "at least 5,000" if name == "R-448A" else "at least 20"
        line(f"{name} a million at once, CoolProp loop / ours", f"{theirs / array:,.0f} x", wanted)


def judgement() -> None:
    print("Judgement and drawing, in process")
    raw = json.dumps(sheet(TXV, AIR_PROVEN, **HEALTHY))
    parsed = parse_sheet(raw)
    found = assess(parsed)
    line("assess one sheet", f"{timed(lambda: assess(parsed), 300) * 1e3:.2f} ms", "under 3")
    whole = timed(lambda: json.dumps(to_json(assess(parse_sheet(raw)))), 300)
    line("batch, JSON to JSON, sheets a second on one core", f"{1 / whole:,.0f}")
    line("ladder, desk", f"{timed(lambda: ladder_svg(found.first, Reader()), 200) * 1e3:.2f} ms", "under 5")
    line("ladder, phone", f"{timed(lambda: ladder_svg(found.first, Reader(), PHONE), 200) * 1e3:.2f} ms", "under 5")


def simulated_units() -> None:
    """One steady case at a time, and many abreast."""
    print("Simulated units")
    chance = np.random.default_rng(1)
    drawn = field.draw(400, chance)
    severity = np.where(chance.random((len(MECHANISMS), 400)) < 0.12, chance.uniform(0.1, 1, (len(MECHANISMS), 400)), 0)
    machine, faults = drawn.built(), Faults(severity)
    started = time.perf_counter()
    solution = solve(machine, drawn.weather, faults)
    abreast = (time.perf_counter() - started) / 400
    times = []
    for i in range(60):
        one = np.array([i])
        alone = (machine.take(one), drawn.weather.take(one), faults.take(one))
        started = time.perf_counter()
        solve(*alone)
        times.append(time.perf_counter() - started)
    failed = (~solution.solved & ~solution.tripped).mean()
    line(
        "one case alone, median (and 90th percentile)",
        f"{statistics.median(times) * 1e3:.1f} ({sorted(times)[54] * 1e3:.0f}) ms",
        "at most 20 ms",
    )
    line("a case of 400 solved abreast", f"{abreast * 1e3:.2f} ms", "at most 20 ms")
    line("neither solved nor tripped", f"{failed:.2%}")


def posting() -> None:
    print("Posting one reading over HTTP, PostgreSQL with durable commit")
    with bench_live.own_cluster() as cluster:
        _posting(cluster)


def send(connection: HTTPConnection, path: str, data: dict[str, str], headers: dict[str, str]) -> None:
    """A form over a kept connection, by the thinnest client there is: its own cost would count in the ratio."""
    form = {"content-type": "application/x-www-form-urlencoded", "accept-encoding": "gzip"}
    connection.request("POST", path, urlencode(data), {**form, **headers})
    answer = connection.getresponse()
    answer.read()
    assert answer.status == 200, answer.status


def _posting(cluster: Cluster) -> None:
    owner = connect(cluster.url(OWNER), pool_size=1)
    with owner.begin() as connection:
        seed(connection, datetime.now().astimezone())
        connection.execute(text("CREATE TABLE bare (id uuid PRIMARY KEY, value text NOT NULL)"))
    visit = next(item for item in TODAY if item.unit == "ac2").id
    port, bare_port = free_port(), free_port()
    server = start_server(cluster.url(APPLICATION), port)
    bare = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "uvicorn",
            "scripts.bench_bare:app",
            "--port",
            str(bare_port),
            "--log-level",
            "error",
            "--no-access-log",
        ],
        env={**os.environ, "DATABASE_URL": cluster.url(OWNER)},
    )
    try:
        time.sleep(2.5)
        browser = Browser(f"http://127.0.0.1:{port}")
        browser.sign_in("ines", PASSWORD)
        page = browser.get(f"/visits/{visit}")
        cookies = "; ".join(f"{name}={value}" for name, value in browser.cookies.items())
        headers = {"cookie": cookies, "hx-request": "true", "x-page": "desk", "x-csrftoken": browser.token}
        shown = max(int(number) for number in re.findall(r'data-sequence="(\d+)"', page.text))
        ours, plain = HTTPConnection("127.0.0.1", port), HTTPConnection("127.0.0.1", bare_port)

        def post(i: int) -> None:
            data = {
                "entry_id": str(uuid6.uuid7()),
                "kind": "reading",
                "quantity": "suction_pressure",
                "unit": "psig",
                "value": str(100 + i % 20),
            }
            send(ours, f"/visits/{visit}/entries", data, {**headers, "x-seen": str(shown + i)})

        def post_bare(i: int) -> None:
            send(plain, "/bare", {"entry_id": str(uuid6.uuid7()), "value": str(i)}, {})

        spent: dict[str, list[float]] = {"ours": [], "bare": []}
        for i in range(POSTS + 20):  # in turns, so that both meet the same disk and the same neighbours
            for name, call in (("ours", post), ("bare", post_bare)):
                start = time.perf_counter()
                call(i)
                if i >= 20:
                    spent[name].append(time.perf_counter() - start)
        ours_ms, bare_ms = (statistics.median(spent[name]) * 1e3 for name in ("ours", "bare"))
        line("bare route: one durable insert, one line", f"{bare_ms:.2f} ms")
        line("one reading, fragments back", f"{ours_ms:.2f} ms")
        line("ratio", f"{ours_ms / bare_ms:.1f} x", "at most 4.5")
        _where_it_goes(cluster, visit)
        _page_weight(browser, page.text)
    finally:
        for process in (server, bare):
            process.terminate()
            process.wait(10)
        owner.dispose()


def _where_it_goes(cluster: Cluster, visit: object) -> None:
    """The parts of a post in this process, without HTTP."""
    from dry_gauge.notebook.subjects.readings import ReadingBody
    from dry_gauge.service.append import Sent, append
    from dry_gauge.service.notebooks import judged
    from dry_gauge.store.people import Someone
    from dry_gauge.web.render import TEMPLATES, reader_of
    from dry_gauge.web.stations import station_named
    from dry_gauge.web.visit_page import VisitPage

    engine = connect(cluster.url(OWNER), pool_size=1)
    with engine.connect() as connection:
        row = connection.execute(text("SELECT shop_id, id FROM person WHERE login = 'ines'")).one()
    someone = Someone(row.shop_id, "", "common", row.id, "Ines", "technician", "F", "psi", "auto")
    body = ReadingBody(quantity="suction_pressure", value=111, unit="psig")

    def one_append() -> Any:
        with engine.begin() as connection:
            return append(connection, someone, visit, Sent(uuid6.uuid7(), body), datetime.now().astimezone())[0]  # type: ignore[arg-type]

    line("  of that, append: load, fold, save, commit", f"{timed(one_append, 100) * 1e3:.2f} ms")
    kept = one_append()
    view = judged(kept.visit, kept.state, "common")
    line("  of that, judging", f"{timed(lambda: assess(view.assessment.sheet), 100) * 1e3:.2f} ms")
    with engine.connect() as connection:

        def shows() -> VisitPage:
            return VisitPage(connection, view, someone, reader_of(someone, view.facts), station_named("read"), 1, "desk")

        line("  of that, what is shown, the ladder among it", f"{timed(lambda: shows().after_reading(), 100) * 1e3:.2f} ms")
        parts = shows().after_reading()

        def templates() -> None:
            for name, values in parts:
                TEMPLATES.get_template(name).render({"oob": True, "csrf": "x", **values})

        line("  of that, templates", f"{timed(templates, 100) * 1e3:.2f} ms")
    engine.dispose()


def _page_weight(browser: Browser, html: str) -> None:
    """The visit on a first visit: page, styles, scripts, and the two weights of type it shows."""
    addresses = sorted(set(re.findall(r'(?:src|href)="(/static/[^"]+)"', html)))
    fonts = [f"/static/vendor/b612-latin-{weight}-normal.woff2" for weight in (400, 700)]
    total = len(gzip.compress(html.encode(), 5))
    for address in sorted({*addresses, *fonts}):
        raw = browser.get(address).content
        total += len(raw) if address.endswith("woff2") else len(gzip.compress(raw, 5))
    line("visit page with everything in it, compressed", f"{total / 1000:.0f} kB", "under 200")


def main() -> None:
    print(f"{platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}")
    saturation()
    judgement()
    simulated_units()
    posting()
    bench_office.main(line)
    bench_live.main(line)


if __name__ == "__main__":
    main()
