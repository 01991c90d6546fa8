"""Saltmarsh Mechanical, a made-up shop in the harbour town of Tern Point: its people, units, past visits and today.

Everyone and everything here is invented.
"""

from __future__ import annotations

import secrets
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any
from uuid import NAMESPACE_DNS, UUID, uuid5

from sqlalchemy import Connection, func, insert, select

from dry_gauge.core.season import SeasonPart, Surroundings
from dry_gauge.core.visit.findings import FINDINGS
from dry_gauge.core.vocabulary import Mode, State
from dry_gauge.demo.box import hot_cooler
from dry_gauge.demo.coils import add_faces, photographed
from dry_gauge.demo.controls import STILL_SINCE_THE_DRILL, TRIPPED_IN_SUMMER
from dry_gauge.demo.office import SETTINGS, add_office
from dry_gauge.demo.plates import add_label_photo
from dry_gauge.demo.power_and_air import KILN_ROOM, OLD_ROOFTOP
from dry_gauge.demo.readings import Day, readings_for
from dry_gauge.demo.register import add_register, said_and_done
from dry_gauge.demo.sealed import POUR_GROSS_KG, REPAIR_HOURS, add_cylinders, repair, weighed
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.closing import ClosingBody, Outcome
from dry_gauge.notebook.subjects.failed_tests import Comparator, FailedTestBody, RepeatBody
from dry_gauge.notebook.subjects.findings import FindingEndBody, FindingWay
from dry_gauge.notebook.subjects.moving_air import FilterBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.remarks import NoteBody
from dry_gauge.notebook.subjects.running import ClockBody, ClockEvent, ModeBody
from dry_gauge.notebook.subjects.season import SeasonBody
from dry_gauge.service.append import Sent, append
from dry_gauge.service.notebooks import facts_of
from dry_gauge.service.passwords import hash_password
from dry_gauge.service.planning import say_held
from dry_gauge.service.probes import token_hash
from dry_gauge.store import samples
from dry_gauge.store.database import see_shop
from dry_gauge.store.models import Person, Shop, Site, Unit, Visit
from dry_gauge.store.owners import Chosen, choose
from dry_gauge.store.people import Someone

PASSWORD = "low tide 6 15"  # noqa: S105  printed by 'make demo': the demo shop keeps nothing secret
PEOPLE = (
    ("maren", "Maren Oakes", "lead"),
    ("ines", "Ines Varga", "technician"),
    ("tobin", "Tobin Hale", "technician"),
    ("wren", "Wren Castell", "technician"),
    ("silas", "Silas Penn", "helper"),
    ("odile", "Odile Brook", "read_only"),
)
_NAMESPACE = uuid5(NAMESPACE_DNS, "saltmarsh.example")
SHOP_ID = uuid5(_NAMESPACE, "shop")


def _id(*names: object) -> UUID:
    return uuid5(_NAMESPACE, "/".join(str(name) for name in names))


@dataclass(frozen=True, slots=True)
class DemoUnit:
    """A unit of the demo shop."""

    key: str
    site: str
    tag: str
    serves: str
    maker: str
    model: str | None
    serial: str | None
    made: int | None
    facts: dict[str, Any]
    notes: str = ""


