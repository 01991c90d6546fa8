"""Sealed work in the database: a whole repair, the refrigerant book beside it, and eight technicians on one cylinder."""

from __future__ import annotations

import threading
from datetime import UTC, date, datetime, timedelta
from uuid import UUID

import pytest
import uuid6

from dry_gauge.core.charge.cylinders import Account, balances
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import PSI_PA
from dry_gauge.core.sealed.opening import Repair
from dry_gauge.core.shop import ShopSettings
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import obstacles
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.charge_target import ChargeTargetBody
from dry_gauge.notebook.subjects.hold import HoldBody, HoldEndBody, HoldReadingBody, Holds, hold_of
from dry_gauge.notebook.subjects.leak import LeakCureBody, LeakPlaceBody
from dry_gauge.notebook.subjects.ledger import LockoutBody
from dry_gauge.notebook.subjects.movements import (
    MovementBody,
    MovementSort,
    PourBody,
    PourEndBody,
    PourMarkBody,
    RecoveredToBody,
    standing_of,
)
from dry_gauge.notebook.subjects.opening import SealedPlanBody, StepBody, steps_in
from dry_gauge.notebook.subjects.record import VoidBody
from dry_gauge.notebook.subjects.vacuum import (
    EvacuationBody,
    TraceBody,
    Vacuum,
    VacuumEvent,
    VacuumEventBody,
    VacuumPointBody,
    evacuation_of,
)
from dry_gauge.service.cylinders import ByHand, book_by_hand, stock, unit_book, year_books
from dry_gauge.service.leak_rates import all_losing
from dry_gauge.service.notebooks import load
from dry_gauge.service.watch import watched
from dry_gauge.store import cylinders as store
from dry_gauge.store.visits import add_visit
from tests.keeping import keep_one

NOW = datetime(2026, 11, 24, 9, tzinfo=UTC)
FACTS = {
    "kind": "split_ac",
    "refrigerant": "R-410A",
    "metering": "txv",
    "seer": 14,
    "target_subcooling_f": 10,
    "label_charge_g": 3000,
}


@pytest.fixture
def shop(make_shop):
    return make_shop(FACTS)


@pytest.fixture
def cylinder(as_shop, shop):
    """Registers a cylinder, bought full of that many grams."""

    def make(name="Blue 1", grams=9000, **more) -> UUID:
        key = uuid6.uuid7()
        values = {"kind": "in_use", "refrigerant": "R-410A", "tare_g": 4500} | more
        with as_shop(shop) as connection:
            store.add_cylinder(connection, shop_id=shop.id, id=key, name=name, **values)
            if grams:
                book_by_hand(connection, shop.someone(), key, ByHand("bought", grams), NOW - timedelta(days=9))
        return key

    return make


@pytest.fixture
def recovery(cylinder):
    return cylinder(
        "Grey 1", 0, kind="recovery", water_capacity_g=21600, service_pressure_pa=400 * PSI_PA, retest_by=date(2028, 1, 1)
    )


@pytest.fixture
def keep(as_shop, shop):
    at = [NOW]

    def add(body, minutes=1.0, visit=None, entry_id=None):
        at[0] += timedelta(minutes=minutes)
        with as_shop(shop) as connection:
            return keep_one(connection, shop.someone(), visit or shop.visit, entry_id or uuid6.uuid7(), body, at[0])

    return add


def _holds(as_shop, shop):
    with as_shop(shop) as connection:
        return {held.cylinder.name: held.holds_g for held in store.all_held(connection)}


