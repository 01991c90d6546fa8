"""Saltmarsh Mechanical, a made-up shop in the harbour town of Tern Point: its people, units, past visits and today.

Everyone and everything here is invented.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, func, insert, select

from dry_gauge.core.visit.findings import FINDINGS
from dry_gauge.core.vocabulary import Mode, State
from dry_gauge.demo.box import hot_cooler
from dry_gauge.demo.calls import PAST, SAID_LATER, STILL_OPEN, TODAY, DemoVisit
from dry_gauge.demo.coils import add_faces, photographed
from dry_gauge.demo.ids import SHOP_ID, ident
from dry_gauge.demo.office import SETTINGS, add_office
from dry_gauge.demo.plates import add_label_photo
from dry_gauge.demo.readings import readings_for
from dry_gauge.demo.register import add_register, said_and_done
from dry_gauge.demo.sealed import POUR_GROSS_KG, REPAIR_HOURS, add_cylinders, repair, weighed
from dry_gauge.demo.units import SITES, UNITS
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.actions import ActionBody
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.closing import ClosingBody, Outcome
from dry_gauge.notebook.subjects.failed_tests import FailedTestBody, RepeatBody
from dry_gauge.notebook.subjects.findings import FindingEndBody, FindingWay
from dry_gauge.notebook.subjects.mode import ModeBody
from dry_gauge.notebook.subjects.remarks import NoteBody
from dry_gauge.notebook.subjects.running import ClockEvent
from dry_gauge.service.append import Sent, append
from dry_gauge.service.notebooks import facts_of
from dry_gauge.service.passwords import hash_password
from dry_gauge.service.planning import say_held
from dry_gauge.service.probes import new_token, token_hash
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
                shop_id=SHOP_ID, id=ident("person", login), login=login, name=name, role=role, password_hash=password_hash
            )
        )
    for name, address in SITES.items():
        owner.execute(insert(Site).values(shop_id=SHOP_ID, id=ident("site", name), name=name, address=address))
    for unit in UNITS:
        owner.execute(
            insert(Unit).values(
                shop_id=SHOP_ID,
                id=ident("unit", unit.key),
                site_id=ident("site", unit.site),
                tag=unit.tag,
                serves=unit.serves,
                maker=unit.maker,
                model=unit.model,
                serial=unit.serial,
                made_year=unit.made,
                facts=unit.facts,
                card_notes=unit.notes,
            )
        )
    add_register(owner, today)
    add_label_photo(owner, ident("person", "maren"), today - timedelta(days=9))
    add_faces(owner, ident("person", "tobin"), today)
    add_cylinders(owner, _someone("maren"), today)
    for visit in (*PAST, *STILL_OPEN, *TODAY):
        add_visit(owner, visit, today)
    for key, days, weeks, symptom, words in SAID_LATER:
        visit = next(one for one in PAST if (one.unit, one.days) == (key, days))
        say_held(owner, _someone("maren"), visit.id, not symptom, symptom, words, _moment(today, days - 7 * weeks, 10))
    undecided = next(visit for visit in STILL_OPEN if visit.unit == "rtu2")
    add_office(owner, _someone("maren"), undecided.id, today)
    rinsed = next(visit for visit in TODAY if visit.unit == "rtu1")
    choose(owner, SHOP_ID, rinsed.id, Chosen("", frozenset(body.photo for body in photographed())))


def plan_today(owner: Connection, today: datetime) -> None:
    """Calls for a new day, so that the demo's board is never empty; does nothing where today has calls."""
    midnight = today.replace(hour=0, minute=0, second=0, microsecond=0)
    planned = select(func.count()).select_from(Visit).where(Visit.planned_for >= midnight)
    if owner.execute(planned).scalar_one():
        return
    for demo in TODAY:
        owner.execute(
            insert(Visit).values(
                shop_id=SHOP_ID,
                id=ident("visit", demo.unit, today.date(), demo.hour),
                call_id=ident("visit", demo.unit, today.date(), demo.hour),
                unit_id=ident("unit", demo.unit),
                technician_id=ident("person", demo.who),
                planned_for=_moment(today, 0, demo.hour),
                complaint=demo.complaint,
                along_id=_along(demo),
            )
        )


def _along(demo: DemoVisit) -> UUID | None:
    return ident("person", demo.along) if demo.along else None