SITES = {
    "Tern Point Ferry Terminal": "Pier Road 1",
    "Quillfeather Library": "Lantern Street 14",
    "Marrow Lane Cheese Cellar": "Marrow Lane 3, cellar door",
    "Alder Row Florist": "Alder Row 22",
    "Gannet Street Ice Works": "Gannet Street 9",
    "Foxglove Pottery Studio": "Kiln Yard 2",
}
UNITS = (
    DemoUnit("rtu1", "Tern Point Ferry Terminal", "RTU-1", "waiting hall, sea side", "Norrland", "NR-060-4A", "NL1806 22417",
             2018, {"kind": "package_ac", "refrigerant": "R-410A", "metering": "txv", "seer": 14,
                    "nominal_capacity_btuh": 60000, "label_charge_g": 4990, "target_subcooling_f": 11,
                    "rated_load_amps": 21.8, "elevation_ft": 20},
             "Salt air: the coil face needs rinsing every spring."),
    DemoUnit("rtu2", "Tern Point Ferry Terminal", "RTU-2", "waiting hall, road side", "Norrland", None, None, 2003,
             {"kind": "package_ac", "refrigerant": "R-22", "metering": "orifice", "seer": 10,
              "nominal_capacity_btuh": 60000, "elevation_ft": 20},
             "Label weathered: charge and model not readable. Near the end of its life, the port knows."),
    DemoUnit("hp1", "Quillfeather Library", "HP-1", "reading room", "Pelican Air", "PH36-15", "PA20 118842", 2020,
             {"kind": "split_heat_pump", "refrigerant": "R-410A", "metering": "txv", "seer": 15,
              "nominal_capacity_btuh": 36000, "label_charge_g": 3265, "target_subcooling_f": 9, "rated_load_amps": 14.9,
              "elevation_ft": 35}),
    DemoUnit("ac2", "Quillfeather Library", "AC-2", "map store", "Pelican Air", "PC24-13", "PA15 090311", 2015,
             {"kind": "split_ac", "refrigerant": "R-410A", "metering": "orifice", "seer": 13,
              "nominal_capacity_btuh": 24000, "label_charge_g": 2270, "rated_load_amps": 10.4, "elevation_ft": 35},
             "Lost a little charge each year; leak never found."),
    DemoUnit("cheese", "Marrow Lane Cheese Cellar", "Cooler 1", "wheel room", "Coldharbour", "CH-09M", "CHX 4471", 2019,
             {"kind": "walk_in_cooler", "refrigerant": "R-448A", "metering": "txv", "receiver": True,
              "design_box_temp_f": 42, "evaporator_class": "high_humidity", "head_pressure_control": "fan_cycling",
              "elevation_ft": 12}),
    DemoUnit("flowers", "Alder Row Florist", "Cooler 1", "cut flowers", "Coldharbour", "CH-05M", None, 2012,
             {"kind": "walk_in_cooler", "refrigerant": "R-134a", "metering": "txv", "receiver": True,
              "design_box_temp_f": 38, "evaporator_class": "high_humidity", "head_pressure_control": "none",
              "elevation_ft": 18}),
    DemoUnit("ice", "Gannet Street Ice Works", "Freezer 2", "block store", "Coldharbour", "CH-22L", "CHX 1180", 2016,
             {"kind": "walk_in_freezer", "refrigerant": "R-404A", "metering": "txv", "receiver": True, "label_charge_g": 6350,
              "design_box_temp_f": -10, "head_pressure_control": "flooded", "elevation_ft": 8}),
    DemoUnit("pottery", "Foxglove Pottery Studio", "PHP-1", "throwing room", "Pelican Air", "PP30-16", "PA23 200761", 2023,
             {"kind": "package_heat_pump", "refrigerant": "R-454B", "metering": "exv", "seer": 16,
              "nominal_capacity_btuh": 30000, "label_charge_g": 2380, "target_subcooling_f": 8, "elevation_ft": 60}),
)  # fmt: skip


# Of a past visit, so many days ago: with what it came back, so many weeks later; with nothing, it held.
SAID_LATER = (
    ("ac2", 735, 7, "not_cold", "cool for a month, then as before"), ("ac2", 372, 5, "", ""), ("cheese", 480, 4, "", ""),
)  # fmt: skip


def saw(**states: bool) -> tuple[ObservationBody, ...]:
    """Observations: True is yes, False is no."""
    return tuple(ObservationBody(what=what, state=State.YES if yes else State.NO) for what, yes in states.items())


PROVEN = saw(evaporator_air_proven=True, condenser_air_proven=True)
COLD_ENOUGH = FailedTestBody(quantity="air_split", comparator=Comparator.ABOVE, value=18, unit="F", should="at full stage")
WASHED = (
    *saw(condenser_dirty=True, evaporator_air_proven=True),
    FailedTestBody(quantity="condenser_split", comparator=Comparator.BELOW, value=25, unit="F"),
    ActionBody(sort=ActionSort.CONDENSER_CLEANED, words="salt, rinsed from inside out"),
)  # fmt: skip
"""What a coil at the sea shows and is done about it."""


