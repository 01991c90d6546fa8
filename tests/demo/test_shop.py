"""The made-up shop: its numbers are possible, its stories read as told, and the demo survives what people do to it."""

from __future__ import annotations

import os
import re
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from datetime import datetime
from pathlib import Path

import pytest
from sqlalchemy import delete, func, select

from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Reader
from dry_gauge.demo import cluster as cluster_module
from dry_gauge.demo.calls import PAST, STILL_OPEN, TODAY
from dry_gauge.demo.cluster import Cluster, ClusterFailed, find_binaries
from dry_gauge.demo.shop import plan_today
from dry_gauge.demo.units import SITES, UNITS
from dry_gauge.notebook.subjects.closing import GOOD_ENDS, Closing
from dry_gauge.present.proving import repeats_in
from dry_gauge.present.visit import judged_before
from dry_gauge.service.notebooks import facts_of, view_of
from dry_gauge.store import models
from dry_gauge.store.visits import find_visit

pytestmark = pytest.mark.long

NOW = datetime.now().astimezone()


def view_of_story(connection, visit):
    return view_of(connection, find_visit(connection, visit.id), "common")


@pytest.mark.parametrize(
    "visit", [item for item in (*PAST, *STILL_OPEN, *TODAY) if item.day], ids=lambda item: f"{item.unit}-{item.days}"
)
def test_every_visit_of_a_simulated_unit_reads_without_an_oddity(seeded, visit):
    view = view_of_story(seeded, visit)
    # Where something was done since, what it read before that.
    found = (judged_before(view) or view.assessment).first
    assert {oddity.code for oddity in found.oddities} <= {"discharge_port_used"}
    assert {"superheat", "subcooling", "evaporator_td", "condenser_split"} <= set(found.derived)
    leads, wrong = found.causes[0].fault, (visit.found or visit.day).wrong
    assert leads in {Fault(name) for name in wrong} or (leads is Fault.NONE and not wrong)


@pytest.mark.parametrize(
    ("unit", "days", "fault", "verdict"),
    [
        ("rtu1", 760, Fault.NONE, "healthy"),  # as it was left
        ("rtu1", 31, Fault.NONE, "healthy"),
        ("rtu2", 64, Fault.INEFFICIENT_COMPRESSOR, "fault"),
        ("ac2", 372, Fault.NONE, "healthy"),
        ("hp1", 210, Fault.NONE, "healthy"),
        ("cheese", 150, Fault.NONE, "healthy"),
        ("ac2", 0, Fault.UNDERCHARGE, "held"),
        ("cheese", 0, Fault.UNDERCHARGE, "held"),
        ("pottery", 0, Fault.LOW_EVAPORATOR_AIRFLOW, "fault"),
    ],
)
def test_the_stories_read_as_they_are_told(seeded, unit, days, fault, verdict):
    visit = next(item for item in (*PAST, *TODAY) if (item.unit, item.days) == (unit, days))
    found = view_of_story(seeded, visit).assessment.first
    assert (found.causes[0].fault, found.verdict) == (fault, verdict)


@pytest.mark.parametrize(
    "visit", [item for item in (*PAST, *TODAY) if item.status == "closed"], ids=lambda item: f"{item.unit}-{item.days}"
)
def test_what_ended_as_right_was_left_right(seeded, visit):
    view = view_of_story(seeded, visit)
    ended = view.state[Closing].closing.body.outcome
    assert (ended in GOOD_ENDS) <= (view.assessment.first.verdict == "healthy")
    assert all(stands.passed for stands in repeats_in(view, Reader()).values())


@pytest.mark.parametrize("visit", [item for item in (*STILL_OPEN, *TODAY) if item.status == "open"], ids=lambda item: item.unit)
def test_nothing_is_proven_yet_where_a_call_is_open(seeded, visit):
    assert not any(stands.judged for stands in repeats_in(view_of_story(seeded, visit), Reader()).values())


