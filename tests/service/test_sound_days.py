"""A unit is measured against its own sound days: which of them count, who says so, and that a closed visit stays as it was."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
import uuid6
from sqlalchemy import insert, select, update

from dry_gauge.core.judgement.assess import kept_back
from dry_gauge.core.probes import LatestProbe
from dry_gauge.core.quantities import PSI_PA
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Reader
from dry_gauge.exchange.assessment import to_json
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.closing import Outcome
from dry_gauge.notebook.subjects.readings import InUseBody
from dry_gauge.notebook.subjects.record import VoidBody
from dry_gauge.present.judge import days_beside, measured_against
from dry_gauge.service.notebooks import load
from dry_gauge.service.probes import lay_over
from dry_gauge.store import sound_days, visits
from dry_gauge.store.models import Site, SoundDay, Unit
from tests.builders import HEALTHY, STARVED
from tests.keeping import keep_one
from tests.sound import sound_visit

SPRING = datetime(2026, 4, 2, 15, tzinfo=UTC)
# A unit that has always run with a hot condenser, however clean.
HOT = HEALTHY | {"liquid_pressure": 402.0, "liquid_line_temp": 107.0}


@pytest.fixture
def at(as_shop, shop):
    """Visits of the shop's unit, a month apart."""
    months = iter(range(100))

    def visit(values=HOT, *more, **how):
        with as_shop(shop) as connection:
            when = SPRING + timedelta(days=30 * next(months))
            return sound_visit(connection, shop.someone("technician"), shop.unit, when, values, *more, **how)

    return visit


def looked_at(as_shop, shop, visit):
    with as_shop(shop) as connection:
        return load(connection, shop.someone("technician"), visit)


def days(as_shop, shop):
    with as_shop(shop) as connection:
        return {day.visit_id: day for day in sound_days.of_unit(connection, shop.unit)}


def sound_of(view):
    return next(one.probability for one in view.assessment.first.causes if one.fault is Fault.NONE)


def mark(as_shop, shop, visit, marked):
    with as_shop(shop) as connection:
        sound_days.mark(connection, visit, marked)


def test_what_a_unit_showed_when_it_was_sound_is_what_it_is_measured_against(at, as_shop, shop):
    first, second = at(), at()
    for visit in (first, second):
        mark(as_shop, shop, visit, True)
    today = at(outcome=None)
    view = looked_at(as_shop, shop, today)
    assert to_json(view.assessment)["baseline"]["visits"] == 2
    assert days_beside(kept_back(view.assessment).first, Reader()) is None
    known = sound_of(view)
    mark(as_shop, shop, first, False)
    mark(as_shop, shop, second, False)
    alone = looked_at(as_shop, shop, today)
    assert "baseline" not in to_json(alone.assessment)
    assert known > sound_of(alone) + 0.1


def test_instruments_that_read_it_then_and_now_are_said_and_leave_less_to_doubt(at, as_shop, shop):
    def gauge(name):
        return InUseBody(dimension="pressure", instrument=name)

    for _ in range(2):
        mark(as_shop, shop, at(HOT, gauge("Gauge set 1")), True)
    same, other = (looked_at(as_shop, shop, at(HOT, gauge(name), outcome=None)) for name in ("Gauge set 1", "Gauge set 2"))
    assert "own 2 sound days (2 readings by the same instrument as then)" in measured_against(same.assessment.first)
    assert "own 2 sound days, besides" in measured_against(other.assessment.first)
    sigma = [view.assessment.first.judgement.pictures[0].sigma.sum() for view in (same, other)]
    assert sigma[0] < sigma[1]


def test_a_closed_visit_keeps_what_it_was_judged_by(at, as_shop, shop):
    mark(as_shop, shop, at(), True)
    closed = at()
    before = to_json(looked_at(as_shop, shop, closed).assessment)
    assert before["baseline"]["visits"] == 1
    for day in days(as_shop, shop):
        mark(as_shop, shop, day, False)
    at()
    assert to_json(looked_at(as_shop, shop, closed).assessment) == before


def test_live_readings_are_measured_against_them_too(at, as_shop, shop):
    mark(as_shop, shop, at(), True)
    view = looked_at(as_shop, shop, at(outcome=None))
    now = datetime.now(UTC)
    probe = LatestProbe("h", "P1", "suction_pressure", 1, 120 * PSI_PA + 101_325.0, 120.0, "psig", "ok", None, now)
    live = lay_over(view, [probe], "common", now).assessment
    assert to_json(live)["baseline"]["visits"] == 1