@dataclass(frozen=True, slots=True)
class DemoVisit:
    """A visit of the demo shop; `days` before today, at `hour`."""

    unit: str
    who: str
    days: int
    hour: float
    complaint: str
    status: str = "closed"
    along: str = ""
    summary: str = ""
    day: Day | None = None
    seen: tuple[ObservationBody, ...] = ()
    running: float | None = 22
    skip: frozenset[str] = field(default_factory=frozenset)
    note: str = ""
    measured: tuple[Body, ...] = ()
    """What was measured besides, of power, air and controls."""
    found: Day | None = None
    """What it met before the repair, where it was read before and after."""
    mended: tuple[Body, ...] = ()
    """What was seen then, and done about it."""
    outcome: Outcome | None = None

    @property
    def id(self) -> UUID:
        """The same at every seeding of the same day."""
        return _id("visit", self.unit, self.days, self.hour)


PAST = (
    # The ferry terminal's coil fouls with salt each spring.
    DemoVisit("rtu1", "tobin", 760, 10, "trips on hot afternoons", summary="Condenser washed",
              found=Day(93, 76, 63, {"low_condenser_airflow": 0.76}), mended=WASHED, day=Day(93, 76, 63), seen=PROVEN,
              measured=TRIPPED_IN_SUMMER),
    DemoVisit("rtu1", "ines", 395, 9, "spring wash", summary="Washed before it tripped",
              found=Day(84, 75, 62, {"low_condenser_airflow": 0.6}), mended=WASHED, day=Day(84, 75, 62), seen=PROVEN),
    DemoVisit("rtu1", "ines", 31, 9.5, "spring wash", summary="Right after the wash", day=Day(92, 76, 63), seen=PROVEN,
              measured=(SeasonBody(part=SeasonPart.OUTDOOR_COIL, surroundings=Surroundings.SEA),
                        SeasonBody(part=SeasonPart.FILTER, surroundings=Surroundings.SEA),
                        FilterBody(place="return", size="20 x 25 x 2", count=4))),
    # An old unit losing its compressor.
    DemoVisit("rtu2", "tobin", 420, 13, "not cold enough", summary="Worn compressor, quoted",
              outcome=Outcome.NOT_FIXED,
              day=Day(84, 80, 69, {"inefficient_compressor": 0.59}), seen=PROVEN),
    DemoVisit("rtu2", "wren", 64, 11, "not cold enough", summary="Worse; port to decide", outcome=Outcome.WAITING,
              day=Day(82, 80, 69.5, {"inefficient_compressor": 0.67}), seen=PROVEN),
    # The library's map store loses charge slowly.
    DemoVisit("ac2", "wren", 735, 14, "warm in the map store", summary="Short of charge, 9 oz added, no leak found",
              found=Day(88, 75, 62, {"undercharge": 0.43}), mended=(*PROVEN, COLD_ENOUGH), day=Day(88, 75, 62)),
    DemoVisit("ac2", "ines", 372, 15, "warm in the map store", summary="Short again, 11 oz added, oil at the flare",
              outcome=Outcome.IMPROVED, found=Day(87, 75, 62, {"undercharge": 0.46}),
              mended=(*PROVEN, *saw(oil_stain=True), COLD_ENOUGH), day=Day(87, 75, 62), seen=saw(oil_stain=True)),
    DemoVisit("hp1", "ines", 210, 8.5, "check before winter", summary="Right in heating",
              day=Day(42, 69, 57), seen=PROVEN),
    # A box that was once badly charged and set right.
    DemoVisit("cheese", "tobin", 480, 7.5, "box at 50", summary="Two fan motors replaced",
              found=Day(74, 46, None, {"low_evaporator_airflow": 0.72}),
              mended=(*saw(blower_stopped=True, condenser_air_proven=True),
                      FailedTestBody(what="blower_stopped", state=State.NO, should="all of them turn"),
                      ActionBody(sort=ActionSort.BELT_OR_BLOWER, words="two evaporator fan motors", part="9 W, 230 V")),
              day=Day(74, 44), seen=(*PROVEN, *saw(blower_stopped=False))),
    DemoVisit("cheese", "ines", 150, 7.5, "check", summary="Right",
              day=Day(72, 42),
              seen=(*PROVEN, *saw(sight_glass_bubbles=False))),
    DemoVisit("flowers", "wren", 95, 16, "ice on the coil", summary="Defrost clock set right", outcome=Outcome.FIXED,
              day=Day(70, 39), seen=(*PROVEN, *saw(ice_on_evaporator_even=False))),
    DemoVisit("ice", "wren", 640, 9, "slow to freeze", summary="Topped up to save the ice, return booked",
              outcome=Outcome.IMPROVED,
              day=Day(71, -3, None, {"undercharge": 0.55}),
              seen=(*PROVEN, *saw(sight_glass_bubbles=True))),
    DemoVisit("ice", "tobin", 330, 6.5, "slow to freeze", summary="Drier changed, charge weighed in",
              day=Day(68, -8),
              seen=(*PROVEN, *saw(sight_glass_bubbles=False))),
    DemoVisit("pottery", "wren", 60, 12, "first service", summary="Right",
              day=Day(85, 76, 63.5), seen=PROVEN, measured=(SeasonBody(part=SeasonPart.FILTER, surroundings=Surroundings.DUST),)),
)  # fmt: skip

