"""A visit's page and its parts: the same values whether the whole page is asked for, a fragment, or a live stream."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.charge.mass import forms
from dry_gauge.core.judgement.checks import UNIT_STANDS
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.visit.teach import limits_of
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.core.words import Reader
from dry_gauge.notebook.subjects.readings import tags_of
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.present.account import Account, account_of
from dry_gauge.present.judge import judge, likelihood_words
from dry_gauge.present.lists import banner_of, lists_of, progress_of
from dry_gauge.present.rows import row_of
from dry_gauge.present.scene import Scene
from dry_gauge.present.settling import settling_of
from dry_gauge.present.stops import stops_of
from dry_gauge.present.teach import taught
from dry_gauge.present.visit import VisitView
from dry_gauge.service.notebooks import facts_of
from dry_gauge.service.opening import Next
from dry_gauge.service.scenes import scene_of
from dry_gauge.service.settings import shop_settings
from dry_gauge.store.people import Someone
from dry_gauge.store.planning import workers
from dry_gauge.web.drawings import sort_of
from dry_gauge.web.render import Fragment, visit_url
from dry_gauge.web.stations import BY_NAME, STATIONS
from dry_gauge.web.stations.pictures import shown
from dry_gauge.web.stations.station import Station
from dry_gauge.web.timeline import photo_choices

_CHANGES_NOTHING_JUDGED = frozenset({"note", "photo", "caution", "claim", "task", "task_done"})


def pages_of(view: VisitView) -> list[str]:
    """The addresses of its stations and of the unit's card: what is kept for where there is no signal."""
    visit = f"/visits/{view.visit.id}"  # as one that is open is linked
    return [visit, *_stations_of(view.visit.id, view.facts), f"/units/{view.visit.unit_id}"]


def pages_before(visit: Next) -> list[str]:
    """The same of a visit that is not opened yet."""
    stations = _stations_of(visit.visit_id, facts_of(dict(visit.facts)))
    return [*(f"{address}&opens={visit.unit_id}" for address in stations), f"/units/{visit.unit_id}"]


def _stations_of(visit_id: UUID, facts: UnitFacts) -> list[str]:
    return [visit_url(visit_id, row.name) for row in STATIONS if row.stop and not row.leads_to and row.fits(facts)]


