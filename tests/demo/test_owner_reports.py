"""Reports for owners over the demo's visits: easily read, in both languages, and without a word of the trade in ours."""

from __future__ import annotations

from datetime import datetime

import pytest
from bs4 import BeautifulSoup

from dry_gauge.core.words import Reader
from dry_gauge.demo.calls import PAST, STILL_OPEN, TODAY
from dry_gauge.exchange.language import language_named
from dry_gauge.service.notebooks import view_of
from dry_gauge.store.owners import Chosen
from dry_gauge.store.visits import find_visit
from dry_gauge.web.owner_page import report_values
from dry_gauge.web.render import TEMPLATES
from tests.exchange.test_languages import OF_THE_TRADE, reading_ease

_LINES = ("p", "li", "h2", "h3", "dt", "dd")


def lines_of(seeded, visit, code):
    """What an owner reads, a line each; words that technicians and customers typed are left out."""
    view = view_of(seeded, find_visit(seeded, visit.id), "common")
    values = report_values(seeded, view, Chosen(), language_named(code), Reader(), "Saltmarsh Mechanical", datetime.now(), "/")
    page = BeautifulSoup(TEMPLATES.get_template("owner/_report.html").render(values), "html.parser")
    for typed in (*page.select(".owner-head, .owner-foot, li small, svg"),):
        typed.decompose()
    return [line.get_text(" ", strip=True) for line in page.find_all(_LINES) if not line.find(_LINES)]


@pytest.mark.parametrize("code", ["en", "es"])
def test_every_report_reads_easily(seeded, code):
    said = {visit.id: lines_of(seeded, visit, code) for visit in (*PAST, *TODAY, *STILL_OPEN) if visit.status != "planned"}
    assert len(said) > 20
    for lines in said.values():
        ours = [line for line in lines if not line.startswith(("“", "«"))]
        assert OF_THE_TRADE.findall("\n".join(ours)) == []
        ease = reading_ease(code, "\n".join(lines))
        assert ease <= 8 if code == "en" else ease >= 60


def test_a_repair_that_was_proven_says_so_and_one_that_was_not_does_not(seeded):
    proven = next(visit for visit in TODAY if visit.found)
    assert "The unit is fixed. We tested it, and it works as it should." in lines_of(seeded, proven, "en")
    unproven = next(visit for visit in PAST if visit.unit == "ice" and visit.days == 330)
    assert "The work is done. We did not repeat the test that shows your trouble." in lines_of(seeded, unproven, "en")
