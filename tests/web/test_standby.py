"""A second PostgreSQL follows the first; when the first dies under load, the second goes on and nothing acknowledged is lost."""

from __future__ import annotations

import shutil
import tempfile
import threading
import time
from pathlib import Path

import httpx2
import psycopg
import pytest
import uuid6
from sqlalchemy import select

from dry_gauge.demo.cluster import APPLICATION, DATABASE, OWNER, SUPERUSER, Cluster
from dry_gauge.demo.ports import free_port
from dry_gauge.store.database import connect
from dry_gauge.store.models import EntryRow
from tests.conftest import start_server
from tests.service.test_operations import password_in, run
from tests.web.calls import Browser
from tests.web.killing import kill_postgres

BROWSERS = 4


@pytest.fixture
def standby(durable):
    """A copy of `durable` that follows it; a commit waits for both."""
    directory = Path(tempfile.mkdtemp(prefix="dry-gauge-standby-"))
    directory.chmod(0o755)
    made = Cluster(directory / "cluster", durable=True)
    made.directory.mkdir()
    made._write_secrets(durable._secrets | {"port": str(free_port())})
    made._data.parent.mkdir(exist_ok=True)
    made._data.mkdir(mode=0o700)
    shutil.chown(made._data, "postgres", "postgres")
    first = durable._secrets
    source = f"host=127.0.0.1 port={first['port']} user={SUPERUSER} password={first[SUPERUSER]} application_name=second"
    made._run("pg_basebackup", "-D", str(made._data), "-R", "-X", "stream", "-c", "fast", "-d", source)
    made._start()
    command(durable, "ALTER SYSTEM SET synchronous_standby_names = 'second'", "SELECT pg_reload_conf()")
    yield made
    made.remove()
    shutil.rmtree(directory, ignore_errors=True)


def command(cluster: Cluster, *words: str):
    with psycopg.connect(cluster.url(SUPERUSER), autocommit=True) as connection:
        for one in words:
            answer = connection.execute(one)
        return answer.fetchall() if answer.description else []


def both(first: Cluster, second: Cluster, role: str) -> str:
    """One address of two servers: whichever takes writes."""
    one, other = first._secrets, second._secrets
    return (
        f"postgresql://{role}:{one[role]}@/{DATABASE}?host=127.0.0.1:{one['port']}&host=127.0.0.1:{other['port']}"
        "&target_session_attrs=read-write"
    )


def wait_for(what, seconds=60.0):
    until = time.monotonic() + seconds
    while not what():
        assert time.monotonic() < until
        time.sleep(0.05)


def test_the_second_server_goes_on_when_the_first_dies_under_load(durable, standby):
    first = password_in(run(durable, "create-shop", "Quay Cooling", "--login", "ada", "--lead", "Ada Lead")[1])
    wait_for(lambda: command(durable, "SELECT sync_state FROM pg_stat_replication") == [("sync",)])
    port = free_port()
    server = start_server(both(durable, standby, APPLICATION), port)
    acknowledged: list[str] = []
    refused: set[int] = set()
    stopping = threading.Event()

    def work(number: int) -> None:
        browser = Browser(f"http://127.0.0.1:{port}")
        browser.sign_in("ada", first)
        opened = browser.post("/here", False, site=f"Quay {number}", unit="", kind="walk_in_cooler", refrigerant="R-448A")
        visit = opened.headers["location"].split("?")[0]
        entry_id = str(uuid6.uuid7())
        while not stopping.is_set():
            try:
                answer = browser.post(f"{visit}/entries", entry_id=entry_id, kind="note", text="on")
            except httpx2.HTTPError:
                continue
            if answer.status_code == 200:
                acknowledged.append(entry_id)
                entry_id = str(uuid6.uuid7())
            else:  # as the outbox does: the same entry once more
                refused.add(answer.status_code)
                time.sleep(0.1)

    threads = [threading.Thread(target=work, args=(number,)) for number in range(BROWSERS)]
    for thread in threads:
        thread.start()
    try:
        wait_for(lambda: len(acknowledged) >= 80)
        kill_postgres(durable)
        died = len(acknowledged)
        # What an operator does: the second becomes the first, and waits for nobody.
        command(standby, "SELECT pg_promote(true, 30)")
        command(standby, "ALTER SYSTEM SET synchronous_standby_names = ''", "SELECT pg_reload_conf()")
        wait_for(lambda: len(acknowledged) >= died + 80)
    finally:
        stopping.set()
        for thread in threads:
            thread.join(30)
        server.terminate()
        server.wait(10)
    assert refused <= {503}
    engine = connect(standby.url(OWNER), pool_size=1)
    with engine.connect() as connection:
        kept = [str(one) for one in connection.execute(select(EntryRow.id)).scalars()]
    engine.dispose()
    assert set(acknowledged) <= set(kept)
    assert len(kept) == len(set(kept)) <= len(acknowledged) + BROWSERS  # at most what each browser had under way
