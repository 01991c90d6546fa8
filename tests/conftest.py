"""A throwaway PostgreSQL cluster for the whole run, a database with two shops, and a server of our own."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import UUID

import pytest
import uuid6
from argon2 import PasswordHasher
from hypothesis import HealthCheck, settings
from sqlalchemy import Engine, insert, text

from dry_gauge.demo.cluster import APPLICATION, OWNER, Cluster
from dry_gauge.demo.ports import free_port
from dry_gauge.store.database import connect, migrate
from dry_gauge.store.models import Person, Shop, Site, Unit, Visit
from dry_gauge.store.people import Someone

# Beside another load an example may take long; that is no failure of what is tried.
settings.register_profile("unhurried", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("unhurried")

PASSWORD = "rope and tide"
FACTS = {"kind": "split_ac", "refrigerant": "R-410A", "metering": "txv", "seer": 14, "target_subcooling_f": 10}


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Files that say they are long come first, then those with the most tests: workers that share them end together."""
    of_file = Counter(item.path for item in items)
    items.sort(key=lambda item: (item.get_closest_marker("long") is None, -of_file[item.path]))


class Installed:
    """The database of an installation that is there already, as scripts/bare_debian.sh leaves one."""

    def url(self, role: str) -> str:
        return os.environ["DATABASE_OWNER_URL" if role == OWNER else "DATABASE_URL"]


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster | Installed]:
    if "INSTALLED" in os.environ:
        yield Installed()
        return
    # Not under the checkout: that may be out of the unprivileged user's reach, and the run should leave nothing there.
    directory = Path(tempfile.mkdtemp(prefix="dry-gauge-test-"))
    directory.chmod(0o755)
    made = Cluster(directory / "cluster", durable=False)
    made.start()
    migrate(made.url(OWNER), made.url(APPLICATION))
    yield made
    made.remove()
    shutil.rmtree(directory, ignore_errors=True)


@pytest.fixture(scope="session")
def owner(cluster: Cluster) -> Iterator[Engine]:
    engine = connect(cluster.url(OWNER), pool_size=2, patient=True)  # a test may hold a transaction for as long as it runs
    yield engine
    engine.dispose()


@pytest.fixture(scope="session")
def engine(cluster: Cluster) -> Iterator[Engine]:
    """As the application connects."""
    made = connect(cluster.url(APPLICATION))
    yield made
    made.dispose()


@dataclass
class ShopOf:
    """A shop for one test, with one unit, one visit and people of every role."""

    id: UUID
    people: dict[str, UUID] = field(default_factory=dict)
    logins: dict[str, str] = field(default_factory=dict)
    unit: UUID = field(default_factory=uuid6.uuid7)
    visit: UUID = field(default_factory=uuid6.uuid7)

    def someone(self, role: str = "technician") -> Someone:
        return Someone(self.id, "Test shop", "common", self.people[role], "Ida Test", role, "F", "psi", "auto")


@pytest.fixture(scope="session")
def password_hash() -> str:
    """A real one, but soon tried: nearly every test signs in. What the application makes is tried in `test_sign_in`."""
    return PasswordHasher(time_cost=1, memory_cost=8, parallelism=1).hash(PASSWORD)


@pytest.fixture
def make_shop(owner: Engine, password_hash: str) -> Any:
    def make(facts: dict[str, Any] | None = None) -> ShopOf:
        shop = ShopOf(uuid6.uuid7())
        site = uuid6.uuid7()
        with owner.begin() as connection:
            connection.execute(insert(Shop).values(id=shop.id, name="Test shop"))
            for role in ("technician", "lead", "helper", "read_only"):
                shop.people[role] = uuid6.uuid7()
                shop.logins[role] = f"{role}-{shop.id.hex[-10:]}"
                connection.execute(
                    insert(Person).values(
                        shop_id=shop.id,
                        id=shop.people[role],
                        login=shop.logins[role],
                        name=f"Ida {role}",
                        role=role,
                        password_hash=password_hash,
                    )
                )
            connection.execute(insert(Site).values(shop_id=shop.id, id=site, name="Signal House"))
            connection.execute(insert(Unit).values(shop_id=shop.id, id=shop.unit, site_id=site, tag="U-1", facts=facts or FACTS))
            connection.execute(
                insert(Visit).values(
                    shop_id=shop.id,
                    id=shop.visit,
                    call_id=shop.visit,
                    unit_id=shop.unit,
                    technician_id=shop.people["technician"],
                    planned_for=datetime.now(UTC),
                    complaint="not cold enough",
                )
            )
        return shop

    return make


@pytest.fixture
def shop(make_shop: Any) -> ShopOf:
    return make_shop()


@pytest.fixture
def hundred_notes(owner: Engine, shop: ShopOf) -> None:
    """A hundred entries in the shop's visit, written past the application."""
    with owner.begin() as connection:
        connection.execute(
            text(
                "INSERT INTO entry (shop_id, id, visit_id, sequence, person_id, received_at, written_at, body) SELECT :shop, "
                "gen_random_uuid(), :visit, i, :person, now(), now(), jsonb_build_object('kind', 'note', 'text', 'n' || i) "
                "FROM generate_series(1, 100) AS i"
            ),
            {"shop": shop.id, "visit": shop.visit, "person": shop.people["technician"]},
        )


@pytest.fixture
def as_shop(engine: Engine) -> Any:
    """A transaction of the application that sees one shop."""

    def begin(shop: ShopOf) -> Any:
        class Opened:
            def __enter__(self) -> Any:
                self.context = engine.begin()
                connection = self.context.__enter__()
                connection.execute(text("SELECT set_config('dry_gauge.shop_id', :id, true)"), {"id": str(shop.id)})
                return connection

            def __exit__(self, *problem: Any) -> Any:
                return self.context.__exit__(*problem)

        return Opened()

    return begin


def start_server(database_url: str, port: int, log: Any = None, **more: str) -> subprocess.Popen[bytes]:
    """A real server in its own process; returns once it answers."""
    secret = "only for tests, and long enough to be taken"
    environment = {
        **os.environ,
        "DATABASE_URL": database_url,
        "SECRET_KEY": secret,
        "LOG_LEVEL": "ERROR",
        "ALLOWED_HOSTS": "shop.example",
        **more,
    }
    process = subprocess.Popen(
        [sys.executable, "-m", "dry_gauge.cli", "serve", "--port", str(port), "--grace", "2"], env=environment, stderr=log
    )
    for _ in range(1200):  # a minute: another load may be on the machine
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in", timeout=1).close()
            return process
        except OSError:
            assert process.poll() is None, "the server ended before it answered"
            time.sleep(0.05)
    raise AssertionError("the server does not answer")


@pytest.fixture(scope="session")
def server(cluster: Cluster) -> Iterator[str]:
    if "INSTALLED" in os.environ:
        yield os.environ["INSTALLED"]
        return
    port = free_port()
    process = start_server(cluster.url(APPLICATION), port, API_CALLS_PER_MINUTE="30")
    yield f"http://127.0.0.1:{port}"
    process.terminate()
    process.wait(10)
