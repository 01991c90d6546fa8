"""A unit's gaps over its visits, as small drawings."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from markupsafe import Markup

from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.core.words import Reader
from dry_gauge.drawing.over_visits import Point, over_visits_svg
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.present.visit import VisitView, circuit_of

_SHOWN = ("superheat", "subcooling", "air_split", "condenser_split")


def trends_of(views: Sequence[VisitView], reader: Reader) -> list[tuple[str, Markup]]:
    """One drawing a gap that was read on two visits or more."""
    found = []
    for name in _SHOWN:
        points: list[Point] = []
        for view in reversed(views):
            judged = circuit_of(view, 1)
            derived = judged.derived.get(name) if judged else None
            if judged is None or derived is None:
                continue
            target = judged.targets.get(name)
            band = (target.low_k, target.high_k) if target else None
            points.append(Point(_moment(view), derived.value, derived.uncertainty, band))
        if len(points) >= 2:
            drawing = over_visits_svg(GAP_LABELS.get(name, name), points, reader, f"visits-{name}")
            found.append((name, Markup(drawing)))  # noqa: S704
    return found


def _moment(view: VisitView) -> datetime:
    return view.state[Running].read_at or view.visit.planned_for
