"""What else the demo shop knows: parts, instruments, access, and what was said and done on the open calls. All invented."""

from __future__ import annotations

from datetime import date, datetime, timedelta

from sqlalchemy import Connection, insert, update

from dry_gauge.core.visit.complaints import Complaint
from dry_gauge.core.vocabulary import State
from dry_gauge.demo.ids import SHOP_ID, ident
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.agenda import FollowUpBody, FollowUpSort, TaskBody
from dry_gauge.notebook.subjects.call import ClaimBody, ComplaintBody
from dry_gauge.notebook.subjects.failed_tests import Comparator, FailedTestBody
from dry_gauge.notebook.subjects.ledger import ChangeSort, TemporaryBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.store.models import Component, Instrument, Site, Unit

ACCESS = {
    "Tern Point Ferry Terminal": "Roof ladder behind the ticket office, key at the harbor master's. Water on the roof.",
    "Quillfeather Library": "Condensers in the yard, gate code at the desk. Quiet before ten.",
    "Gannet Street Ice Works": "Gloves and coat at the dock. No water inside.",
}
DISCONNECTS = {
    "rtu1": ["Roof, left of the unit", "Panel B, breaker 14"],
    "rtu2": ["Roof, right of the unit", "Panel B, breaker 16"],
    "ac2": ["Yard wall, by the condenser", "Map store, air handler", "Panel 2, breaker 7"],
    "hp1": ["Yard wall, far end", "Attic, air handler"],
}
COMPONENTS = (
    ("rtu1", "Condenser fan motor", "Norrland 1/3 hp", date(2023, 7, 4)),
    ("rtu2", "Compressor", "second one, scroll", date(2014, 8, 19)),
    ("ac2", "Evaporator coil", "Pelican Air PX24", None),
    ("ac2", "Filter drier", "3/8", date(2024, 6, 11)),
    ("cheese", "Evaporator fan motors", "two of three", date(2025, 8, 1)),
    ("ice", "Filter drier", "5/8, replaceable core", date(2025, 12, 29)),
)
INSTRUMENTS = (
    ("Gauge set 1", "pressure", 0.5, "psig", 120),
    ("Gauge set 2", "pressure", 1.0, "psig", -40),
    ("Pipe clamps A", "temperature", 1.0, "F", 200),
    ("Thermometer K2", "temperature", 0.7, "F", 60),
    ("Clamp meter", "current", 0.3, "A", 90),
)


def said_and_done(unit: str, days: int, status: str, today: datetime) -> list[Body]:
    """Entries of a visit besides its readings."""
    match unit, days, status:
        case "ac2", 0, "open":
            return [
                ComplaintBody(sorts=(Complaint.NOT_COLD,), words="warm in the map store again", since="last week"),
                ClaimBody(text="The caretaker changed the filter last month."),
                ClaimBody(text="Nobody has worked on it since the flare was tightened."),
                FailedTestBody(quantity="air_split", comparator=Comparator.ABOVE, value=18, unit="F", should="at full stage"),
            ]
        case "cheese", 0, "open":
            return [
                ComplaintBody(sorts=(Complaint.WARM_BOX,), words="box at 46 and rising", since="yesterday evening"),
                ClaimBody(text="Two pallets came in warm at noon."),
                TemporaryBody(sort=ChangeSort.SETPOINT, where="Box thermostat", was="42 °F"),
                TaskBody(what="Gasket at the lower hinge"),
            ]
        case "pottery", 0, "open":
            return [
                ComplaintBody(sorts=(Complaint.NOT_COLD,), words="air feels weak since the glaze firing"),
                TemporaryBody(sort=ChangeSort.UNPLUGGED, where="Humidistat plug at the control board"),
            ]
        case "ac2", 372, "closed":
            due = (today + timedelta(days=2)).date()
            return [FollowUpBody(sort=FollowUpSort.RECHECK, what="Flare at the service valve, oil seen", due=due)]
        case "rtu2", 64, "closed":
            due = (today - timedelta(days=4)).date()
            return [FollowUpBody(sort=FollowUpSort.RETURN, what="Port decides: compressor or new unit", due=due)]
        case "flowers", 95, "closed":
            ice = ObservationBody(what="ice_on_evaporator_even", state=State.YES)
            gone = FailedTestBody(what=ice.what, state=State.NO, should="after two defrosts")
            return [ice, gone, ActionBody(sort=ActionSort.SETTING_CHANGED, words="defrost clock, it ran half a day late")]
        case _:
            return []


def add_register(owner: Connection, today: datetime) -> None:
    """Access, disconnects, parts and instruments."""
    for name, words in ACCESS.items():
        owner.execute(update(Site).where(Site.shop_id == SHOP_ID, Site.id == ident("site", name)).values(access=words))
    for key, names in DISCONNECTS.items():
        card = update(Unit).where(Unit.shop_id == SHOP_ID, Unit.id == ident("unit", key))
        owner.execute(card.values(disconnects=names, label_from="its own label" if key != "rtu2" else ""))
    for key, what, details, day in COMPONENTS:
        owner.execute(
            insert(Component).values(
                shop_id=SHOP_ID,
                id=ident("part", key, what),
                unit_id=ident("unit", key),
                what=what,
                details=details,
                installed_on=day,
            )
        )
    for name, dimension, accuracy, unit, days in INSTRUMENTS:
        owner.execute(
            insert(Instrument).values(
                shop_id=SHOP_ID,
                id=ident("instrument", name),
                name=name,
                dimension=dimension,
                accuracy=accuracy,
                unit=unit,
                calibrated_until=(today + timedelta(days=days)).date(),
            )
        )
