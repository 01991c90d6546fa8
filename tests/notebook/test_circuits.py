"""On a unit of several circuits each has its own answers; the gravest counts where the unit as a whole is asked about."""

from __future__ import annotations

import pytest

from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.sheets import sheet_of
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.failed_tests import FailedTestBody, FailedTests, repeat_of
from dry_gauge.notebook.subjects.findings import findings_in
from dry_gauge.notebook.subjects.observations import ObservationBody, Observations
from tests.notebook.entries_of import UNIT, entry, folded

ICE = "ice_on_evaporator_patchy"
YES, NO = State.YES, State.NO


def visit(*answers, what=ICE):
    bodies = (ObservationBody(what=what, state=state, circuit=circuit) for circuit, state in answers)
    return folded(*(entry(i, body) for i, body in enumerate(bodies, start=1)))


def by_circuit(state):
    sheet = sheet_of(state, UNIT).sheet
    return [sheet.circuit(number).states.get(ICE) for number in (1, 2)]


@pytest.mark.parametrize(
    ("answers", "each", "whole", "open_findings"),
    [
        ([(2, YES)], [None, YES], YES, ["Ice, patchy, circuit 2"]),
        ([(2, YES), (1, NO)], [NO, YES], YES, ["Ice, patchy, circuit 2"]),  # the later 'no' is of the other coil
        ([(2, YES), (2, NO)], [None, NO], NO, []),
        ([(1, YES), (2, YES), (None, NO)], [NO, NO], NO, []),  # of the unit: of every circuit
        ([(None, YES), (2, NO)], [YES, NO], YES, ["Ice, patchy"]),
        ([(None, YES), (1, NO)], [NO, None], NO, []),  # without a number the first was meant
        ([(None, YES), (1, YES)], [YES, None], YES, ["Ice, patchy, circuit 1"]),
    ],
)
def test_an_answer_is_of_its_circuit(answers, each, whole, open_findings):
    state = visit(*answers)
    assert by_circuit(state) == each
    assert state[Observations].states()[ICE] is whole
    assert [one.label for one in findings_in(state) if not one.ended] == open_findings


def test_air_not_proven_on_one_coil_is_not_proven():
    state = visit((1, NO), (2, YES), what="condenser_air_proven")
    assert state[Observations].states()["condenser_air_proven"] is NO
    assert state[Observations].of("condenser_air_proven", 2).body.state is YES


def test_what_is_done_makes_every_circuits_answer_one_to_give_again():
    cleaned = ActionBody(sort=ActionSort.CONDENSER_CLEANED)
    dirty = [ObservationBody(what="condenser_dirty", state=YES, circuit=number) for number in (1, 2)]
    state = folded(*(entry(i, body) for i, body in enumerate((*dirty, cleaned), start=1)))
    assert "condenser_dirty" not in state[Observations].states()
    assert [(one.circuit, one.mended) for one in findings_in(state)] == [(1, True), (2, True)]


def test_a_proof_that_something_is_seen_is_answered_on_its_own_circuit():
    failed = FailedTestBody(quantity="", what="sight_glass_bubbles", state=NO, should="no bubbles", circuit=2)
    seen = [ObservationBody(what="sight_glass_bubbles", state=NO, circuit=number) for number in (1, 2)]
    for answers, found in ((seen[:1], ""), (seen, "no")):
        state = folded(*(entry(i, body) for i, body in enumerate((failed, *answers), start=1)))
        (test,) = state[FailedTests].tests.values()
        stands = repeat_of(state, test, UNIT)
        assert (stands.found, stands.label) == (found, "Glass bubbling, circuit 2")
