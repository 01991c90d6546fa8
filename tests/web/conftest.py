"""Signed in at the shop; and a cluster of its own that survives being killed."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path

import pytest

from dry_gauge.demo.cluster import APPLICATION, OWNER, Cluster
from dry_gauge.store.database import migrate
from tests.web.calls import Browser


@pytest.fixture
def browser(server, shop):
    made = Browser(server)
    assert made.sign_in(shop.logins["technician"]).status_code == 303
    return made


@pytest.fixture
def durable():
    directory = Path(tempfile.mkdtemp(prefix="dry-gauge-crash-"))
    directory.chmod(0o755)
    cluster = Cluster(directory / "cluster", durable=True)
    cluster.start()
    migrate(cluster.url(OWNER), cluster.url(APPLICATION))
    yield cluster
    cluster.remove()
    shutil.rmtree(directory, ignore_errors=True)
