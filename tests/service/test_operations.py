"""An empty PostgreSQL becomes a working shop in three commands; whoever forgot a password gets another; what is wrong is said."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

import httpx2
import pytest
from sqlalchemy import text

from dry_gauge.demo.cluster import APPLICATION, OWNER, Cluster
from dry_gauge.store.database import connect
from tests.conftest import free_port, start_server
from tests.web.calls import Browser

SECRET = "only for tests, and long enough to be taken"


@pytest.fixture
def empty():
    """A cluster of its own with its roles and nothing else."""
    directory = Path(tempfile.mkdtemp(prefix="dry-gauge-test-"))
    directory.chmod(0o755)
    made = Cluster(directory / "cluster", durable=False)
    made.start()
    yield made
    made.remove()
    shutil.rmtree(directory, ignore_errors=True)


def run(cluster: Cluster, *arguments: str, **more: str) -> tuple[int, str]:
    environment = {**os.environ, "DATABASE_OWNER_URL": cluster.url(OWNER), "DATABASE_URL": cluster.url(APPLICATION),
                   "SECRET_KEY": SECRET, **more}  # fmt: skip
    done = subprocess.run([sys.executable, "-m", "dry_gauge.cli", *arguments], env=environment, capture_output=True, text=True)
    assert "Traceback" not in done.stderr
    return done.returncode, done.stdout + done.stderr


def password_in(said: str) -> str:
    found = re.search(r"signs in with '([^']+)'", said)
    assert found, said
    return found[1]


def test_from_an_empty_database_to_a_working_shop(empty):
    assert "revision none" in run(empty, "check")[1]
    owner = connect(empty.url(OWNER), pool_size=1)
    with owner.begin() as connection:
        connection.execute(text("CREATE TABLE somebody_elses (id integer)"))
    status, said = run(empty, "migrate")
    assert (status, "none of Dry Gauge's" in said) == (2, True)
    with owner.begin() as connection:
        connection.execute(text("DROP TABLE somebody_elses"))

    assert run(empty, "migrate")[0] == 0
    status, said = run(empty, "create-shop", "Saltworks Cooling", "--login", "ada", "--lead", "Ada Lead")
    assert status == 0
    first = password_in(said)
    assert run(empty, "check")[0] == 0
    for shop, login, lead, why in (
        (" ", "eve", "Eve", "A shop needs a name"),
        ("Other", "Eve!", "Eve", "A login is"),
        ("Other", "eve", " ", "A name is needed"),
    ):
        status, said = run(empty, "create-shop", shop, "--login", login, "--lead", lead)
        assert (status, why in said) == (2, True)
    assert "taken" in run(empty, "create-shop", "Other", "--login", "ada", "--lead", "Eve")[1]

    port = free_port()
    server = start_server(empty.url(APPLICATION), port)
    try:
        ada = Browser(f"http://127.0.0.1:{port}")
        assert ada.sign_in("ada", first).status_code == 303
        opened = ada.post("/here", False, site="Quay 4", unit="", kind="walk_in_cooler", refrigerant="R-448A")
        assert opened.status_code == 303
        assert httpx2.get(f"http://127.0.0.1:{port}/readyz").json()["status"] == "ready"
        second = password_in(run(empty, "reset-password", "ada")[1])
        assert ada.get("/").status_code == 303  # signed out everywhere
        assert ada.sign_in("ada", first).status_code == 401
        assert ada.sign_in("ada", second).status_code == 303
    finally:
        server.terminate()
        server.wait(10)
    owner.dispose()


def test_what_is_wrong_with_an_installation_is_said_in_a_line(cluster):
    status, said = run(cluster, "check", SECRET_KEY="short")
    assert (status, "NOT GOOD: SECRET_KEY" in said) == (2, True)
    assert "superuser" in said or "good: The application's role" in said
    status, said = run(cluster, "check", DATABASE_URL="postgresql://nobody@127.0.0.1:1/none")
    assert (status, "does not answer" in said) == (2, True)
    assert run(cluster, "reset-password", "no-such-login") == (2, "dry-gauge: Nobody who may sign in has the login "
                                                                  "'no-such-login'.\n")  # fmt: skip
    assert "Set DATABASE_OWNER_URL" in run(cluster, "migrate", DATABASE_OWNER_URL="")[1]
