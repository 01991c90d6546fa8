"""A unit over its visits: its life in one drawing, and each gap in a small one."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime, time
from itertools import product
from typing import Any

from markupsafe import Markup

from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.core.local_time import local, local_at
from dry_gauge.core.vocabulary import Mode
from dry_gauge.core.words import Reader
from dry_gauge.drawing.life import Call, Charged, Life, Own, PartMoved, life_svg
from dry_gauge.drawing.over_visits import Point, over_visits_svg
from dry_gauge.notebook.subjects.closing import OUTCOME_WORDS, Outcome
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.present.visit import VisitView, circuit_of
from dry_gauge.service.cylinders import gained_g
from dry_gauge.store.cylinders import Line

_SHOWN = ("superheat", "subcooling", "air_split", "condenser_split")


def trends_of(views: Sequence[VisitView], reader: Reader) -> list[Markup]:
    """One drawing a gap that was read on two visits or more; of a heat pump one for each mode, which nobody compares."""
    found = []
    modes = sorted({view.facts.mode for view in views})
    for name, mode in product(_SHOWN, modes):
        points = [one for view in reversed(views) if view.facts.mode is mode and (one := _point(view, name)) is not None]
        if len(points) >= 2:
            label = "Air rise" if name == "air_split" and mode is Mode.HEATING else GAP_LABELS[name]
            drawing = over_visits_svg(f"{label} in {mode}" if len(modes) > 1 else label, points, reader, f"visits-{name}-{mode}")
            found.append(Markup(drawing))  # noqa: S704
    return found


def _point(view: VisitView, name: str) -> Point | None:
    judged = circuit_of(view, 1)
    derived = judged.derived.get(name) if judged else None
    if judged is None or derived is None:
        return None
    target = judged.targets.get(name)
    band = (target.low_k, target.high_k) if target else None
    return Point(_moment(view), derived.value, derived.uncertainty, band)


def _moment(view: VisitView) -> datetime:
    return view.state[Running].read_at or view.visit.planned_for


def life_of(
    views: Sequence[VisitView],
    parts: Sequence[Any],
    lines: Sequence[Line],
    own: Sequence[Any],
    full_g: float | None,
    reader: Reader,
) -> Markup:
    """All that is known of a unit along one line; empty where nothing ever happened to it.

    Parameters
    ----------
    own : sequence
        Rows of `at`, `circuit` and `own_k`, how far each gap was from what its sort shows.
    """
    calls = [
        Call(
            view.visit.closed_at or view.visit.planned_for,
            view.visit.outcome or view.visit.status,
            _ended(view),
            f"/visits/{view.visit.id}",
        )
        for view in views
    ]
    moved = [PartMoved(_midday(part.installed_on), part.what, False) for part in parts if part.installed_on]
    moved += [PartMoved(_midday(part.removed_on), part.what, True) for part in parts if part.removed_on]
    charged = [Charged(line.at, gained_g(line)) for line in lines if line.taken_back_at is None and gained_g(line)]
    if not (calls or moved or charged):
        return Markup("")
    life = Life(
        sorted(calls, key=lambda one: one.at),
        sorted(moved, key=lambda one: one.at),
        charged,
        [Own(row.at, row.own_k, row.circuit) for row in own],
        full_g,
    )
    return Markup(life_svg(life, reader, "life"))  # noqa: S704


def _ended(view: VisitView) -> str:
    visit = view.visit
    ended = OUTCOME_WORDS[Outcome(visit.outcome)] if visit.outcome else visit.status
    return f"{local(visit.planned_for):%d %b %Y}: {ended}. {visit.summary}".strip()


def _midday(day: date) -> datetime:
    return local_at(day, time(12))