@dataclass
class VisitPage:
    """One visit as someone looks at it, from one station."""

    connection: Connection
    view: VisitView
    someone: Someone
    reader: Reader
    station: Station
    circuit: int = 1
    size: str | None = None
    """The one size of page that is shown; both where that is not known."""

    @property
    def may_write(self) -> bool:
        """Whether forms are offered."""
        return self.someone.may_write and self.view.visit.status != "closed"

    @cached_property
    def scene(self) -> Scene:
        """What the station looks at."""
        return scene_of(self.connection, self.view, self.someone, self.reader, self.station.needs, self.circuit)

    @property
    def _several(self) -> bool:
        """Whether it has to be said of which circuit something is."""
        return self.view.has_several_circuits or self.circuit > 1

    @cached_property
    def own(self) -> Scene:
        """The same as the station has it: a desk of the sealed work sees one circuit."""
        return self.scene.of_circuit() if self.station.group else self.scene

    @cached_property
    def account(self) -> Account | None:
        """The account of refrigerant, where the station shows it."""
        return account_of(self.scene) if self.station.weighs else None

    @cached_property
    def shows(self) -> Any:
        """The station's own view."""
        return self.station.shows(self.own)

    @cached_property
    def common(self) -> dict[str, Any]:
        """What every part of the page needs."""
        return {
            "view": self.view,
            "visit": self.view.visit,
            "units": self.reader,
            "may_write": self.may_write,
            "station": self.station,
            "here": self.station.name,
            "rail_here": self.station.marked,
            "desks": [one for one in STATIONS if one.group and one.group == self.station.group],
            "circuit": self.circuit,
            "circuits": self.view.circuits,
            "most_circuits": max(self.view.most_circuits, self.circuit),
            "several": self._several,
            "which": f", circuit {self.circuit}" if self._several else "",
            "call": self.view.kept.call,
            "stops": stops_of(self.view),
            "under_condition": bool(tags_of(self.view.state)),
        }

    @property
    def progress(self) -> dict[str, Any]:
        """What a reading may change besides the judgement: how far each station is, proofs, first checks."""
        fits = [row for row in STATIONS if row.fits(self.view.facts) or row.name == self.station.name]
        rail = [(row, row.stop(self.view)) for row in fits if row.stop]
        pages = [row for row, _ in rail if not row.leads_to]
        here = next(i for i, row in enumerate(pages) if row.name == self.common["rail_here"])
        return {
            **self.common,
            "rail": rail,
            "onward": pages[here + 1] if here + 1 < len(pages) else None,
            **shown(progress_of(self.view, self.reader)),
            **shown(banner_of(self.view)),
        }

    @cached_property
    def lists(self) -> dict[str, Any]:
        """What the lists of all stations show."""
        return {
            **self.progress,
            **self.teaching,
            "photo_choices": photo_choices(self.view, self.reader),
            **shown(lists_of(self.scene, (self.station.name, *self.station.moments))),
        }

    @property
    def teaching(self) -> Mapping[str, Any]:
        """What a helper sees before a step with consequence; nobody else does."""
        if not self.someone.helps:
            return {"taught": (), "who_stand_by": ()}
        limits = limits_of(shop_settings(self.connection).helper_limits)
        return {
            "taught": taught(self.scene, self.station.steps, limits),
            "who_stand_by": [one.name for one in workers(self.connection)],
        }

    @cached_property
    def judged(self) -> dict[str, Any]:
        """The judgement of the circuit that is shown."""
        return {
            **self.common,
            **shown(judge(self.view, self.reader, self.circuit)),
            "sort": sort_of(self.view.facts),
            "UNIT_STANDS": UNIT_STANDS,
            "likelihood": likelihood_words,
        }

    @cached_property
    def station_values(self) -> dict[str, Any]:
        """What the station's own panels show, its picture among it."""
        values = {
            **self.lists,
            **self.station.offers,
            **shown(self.account),
            **shown(self.shows),
            "account": self.account,
            "view": self.own.view,
            "forms": forms,
            "weight_unit": "kg" if self.scene.metric else "lb",
        }
        return {**values, **self.picture, "docked": self.docked}

    @cached_property
    def docked(self) -> tuple[str, str] | None:
        """The one thing to know and what comes next, where the station says them itself."""
        said = self.station.docked(self.own, self.shows, self.account) if self.station.docked else None
        if said is None:
            return None
        words, after = said
        where = f"Circuit {self.circuit}" if self.station.group and self._several else ""
        return words, ". ".join(filter(None, (where, after)))

    @cached_property
    def picture(self) -> Mapping[str, Any]:
        """The drawing in the middle."""
        return self.station.pictured(self)

    # -- fragments -------------------------------------------------------------

    def judgement(self) -> list[Fragment]:
        """Judgement, dock and picture; nothing at a desk that shows none of them."""
        if self.station.group:
            return []
        values = {**self.judged, **self.picture, "docked": self.docked}
        parts: list[Fragment] = [("visits/_judge.html", values), ("visits/_dock.html", values)]
        if self.station.pictures_judged:
            parts.append((self.station.picture, values))
        return parts

    def after_reading(self) -> list[Fragment]:
        """What a reading changes: the judgement, and how far things are."""
        values = self.progress
        if self.station.name in _SETTLES:
            values = {**values, "settling": settling_of(self.view, self.circuit)}
        beside = [(name, {**values, **shown(self.shows)}) for name in self.station.beside_reading]
        return [*self.judgement(), ("visits/_after_reading.html", values), *self.outdated(), *beside]

    def outdated(self) -> list[Fragment]:
        """What stands beside fields that have to be read again: another's reading may have made theirs old."""
        rows = [row_of(QUANTITIES[name], self.view, self.reader, self.circuit) for name in self.view.outdated(self.circuit)]
        parts: list[Fragment] = [("visits/_stale_quietly.html", {**self.common, "rows": rows, "sights": ()})] if rows else []
        if self.view.state[Running].start_is_assumed:  # since a reading that came after a lock-out
            parts.append(("visits/_said_clock.html", {**self.common, "event": "started", "said_oob": True, "follows": True}))
        return parts

    def everything(self, kind: str = "") -> list[Fragment]:
        """Whatever may have changed, besides the fields that somebody types into."""
        parts = [] if kind in _CHANGES_NOTHING_JUDGED else self.judgement()
        parts += [("visits/_lists.html", self.lists), *self.outdated()]
        for name in self.station.beside:
            parts.append((name, {**self.lists, **shown(self.shows), **self.station.offers}))
        if self.station.group:
            values = self.station_values
            names = (self.station.panel, self.station.picture, self.station.side, "visits/_dock.html")
            parts += [(name, values) for name in names]
        return parts

    def live(self) -> list[Fragment]:
        """What live probes change at a desk."""
        return [(name, self.station_values) for name in self.station.live]


_SETTLES = frozenset(station.name for station in BY_NAME.values() if "stations/read/settling.html" in station.live)


def page_values(page: VisitPage) -> Mapping[str, Any]:
    """Everything a visit's page shows, besides its timeline."""
    return {**page.judged, **page.station_values}
