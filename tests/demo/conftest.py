"""The demo shop, seeded once for a file of tests."""

from __future__ import annotations

import shutil
import tempfile
from datetime import datetime
from pathlib import Path

import pytest

from dry_gauge.demo.shop import seed

NOW = datetime.now().astimezone()


@pytest.fixture(scope="module")
def seeded(owner):
    """The demo shop in a transaction that is never committed, made once: what a test changes, it takes back."""
    with owner.connect() as connection:
        transaction = connection.begin()
        seed(connection, NOW)
        yield connection
        transaction.rollback()


@pytest.fixture
def reachable():
    """A directory that every user reaches. Not pytest's own: whichever run begins next shuts that to all others."""
    directory = Path(tempfile.mkdtemp(prefix="dry-gauge-demo-"))
    directory.chmod(0o755)
    yield directory
    shutil.rmtree(directory, ignore_errors=True)