def test_only_a_sound_end_counts_by_itself(at, as_shop, shop):
    healthy, starved, waiting = at(HEALTHY), at(STARVED), at(HEALTHY, outcome=Outcome.WAITING)
    found = days(as_shop, shop)
    assert [found[visit].earned for visit in (healthy, starved, waiting)] == [True, False, False]
    assert "fault" in found[starved].why
    assert "did not end" in found[waiting].why
    with as_shop(shop) as connection:
        gaps = connection.execute(select(SoundDay.gaps).where(SoundDay.visit_id == healthy)).scalar_one()
    assert set(gaps["1"]["residuals"]) >= {"superheat", "subcooling", "condenser_split"}


def test_what_was_shown_before_the_unit_was_changed_says_nothing_any_more(at, as_shop, shop):
    at(HEALTHY)
    today = at(HEALTHY, outcome=None)
    assert to_json(looked_at(as_shop, shop, today).assessment)["baseline"]["visits"] == 1
    changed = at(HEALTHY, ActionBody(sort=ActionSort.METERING_DEVICE, words="new valve"))
    assert "held" in days(as_shop, shop)[changed].why  # read within a minute of it
    mark(as_shop, shop, changed, True)
    assert to_json(looked_at(as_shop, shop, today).assessment)["baseline"]["visits"] == 1  # that one, and none before
    assert days(as_shop, shop)[changed].changed
    here = at(HEALTHY, ActionBody(sort=ActionSort.METERING_DEVICE, words="again"), outcome=None)
    assert "baseline" not in to_json(looked_at(as_shop, shop, here).assessment)


def test_a_closing_that_is_taken_back_proves_nothing(at, as_shop, shop):
    visit = at(HEALTHY)
    with as_shop(shop) as connection:
        closing = visits.all_entries(connection, visit)[-1]
        keep_one(
            connection,
            shop.someone("lead"),
            visit,
            closing.id.__class__(int=closing.id.int + 1),
            VoidBody(voids=closing.id, reason="closed too early"),
            datetime.now(UTC),
        )
    assert (days(as_shop, shop)[visit].earned, days(as_shop, shop)[visit].why) == (False, "opened again")


# -- units of one model on one site ---------------------------------------------------


@pytest.fixture
def another(owner, shop):
    """Another unit of the shop: at the same site or elsewhere, of that model."""

    def unit(tag, model, elsewhere=False):
        added = uuid6.uuid7()
        with owner.begin() as connection:
            own = connection.execute(select(Unit).where(Unit.id == shop.unit)).one()
            site = own.site_id
            if elsewhere:
                site = uuid6.uuid7()
                connection.execute(insert(Site).values(shop_id=shop.id, id=site, name="Other House"))
            connection.execute(
                insert(Unit).values(shop_id=shop.id, id=added, site_id=site, tag=tag, model=model, facts=own.facts)
            )
        return added

    return unit


def test_a_unit_of_the_same_model_on_the_site_is_a_reference_until_it_is_taken_out(another, at, owner, as_shop, shop):
    with owner.begin() as connection:
        connection.execute(update(Unit).where(Unit.id == shop.unit).values(model="NR-060"))
    like, other, far = another("U-2", " nr-060"), another("U-3", "NR-061"), another("U-4", "NR-060", elsewhere=True)
    said = []
    with as_shop(shop) as connection:
        for unit in (like, other, far):
            visit = sound_visit(connection, shop.someone("technician"), unit, SPRING, HOT)
            sound_days.mark(connection, visit, True)
            said.append(visit)
    today = at(outcome=None)
    view = looked_at(as_shop, shop, today)
    assert list(view.assessment.first.judgement.baseline.alike) == ["U-2"]
    assert "sound days of U-2, the same model on this site" in measured_against(view.assessment.first)
    assert not view.has_own_days
    beside = days_beside(view.assessment.first, Reader())
    assert [whose for whose, _ in beside.days] == ["U-2"]
    weather, gaps = dict(beside.rows)["Outdoors"], dict(beside.rows)["Condenser gap"]
    assert weather == ("90", "", "90")
    assert gaps[0] == gaps[2] == "26.9", gaps  # what HOT shows; today's stands before it, and what a sound one would show between
    known = sound_of(view)
    mark(as_shop, shop, said[0], False)
    alone = looked_at(as_shop, shop, today)
    assert alone.assessment.first.judgement.baseline is None
    assert known > sound_of(alone)
