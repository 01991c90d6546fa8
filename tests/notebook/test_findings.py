"""Every finding ends, and the dangerous ones only by being mended, locked out or tagged."""

from __future__ import annotations

from datetime import date

import pytest

from dry_gauge.core.errors import Refused
from dry_gauge.core.visit.findings import COMBUSTION_FINDINGS, FINDINGS, FIRM_FINDINGS
from dry_gauge.core.vocabulary import Fault, State
from dry_gauge.notebook.kind import obstacles
from dry_gauge.notebook.state import check
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.agenda import FollowUpBody, FollowUpSort
from dry_gauge.notebook.subjects.closing import ClosingBody, Outcome
from dry_gauge.notebook.subjects.findings import FindingEndBody, FindingWay, findings_in
from dry_gauge.notebook.subjects.leak import LeakCureBody, LeakPlaceBody, Leaks
from dry_gauge.notebook.subjects.ledger import LockoutBody, RedTagBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.verdicts import OverrideBody
from tests.notebook.entries_of import case_of, entry, folded


def saw(what, state=State.YES):
    return ObservationBody(what=what, state=state)


def visit(*bodies):
    return folded(*(entry(i, body, at=60 * i) for i, body in enumerate(bodies, start=1)))


def codes(state, **more):
    return [(one.code, one.firm) for one in obstacles(state, **more)]


def refused(state, body):
    with pytest.raises(Refused) as refusal:
        check(case_of(state, body))
    return refusal.value.message


def closing(outcome=Outcome.NOT_FIXED, override="nothing more today"):
    return ClosingBody(outcome=outcome, summary="looked at", override=override)


@pytest.mark.parametrize("what", sorted(FINDINGS - FIRM_FINDINGS))
def test_a_finding_is_not_let_go_with_all_the_rest(what):
    state = visit(saw(what))
    assert codes(state) == [("finding", False)]
    assert "Mend it, book it, or say why" in refused(state, closing())
    left = visit(saw(what), FindingEndBody(what=what, way=FindingWay.ACCEPTED, reason="owner told"))
    assert codes(left) == []
    check(case_of(left, closing()))
    assert "was found" in refused(left, closing(Outcome.NOTHING_WRONG))


@pytest.mark.parametrize("what", sorted(FIRM_FINDINGS))
def test_what_endangers_someone_is_never_accepted(what):
    state = visit(saw(what))
    assert codes(state) == [("finding", True)]
    assert "nobody accepts that" in refused(state, FindingEndBody(what=what, way=FindingWay.ACCEPTED, reason="owner told"))
    assert refused(state, closing())
    lock, bare = LockoutBody(disconnect="roof", locked=True), RedTagBody(danger="as found", told="the owner, on site")
    whole = bare.model_copy(update={"gas_off": True, "heard": "signed"})
    combustion = what in COMBUSTION_FINDINGS
    for made_safe in (lock, bare, whole.model_copy(update={"gas_off": False})):
        assert (("finding", True) in codes(visit(saw(what), made_safe))) is combustion
    for heard in ("signed", "refused", "absent"):
        assert ("finding", True) not in codes(visit(saw(what), whole.model_copy(update={"heard": heard, "how": "a letter"})))
    assert codes(visit(saw(what), saw(what, State.NO))) == []


def test_booked_needs_a_booking():
    end = FindingEndBody(what="oil_stain", way=FindingWay.BOOKED, reason="flare on the return")
    assert "Nothing is booked" in refused(visit(saw("oil_stain")), end)
    booked = FollowUpBody(sort=FollowUpSort.RETURN, what="flare", due=date(2027, 1, 1))
    check(case_of(visit(saw("oil_stain"), booked), end))


def test_what_was_mended_is_looked_at_again_before_it_is_called_fixed():
    cleaned = ActionBody(sort=ActionSort.CONDENSER_CLEANED)
    mended = visit(saw("condenser_dirty"), cleaned)
    assert ("look_again", False) in codes(mended)
    assert ("look_again", False) not in codes(mended, fixed=False)
    for looked in (saw("condenser_dirty", State.NO), saw("condenser_air_proven")):
        assert ("look_again", False) not in codes(visit(saw("condenser_dirty"), cleaned, looked))
    assert ("look_again", False) in codes(visit(saw("condenser_air_proven"), saw("condenser_dirty"), cleaned))


def test_found_again_after_it_was_left_is_a_new_finding():
    end = FindingEndBody(what="filter_dirty", way=FindingWay.ACCEPTED, reason="tenant's own")
    state = visit(saw("filter_dirty"), end, saw("filter_dirty", State.NO), saw("filter_dirty"))
    assert [one.ended for one in findings_in(state)] == [False]


def test_an_own_verdict_is_a_finding_and_a_judged_cause_is_none():
    own = OverrideBody(fault=Fault.LIQUID_LINE_RESTRICTION, reason="drier frosted")
    assert codes(visit(own)) == [("finding", False)]
    against = ActionBody(sort=ActionSort.DRIER_CHANGED, against=Fault.LIQUID_LINE_RESTRICTION)
    assert ("finding", False) not in codes(visit(own, against))
    assert findings_in(visit(saw("sight_glass_bubbles"))) == ()


def test_leaks_at_two_bends_of_one_coil_are_two_leaks():
    bends = [LeakPlaceBody(place="evaporator_bends", result="failed", words=words) for words in ("third from the top", "lowest")]
    book = [entry(i, body) for i, body in enumerate(bends, start=1)]
    assert len(folded(*book)[Leaks].to_mend) == 2
    cured = entry(3, LeakCureBody(leak=book[0].id, cure="joint"))
    assert [one.body.words for one in folded(*book, cured)[Leaks].to_mend] == ["lowest"]
    passed = entry(4, LeakPlaceBody(place="evaporator_bends", result="passed"))
    assert folded(*book, cured, passed)[Leaks].to_mend == ()
