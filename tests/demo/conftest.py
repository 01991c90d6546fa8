"""The demo shop, seeded once for a file of tests."""

from __future__ import annotations

from datetime import datetime

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
