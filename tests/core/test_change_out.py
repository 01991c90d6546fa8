"""Whether a new unit fits: geometry that turns back to itself, and verdicts worked out by hand."""

from __future__ import annotations

from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dry_gauge.core.errors import Refused
from dry_gauge.core.office.adapter import adapter_for, lacking
from dry_gauge.core.office.change_out import Base, Grade, NewUnit, Rect, compared
from dry_gauge.core.quantities import INCH_M
from dry_gauge.drawing.adapter import adapter_svg
from dry_gauge.notebook.kind import Case
from dry_gauge.notebook.subjects.change_out import KINDS, NewUnitBody, SurveyBody
from dry_gauge.web.forms import body_of
from dry_gauge.web.stations.survey.forms import as_typed
from dry_gauge.web.typed import EntryForm

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


THERE = SurveyBody(
    length_in=76,
    width_in=44,
    inner_length_in=73,
    inner_width_in=41,
    supply_in=(4, 10, 16, 24),
    return_in=(52, 8, 20, 28),
    volts=208,
    phases=3,
    weight_lb=600,
)
SAME = NewUnitBody(
    length_in=80,
    width_in=48,
    recess_length_in=77,
    recess_width_in=45,
    supply_in=(6, 12, 16, 24),
    return_in=(54, 10, 20, 28),
    volts=208,
    phases=3,
    weight_lb=600,
)
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
    [
        ({"recess_length_in": 74.0}, Grade.ADAPTER, "76.0 in."),
        ({"recess_length_in": 76.1}, Grade.MEASURE, "76.1 in."),
        ({"recess_length_in": 80.0}, Grade.ADAPTER, "80.0 in."),
        ({"volts": 460.0}, Grade.NO, "460 V"),
        ({"volts": 230.0}, Grade.NO, "230 V"),
        ({"volts": 200.0}, Grade.FITS, "200 V"),
        ({"phases": 1}, Grade.NO, "it needs 1"),
        ({"weight_lb": 640.0}, Grade.ADAPTER, "107 %"),
        ({"concentric": True}, Grade.ADAPTER, "concentric"),
        ({"supply_in": (6.0, 2.0, 16.0, 24.0)}, Grade.ADAPTER, "% of its supply"),
    ],
)
def test_what_decides_is_said_with_its_number(change, grade, says):
    found = tried(SAME.model_copy(update=change))
    assert found.grade is grade
    assert any(says in one.words and one.grade is grade for one in (*found.best.reasons, *found.always))


def test_its_front_needs_room_where_it_looks():
    there = THERE.model_copy(update={"clear_in": (60.0, 60.0, 10.0, 60.0)})
    needs = OTHER_END.model_copy(update={"needs_in": (36.0, None, None, None)})
    found = tried(needs, there)  # turned half around its front looks behind, where there is no room
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
    [
        (THERE.model_copy(update={"inner_length_in": 80.0}), "cannot be"),
        (THERE.model_copy(update={"supply_in": (4.0, 10.0, 90.0, 24.0)}), "beyond 76 by 44 in."),
        (SAME.model_copy(update={"recess_width_in": 60.0}), "cannot be"),
        (SAME.model_copy(update={"return_in": (54.0, 30.0, 20.0, 28.0)}), "return opening reaches"),
    ],
)
def test_what_cannot_be_is_refused(body, says):
    with pytest.raises(Refused, match=says):
        refused(body)
    refused(THERE)


def test_an_adapter_takes_the_larger_curb_down_to_the_unit_and_leans_no_more_than_half_a_right_angle():
    small = SAME.model_copy(update={"length_in": 70.0, "recess_length_in": 66.0, "supply_in": (10, 12, 12, 24)})
    way = tried(small).best
    assert way.grade is Grade.ADAPTER
    adapter = adapter_for(THERE.found, small.unit, way)
    assert adapter.below.length == pytest.approx(76.5 * INCH_M)  # a quarter of an inch all round, by hand
    assert adapter.above.length == pytest.approx(65.5 * INCH_M)
    assert adapter.above.x == pytest.approx((76 - 65.5) / 2 * INCH_M)
    supply = adapter.ducts[0]
    # The unit's corner stands 3 in. in and 2 in. before the curb's: its supply begins at 13 and 10 in.
    assert (supply.above.x, supply.above.y) == (pytest.approx(13 * INCH_M), pytest.approx(10 * INCH_M))
    assert supply.shift == (pytest.approx(7 * INCH_M), pytest.approx(0, abs=1e-9))
    assert adapter.height == pytest.approx(max(8.0, 9.0, max(one.run for one in adapter.ducts) / INCH_M) * INCH_M)


def test_what_an_adapter_lacks_is_named_and_crossing_ducts_are_asked_about():
    bare = SAME.model_copy(update={"recess_length_in": None, "recess_width_in": None, "supply_in": None})
    assert adapter_for(THERE.found, bare.unit, tried(bare).best) is None
    assert lacking(THERE.found, bare.unit) == ("the curb that the new unit is made for", "the new unit's openings")
    as_it_stood = next(way for way in tried(OTHER_END).ways if way.quarters == 0)
    adapter = adapter_for(THERE.found, OTHER_END.unit, as_it_stood)
    assert any("cross" in words for words in adapter.notes)


@given(st.floats(20, 90), st.floats(20, 60), st.integers(0, 3))
def test_an_adapter_is_drawn_and_both_its_ends_have_their_size(length, width, quarters):
    unit = SAME.model_copy(
        update={"length_in": length + 4, "width_in": width + 4, "recess_length_in": length, "recess_width_in": width}
    )
    way = next(way for way in tried(unit).ways if way.quarters == quarters)
    adapter = adapter_for(THERE.found, unit.unit, way)
    long, wide = (length, width) if quarters % 2 == 0 else (width, length)
    assert adapter.above.length == pytest.approx((long - 0.5) * INCH_M)
    assert adapter.above.width == pytest.approx((wide - 0.5) * INCH_M)
    assert all(duct.run <= adapter.height + 1e-9 for duct in adapter.ducts)
    assert "NaN" not in adapter_svg(adapter, 560.0, "a")


def test_a_foot_comes_back_through_the_form_as_it_was():
    form = EntryForm(UUID(int=1), "new_unit", {name: [text] for name, text in as_typed(OTHER_END).items()})
    assert body_of(form) == OTHER_END
