"""One gap over a unit's visits: each reading with its uncertainty beside the target of its own day."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from dry_gauge.core.words import Reader
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add

WIDTH, HEIGHT = 300.0, 120.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 34.0, 292.0, 26.0, 96.0


@dataclass(frozen=True, slots=True)
class Point:
    """A gap on one visit; `band_k` is its target that day. Differences, in kelvin."""

    at: datetime
    value_k: float
    half_width_k: float
    band_k: tuple[float, float] | None


def over_visits_svg(label: str, points: Sequence[Point], reader: Reader, ident: str) -> str:
    """The drawing, in the reader's units; points in order of time, at least two."""
    ends = [point.value_k + sign * point.half_width_k for point in points for sign in (-1, 1)]
    ends += [edge for point in points for edge in point.band_k or ()]
    low, high = min(ends), max(ends)
    first, last = points[0].at.timestamp(), points[-1].at.timestamp()

    def x(point: Point) -> float:
        return _LEFT + 8 + (point.at.timestamp() - first) / max(last - first, 1.0) * (_RIGHT - _LEFT - 16)

    def y(value_k: float) -> float:
        return _BOTTOM - (value_k - low) / max(high - low, 1e-6) * (_BOTTOM - _TOP)

    told = "; ".join(f"{point.at:%b %Y} {reader.say('difference', point.value_k)}" for point in points)
    root = svg.picture(WIDTH, HEIGHT, "trend over-visits", label, told, ident)
    add(root, "text", "trend-name", label, x=_LEFT, y=14)
    add(root, "text", "trend-value", reader.say("difference", points[-1].value_k), x=_RIGHT, y=14, text_anchor="end")
    for value in (low, high):
        add(root, "text", "trend-word", f"{reader.difference(value):.0f}", x=_LEFT - 6, y=y(value) + 4, text_anchor="end")
        add(root, "line", "grid", x1=_LEFT, x2=_RIGHT, y1=y(value), y2=y(value))
    for point in points:
        if point.band_k:
            bottom, top = y(point.band_k[0]), y(point.band_k[1])
            add(root, "rect", "visit-band", x=x(point) - 7, y=top, width=14, height=max(bottom - top, 1))
    path = "M" + "L".join(f"{x(point):.5g} {y(point.value_k):.5g}" for point in points)
    add(root, "path", "visit-line", d=path)
    for point in points:
        at, half = x(point), point.half_width_k
        add(root, "line", "visit-error", x1=at, x2=at, y1=y(point.value_k - half), y2=y(point.value_k + half))
        add(root, "circle", "visit-point", cx=at, cy=y(point.value_k), r=4)
    add(root, "text", "trend-word", f"{points[0].at:%b %Y}", x=_LEFT, y=112)
    add(root, "text", "trend-word", f"{points[-1].at:%b %Y}", x=_RIGHT, y=112, text_anchor="end")
    return svg.written(root)
