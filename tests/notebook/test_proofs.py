"""What proves a repair: a number, the answer it should have, settled, after the last change."""

from __future__ import annotations

import pytest

from dry_gauge.core.errors import Refused
from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.kind import obstacles
from dry_gauge.notebook.state import check
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.failed_tests import FailedTestBody, RepeatBody
from dry_gauge.notebook.subjects.moving_air import MixedAirBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.readings import ReadingBody, Readings
from dry_gauge.notebook.subjects.remarks import NoteBody
from tests.notebook.entries_of import case_of, entry, folded


class Book:
    """Entries a minute apart, each looked at before it is added."""

    def __init__(self):
        self.entries = []

    @property
    def state(self):
        return folded(*self.entries)

    def add(self, body):
        one = entry(len(self.entries) + 1, body)
        case = case_of(self.state, body)
        check(type(case)(case.visit, case.facts, one, body))
        self.entries.append(one)
        return one.id

    def codes(self):
        return [one.code for one in obstacles(self.state)]


@pytest.mark.parametrize(
    ("limit", "unit", "read", "passes"),
    [(60, "F", 59.9, True), (60, "F", 88, False), (15.5, "C", 59.8, True), (15.5, "C", 60.1, False)],
)
def test_a_proof_has_a_number_and_88_is_not_below_60(limit, unit, read, passes):
    book = Book()
    test = book.add(FailedTestBody(quantity="supply_air_temp", comparator="below", value=limit, unit=unit))
    book.add(ClockBody(event="started", minutes_ago=30))
    book.add(ReadingBody(quantity="supply_air_temp", value=read, unit="F"))
    if passes:
        book.add(RepeatBody(failed_test=test, passed=True))
        assert book.codes() == []
    else:
        with pytest.raises(Refused, match="that is no pass"):
            book.add(RepeatBody(failed_test=test, passed=True))
        book.add(RepeatBody(failed_test=test, passed=False))
        assert book.codes() == ["failed"]


def test_a_proof_waits_for_the_unit_to_settle():
    book = Book()
    test = book.add(FailedTestBody(quantity="supply_air_temp", comparator="below", value=60, unit="F"))
    book.add(ClockBody(event="started", minutes_ago=4))
    book.add(ReadingBody(quantity="supply_air_temp", value=55, unit="F"))
    with pytest.raises(Refused, match="Not settled: about"):
        book.add(RepeatBody(failed_test=test, passed=True))
    # Once it has settled that number is none of a unit that had: it is read again.
    for _ in range(10):
        book.add(NoteBody(text="waits"))
    with pytest.raises(Refused, match="Supply air was read before it had settled"):
        book.add(RepeatBody(failed_test=test, passed=True))
    book.add(ReadingBody(quantity="supply_air_temp", value=55, unit="F"))
    book.add(RepeatBody(failed_test=test, passed=True))


def test_what_is_seen_can_prove():
    book = Book()
    book.add(ObservationBody(what="drain_blocked", state=State.YES))
    test = book.add(FailedTestBody(what="drain_blocked", state=State.NO))
    book.add(ActionBody(sort=ActionSort.DRAIN_CLEARED))
    with pytest.raises(Refused, match="Look at drain blocked"):
        book.add(RepeatBody(failed_test=test, passed=True))
    book.add(ObservationBody(what="drain_blocked", state=State.NO))
    book.add(RepeatBody(failed_test=test, passed=True))
    assert book.codes() == []


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ({"quantity": "supply_air_temp"}, "Give the number"),
        ({"quantity": "supply_air_temp", "value": 60, "unit": "psig", "comparator": "below"}, "measured in"),
        ({"quantity": "superheat", "value": 10, "unit": "F"}, "below or above"),
        ({"what": "moon"}, "Choose what should be seen"),
    ],
)
def test_a_proof_that_says_nothing_is_refused(body, words):
    with pytest.raises(Refused, match=words):
        Book().add(FailedTestBody(**body))


@pytest.mark.parametrize(
    ("sort", "stays"),
    [
        (ActionSort.CHARGE_ADJUSTED, True),
        (ActionSort.CONDENSER_CLEANED, True),
        (ActionSort.DAMPER_OPENED, False),
        (ActionSort.SETTING_CHANGED, False),
    ],
)
def test_mixed_air_outlives_what_does_not_move_outdoor_air(sort, stays):
    """Else the gaps after a repair would go by return air, and those before it by mixed air."""
    book = Book()
    book.add(MixedAirBody(back=76, outdoor=96, mixed=82))
    book.add(ReadingBody(quantity="suction_pressure", value=120, unit="psig"))
    book.add(ActionBody(sort=sort))
    after = book.state[Readings]
    assert (after.of("mixed_air_temp") is not None) is stays
    assert after.of("suction_pressure") is None
    assert after.as_found("mixed_air_temp").body.value == 82
