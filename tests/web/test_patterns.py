"""Every station's parts with made-up visits: nothing in them, at work, in trouble."""

from __future__ import annotations

import httpx2
import pytest

from dry_gauge.demo.cluster import APPLICATION
from dry_gauge.demo.ports import free_port
from dry_gauge.web.patterns import STATES, pattern
from dry_gauge.web.render import TEMPLATES
from dry_gauge.web.stations import BY_NAME
from dry_gauge.web.visit_page import page_values
from tests.conftest import start_server


@pytest.mark.parametrize("state", STATES)
@pytest.mark.parametrize("name", BY_NAME)
def test_every_part_is_drawn_from_a_made_up_visit(name, state):
    shows = pattern(BY_NAME[name], state)
    values = {**page_values(shows), "csrf": ""}
    for part in (shows.station.panel, shows.station.picture, shows.station.side, "visits/_dock.html"):
        assert TEMPLATES.get_template(part).render(values).strip()


def test_a_question_about_a_misreading_stands_once_among_the_warnings():
    shows = pattern(BY_NAME["read"], "at-work")
    (asked,) = shows.judged["judged"].questions
    (warning,) = shows.judged["warnings"]
    assert (warning.phrase, warning.question) == (asked.phrase, True)


def test_what_is_lifted_and_unsafe_is_said_where_it_is_to_be_closed():
    shows = pattern(BY_NAME["close"], "in-trouble")
    page = TEMPLATES.get_template(shows.station.panel).render({**page_values(shows), "csrf": ""})
    assert "Safety bypassed: high-pressure switch jumpered" in page


def test_pattern_pages_are_served_in_development_only(server, cluster):
    assert httpx2.get(f"{server}/-/patterns/").status_code == 404
    port = free_port()
    process = start_server(cluster.url(APPLICATION), port, PATTERNS="1")
    try:
        assert httpx2.get(f"http://127.0.0.1:{port}/-/patterns/weigh/at-work").status_code == 200
        assert httpx2.get(f"http://127.0.0.1:{port}/-/patterns/weigh/nothing-such").status_code == 404
    finally:
        process.terminate()
        process.wait(10)
