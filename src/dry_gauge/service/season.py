"""What the season asks of the shop: what is due by month, which neighbours nobody planned, what to bring for the next calls."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from itertools import groupby
from typing import Any
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.cleaning.coil import CLEANER_WORDS
from dry_gauge.core.local_time import day_of
from dry_gauge.core.office.hours import bounds
from dry_gauge.core.season import PART_WORDS, SeasonPart
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import in_time
from dry_gauge.notebook.subjects.agenda import FollowUpSort
from dry_gauge.notebook.subjects.cleaning import Cleaning
from dry_gauge.notebook.subjects.moving_air import MovingAir
from dry_gauge.present.scene import FollowUpRow
from dry_gauge.present.visit import VisitRow
from dry_gauge.service.cylinders import stock
from dry_gauge.service.notebooks import facts_of, state_of
from dry_gauge.service.today import today_here
from dry_gauge.store.cylinders import all_held
from dry_gauge.store.follow_ups import open_follow_ups
from dry_gauge.store.planning import planned_follow_ups
from dry_gauge.store.visits import all_units, visits_between, visits_of_unit

_VISITS_BACK = 8
_WETS = (PART_WORDS[SeasonPart.OUTDOOR_COIL], PART_WORDS[SeasonPart.INDOOR_COIL])
_DAYS_AHEAD = 2


@dataclass(frozen=True, slots=True)
class Month:
    """One month of what is due; what was due before today stands in the first."""

    words: str
    rows: Sequence[FollowUpRow]
    overdue: int


@dataclass(frozen=True, slots=True)
class Kit:
    """What to bring for one call."""

    visit: VisitRow
    lines: Sequence[str]


@dataclass(frozen=True, slots=True)
class SeasonView:
    """The season as it stands. `neglected` are units of sites where others are planned and they are not."""

    today: date
    months: Sequence[Month]
    neglected: Sequence[Any]
    kits: Sequence[Kit]
    planned: frozenset[UUID]
    """Of what is due, that for which a call is planned."""


def season(connection: Connection, reader: Reader, now: datetime) -> SeasonView:
    """Due by month, neighbours without a plan, kits of the next calls."""
    due = open_follow_ups(connection, sort=FollowUpSort.SEASON)
    units = all_units(connection)
    planned = {row.unit_id for row in due}
    sites = {unit.site_id for unit in units if unit.id in planned}
    calls = visits_between(connection, *bounds(day_of(now), _DAYS_AHEAD))
    open_calls = [visit for visit in calls if visit.status != "closed"]
    held = [one for one in stock(all_held(connection)) if one.virgin_g > 0]
    on_hand = {one.refrigerant: reader.say("weight", one.virgin_g * GRAM_KG) for one in held}
    return SeasonView(
        day_of(now),
        _months(due, day_of(now)),
        [unit for unit in units if unit.site_id in sites and unit.id not in planned],
        [Kit(visit, _kit_for(connection, visit, due, on_hand)) for visit in open_calls],
        planned_follow_ups(connection),
    )


def _months(due: Sequence[FollowUpRow], today: date) -> list[Month]:
    def month(row: FollowUpRow) -> tuple[int, int]:
        day = max(row.due, today)
        return day.year, day.month

    return [
        Month(f"{date(*key, 1):%B %Y}", rows, sum(row.due < today for row in rows))
        for key, rows in ((key, list(group)) for key, group in groupby(due, key=month))
    ]


def _kit_for(connection: Connection, visit: VisitRow, due: Sequence[FollowUpRow], on_hand: Mapping[str, str]) -> list[str]:
    """What a unit's history says to bring."""
    facts = facts_of(visit.facts)
    filters: dict[str, str] = {}
    cleaner = ""
    for earlier in reversed(visits_of_unit(connection, visit.unit_id, _VISITS_BACK)):
        state = state_of(connection, earlier)
        for one in in_time(state[MovingAir].filters.values()):
            if one.body.size:
                filters[one.body.place] = f"{one.body.count} filter{'s' if one.body.count > 1 else ''} {one.body.size}"
        for done in in_time(state[Cleaning].cleanings.values()):
            cleaner = f"{CLEANER_WORDS[done.body.cleaner]} for the {done.body.coil.value}"
    lines = [*filter(None, (visit.bring,)), *filters.values()]
    today = max(day_of(visit.planned_for), today_here())
    own = [row.what for row in due if row.unit_id == visit.unit_id and row.due <= today + timedelta(days=31)]
    lines += own
    if cleaner:
        lines.append(cleaner.capitalize())
    if any(part in words.lower() for words in own for part in _WETS):
        lines.append("Water, hose, nozzle, bags, ladder to both sides")
    if any(PART_WORDS[SeasonPart.BELT] in words.lower() for words in own):
        lines.append("The belt by its number")
    return [*lines, f"{facts.refrigerant.name}: {on_hand.get(facts.refrigerant.name, 'none')} to charge with on hand"]