def test_the_shop_hangs_together():
    assert {unit.site for unit in UNITS} == set(SITES)
    assert {visit.unit for visit in (*PAST, *STILL_OPEN, *TODAY)} <= {unit.key for unit in UNITS}
    kinds = {facts_of(unit.facts).kind for unit in UNITS}
    assert len(kinds) == 6  # every kind of the contract is on the board or the list


def test_a_new_day_gets_calls_once(seeded):
    undone = seeded.begin_nested()
    tables = models.Base.metadata.sorted_tables
    hangs_on = {"visit"}  # every table that points at a visit, or at what does
    for table in tables:
        hangs_on |= {table.name} if {key.column.table.name for key in table.foreign_keys} & hangs_on else set()
    for table in (one for one in reversed(tables) if one.name in hangs_on):
        seeded.execute(delete(table))
    count = select(func.count()).select_from(models.Visit)
    for _ in range(2):
        plan_today(seeded, NOW)
        assert seeded.execute(count).scalar_one() == len(TODAY)
    undone.rollback()


# -- the cluster and the command --------------------------------------------------


def test_without_postgresql_it_says_what_to_install(monkeypatch):
    monkeypatch.setattr(cluster_module.shutil, "which", lambda name: None)
    monkeypatch.setattr(Path, "glob", lambda self, pattern: iter(()))
    with pytest.raises(ClusterFailed, match="apt-get install postgresql"):
        find_binaries()


def test_a_lock_file_of_a_process_that_is_not_postgres_does_not_keep_it_from_starting(reachable):
    cluster = Cluster(reachable / "pg", durable=False)
    cluster.start()
    try:
        lock = cluster._data / "postmaster.pid"
        cluster.stop()
        assert not cluster.running
        lock.write_text(f"{os.getpid()}\n{cluster._data}\n")
        assert not cluster.running
        cluster.start()
        assert cluster.running
    finally:
        cluster.remove()
    assert not (reachable / "pg").exists()


class Demo:
    """`make demo` without the make, in a directory of its own."""

    def __init__(self, var: Path, port: int) -> None:
        self.var, self.log = var, var / "demo.log"
        self.environment = {**os.environ, "DRY_GAUGE_VAR": str(var), "PORT": str(port)}
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> str:
        with self.log.open("wb") as log:
            self.process = subprocess.Popen(
                [sys.executable, "-m", "dry_gauge.demo", "run"], env=self.environment, stdout=log, stderr=log
            )
        for _ in range(3000):  # seeding takes seconds, and minutes beside several other loads
            found = re.search(r"Dry Gauge is at (\S+)", self.log.read_text())
            if found:
                return found[1]
            assert self.process.poll() is None, self.log.read_text()
            time.sleep(0.1)
        raise AssertionError(self.log.read_text())

    def call(self, what: str) -> int:
        return subprocess.run([sys.executable, "-m", "dry_gauge.demo", what], env=self.environment, check=False).returncode


def test_the_demo_starts_survives_kill_9_keeps_its_data_and_stops(reachable):
    with socket.socket() as taken:  # the port is taken: the next free one is used and said
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        demo = Demo(reachable, taken.getsockname()[1])
        try:
            address = demo.start()
            assert not address.endswith(str(taken.getsockname()[1]))
            assert urllib.request.urlopen(f"{address}/sign-in").status == 200
            loaded = demo.log.read_text()
            assert "Loading the demo shop" in loaded
            os.kill(int((reachable / "server.pid").read_text()), signal.SIGKILL)
            demo.process.wait(30)

            address = demo.start()
            assert "Loading the demo shop" not in demo.log.read_text()
            assert urllib.request.urlopen(f"{address}/sign-in").status == 200
            demo.process.kill()  # the command itself dies; its server and its PostgreSQL live on
            demo.process.wait(30)

            assert demo.start()
            assert demo.call("stop") == 0
            demo.process.wait(30)
            assert "data stays" in demo.log.read_text()
            assert demo.call("dance") == 2
        finally:
            assert demo.call("reset") == 0
