"""Whether a new unit fits: geometry that turns back to itself, and verdicts worked out by hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.errors import Refused
from dry_gauge.core.office.change_out import Base, Grade, NewUnit, Rect, compared
from dry_gauge.notebook.kind import Case
from dry_gauge.notebook.subjects.change_out import KINDS, NewUnitBody, SurveyBody

_size = st.floats(0.1, 3)


@given(_size, _size, st.floats(0, 1), st.floats(0, 1), st.floats(0.05, 1), st.floats(0.05, 1))
def test_four_quarters_are_none(length, width, x, y, long, wide):
    base = Base(length, width, Rect(x, y, long, wide))
    turned = base.turned(1)
    assert (turned.length, turned.width) == (width, length)
    assert turned.supply.area == pytest.approx(base.supply.area)
    back = turned.turned(3)
    assert (back.supply.x, back.supply.y) == (pytest.approx(x), pytest.approx(y))
    half = base.turned(2).supply
    assert (half.x + half.length, half.y + half.width) == (pytest.approx(length - x), pytest.approx(width - y))


THERE = SurveyBody(length_in=76, width_in=44, inner_length_in=73, inner_width_in=41, supply_in=(4, 10, 16, 24),
                   return_in=(52, 8, 20, 28), volts=208, phases=3, weight_lb=600)  # fmt: skip
SAME = NewUnitBody(length_in=80, width_in=48, recess_length_in=77, recess_width_in=45, supply_in=(6, 12, 16, 24),
                   return_in=(54, 10, 20, 28), volts=208, phases=3, weight_lb=600)  # fmt: skip
# The same with its ducts at the other end.
OTHER_END = SAME.model_copy(update={"supply_in": (58, 12, 16, 24), "return_in": (6, 10, 20, 28)})


def tried(unit, there=THERE):
    return compared(there.found, unit.unit)


def test_the_same_fits_as_it_stood_and_its_mirror_turned():
    found = tried(SAME)
    assert (found.grade, found.best.quarters) == (Grade.FITS, 0)
    found = tried(OTHER_END)
    assert (found.grade, found.best.quarters) == (Grade.FITS, 2)
    as_it_stood = next(way for way in found.ways if way.quarters == 0)
    assert as_it_stood.grade is Grade.ADAPTER
    assert any("other duct" in one.words for one in as_it_stood.reasons)


@pytest.mark.parametrize(
    ("change", "grade", "says"),
    [({"recess_length_in": 74.0}, Grade.NO, "76.0 in."), ({"recess_length_in": 76.1}, Grade.MEASURE, "76.1 in."),
     ({"recess_length_in": 80.0}, Grade.ADAPTER, "80.0 in."), ({"volts": 460.0}, Grade.NO, "460 V"),
     ({"volts": 230.0}, Grade.NO, "230 V"), ({"volts": 200.0}, Grade.FITS, "200 V"), ({"phases": 1}, Grade.NO, "it wants 1"),
     ({"weight_lb": 640.0}, Grade.ADAPTER, "107 %"), ({"concentric": True}, Grade.ADAPTER, "concentric"),
     ({"supply_in": (6.0, 2.0, 16.0, 24.0)}, Grade.ADAPTER, "% of its supply")],
)  # fmt: skip
def test_what_decides_is_said_with_its_number(change, grade, says):
    found = tried(SAME.model_copy(update=change))
    assert found.grade is grade
    assert any(says in one.words and one.grade is grade for one in (*found.best.reasons, *found.always))


def test_its_front_needs_room_where_it_looks():
    there = THERE.model_copy(update={"clear_in": (60.0, 60.0, 10.0, 60.0)})
    needs = OTHER_END.model_copy(update={"needs_in": (36.0, None, None, None)})
    found = tried(needs, there)  # turned half round its front looks behind, where there is no room
    turned = next(way for way in found.ways if way.quarters == 2)
    assert turned.grade is Grade.NO
    assert any("behind" in one.words for one in turned.reasons if one.grade is Grade.NO)


def test_what_nobody_measured_is_named_and_on_a_stand_no_curb_is_asked():
    bare = compared(SurveyBody(length_in=60, width_in=40).found, NewUnit(Base(1.5, 1.0)))
    assert "the curb's openings" in bare.unknown
    assert "the curb that it is made for" in bare.unknown
    stand = SurveyBody(stands="stand", length_in=60, width_in=40)
    assert compared(stand.found, NewUnit(Base(1.4, 0.9))).grade is Grade.FITS
    assert compared(stand.found, NewUnit(Base(1.6, 1.1))).grade is Grade.NO  # it would hang over


def refused(body):
    kind = next(one for one in KINDS if one.body is type(body))
    kind.refuse(Case(None, None, None, body))


@pytest.mark.parametrize(
    ("body", "says"),
    [(THERE.model_copy(update={"inner_length_in": 80.0}), "cannot be"),
     (THERE.model_copy(update={"supply_in": (4.0, 10.0, 90.0, 24.0)}), "beyond 76 by 44 in."),
     (SAME.model_copy(update={"recess_width_in": 60.0}), "cannot be"),
     (SAME.model_copy(update={"return_in": (54.0, 30.0, 20.0, 28.0)}), "return opening reaches")],
)  # fmt: skip
def test_what_cannot_be_is_refused(body, says):
    with pytest.raises(Refused, match=says):
        refused(body)
    refused(THERE)
