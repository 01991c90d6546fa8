"""What controls leave behind: chains and links for like units, codes for the shop and the neighbours, facts for the judgement."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from uuid import UUID

import pytest
import uuid6
from sqlalchemy import insert, select, update

from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Reader
from dry_gauge.demo.controls import FERRY_CHAIN
from dry_gauge.notebook.kind import obstacles
from dry_gauge.notebook.subjects.codes import CodeBody, CodeMeaningBody
from dry_gauge.notebook.subjects.control_chain import ClosedLinkBody, CoilBody, OpenLinkBody
from dry_gauge.notebook.subjects.controls import MeteringBody, Wire, WiresOffBody
from dry_gauge.notebook.subjects.defrosts import DefrostBody
from dry_gauge.notebook.subjects.fuse_hunt import FuseHuntBody, FuseTryBody
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.record import VoidBody
from dry_gauge.present.controls import controls
from dry_gauge.service.append import Sent, append
from dry_gauge.service.notebooks import load
from dry_gauge.service.scenes import scene_of
from dry_gauge.store.models import Unit
from dry_gauge.store.visits import add_visit
from tests.builders import STARVED
from tests.sound import PROVEN, readings_of

NOW = datetime.now(UTC)


@pytest.fixture
def at(as_shop, shop):
    """Entries written into a visit, one after the other; the visit as the station shows it."""
    minutes = iter(range(1, 1000))

    def write(visit: UUID, *bodies):
        someone, ids = shop.someone("technician"), []
        with as_shop(shop) as connection:
            for body in bodies:
                ids.append(uuid6.uuid7())
                append(connection, someone, visit, Sent(ids[-1], body), NOW + timedelta(minutes=next(minutes)))
        return ids

    return write


@pytest.fixture
def shown(as_shop, shop):
    def look(visit: UUID):
        with as_shop(shop) as connection:
            someone = shop.someone("technician")
            scene = scene_of(connection, load(connection, someone, visit), someone, Reader(), {"controls"}, now=NOW)
            return scene.view, controls(scene)

    return look


def another_visit(as_shop, shop, unit: UUID) -> UUID:
    visit = uuid6.uuid7()
    with as_shop(shop) as connection:
        add_visit(
            connection,
            shop_id=shop.id,
            id=visit,
            unit_id=unit,
            technician_id=shop.people["technician"],
            planned_for=NOW,
            status="open",
        )
    return visit


def like_unit(owner, shop) -> UUID:
    """A unit of the same model on the same site."""
    unit = uuid6.uuid7()
    with owner.begin() as connection:
        connection.execute(update(Unit).where(Unit.id == shop.unit).values(model="NR-060"))
        own = connection.execute(select(Unit.site_id, Unit.facts).where(Unit.id == shop.unit)).one()
        connection.execute(
            insert(Unit).values(shop_id=shop.id, id=unit, site_id=own.site_id, tag="U-2", facts=own.facts, model="NR-060")
        )
    return unit


def test_a_chain_and_its_history_are_there_on_the_next_visit_and_on_a_like_unit(as_shop, shop, owner, at, shown):
    *_, opened = at(shop.visit, FERRY_CHAIN, OpenLinkBody(link="Rollout switch", cause="rollout or blocked vent"))
    again = another_visit(as_shop, shop, shop.unit)
    _, view = shown(again)
    assert view.starts[0].key == "own"
    at(again, FERRY_CHAIN)
    own = shown(again)[1].walk.belief["Rollout switch"]
    elsewhere = another_visit(as_shop, shop, like_unit(owner, shop))
    assert [start.key for start in shown(elsewhere)[1].starts[:2]] == ["like", "Split system"]
    at(elsewhere, FERRY_CHAIN)
    like = shown(elsewhere)[1].walk.belief["Rollout switch"]
    at(shop.visit, VoidBody(voids=opened, reason="looked at the wrong one"))
    usual = shown(again)[1].walk.belief["Rollout switch"]
    assert usual < like < own


def test_codes_are_known_to_the_shop_and_to_the_neighbours(as_shop, shop, owner, at, shown):
    meaning = CodeMeaningBody(board="Drive", code="F12", meaning="bus volts high", first_test="supply, open")
    at(shop.visit, CodeBody(board="Drive", code="F12", times=3), meaning)
    _, view = shown(shop.visit)
    assert view.boards[0].strikes == 3
    beside = another_visit(as_shop, shop, like_unit(owner, shop))
    at(beside, CodeBody(board="drive", code="f12"))
    board = shown(beside)[1].boards[0]
    assert board.codes[0].meaning.first_test == "supply, open"
    assert board.codes[0].before == "Seen once before, on 1 unit of the shop."
    assert [(tag, code) for _, tag, code in shown(beside)[1].neighbours] == [("U-1", "F12")]


def test_what_stands_still_is_no_ground_for_gauges_and_a_cause_is_asked_for(shop, at, shown):
    at(shop.visit, FERRY_CHAIN, CoilBody(coil="Compressor contactor", runs=False), *PROVEN, *readings_of(STARVED))
    view, _ = shown(shop.visit)
    first = view.assessment.first
    assert "unit_not_as_called" in {gate.name for gate in first.holding}
    assert first.next_checks[0].unit == "off"
    at(shop.visit, OpenLinkBody(link="Low-pressure switch"))
    assert "open_link" in {one.code for one in obstacles(shown(shop.visit)[0].state)}
    at(shop.visit, ClosedLinkBody(link="Low-pressure switch", how="pushed"))
    assert "safety_cause" in {one.code for one in obstacles(shown(shop.visit)[0].state)}
    at(
        shop.visit,
        ClosedLinkBody(link="Low-pressure switch", how="pushed", cause="refrigerant lost"),
        CoilBody(coil="Compressor contactor", runs=True),
    )
    view, station = shown(shop.visit)
    assert not {"safety_cause", "open_link"} & {one.code for one in obstacles(view.state)}
    assert "unit_not_as_called" not in {gate.name for gate in view.assessment.first.holding}
    assert view.assessment.first.causes[0].fault is Fault.UNDERCHARGE
    assert station.walk.shows["Low-pressure switch"] == "live"


def test_lifted_wires_and_the_breaker_are_on_the_ledger_by_themselves(shop, at, shown):
    loads = ("valve", "relay", "motor")
    at(shop.visit, FuseHuntBody(circuit_v=24, fuse_a=5, breaker_a=5, loads=loads), FuseTryBody(held=True))
    lifted = [one.body.where for one in shown(shop.visit)[0].state[Ledger].lifted]
    assert sorted(lifted) == ["Breaker in place of the control fuse", "Wire of motor", "Wire of relay", "Wire of valve"]
    at(shop.visit, FuseTryBody(connected=("valve", "relay"), held=True))
    assert sorted(one.body.where for one in shown(shop.visit)[0].state[Ledger].lifted) == [
        "Breaker in place of the control fuse",
        "Wire of motor",
    ]
    *_, last = at(shop.visit, WiresOffBody(of="board", wires=(Wire(terminal="Y2", colour="yellow"), Wire(terminal="C"))))
    assert len(shown(shop.visit)[0].state[Ledger].lifted) == 4
    at(shop.visit, VoidBody(voids=last, reason="another board"))  # taken back, its wires go with it
    assert len(shown(shop.visit)[0].state[Ledger].lifted) == 2


def test_a_defrost_holds_the_judgement_and_the_metering_device_moves_it(shop, at, shown):
    at(shop.visit, *PROVEN, *readings_of(STARVED), DefrostBody(mark="called"))
    assert "unit_not_as_called" in {gate.name for gate in shown(shop.visit)[0].assessment.first.holding}
    at(shop.visit, DefrostBody(mark="ended_by_temperature"), DefrostBody(mark="clear"))
    first = shown(shop.visit)[0].assessment.first
    assert "unit_not_as_called" not in {gate.name for gate in first.holding}
    assert "not_settled" in {gate.name for gate in first.holding}
    before = {cause.fault: cause.probability for cause in first.causes}
    at(shop.visit, MeteringBody(screen="blocked", debris="wax"))
    after = {cause.fault: cause.probability for cause in shown(shop.visit)[0].assessment.first.causes}
    assert after[Fault.METERING_UNDERFEEDING] > before[Fault.METERING_UNDERFEEDING]
