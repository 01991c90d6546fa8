"""The demo shop's cylinders, what went in and out over the years, and a repair that is under way. All invented."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

import numpy as np
from sqlalchemy import Connection

from dry_gauge.bench.evacuation import Source, System, as_gauged, step
from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.quantities import POUND_KG, PSI_PA
from dry_gauge.core.sealed.opening import Repair
from dry_gauge.core.visit.complaints import Complaint
from dry_gauge.demo.ids import ident
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.call import ClaimBody, ComplaintBody
from dry_gauge.notebook.subjects.charge_target import ChargeTargetBody
from dry_gauge.notebook.subjects.hold import HoldBody, HoldEndBody, HoldReadingBody
from dry_gauge.notebook.subjects.leak import LeakCureBody, LeakPlaceBody
from dry_gauge.notebook.subjects.ledger import LockoutBody
from dry_gauge.notebook.subjects.movements import MovementBody, MovementSort, PourBody, PourEndBody, PourMarkBody, RecoveredToBody
from dry_gauge.notebook.subjects.opening import SealedPlanBody
from dry_gauge.notebook.subjects.vacuum import EvacuationBody, TraceBody, VacuumEvent, VacuumEventBody, VacuumPointBody
from dry_gauge.service.cylinders import ByHand, book_by_hand
from dry_gauge.store import cylinders as store
from dry_gauge.store.people import Someone

_POUND_G = POUND_KG * 1000


@dataclass(frozen=True, slots=True)
class DemoCylinder:
    """A cylinder, when it was bought and full of what; weights in pounds as they are stamped."""

    key: str
    name: str
    kind: str
    refrigerant: str
    tare_lb: float
    water_lb: float
    service_psi: int
    keeper: str
    bought: tuple[tuple[int, float], ...] = ()
    retest_in_days: int | None = None
    for_flammables: bool = False


CYLINDERS = (
    DemoCylinder("410", "410-7", "in_use", "R-410A", 6.2, 31.0, 400, "Ines, van 2", ((900, 25),)),
    DemoCylinder("410new", "410-8", "new", "R-410A", 6.2, 31.0, 400, "store", ((40, 25),)),
    DemoCylinder("404old", "404-2", "in_use", "R-404A", 6.0, 30.0, 400, "store", ((760, 24),)),
    DemoCylinder("404", "404-3", "in_use", "R-404A", 6.0, 30.0, 400, "Tobin, van 1", ((120, 24),)),
    DemoCylinder("448", "448-2", "in_use", "R-448A", 6.1, 31.0, 400, "Tobin, van 1", ((300, 25),)),
    DemoCylinder("134", "134-4", "in_use", "R-134a", 6.4, 34.0, 260, "Wren, van 3", ((500, 30),)),
    DemoCylinder("454", "454-1", "new", "R-454B", 7.1, 26.0, 400, "store", ((90, 20),), for_flammables=True),
    DemoCylinder("grey1", "Grey 1", "recovery", "R-410A", 26.5, 47.7, 400, "Ines, van 2", (), 640),
    DemoCylinder("grey2", "Grey 2", "recovery", "R-404A", 26.5, 47.7, 400, "Tobin, van 1", (), 410),
    DemoCylinder("grey3", "Grey 3", "recovery", "", 28.0, 47.7, 350, "store, to go back", (), -21),
)


def add_cylinders(owner: Connection, someone: Someone, today: datetime) -> None:
    """Register and buy them."""
    for one in CYLINDERS:
        key = ident("cylinder", one.key)
        retest = None if one.retest_in_days is None else (today + timedelta(days=one.retest_in_days)).date()
        store.add_cylinder(
            owner,
            shop_id=someone.shop_id,
            id=key,
            name=one.name,
            kind=one.kind,
            refrigerant=one.refrigerant,
            tare_g=round(one.tare_lb * _POUND_G),
            water_capacity_g=round(one.water_lb * _POUND_G),
            service_pressure_pa=one.service_psi * PSI_PA,
            retest_by=retest,
            for_flammables=one.for_flammables,
            refillable=one.kind == "recovery",
            keeper=one.keeper,
        )
        for days, pounds in one.bought:
            at = today - timedelta(days=days)
            book_by_hand(owner, someone, key, ByHand("bought", round(pounds * _POUND_G)), at)


def weighed(unit: str, days: int) -> list[Body]:
    """What a past visit put in or took out."""

    def moved(way: MovementSort, grams: int, cylinder: str, **more: Any) -> Body:
        return MovementBody(way=way, grams=grams, cylinder=ident("cylinder", cylinder), **more)

    match unit, days:
        case "ac2", 735:
            return [moved(MovementSort.ADDED, 255, "410", phase="liquid", reason="no leak found yet; return booked")]
        case "ac2", 372:
            return [moved(MovementSort.ADDED, 312, "410", phase="liquid", reason="oil at the flare; quote for a new one out")]
        case "ice", 640:
            return [moved(MovementSort.ADDED, 880, "404old", phase="liquid", reason="to save the ice; return booked")]
        case "ice", 330:
            return [
                LockoutBody(disconnect="Roof, by the condensing unit", locked=True),
                moved(MovementSort.RECOVERED, 5960, "grey2", phase="liquid"),
                RecoveredToBody(appliance="High pressure, under 200 lb", value=0, unit="psig", minutes_held=10),
                ActionBody(sort=ActionSort.DRIER_CHANGED, words="core of the liquid-line drier"),
                ChargeTargetBody(label_g=6350, drier_g=60),
                moved(MovementSort.WEIGHED_IN, 6410, "404old", phase="liquid"),
                LockoutBody(disconnect="Roof, by the condensing unit", locked=False),
            ]
        case _:
            return []


# -- a repair under way -----------------------------------------------------------------

REPAIR_HOURS = 27.5
"""Since it began: yesterday a leak was found and mended, overnight it was held, today it is evacuated and charged."""
POUR_GROSS_KG = 13.6
"""What the scale shows as the weigh-in begins."""
_ROOF = "Roof, by the condensing unit"


def repair() -> Iterator[tuple[float, str, Body]]:
    """Hours ago, a name for its id, and the entry: Freezer 2 of the ice works, from the complaint to a pour that is on."""
    named = {PourBody: ["out", "in"], HoldBody: ["hold"], EvacuationBody: ["rig", "pull"]}
    for number, (hours, body) in enumerate(_repair()):
        leaks = isinstance(body, LeakPlaceBody) and body.result == "failed"
        listed = named.get(type(body))
        yield hours, "leak" if leaks else listed.pop(0) if listed else str(number), body


def _repair() -> Iterator[tuple[float, Body]]:
    leak, pour_out, hold, rig, pull = (ident("entry", "ice", name) for name in ("leak", "out", "hold", "rig", "pull"))
    yield 27.5, ComplaintBody(sorts=(Complaint.WARM_BOX,), words="ice takes two days again", since="a week")
    yield 27.4, ClaimBody(text="Topped up twice in two years.")
    yield 26.6, LeakPlaceBody(place="service_cores", result="passed", method="electronic")
    yield (26.3, LeakPlaceBody(place="receiver", result="failed", method="bubbles", words="king valve packing, oil below it"))
    yield 26.2, LeakPlaceBody(place="drier", result="passed", method="bubbles")
    yield 26.1, SealedPlanBody(repair=Repair.LEAK_HIGH)
    yield 26.0, LockoutBody(disconnect=_ROOF, locked=True)
    yield 25.8, PourBody(way=MovementSort.RECOVERED, cylinder=ident("cylinder", "grey2"), gross_g=17_980, phase="liquid")
    yield 25.4, PourMarkBody(pour=pour_out, gross_g=20_940)
    yield 25.1, PourEndBody(pour=pour_out, gross_g=22_290)
    yield 24.9, RecoveredToBody(appliance="High pressure, under 200 lb", value=0, unit="psig", minutes_held=12)
    yield 24.2, LeakCureBody(leak=leak, cure="new_part", part="king valve and packing")
    yield 23.9, ActionBody(sort=ActionSort.DRIER_CHANGED, words="core, new; cores and caps too")
    yield 23.6, HoldBody(section="Whole system", limit=350, unit="psig", vacuum_gauge_off=True)
    for hours, psig, temp, stage in (
        (23.5, 120.0, 64.0, True),
        (23.2, 300.5, 65.5, False),
        (21.0, 301.4, 66.8, False),
        (5.1, 289.9, 48.0, False),
        (4.6, 290.6, 49.1, False),
    ):
        yield (
            hours,
            HoldReadingBody(
                hold=hold,
                pressure=psig,
                pressure_unit="psig",
                temp=temp,
                temp_unit="F",
                gauge="Gauge set 1",
                thermometer="Pipe clamps A",
                stage=stage,
            ),
        )
    yield 4.5, HoldEndBody(hold=hold, verdict="tight")
    yield from _rig(rig)
    yield from _pull(pull)
    yield 0.3, ChargeTargetBody(label_g=6350, drier_g=60)
    yield (
        0.22,
        PourBody(
            way=MovementSort.WEIGHED_IN,
            cylinder=ident("cylinder", "404"),
            gross_g=round(POUR_GROSS_KG * 1000),
            phase="liquid",
            source="probe",
        ),
    )


_LITTLE = Source(315 * MICRON_PA, 5.0)
_WET = Source(2500 * MICRON_PA, 3.2, 6.0)


def _rig(rig: UUID) -> Iterator[tuple[float, Body]]:
    yield 4.3, EvacuationBody(what="rig", gauge="Vacuum gauge 2")
    yield 4.28, VacuumEventBody(evacuation=rig, event=VacuumEvent.PUMP_ON)
    yield 4.15, VacuumPointBody(evacuation=rig, micron=62)
    yield 4.14, VacuumEventBody(evacuation=rig, event=VacuumEvent.ISOLATED)
    yield 3.96, _trace(rig, System(), 62 * MICRON_PA, 11.0, 10.8, pumping=False, seed=3)[0]
    yield 3.95, VacuumEventBody(evacuation=rig, event=VacuumEvent.BROKEN)


def _pull(pull: UUID) -> Iterator[tuple[float, Body]]:
    """A wet system: pulled, watched, swept with nitrogen, pulled again and watched again."""
    yield (
        3.9,
        EvacuationBody(
            what="system", gauge="Vacuum gauge 2", gauge_at="far_end", cores_out=True, hoses="wide_short", target_micron=300
        ),
    )
    yield 3.88, VacuumEventBody(evacuation=pull, event=VacuumEvent.PUMP_ON)
    wet = System(sources=(_LITTLE, _WET), pump_minutes=1.9)
    down, level = _trace(pull, wet, 101_325.0, 41.0, 40.0, pumping=True, seed=4)
    yield 3.2, down
    yield 3.19, VacuumEventBody(evacuation=pull, event=VacuumEvent.ISOLATED)
    yield 2.85, _trace(pull, wet, level, 20.0, 19.8, pumping=False, seed=5)[0]
    yield 2.84, VacuumEventBody(evacuation=pull, event=VacuumEvent.SWEPT)
    yield 2.6, VacuumEventBody(evacuation=pull, event=VacuumEvent.OIL_CHANGED)
    yield 2.55, VacuumEventBody(evacuation=pull, event=VacuumEvent.PUMP_ON)
    dry = System(sources=(_LITTLE,), pump_minutes=1.9)
    down, level = _trace(pull, dry, 6000 * MICRON_PA, 60.0, 59.5, pumping=True, seed=6)
    yield 1.54, down
    yield 1.53, VacuumEventBody(evacuation=pull, event=VacuumEvent.ISOLATED)
    yield 1.11, _trace(pull, dry, level, 24.0, 23.8, pumping=False, seed=7)[0]
    yield 1.1, VacuumEventBody(evacuation=pull, event=VacuumEvent.BROKEN)


def _trace(
    evacuation: UUID, system: System, start_pa: float, minutes: float, ends_before: float, *, pumping: bool, seed: int
) -> tuple[TraceBody, float]:
    """What a gauge showed over some minutes that ended just before the entry, and where the pressure then is. [Pa]"""
    every, pressures = max(5.0, minutes * 60 / 200), [start_pa]
    for _ in range(int(minutes * 60 / every)):
        system, pressure = step(system, pressures[-1], every, pumping)
        pressures.append(pressure)
    shown = as_gauged(np.array(pressures), np.random.default_rng(seed)) / MICRON_PA
    ago = [ends_before * 60 - i * every for i in range(len(pressures))]
    listed = [(second, micron) for second, micron in zip(ago, shown, strict=True) if second >= 0 and micron < 24_900]
    body = TraceBody(
        evacuation=evacuation,
        seconds_ago=tuple(round(second, 1) for second, _ in listed),
        micron=tuple(float(round(micron)) for _, micron in listed),
    )
    return body, pressures[-1]