def _moment(today: datetime, days: int, hour: float) -> datetime:
    midnight = today.replace(hour=0, minute=0, second=0, microsecond=0)
    return midnight - timedelta(days=days) + timedelta(hours=hour)


def add_visit(owner: Connection, demo: DemoVisit, today: datetime) -> None:
    """One visit with its entries, written as a technician would have written them."""
    planned = _moment(today, demo.days, demo.hour)
    if _is_repair(demo):  # told back from now, so that what is live fits what was written
        planned = today - timedelta(hours=REPAIR_HOURS)
    owner.execute(
        insert(Visit).values(
            shop_id=SHOP_ID,
            id=demo.id,
            call_id=demo.id,
            unit_id=ident("unit", demo.unit),
            planned_for=planned,
            technician_id=ident("person", demo.who),
            complaint=demo.complaint,
            status="planned",
            along_id=_along(demo),
        )
    )
    someone = _someone(demo.who)
    for at, key, body in (*_written(demo, planned, today), *_just_now(demo, today)):
        append(owner, someone, demo.id, Sent(key, body), at)


def _is_repair(demo: DemoVisit) -> bool:
    return demo.unit == "ice" and demo.status == "open"


def _written(demo: DemoVisit, planned: datetime, today: datetime) -> Iterator[tuple[datetime, UUID, Body]]:
    """What was found and done, a while to settle, and what was read and closed then: never later than now."""
    facts = next(unit.facts for unit in UNITS if unit.key == demo.unit)
    found = [*said_and_done(demo.unit, demo.days, demo.status, today)]
    found += [*readings_for(facts_of(facts), demo.found), *demo.mended] if demo.found else []
    # A weight that went in or out makes the readings before it readings of before.
    weights = weighed(demo.unit, demo.days) if demo.status == "closed" else []
    found += weights
    left = list(_bodies(demo, facts))
    left += _closing(demo, found, mended=bool(demo.found or weights)) if demo.status == "closed" else []
    waits = weights or demo.found or any(isinstance(body, ActionBody) for body in found)
    settles = timedelta(minutes=25) if waits else timedelta()
    length = settles + timedelta(minutes=2, seconds=25 * (len(found) + len(left)))
    begun = min(planned + timedelta(minutes=8), today - length)
    for i, body in enumerate([*found, *left]):
        settled = settles if i >= len(found) else timedelta()
        yield begun + settled + timedelta(seconds=25 * i), ident("entry", demo.id, i), body


def _closing(demo: DemoVisit, found: Sequence[Body], *, mended: bool) -> list[Body]:
    """What failed is repeated, what was seen beside it is answered, and the visit is closed."""
    repeats = [
        RepeatBody(failed_test=ident("entry", demo.id, i), passed=True)
        for i, body in enumerate(found)
        if isinstance(body, FailedTestBody)
    ]
    answers = [
        FindingEndBody(what=seen.what, circuit=seen.circuit, way=FindingWay.ACCEPTED, reason=demo.summary)
        for seen in demo.seen
        if seen.state is State.YES and seen.what in FINDINGS
    ]
    outcome = demo.outcome or (Outcome.FIXED if mended else Outcome.NOTHING_WRONG)
    override = "proven by the readings before leaving"
    return [*repeats, *answers, ClosingBody(outcome=outcome, summary=demo.summary, override=override)]


def _just_now(demo: DemoVisit, today: datetime) -> Iterator[tuple[datetime, UUID, Body]]:
    """What is going on while the demo is looked at: a box that warms, and a repair."""
    if demo.unit == "cheese" and demo.status == "open":
        for i, (minutes_ago, body) in enumerate(hot_cooler()):
            yield today - timedelta(minutes=minutes_ago), ident("entry", "cheese", i), body
    if _is_repair(demo):
        for hours, name, body in repair():
            yield today - timedelta(hours=hours), ident("entry", "ice", name), body


def _someone(login: str) -> Someone:
    name, role = next((name, role) for known, name, role in PEOPLE if known == login)
    return Someone(SHOP_ID, "Saltmarsh Mechanical", "common", ident("person", login), name, role, "F", "psi", "auto")


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
            .where(Visit.shop_id == SHOP_ID, Visit.unit_id == ident("unit", unit), Visit.status != "closed")
            .order_by(Visit.planned_for.desc())
        ).first()
        if visit is not None:
            token = new_token()
            samples.make_token(owner, token_hash(token), visit.id, ident("person", "maren"), timedelta(days=2))
            found.append(Fed(visit.id, token, options))
    return found