def test_a_whole_repair_is_followed_and_every_gram_of_it_booked(keep, as_shop, shop, cylinder, recovery):
    blue = cylinder()
    keep(SealedPlanBody(repair=Repair.LEAK_HIGH))
    keep(LockoutBody(disconnect="Roof", locked=True))
    out = keep(PourBody(way=MovementSort.RECOVERED, cylinder=recovery, gross_g=14_000, phase="liquid")).entry
    keep(PourMarkBody(pour=out.id, gross_g=15_500))
    with pytest.raises(Refused, match="lighter"):
        keep(PourEndBody(pour=out.id, gross_g=14_900))
    keep(PourEndBody(pour=out.id, gross_g=16_400), minutes=30)
    keep(RecoveredToBody(appliance="High pressure", value=0, unit="psig"))
    leak = keep(LeakPlaceBody(place="flares", result="failed", method="bubbles")).entry
    keep(LeakCureBody(leak=leak.id, cure="joint"))
    keep(ActionBody(sort=ActionSort.DRIER_CHANGED))
    hold = keep(HoldBody(section="whole", limit=450, unit="psig", vacuum_gauge_off=True)).entry
    with pytest.raises(Refused, match="nitrogen"):
        keep(MovementBody(way=MovementSort.WEIGHED_IN, grams=100, cylinder=blue))
    for psig, temp in ((320, 70), (309.2, 54), (320.1, 70.2)):  # a cool night between two warm days
        keep(HoldReadingBody(hold=hold.id, pressure=psig, pressure_unit="psig", temp=temp, temp_unit="F"), minutes=720)
    with as_shop(shop) as connection:
        view = load(connection, shop.someone(), shop.visit)
    held = hold_of(str(hold.id), view.state[Holds].holds[str(hold.id)], view.facts)
    assert held.verdict is not None
    assert held.verdict.verdict.value == "tight"
    with pytest.raises(Refused, match="arithmetic says 'tight'"):
        keep(HoldEndBody(hold=hold.id, verdict="leaking"))
    keep(HoldEndBody(hold=hold.id, verdict="tight"))
    pull = keep(EvacuationBody(what="system", gauge_at="far_end", cores_out=True, hoses="wide_short")).entry
    keep(VacuumEventBody(evacuation=pull.id, event=VacuumEvent.PUMP_ON))
    with pytest.raises(Refused, match="unproven"):
        keep(VacuumEventBody(evacuation=pull.id, event=VacuumEvent.BROKEN))
    keep(VacuumPointBody(evacuation=pull.id, micron=260), minutes=25)
    keep(VacuumEventBody(evacuation=pull.id, event=VacuumEvent.ISOLATED))
    for minute in range(12):
        keep(VacuumPointBody(evacuation=pull.id, micron=262 + 40 * (1 - 0.75**minute)))
    keep(VacuumEventBody(evacuation=pull.id, event=VacuumEvent.BROKEN))
    keep(ChargeTargetBody(label_g=3000, line_length_m=9, line="3/8", line_included_m=4.5, drier_g=40))
    keep(MovementBody(way=MovementSort.WEIGHED_IN, grams=3100, cylinder=blue, phase="liquid", hose_g=20))
    with as_shop(shop) as connection:
        view = load(connection, shop.someone(), shop.visit)
        book = unit_book(connection, shop.unit, view.facts, ShopSettings())
        of_shop = all_losing(connection, ShopSettings())
        to_look_at = watched(connection, Reader(), NOW + timedelta(days=30))
        long_after = watched(connection, Reader(), NOW + timedelta(days=500))
    standing = standing_of(view.state, view.facts)
    assert standing is not None
    assert standing.in_unit_kg == pytest.approx(3.080)
    assert standing.to_go_kg == pytest.approx(3.040 + 4.5 * 0.0481 - 3.080, abs=0.01)
    assert {one.step.code: one.progress for one in steps_in(view.state, view.facts)}["evacuate"] == "done"
    assert _holds(as_shop, shop) == {"Blue 1": 5900, "Grey 1": 2400}
    assert sum(balances(line.movement for line in book.lines).values()) == 0
    # What leaked is what went in beyond what came out.
    assert book.losing.full_charge_kg == pytest.approx(standing.target_kg)  # line set and drier with the label
    assert book.losing.rates[-1].yearly == pytest.approx((3.080 - 2.400) / standing.target_kg)
    assert [(unit.id, one) for unit, one in of_shop] == [(shop.unit, book.losing)]  # one count, wherever it is shown
    assert to_look_at[0].words[0] == f"loses {book.losing.rates[-1].yearly * 100:.0f} % of its charge a year"
    assert not any("charge a year" in words for unit in long_after for words in unit.words)


def test_a_void_in_the_middle_takes_its_grams_back_and_the_book_still_balances(keep, as_shop, shop, cylinder):
    blue = cylinder()
    first = keep(MovementBody(way=MovementSort.ADDED, grams=200, cylinder=blue, reason="leak not found yet")).entry
    keep(MovementBody(way=MovementSort.ADDED, grams=300, cylinder=blue, reason="leak not found yet"))
    keep(VoidBody(voids=first.id))
    assert _holds(as_shop, shop) == {"Blue 1": 8700}
    with as_shop(shop) as connection:
        assert [line.movement.grams for line in store.lines(connection) if line.taken_back_at] == [200]
        books = year_books(connection, NOW - timedelta(days=30), NOW + timedelta(days=1))
        assert [(one.refrigerant, one.closing, one.adds_up) for one in books] == [("R-410A", 8700, True)]
        assert stock(store.all_held(connection))[0].virgin_g == 8700


