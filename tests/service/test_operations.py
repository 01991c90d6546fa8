"""An empty PostgreSQL becomes a working shop in three commands; whoever forgot a password gets another; what is wrong is said."""

from __future__ import annotations

import io
import os
import re
import shutil
import subprocess
import sys
import tempfile
from contextlib import contextmanager
from pathlib import Path

import httpx2
import pytest
import uuid6
from PIL import Image
from sqlalchemy import text

from dry_gauge.demo.__main__ import prepare
from dry_gauge.demo.cluster import APPLICATION, OWNER, Cluster
from dry_gauge.demo.ports import free_port
from dry_gauge.demo.shop import PASSWORD as DEMO_PASSWORD
from dry_gauge.demo.shop import NotTheDemo
from dry_gauge.store.database import connect
from tests.conftest import start_server
from tests.web.calls import Browser, read

pytestmark = pytest.mark.long

REFERENCE = Path(__file__).parent.parent / "reference"
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


@contextmanager
def served(cluster: Cluster, **more: str):
    """A server on that cluster; its address."""
    port = free_port()
    process = start_server(cluster.url(APPLICATION), port, **more)
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        process.terminate()
        process.wait(10)


def run(cluster: Cluster, *arguments: str, **more: str) -> tuple[int, str]:
    environment = {
        **os.environ,
        "DATABASE_OWNER_URL": cluster.url(OWNER),
        "DATABASE_URL": cluster.url(APPLICATION),
        "SECRET_KEY": SECRET,
        **more,
    }
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

    with served(empty) as server:
        ada = Browser(server)
        assert ada.sign_in("ada", first).status_code == 303
        opened = ada.post("/here", False, site="Quay 4", unit="", kind="walk_in_cooler", refrigerant="R-448A")
        assert opened.status_code == 303
        assert httpx2.get(f"{server}/readyz").json()["status"] == "ready"
        second = password_in(run(empty, "reset-password", "ada")[1])
        assert ada.get("/").status_code == 303  # signed out everywhere
        assert ada.sign_in("ada", first).status_code == 401
        assert ada.sign_in("ada", second).status_code == 303
    owner.dispose()


def test_what_is_wrong_with_an_installation_is_said_in_a_line(cluster):
    status, said = run(cluster, "check", SECRET_KEY="short")
    assert (status, "NOT GOOD: SECRET_KEY" in said) == (2, True)
    assert "superuser" in said or "good: The application's role" in said
    status, said = run(cluster, "check", DATABASE_URL="postgresql://nobody@127.0.0.1:1/none")
    assert (status, "does not answer" in said) == (2, True)
    assert run(cluster, "reset-password", "no-such-login") == (
        2,
        "dry-gauge: Nobody who may sign in has the login 'no-such-login'.\n",
    )
    assert "Set DATABASE_OWNER_URL" in run(cluster, "migrate", DATABASE_OWNER_URL="")[1]


def test_a_backup_in_another_cluster_shows_the_same_pages(cluster, owner, server, shop, empty, tmp_path):
    browser = Browser(server)
    browser.sign_in(shop.logins["technician"])
    browser.get(f"/visits/{shop.visit}")
    assert read(browser, shop, "118").status_code == 200
    picture = photo(browser, shop)
    seen = {path: browser.get(path) for path in (f"/visits/{shop.visit}", f"/units/{shop.unit}", f"/photos/{picture}")}

    file = tmp_path / "all.backup"
    status, said = run(cluster, "backup", str(file))
    assert (status, "read back whole" in said, file.stat().st_mode & 0o077) == (0, True, 0)
    assert run(empty, "restore", str(file))[0] == 0
    assert "holds tables already" in run(empty, "restore", str(file))[1]
    assert run(empty, "check")[0] == 0
    with served(empty) as other:
        again = Browser(other, cookies=dict(browser.cookies))
        assert again.get("/").status_code == 303  # no session comes along
        again.sign_in(shop.logins["technician"])
        for path, answer in seen.items():
            assert as_shown(again.get(path)) == as_shown(answer)
        assert again.post(f"/visits/{shop.visit}/entries", entry_id=str(uuid6.uuid7()), kind="note", text="on").status_code == 200


def as_shown(answer: httpx2.Response) -> str | bytes:
    """A page without its tokens and its minutes."""
    if not answer.headers["content-type"].startswith("text/html"):
        return answer.content
    return re.sub(r'\b[0-9a-f]{40}\b|\d+ (?:s|min) ago|now="[^"]+"|value="[0-9a-f-]{36}"', "", answer.text)


def photo(browser: Browser, shop) -> str:
    entry, out = str(uuid6.uuid7()), io.BytesIO()
    Image.effect_noise((640, 480), 60).convert("RGB").save(out, "JPEG")
    cookies = "; ".join(f"{key}={value}" for key, value in browser.cookies.items())
    answer = httpx2.post(
        f"{browser.base}/visits/{shop.visit}/photos",
        headers={"cookie": cookies, "x-csrftoken": browser.token},
        data={"entry_id": entry, "caption": "lug"},
        files={"photo": ("x.jpg", out.getvalue())},
    )
    assert answer.status_code in (200, 303)
    return entry


def test_what_is_no_backup_leaves_the_database_empty(empty, tmp_path):
    whole = REFERENCE / "demo_0007.backup"
    cut, other = tmp_path / "cut", tmp_path / "other"
    cut.write_bytes(whole.read_bytes()[:60_000])
    other.write_bytes(b"not a backup at all")
    for file, why in ((cut, "could not read"), (other, "input file"), (tmp_path / "none", "There is no file")):
        status, said = run(empty, "restore", str(file))
        assert (status, why in said) == (2, True), said
    elsewhere = empty.url(APPLICATION).replace(APPLICATION, "somebody")
    assert "Give the new database's role the old name" in run(empty, "restore", str(whole), DATABASE_URL=elsewhere)[1]
    engine = connect(empty.url(OWNER), pool_size=1)
    with engine.connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM pg_tables WHERE schemaname = 'public'")).scalar_one() == 0
    engine.dispose()
    assert "No such file or directory" in run(empty, "backup", str(tmp_path / "none" / "x"))[1]


def test_a_backup_of_the_release_before_is_brought_up_to_date(empty):
    status, said = run(empty, "restore", str(REFERENCE / "demo_0007.backup"))
    assert (status, "from revision 0007" in said) == (0, True), said
    with served(empty) as server:
        ines = Browser(server)
        assert ines.sign_in("ines", DEMO_PASSWORD).status_code == 303
        for path in sorted(set(re.findall(r'href="(/visits/[0-9a-f-]{36})', ines.get("/").text))):
            assert ines.get(path).status_code == 200


def test_the_demo_leaves_a_foreign_database_alone(cluster, shop):
    environment = {"DATABASE_OWNER_URL": cluster.url(OWNER), "DATABASE_URL": cluster.url(APPLICATION)}
    with pytest.raises(NotTheDemo):
        prepare(environment)
