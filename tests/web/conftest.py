"""Signed in at the shop's visit."""

from __future__ import annotations

import pytest

from tests.web.calls import Browser


@pytest.fixture
def browser(server, shop):
    made = Browser(server)
    assert made.sign_in(shop.logins["technician"]).status_code == 303
    made.get(f"/visits/{shop.visit}")
    return made
