"""Leak: places to search, the likeliest first, and what was found."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.core.sealed.leak_search import Method, Ranked, ranked_places, usable_methods
from dry_gauge.core.visit.cautions import Caution, cautions_at
from dry_gauge.core.visit.survey import Place, PlaceState
from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.kind import Kept
from dry_gauge.notebook.subjects.hold import Holds
from dry_gauge.notebook.subjects.leak import LeakPlaceBody, Leaks
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.movements import emptied_at
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.present.scene import FollowUpRow, Scene
from dry_gauge.present.stops import stops_of
from dry_gauge.present.visit import VisitView

SPOT_LABELS = {
    "evaporator": "Evaporator",
    "suction": "Suction side",
    "compressor": "Compressor",
    "condenser": "Condenser",
    "liquid": "Liquid side",
}


@dataclass(frozen=True, slots=True)
class LeakView:
    """Places by rank and by spot; `found` is what the loop is drawn from."""

    ranked: Sequence[Ranked]
    spots: Mapping[str, Sequence[Ranked]]
    failed: Sequence[str]
    leaks: Sequence[Kept[LeakPlaceBody]]
    found: Sequence[PlaceState]
    methods: Sequence[tuple[Method, bool]]
    """Ways to search, and whether the unit as it stands leaves each any use."""
    booked: Sequence[FollowUpRow]
    braze_cautions: Sequence[Caution]
    """What is said where a joint is made new; not for a nut that is tightened."""


def leak(scene: Scene) -> LeakView:
    """The search as it stands."""
    view, leaks = scene.view, scene.view.state[Leaks]
    states = view.state[Observations].states()
    oil = ("suction",) if states.get("oil_stain") is State.YES else ()
    ranked = ranked_places(
        view.facts,
        states,
        scene.past.age_years,
        oil,
        scene.past.leaked_before,
        leaks.with_result("passed"),
        scene.past.part_years,
    )
    spots: dict[str, list[Ranked]] = {}
    for one in ranked:
        spots.setdefault(one.place.spot, []).append(one)
    spots = dict(sorted(spots.items(), key=lambda item: -sum(one.share for one in item[1])))
    return LeakView(
        ranked,
        spots,
        leaks.with_result("failed"),
        leaks.to_mend,
        _searched(leaks, spots),
        usable_methods(_conditions(view)),
        scene.past.booked,
        cautions_at({"braze"}, view.facts, ()),
    )


def _conditions(view: VisitView) -> set[str]:
    """What the visit knows that spoils a way of searching: a unit that stands, and one without pressure inside."""
    empty = emptied_at(view.state) is not None or any(stop.code == "no_liquid" for stop in stops_of(view))
    known = {"not_running": bool(view.state[Ledger].locked), "no_pressure": empty and not view.state[Holds].on}
    return {name for name, so in known.items() if so}


def _searched(leaks: Leaks, spots: Mapping[str, Sequence[Ranked]]) -> list[PlaceState]:
    """How far each part of the loop is searched, and what failed there."""
    states = []
    failed = set(leaks.with_result("failed"))
    for spot, ranked in spots.items():
        codes = tuple(one.place.code for one in ranked)
        found = tuple(one.place.label for one in ranked if one.place.code in failed)
        place = Place(spot, SPOT_LABELS.get(spot, spot), codes)
        states.append(PlaceState(place, sum(code in leaks.searched for code in codes), found))
    return states


def docked(view: VisitView) -> tuple[str, str]:
    """What is to mend, or how far the search is, in a line."""
    leaks = view.state[Leaks]
    whole = len(ranked_places(view.facts, {}))
    places = f"{len(leaks.searched)} of {whole} places searched"
    if leaks.to_mend:
        return f"{len(leaks.to_mend)} to mend", places
    return ("All leaks found are mended" if leaks.cures else "No leak found yet"), places
