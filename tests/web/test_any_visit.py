"""Whatever was entered: every station is drawn, and nothing asks for a unit to run that has to stay off."""

from __future__ import annotations

from datetime import timedelta

from bs4 import BeautifulSoup
from hypothesis import given, settings
from hypothesis import strategies as st

from dry_gauge.core.charge.trim import Move
from dry_gauge.core.words import Reader
from dry_gauge.notebook.state import fold_all
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


def page_of(view, station, circuit) -> PatternPage:
    return PatternPage(None, view, NOBODY.someone, Reader(), station, circuit)


def drawn(page, *parts) -> str:
    values = {**page.lists, **page_values(page), "csrf": "", "me": page.someone}
    return "".join(TEMPLATES.get_template(part).render(values) for part in parts)


made = visits(lambda facts, state: view_of(facts, state).assessment)


@given(made, st.sampled_from([1, 2]))
@settings(max_examples=15)
def test_every_station_is_drawn(made, circuit):
    facts, entries = made
    view = view_of(facts, fold_all(entries, facts))
    for station in BY_NAME.values():
        if station.only is None or station.only(facts):
            page = page_of(view, station, circuit)
            assert drawn(page, *dict.fromkeys((station.panel, station.picture, station.side, "visits/_dock.html")))
            assert TEMPLATES.get_template("visits/_lists.html").render({**page.lists, "csrf": "", "me": page.someone})


@given(made, st.sampled_from([1, 2]))
@settings(max_examples=80)
def test_nothing_asks_for_a_running_unit_that_has_to_stay_off(made, circuit):
    facts, entries = made
    view = view_of(facts, fold_all(entries, facts))
    one = circuit_of(view, circuit)
    assert one is None or one.view.number == circuit  # never by another circuit's readings
    ledger, stops = view.state[Ledger], stops_of(view)
    first = one and comes_first(view, Reader(), one)
    if not (ledger.locked or ledger.red_tags or stops or first):
        return
    assert not permit_of(view, NOW).granted or (first and first.station in ("weigh", "recover"))
    assert in_short(view, Reader())[1].mark != "ok"
    read, weigh = page_of(view, BY_NAME["read"], circuit), page_of(view, BY_NAME["weigh"], circuit)
    assert trim_of(weigh.own).move is not Move.ADD
    said = BeautifulSoup(drawn(read, "visits/_judge.html"), "html.parser").select_one(".next")
    said = said.get_text(" ") if said else ""
    assert "unit stays on" not in said
    assert "fan on" not in said or not (ledger.locked or ledger.red_tags)
