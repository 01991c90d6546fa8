"""Every station's parts in trouble, with made-up data: readable by everyone, inside the page, at both sizes."""

from __future__ import annotations

import pytest

from dry_gauge.demo.cluster import APPLICATION
from dry_gauge.demo.ports import free_port
from dry_gauge.web.stations import BY_NAME
from tests.browser.steps import findings
from tests.conftest import start_server

pytestmark = pytest.mark.long


@pytest.fixture(scope="module")
def patterns(cluster):
    port = free_port()
    process = start_server(cluster.url(APPLICATION), port, PATTERNS="1")
    yield f"http://127.0.0.1:{port}/-/patterns"
    process.terminate()
    process.wait(10)


@pytest.mark.parametrize(("size", "scheme"), [("desk", "light"), ("phone", "dark")])
def test_no_part_has_a_serious_finding_or_is_too_wide(open_page, patterns, size, scheme):
    page = open_page(size, scheme)
    for station in BY_NAME:
        page.goto(f"{patterns}/{station}/in-trouble")
        assert findings(page) == [], station
        wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        assert wide <= 0, station