TODAY = (
    DemoVisit("flowers", "wren", 0, 7.5, "yearly check", summary="right, nothing added",
              day=Day(71, 38.5),
              seen=(*PROVEN, *saw(sight_glass_bubbles=False))),
    DemoVisit("rtu1", "tobin", 0, 8.25, "trips on hot afternoons again", summary="condenser rinsed, split 19",
              day=Day(87, 76, 63), seen=PROVEN, found=Day(86, 76, 63, {"low_condenser_airflow": 0.7}), outcome=Outcome.FIXED,
              mended=(*WASHED, *photographed(_id))),
    # The story of the day: short of charge, and the air not yet proven.
    DemoVisit("ac2", "ines", 0, 9.1, "warm in the map store again", status="open",
              day=Day(91, 75.4, 62.5, {"undercharge": 0.49}),
              seen=saw(condenser_air_proven=True, oil_stain=True), running=35, skip=frozenset({"discharge_line_temp"}),
              note="Filter changed by the caretaker, he says."),
    DemoVisit("cheese", "tobin", 0, 10.75, "box at 46 and rising", status="open",
              day=Day(75, 46.2, None, {"undercharge": 0.55}), skip=frozenset({"box_air_temp"}),  # its own course has it
              seen=saw(condenser_air_proven=True, sight_glass_bubbles=True), running=40),
    DemoVisit("pottery", "wren", 0, 11.5, "air feels weak since the glaze firing", status="open",
              day=Day(83, 76, 63, {"low_evaporator_airflow": 0.55}),
              seen=saw(filter_dirty=True), running=18, skip=frozenset({"discharge_line_temp"}), measured=KILN_ROOM),
    DemoVisit("rtu1", "tobin", 0, 13.0, "nothing runs since the fire drill", status="open", running=None,
              measured=STILL_SINCE_THE_DRILL),
    DemoVisit("hp1", "ines", 0, 14.5, "reading room stuffy", status="planned", along="silas"),
)  # fmt: skip
STILL_OPEN = (
    # A repair that runs over two days: recovered, mended, held overnight, evacuated, being weighed in.
    DemoVisit("ice", "tobin", 1, 8, "ice takes two days again", status="open",
              day=Day(70, -2, None, {"undercharge": 0.6}),
              seen=(*PROVEN, *saw(sight_glass_bubbles=True, oil_stain=True)), running=40),
    DemoVisit("rtu2", "maren", 3, 15.5, "not cold enough; decide with the port", status="open",
              day=Day(83, 81, 70.5, {"inefficient_compressor": 0.7}), seen=PROVEN, measured=OLD_ROOFTOP),
)  # fmt: skip


class NotTheDemo(RuntimeError):
    """The database is somebody's: it holds shops, and the demo's is not the only one."""


def is_empty(owner: Connection) -> bool:
    """Whether there is no shop yet.

    Raises
    ------
    NotTheDemo
    """
    shops = owner.execute(select(Shop.id).where(Shop.practice_of.is_(None))).scalars().all()
    if shops and list(shops) != [SHOP_ID]:
        raise NotTheDemo("This database holds a shop that is not the demo's; the demo leaves it alone. Give it an empty one.")
    return not shops