def test_sent_twice_draws_once_and_what_is_refused_leaves_nothing(keep, as_shop, shop, cylinder, recovery):
    blue, entry_id = cylinder(grams=1000), uuid6.uuid7()
    body = MovementBody(way=MovementSort.ADDED, grams=600, cylinder=blue, reason="leak not found yet")
    assert not keep(body, entry_id=entry_id).repeated
    assert keep(body, entry_id=entry_id).repeated
    for wrong, says in (
        (body, "holds 0 lb 14.1 oz"),
        (MovementBody(way=MovementSort.ADDED, grams=50, cylinder=uuid6.uuid7(), reason="leak"), "Choose the cylinder"),
        (MovementBody(way=MovementSort.ADDED, grams=50, cylinder=blue), "Say why"),
        (MovementBody(way=MovementSort.WEIGHED_IN, grams=50, cylinder=blue), "Lock it out"),
        (MovementBody(way=MovementSort.RECOVERED, grams=50, cylinder=blue), "water capacity"),
        (MovementBody(way=MovementSort.RECOVERED, grams=30_000, cylinder=recovery), "beyond 80 %"),
        (MovementBody(way=MovementSort.ADDED, grams=50, hose_g=60, cylinder=blue, reason="leak"), "hoses"),
        (HoldBody(section="all", vacuum_gauge_off=False), "vacuum gauge off"),
        (HoldBody(section="all", gas="other", vacuum_gauge_off=True), "Only dry nitrogen"),
        (StepBody(step="close_up", done=False), "Say why"),
        (LeakPlaceBody(place="attic", result="passed"), "Choose the place"),
        (PourMarkBody(pour=uuid6.uuid7(), gross_g=5), "taken back"),
        (ChargeTargetBody(label_g=100, line_length_m=0, line_included_m=50), "more than the label"),
    ):
        with pytest.raises(Refused, match=says):
            keep(wrong)
    assert _holds(as_shop, shop) == {"Blue 1": 400, "Grey 1": 0}
    with as_shop(shop) as connection:
        assert load(connection, shop.someone(), shop.visit).state.entries == 1


def test_eight_technicians_on_one_cylinder_draw_no_more_than_it_holds(as_shop, shop, cylinder):
    blue = cylinder(grams=4000)
    visits = [uuid6.uuid7() for _ in range(8)]
    with as_shop(shop) as connection:
        for key in visits:
            add_visit(
                connection, shop_id=shop.id, id=key, unit_id=shop.unit, technician_id=shop.people["technician"], planned_for=NOW
            )
    drawn, problems = [], []

    def technician(visit):
        for _ in range(10):
            body = MovementBody(way=MovementSort.ADDED, grams=100, cylinder=blue, reason="leak not found yet")
            try:
                with as_shop(shop) as connection:
                    keep_one(connection, shop.someone(), visit, uuid6.uuid7(), body, datetime.now(UTC))
                drawn.append(100)
            except Refused as refusal:
                assert "By the book" in refusal.message
            except Exception as problem:
                problems.append(problem)

    threads = [threading.Thread(target=technician, args=(visit,)) for visit in visits]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert problems == []
    assert sum(drawn) == 4000  # eighty wanted a hundred each
    with as_shop(shop) as connection:
        held = store.all_held(connection, [blue])[0]
        listed = store.lines(connection)
    found = balances(line.movement for line in listed)
    assert held.holds_g == found[Account.CYLINDER, str(blue)] == 0
    assert sum(found.values()) == 0


def test_an_evacuation_keeps_its_watches_apart_and_a_wet_one_is_swept(keep, as_shop, shop):
    pull = keep(EvacuationBody(what="system")).entry
    keep(VacuumEventBody(evacuation=pull.id, event=VacuumEvent.PUMP_ON))
    with pytest.raises(Refused, match="on already"):
        keep(EvacuationBody(what="rig"))
    for rest, event in ((2600, VacuumEvent.SWEPT), (330, None)):
        keep(VacuumPointBody(evacuation=pull.id, micron=280), minutes=20)
        shut = keep(VacuumEventBody(evacuation=pull.id, event=VacuumEvent.ISOLATED)).entry
        ago = tuple(float(x) for x in range(1200, 0, -15))
        micron = tuple(280 + (rest - 280) * (1 - 2.718 ** (-(1200 - x) / 200)) for x in ago)
        keep(TraceBody(evacuation=pull.id, seconds_ago=ago, micron=micron), minutes=20.1)
        if event:
            keep(VacuumEventBody(evacuation=pull.id, event=event))
            keep(VacuumEventBody(evacuation=pull.id, event=VacuumEvent.PUMP_ON))
    assert shut.written_at > NOW
    with as_shop(shop) as connection:
        state = load(connection, shop.someone(), shop.visit).state
    found = evacuation_of(str(pull.id), state[Vacuum].evacuations[str(pull.id)])
    assert [watch.decay.verdict.value for watch in found.watches] == ["moisture", "tight"]
    assert "evacuation" in [one.code for one in obstacles(state)]
