"""The call's fold: claims, conditions, before and after, the ledger, proof and closing."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from uuid import uuid4

from dry_gauge.core.quantities import PSI_PA
from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind, Mode, State
from dry_gauge.notebook.kind import Entry, VisitState, obstacles
from dry_gauge.notebook.sheets import sheet_before, sheet_of
from dry_gauge.notebook.state import fold_all
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.agenda import FollowUpBody, FollowUpSort
from dry_gauge.notebook.subjects.call import Call, ClaimBody, ClaimCheckBody
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.closing import Outcome
from dry_gauge.notebook.subjects.defrosts import DefrostBody
from dry_gauge.notebook.subjects.failed_tests import FailedTestBody, FailedTests, RepeatBody, repeat_of
from dry_gauge.notebook.subjects.ledger import ChangeSort, Ledger, LockoutBody, RedTagBody, RestoredBody, TemporaryBody, TripBody
from dry_gauge.notebook.subjects.mode import ModeBody
from dry_gauge.notebook.subjects.observations import ObservationBody, Observations
from dry_gauge.notebook.subjects.readings import InUseBody, ReadingBody, Readings, ReleasedBody, to_read_again
from dry_gauge.notebook.subjects.record import VoidBody
from dry_gauge.notebook.subjects.running import Condition, Running, StageBody

FACTS = UnitFacts(Kind.SPLIT_AC, find("R-410A"))
START = datetime(2026, 11, 24, 15, tzinfo=UTC)
PERSON = uuid4()


class Notebook:
    """Entries a minute apart."""

    def __init__(self) -> None:
        self.entries: list[Entry] = []

    def add(self, body, minutes: float = 1, waited: int = 0) -> str:
        at = (self.entries[-1].received_at if self.entries else START) + timedelta(minutes=minutes)
        number = len(self.entries) + 1
        written = at - timedelta(seconds=waited)
        self.entries.append(Entry(id=uuid4(), sequence=number, person_id=PERSON, received_at=at, written_at=written, body=body))
        return str(self.entries[-1].id)

    @property
    def state(self) -> VisitState:
        return fold_all(self.entries, FACTS)


def reading(value, quantity="suction_pressure", unit="psig", **more):
    return ReadingBody(quantity=quantity, value=value, unit=unit, **more)


def folded_with(book, body):
    """The state with one more entry, which is not kept."""
    other = Notebook()
    other.entries = list(book.entries)
    other.add(body)
    return other.state


def codes(state, outcome=None):
    return [one.code for one in obstacles(state, fixed=outcome in (None, Outcome.FIXED))]


def read_psig(state):
    """Suction as it stands in the sheet, and what keeps it from being judged."""
    sheet = sheet_of(state, FACTS).sheet
    found = [(one.value_si - FACTS.atmosphere_pa) / PSI_PA for one in sheet.readings if one.quantity == "suction_pressure"]
    return [round(one) for one in found], [one.what for one in sheet.observations]


def test_a_reading_under_a_condition_is_kept_and_not_compared():
    book = Notebook()
    book.add(reading(120))
    book.add(TemporaryBody(sort=ChangeSort.COVER, where="blower door"))
    taken = book.add(reading(95))
    book.add(reading(88, "outdoor_air_temp", "F"))  # a panel indoors does not touch the weather
    kept = book.state[Readings].shown("suction_pressure")
    assert kept.tags == (Condition.PANEL_OFF,)
    assert book.state[Readings].shown("outdoor_air_temp").tags == ()
    assert read_psig(book.state) == ([95], ["panel_off"])  # shown with its arithmetic; the condition holds the gate
    book.add(RestoredBody(change=book.entries[1].id))
    assert read_psig(book.state) == ([120], [])
    assert [one.body.value for one in to_read_again(book.state)] == [95]
    released = folded_with(book, ReleasedBody(reading=taken, reason="panel was on"))
    assert read_psig(released) == ([95], [])
    assert to_read_again(released) == ()
    book.add(reading(118))
    assert book.state[Readings].shown("suction_pressure").body.value == 118
    assert book.state[Readings].tagged == {}


def test_before_an_action_stays_the_before_of_the_whole_repair():
    book = Notebook()
    for value in (88.0, 90.0):
        book.add(reading(value))
    book.add(reading(91, "outdoor_air_temp", "F"))
    book.add(ObservationBody(what="condenser_dirty", state=State.YES))
    book.add(ActionBody(sort=ActionSort.CONDENSER_CLEANED))
    book.add(ActionBody(sort=ActionSort.CHARGE_ADJUSTED))
    state = book.state
    assert [one.quantity for one in sheet_of(state, FACTS).sheet.readings] == ["outdoor_air_temp"]  # the weather stays
    assert {one.quantity for one in sheet_before(state, FACTS).readings} == {"suction_pressure", "outdoor_air_temp"}
    assert "condenser_dirty" not in state[Observations].states()
    assert state[Observations].states()["recently_charged"] is State.YES
    assert state[Running].changed_at == book.entries[-1].received_at


def test_two_instruments_at_one_moment_are_both_shown_to_the_judgement():
    book = Notebook()
    book.add(InUseBody(dimension="pressure", instrument="Gauge 1", accuracy=0.5, unit="psig"))
    book.add(reading(120))
    book.add(InUseBody(dimension="pressure", instrument="Gauge 2", accuracy=1.0, unit="psig"))
    book.add(reading(127))
    both = sheet_of(book.state, FACTS).sheet.readings
    assert len(both) == 2
    assert {round(one.half_width_si / 6894.757, 2) for one in both} == {0.5, 1.0}
    assert sheet_of(book.state, FACTS).sheet.circuit(1).disagreeing
    book.add(reading(121), minutes=10)
    assert len(sheet_of(book.state, FACTS).sheet.readings) == 1


def test_an_entry_that_waited_counts_from_when_it_was_written_and_never_replaces_a_newer_one():
    book = Notebook()
    book.add(reading(120))
    book.add(reading(111), minutes=1, waited=600)
    assert book.state[Readings].of("suction_pressure").body.value == 120
    book.add(ClockBody(event="started", minutes_ago=5), minutes=1, waited=1200)
    assert book.state[Running].started_at == book.entries[-1].received_at - timedelta(minutes=25)


def test_a_stage_that_is_not_as_called_is_said_to_the_gates():
    book = Notebook()
    book.add(StageBody(commanded="full", actual="Full"))
    assert sheet_of(book.state, FACTS).sheet.observations == ()
    book.add(StageBody(commanded="full", actual="first"))
    assert [(one.what, one.state) for one in sheet_of(book.state, FACTS).sheet.observations] == [("stage_held", State.NO)]


def test_fixed_needs_the_failed_measurement_repeated_after_the_last_change():
    book = Notebook()
    book.add(reading(66, "supply_air_temp", "F"))
    test = book.add(FailedTestBody(quantity="supply_air_temp", should="below 58"))
    book.add(ActionBody(sort=ActionSort.FILTER_CHANGED))
    assert codes(book.state, Outcome.FIXED) == ["unproven"]
    assert codes(book.state, Outcome.WAITING) == []
    book.add(reading(57, "supply_air_temp", "F"))
    book.add(RepeatBody(failed_test=test, passed=True))
    assert codes(book.state, Outcome.FIXED) == []
    assert repeat_of(book.state, book.state[FailedTests].tests[test]).before == "66 °F"
    book.add(ActionBody(sort=ActionSort.CHARGE_ADJUSTED))
    assert codes(book.state, Outcome.FIXED) == ["unproven"]  # the proof is older than the last change


def test_what_was_read_before_a_change_that_only_its_clock_tells_of_is_read_again():
    book = Notebook()
    book.add(ClockBody(event="started", minutes_ago=60))
    book.add(reading(120))
    book.add(reading(88, "outdoor_air_temp", "F"))
    # An older change, and another start, leave what was read since.
    for told in (ClockBody(event="changed", minutes_ago=10), ClockBody(event="started", minutes_ago=0)):
        assert read_psig(folded_with(book, told))[0] == [120]
    for event in ("changed", "charged", "defrosted"):
        state = folded_with(book, ClockBody(event=event, minutes_ago=0))
        assert [one.quantity for one in sheet_of(state, FACTS).sheet.readings] == ["outdoor_air_temp"]
        assert state[Readings].as_found("suction_pressure").body.value == 120
    book.add(DefrostBody(mark="called"))
    assert read_psig(book.state)[0] == [120]
    book.add(DefrostBody(mark="ended_by_temperature"))
    assert read_psig(book.state)[0] == []


def test_a_measurement_is_proven_in_the_mode_and_stage_in_which_it_failed():
    book = Notebook()
    book.add(ModeBody(mode=Mode.COOLING))
    book.add(StageBody(commanded="full", actual="full"))
    test = book.add(FailedTestBody(quantity="supply_air_temp", should="below 58"))
    book.add(ActionBody(sort=ActionSort.CHARGE_ADJUSTED))
    for body in (StageBody(commanded="first", actual="first"), reading(57, "supply_air_temp", "F")):
        book.add(body)
    stands = repeat_of(book.state, book.state[FailedTests].tests[test])
    assert stands.again_at is None
    assert stands.to_do == "Read supply air again after the last change, in cooling, stage full."
    book.add(StageBody(commanded="full", actual="Full"))
    book.add(ModeBody(mode=Mode.HEATING))
    book.add(reading(57, "supply_air_temp", "F"))
    assert repeat_of(book.state, book.state[FailedTests].tests[test]).again_at is None
    book.add(ModeBody(mode=Mode.COOLING))
    book.add(reading(56, "supply_air_temp", "F"))
    assert repeat_of(book.state, book.state[FailedTests].tests[test]).found == "56 °F"


def test_a_reading_from_before_the_measurement_was_named_proves_nothing():
    book = Notebook()
    book.add(ActionBody(sort=ActionSort.FILTER_CHANGED))
    book.add(reading(66, "supply_air_temp", "F"))
    test = book.add(FailedTestBody(quantity="supply_air_temp", should="below 58"))
    assert repeat_of(book.state, book.state[FailedTests].tests[test]).again_at is None


def test_what_was_read_after_the_last_change_proves_though_it_was_named_later():
    book = Notebook()
    book.add(reading(66, "supply_air_temp", "F"))
    book.add(ActionBody(sort=ActionSort.FILTER_CHANGED))
    book.add(reading(56, "supply_air_temp", "F"))
    test = book.add(FailedTestBody(quantity="supply_air_temp", comparator="below", value=58, unit="F"))
    stands = repeat_of(book.state, book.state[FailedTests].tests[test])
    assert (stands.before, stands.found, stands.passed) == ("66 °F", "56 °F", False)


def test_a_repair_without_a_named_measurement_proves_nothing():
    book = Notebook()
    book.add(ActionBody(sort=ActionSort.FILTER_CHANGED))
    assert codes(book.state, Outcome.FIXED) == ["no_test"]


def test_a_bypassed_safety_cannot_be_let_go_unless_the_unit_cannot_run():
    book = Notebook()
    book.add(TemporaryBody(sort=ChangeSort.SAFETY, where="high-pressure switch"))
    assert obstacles(book.state)[0].firm
    book.add(LockoutBody(disconnect="roof", locked=True))
    book.add(RedTagBody(danger="no high-pressure switch", told="the port"))
    assert not any(one.firm for one in obstacles(book.state))


def test_a_reset_without_a_cause_stays_open_until_a_recheck_is_booked():
    book = Notebook()
    for event in ("trip", "reset", "reset"):
        book.add(TripBody(event=event, switch="high pressure"))
    assert book.state[Ledger].trip_counts() == {"high pressure": (1, 2)}
    assert codes(book.state, Outcome.WAITING) == ["reset"]
    book.add(FollowUpBody(sort=FollowUpSort.RECHECK, what="trips", due=date(2026, 12, 1)))
    assert codes(book.state, Outcome.WAITING) == []


def test_what_points_at_something_voided_changes_nothing():
    book = Notebook()
    claim = book.add(ClaimBody(text="new filter"))
    book.add(ClaimCheckBody(claim=claim, true=False))
    book.add(VoidBody(voids=claim))
    state = fold_all(book.entries, FACTS)
    assert state[Call].claims == {}