def seed(owner: Connection, today: datetime) -> None:
    """Put the whole demo shop into an empty database, as its owner."""
    see_shop(owner, SHOP_ID)
    owner.execute(insert(Shop).values(id=SHOP_ID, name="Saltmarsh Mechanical", town="Tern Point", settings=SETTINGS))
    password_hash = hash_password(PASSWORD)
    for login, name, role in PEOPLE:
        owner.execute(
            insert(Person).values(
                shop_id=SHOP_ID, id=_id("person", login), login=login, name=name, role=role, password_hash=password_hash
            )
        )
    for name, address in SITES.items():
        owner.execute(insert(Site).values(shop_id=SHOP_ID, id=_id("site", name), name=name, address=address))
    for unit in UNITS:
        owner.execute(
            insert(Unit).values(
                shop_id=SHOP_ID, id=_id("unit", unit.key), site_id=_id("site", unit.site), tag=unit.tag,
                serves=unit.serves, maker=unit.maker, model=unit.model, serial=unit.serial, made_year=unit.made,
                facts=unit.facts, card_notes=unit.notes,
            )
        )  # fmt: skip
    add_register(owner, SHOP_ID, _id, today)
    add_label_photo(owner, SHOP_ID, _id, _id("person", "maren"), today - timedelta(days=9))
    add_faces(owner, SHOP_ID, _id, _id("person", "tobin"), today)
    add_cylinders(owner, _someone("maren"), _id, today)
    for visit in (*PAST, *STILL_OPEN, *TODAY):
        add_visit(owner, visit, today)
    for key, days, weeks, symptom, words in SAID_LATER:
        visit = next(one for one in PAST if (one.unit, one.days) == (key, days))
        say_held(owner, _someone("maren"), visit.id, not symptom, symptom, words, _moment(today, days - 7 * weeks, 10))
    undecided = next(visit for visit in STILL_OPEN if visit.unit == "rtu2")
    add_office(owner, _someone("maren"), _id, undecided.id, today)
    rinsed = next(visit for visit in TODAY if visit.unit == "rtu1")
    choose(owner, SHOP_ID, rinsed.id, Chosen("", frozenset(body.photo for body in photographed(_id))))


def plan_today(owner: Connection, today: datetime) -> None:
    """Calls for a new day, so that the demo's board is never empty; does nothing where today has calls."""
    midnight = today.replace(hour=0, minute=0, second=0, microsecond=0)
    planned = select(func.count()).select_from(Visit).where(Visit.planned_for >= midnight)
    if owner.execute(planned).scalar_one():
        return
    for demo in TODAY:
        owner.execute(
            insert(Visit).values(
                shop_id=SHOP_ID, id=_id("visit", demo.unit, today.date(), demo.hour),
                call_id=_id("visit", demo.unit, today.date(), demo.hour), unit_id=_id("unit", demo.unit),
                technician_id=_id("person", demo.who), planned_for=_moment(today, 0, demo.hour), complaint=demo.complaint,
                along_id=_along(demo),
            )
        )  # fmt: skip


def _along(demo: DemoVisit) -> UUID | None:
    return _id("person", demo.along) if demo.along else None


def _moment(today: datetime, days: int, hour: float) -> datetime:
    midnight = today.replace(hour=0, minute=0, second=0, microsecond=0)
    return midnight - timedelta(days=days) + timedelta(hours=hour)


