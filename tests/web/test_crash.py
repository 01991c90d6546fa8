"""Nothing acknowledged disappears: server and PostgreSQL killed with -9 in the middle of a stream of posts."""

from __future__ import annotations

import os
import signal
import threading
import time

import httpx2
import uuid6
from sqlalchemy import select

from dry_gauge.demo.calls import TODAY
from dry_gauge.demo.cluster import APPLICATION, OWNER
from dry_gauge.demo.ports import free_port
from dry_gauge.demo.shop import PASSWORD, seed
from dry_gauge.store.database import connect
from dry_gauge.store.models import EntryRow
from tests.conftest import start_server
from tests.web.calls import Browser
from tests.web.killing import kill_postgres


def test_kill_9_during_posts_loses_no_acknowledged_entry(durable):
    from datetime import datetime

    owner = connect(durable.url(OWNER), pool_size=1)
    with owner.begin() as connection:
        seed(connection, datetime.now().astimezone())
    owner.dispose()
    visit = next(item for item in TODAY if item.unit == "hp1").id
    port = free_port()
    server = start_server(durable.url(APPLICATION), port)
    acknowledged: list[str] = []
    dead = threading.Event()

    def post(login: str) -> None:
        browser = Browser(f"http://127.0.0.1:{port}")
        browser.sign_in(login, PASSWORD)
        for i in range(10_000):
            entry_id = str(uuid6.uuid7())
            try:
                answer = browser.post(
                    f"/visits/{visit}/entries",
                    entry_id=entry_id,
                    kind="reading",
                    unit="psig",
                    quantity="suction_pressure",
                    value=str(100 + i % 30),
                )
            except httpx2.HTTPError:
                return
            if answer.status_code == 200:
                acknowledged.append(entry_id)
            if dead.is_set():
                return

    threads = [threading.Thread(target=post, args=(login,)) for login in ("ines", "tobin")]
    for thread in threads:
        thread.start()
    while len(acknowledged) < 60:
        time.sleep(0.01)
        assert any(thread.is_alive() for thread in threads)
    kill_postgres(durable)
    os.kill(server.pid, signal.SIGKILL)
    dead.set()
    for thread in threads:
        thread.join(30)
    server.wait()

    durable.start()  # the same call that 'make demo' makes
    engine = connect(durable.url(OWNER), pool_size=1)
    with engine.connect() as connection:
        kept = {str(row.id) for row in connection.execute(select(EntryRow.id).where(EntryRow.visit_id == visit))}
    engine.dispose()
    assert set(acknowledged) <= kept
    assert len(kept) - len(acknowledged) <= 2  # at most what each browser had under way

    server = start_server(durable.url(APPLICATION), port)
    browser = Browser(f"http://127.0.0.1:{port}")
    browser.sign_in("ines", PASSWORD)
    assert f"{len(kept)} entries" in browser.get(f"/visits/{visit}").text
    server.terminate()
    server.wait(10)
