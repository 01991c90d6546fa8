"""Whatever was entered: every station is drawn, and nothing asks for a unit to run that has to stay off."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import timedelta

from bs4 import BeautifulSoup
from hypothesis import given, settings
from hypothesis import strategies as st

from dry_gauge.core.charge.trim import Move
from dry_gauge.core.words import Reader
from dry_gauge.notebook.state import fold_all
from dry_gauge.notebook.subjects.failed_tests import FailedTests
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.present.permit import permit_of
from dry_gauge.present.stops import stops_of
from dry_gauge.present.underway import comes_first, in_short
from dry_gauge.present.visit import VisitRow, VisitView, circuit_of, judged
from dry_gauge.present.weigh import trim_of
from dry_gauge.web.patterns import PatternPage, pattern
from dry_gauge.web.render import TEMPLATES
from dry_gauge.web.stations import BY_NAME
from dry_gauge.web.visit_page import page_values
from tests.notebook.any_visit import START, visits

NOW = START + timedelta(hours=3)
NOBODY = pattern(BY_NAME["read"], "nothing")


def view_of(facts, state) -> VisitView:
    row = NOBODY.view.visit
    return judged(VisitRow(**{name: getattr(row, name) for name in VisitRow.__slots__}), facts, state, "common")


def page_of(view, station, circuit, someone=NOBODY.someone) -> PatternPage:
    reader = Reader(someone.temperature_unit, someone.pressure_unit, view.facts.atmosphere_pa, someone.weight_unit)
    return PatternPage(None, view, someone, reader, station, circuit)


def drawn(page, *parts) -> str:
    values = {**page.lists, **page_values(page), "csrf": "", "me": page.someone}
    return "".join(TEMPLATES.get_template(part).render(values) for part in parts)


def whole(page) -> str:
    """Everything that a station shows of a visit."""
    station = page.station
    lists = TEMPLATES.get_template("visits/_lists.html").render({**page.lists, "csrf": "", "me": page.someone})
    return drawn(page, *dict.fromkeys((station.panel, station.picture, station.side, "visits/_dock.html"))) + lists


made = visits(lambda facts, state: view_of(facts, state).assessment)


@given(made, st.sampled_from([1, 2]))
@settings(max_examples=15)
def test_every_station_is_drawn(made, circuit):
    facts, entries = made
    view = view_of(facts, fold_all(entries, facts))
    for station in BY_NAME.values():
        if station.only is None or station.only(facts):
            assert whole(page_of(view, station, circuit))


_METRIC = replace(NOBODY.someone, temperature_unit="C", pressure_unit="bar", weight_unit="kg")
_BOTH_WAYS = re.compile(r"(?:psig|°F) \([^)]*\)|\([^)]*psig\)")
_OTHER_UNITS = re.compile(r"[^.:;]{0,40}(?:°F|psig|in\. w\.c\.|cfm|in\. Hg)")


@given(made)
@settings(max_examples=10)
def test_who_reads_metric_units_meets_no_other_unless_both_stand_there(made):
    facts, entries = made
    view = view_of(facts, fold_all(entries, facts))
    if view.state[FailedTests].tests:
        return  # what a test asks for, and what it found, stands as it was typed
    for station in BY_NAME.values():
        if station.only is None or station.only(facts):
            page = BeautifulSoup(whole(page_of(view, station, 1, _METRIC)), "html.parser")
            for choice in page(["option"]):
                choice.decompose()
            assert _OTHER_UNITS.findall(_BOTH_WAYS.sub("", page.get_text(" "))) == [], station.name


@given(made, st.sampled_from([1, 2]))
@settings(max_examples=80)
def test_nothing_asks_for_a_running_unit_that_has_to_stay_off(made, circuit):
    facts, entries = made
    view = view_of(facts, fold_all(entries, facts))
    one = circuit_of(view, circuit)
    assert one is None or one.view.number == circuit  # never by another circuit's readings
    read, weigh = page_of(view, BY_NAME["read"], circuit), page_of(view, BY_NAME["weigh"], circuit)
    if not permit_of(view, weigh.own.now).granted:
        assert trim_of(weigh.own).move is not Move.ADD
    ledger, stops = view.state[Ledger], stops_of(view)
    first = one and comes_first(view, Reader(), one)
    if not (ledger.locked or ledger.red_tags or stops or first):
        return
    assert not permit_of(view, NOW).granted or (first and first.station in ("weigh", "recover"))
    assert in_short(view, Reader())[1].mark != "ok"
    said = BeautifulSoup(drawn(read, "visits/_judge.html"), "html.parser").select_one(".next")
    said = said.get_text(" ") if said else ""
    assert "unit stays on" not in said
    assert "fan on" not in said or not (ledger.locked or ledger.red_tags)