def add_visit(owner: Connection, demo: DemoVisit, today: datetime) -> None:
    """One visit with its entries, written as a technician would have written them."""
    planned = _moment(today, demo.days, demo.hour)
    repairs = demo.unit == "ice" and demo.status == "open"
    if repairs:  # told back from now, so that what is live fits what was written
        planned = today - timedelta(hours=REPAIR_HOURS)
    facts = next(unit.facts for unit in UNITS if unit.key == demo.unit)
    owner.execute(
        insert(Visit).values(
            shop_id=SHOP_ID, id=demo.id, call_id=demo.id, unit_id=_id("unit", demo.unit), technician_id=_id("person", demo.who),
            planned_for=planned, complaint=demo.complaint, status="planned", along_id=_along(demo),
        )
    )  # fmt: skip
    someone = _someone(demo.who)
    bodies = [*said_and_done(demo.unit, demo.days, demo.status, today)]
    bodies += [*readings_for(facts_of(facts), demo.found), *demo.mended] if demo.found else []
    # A weight that went in or out makes the readings before it readings of before.
    weights = weighed(demo.unit, demo.days, _id) if demo.status == "closed" else []
    bodies += weights
    settling_from = len(bodies)
    bodies += _bodies(demo, facts)
    if demo.status == "closed":
        bodies += [RepeatBody(failed_test=_id("entry", demo.id, i), passed=True)
                   for i, body in enumerate(bodies[:settling_from]) if isinstance(body, FailedTestBody)]  # fmt: skip
        bodies += [
            FindingEndBody(what=seen.what, circuit=seen.circuit, way=FindingWay.ACCEPTED, reason=demo.summary)
            for seen in demo.seen if seen.state is State.YES and seen.what in FINDINGS
        ]  # fmt: skip
        outcome = demo.outcome or (Outcome.FIXED if demo.found or weights else Outcome.NOTHING_WRONG)
        bodies.append(
            ClosingBody(outcome=outcome, summary=demo.summary, override="proven by the readings before leaving")
        )
    # Nothing is written later than now, whatever hour the demo is started at.
    settles = timedelta(minutes=25) if weights or demo.found else timedelta()
    begun = min(planned + timedelta(minutes=8), today - settles - timedelta(minutes=2, seconds=25 * len(bodies)))
    for i, body in enumerate(bodies):
        settled = settles if i >= settling_from else timedelta()
        append(owner, someone, demo.id, Sent(_id("entry", demo.id, i), body), begun + settled + timedelta(seconds=25 * i))
    hot = demo.unit == "cheese" and demo.status == "open"
    for i, (minutes_ago, body) in enumerate(hot_cooler() if hot else ()):
        append(owner, someone, demo.id, Sent(_id("entry", "cheese", i), body), today - timedelta(minutes=minutes_ago))
    for hours, name, body in repair(_id) if repairs else ():
        append(owner, someone, demo.id, Sent(_id("entry", "ice", name), body), today - timedelta(hours=hours))


def _someone(login: str) -> Someone:
    name, role = next((name, role) for known, name, role in PEOPLE if known == login)
    return Someone(SHOP_ID, "Saltmarsh Mechanical", "common", _id("person", login), name, role, "F", "psi", "auto")


def _bodies(demo: DemoVisit, facts: dict[str, Any]) -> list[Body]:
    if demo.day is None:
        return [*demo.measured]
    winter = demo.day.outdoor_f < 55 and "heat_pump" in facts["kind"]
    judged_as = facts_of(facts | {"mode": "heating"} if winter else facts)
    bodies: list[Body] = [NoteBody(text=demo.note)] if demo.note else []
    bodies += [ModeBody(mode=Mode.HEATING)] if winter else []
    bodies += readings_for(judged_as, demo.day, demo.skip)
    bodies += [*demo.seen, *demo.measured]
    if demo.running is not None:
        bodies.append(ClockBody(event=ClockEvent.STARTED, minutes_ago=demo.running))
    return bodies


@dataclass(frozen=True, slots=True)
class Fed:
    """A visit that simulated probes feed: a token for them, and what they are told to play."""

    visit: UUID
    token: str
    options: tuple[str, ...]


_PLAYED = {
    # A heat pump with a weak blower that is short of charge.
    "hp1": ("--fault", "low_evaporator_airflow=0.64", "--fault", "undercharge=0.47", "--outdoor", "88", "--entering", "76",
            "--wet-bulb", "63", "--minutes-running", "9"),
    # The rooftop that is being decided on, with a power meter: one pair lies low, a belt slips.
    "rtu2": ("--fault", "inefficient_compressor=0.7", "--outdoor", "83", "--entering", "81", "--wet-bulb", "70.5",
             "--minutes-running", "25", "--meter", "3", "--supply", "unbalanced", "--slip", "0.04"),
    # The freezer that is being charged: it stands still, a cylinder is on the scale.
    "ice": ("--unit-off", "--vacuum", "wet", "--cylinder", str(POUR_GROSS_KG - 1.6), "--pour", "0.12", "--pour-most", "4.4"),
}  # fmt: skip


def fed_visits(owner: Connection) -> list[Fed]:
    """Visits that live probes feed, the newest of each unit that is not closed."""
    see_shop(owner, SHOP_ID)
    found = []
    for unit, options in _PLAYED.items():
        visit = owner.execute(
            select(Visit.id)
            .where(Visit.shop_id == SHOP_ID, Visit.unit_id == _id("unit", unit), Visit.status != "closed")
            .order_by(Visit.planned_for.desc())
        ).first()
        if visit is not None:
            token = secrets.token_urlsafe(24)
            samples.make_token(owner, token_hash(token), visit.id, _id("person", "maren"), timedelta(days=2))
            found.append(Fed(visit.id, token, options))
    return found
