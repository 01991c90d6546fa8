"""The vacuum gauge over time, on a log scale: the rise with the valve shut and what it would be if it leaked or were wet.

While the pump pulls, the same page shows the way down with its milestones. Below, what each minute added.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import exp, log10

from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.sealed.pull_down import MILESTONES, WATER_TRIPLE_PA
from dry_gauge.core.sealed.vacuum import EndPoint
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

Points = Sequence[tuple[float, float]]
"""Minutes and microns."""


@dataclass(frozen=True, slots=True)
class Trace:
    """One watch: its points, the smoothed curve through them, and what to write at its end."""

    words: str
    points: Points
    curve: Points = ()
    current: bool = True


@dataclass(frozen=True, slots=True)
class Size:
    """One size of page, in pixels."""

    width: float
    height: float
    left: float
    right: float
    bars: float = 86.0


DESK, PHONE = Size(606, 560, 58, 98), Size(374, 520, 48, 98)
_TOP = 20.0
_TICKS = (10, 20, 50, 100, 200, 300, 500, 1000, 2000, 5000, 10_000, 20_000)
_LONG_TICKS = (*_TICKS, 50_000, 100_000, 200_000, 500_000)
_LEAST_MINUTES = 15.0


@dataclass(frozen=True, slots=True)
class _Axes:
    size: Size
    low: float
    high: float
    minutes: float
    bottom: float

    def x(self, minute: float) -> float:
        return self.size.left + minute / self.minutes * (self.size.width - self.size.left - self.size.right)

    def y(self, micron: float) -> float:
        share = (log10(min(max(micron, self.low), self.high)) - log10(self.low)) / (log10(self.high) - log10(self.low))
        return self.bottom - share * (self.bottom - _TOP)

    def path(self, points: Points) -> str:
        return "M" + "L".join(f"{self.x(t):.5g} {self.y(p):.5g}" for t, p in points)


def watch_svg(traces: Sequence[Trace], end_point: EndPoint, size: Size, ident: str) -> str:
    """Watches with the valve shut, the latest in front; hatched is where the latest may end.

    Parameters
    ----------
    traces : sequence of Trace
        Oldest first, at least one.
    """
    last = traces[-1]
    ends = [points[-1][0] for points in (one.points for one in traces) if points]
    minutes = max(_LEAST_MINUTES, 1.15 * max(ends, default=0.0))
    limit = end_point.limit_pa / MICRON_PA
    tallest = max([micron for one in traces for _, micron in one.points] + [4 * limit])
    deepest = min([micron for one in traces for _, micron in one.points] + [100.0])
    axes = _Axes(
        size, 100.0 if deepest >= 90 else 10.0, min(25_000.0, max(2000.0, tallest * 1.6)), minutes, size.height - size.bars - 34
    )
    shown = f"{last.points[-1][1]:,.0f} microns after {last.points[-1][0]:.0f} minutes" if last.points else "no points yet"
    root = svg.picture(size.width, size.height, "chart", "Rise with the valve shut", f"{last.words}: {shown}.", ident)
    svg.hatch(root, f"{ident}-hatch")
    x, y = axes.x(end_point.minutes), axes.y(limit)
    right = size.width - size.right
    add(root, "rect", "zone", x=x, y=y, width=right - x, height=axes.bottom - y, fill=f"url(#{ident}-hatch)")
    _grid(root, axes, _TICKS)
    add(root, "path", "chart-limit", d=f"M{axes.x(0):.5g} {y:.5g}H{right:.5g}")
    add(root, "text", "chart-note", f"not above {limit:,.0f}", x=right + 6, y=y + 4)
    if last.points:
        _guides(root, axes, last.points[0][1])
    for trace in traces:
        _trace(root, axes, trace)
    _bars(root, axes, last)
    return svg.written(root)


def _grid(root: Element, axes: _Axes, ticks: Sequence[float]) -> None:
    right = axes.size.width - axes.size.right
    shown = [tick for tick in ticks if axes.low <= tick <= axes.high]
    for i, tick in enumerate(shown):
        y = axes.y(tick)
        add(root, "line", "chart-grid", x1=axes.size.left, x2=right, y1=y, y2=y)
        add(root, "text", "chart-tick", _tick(tick), x=axes.size.left - 8, y=y + 4, text_anchor="end")
        if i % 2 and i:
            before = axes.y(shown[i - 1])
            add(root, "rect", "chart-ruler", x=axes.size.left - 3, y=y, width=3, height=before - y)
    step = next(step for step in (1, 2, 5, 10, 20, 60, 120, 600) if axes.minutes / step <= 8)
    for i in range(int(axes.minutes // step) + 1):
        x = axes.x(i * step)
        add(root, "line", "chart-grid", x1=x, x2=x, y1=_TOP, y2=axes.bottom)
        add(root, "text", "chart-tick", f"{i * step:g}", x=x, y=axes.bottom + 17, text_anchor="middle")
    add(root, "text", "chart-tick", "μm", x=axes.size.left - 8, y=axes.bottom + 17, text_anchor="end")
    add(root, "text", "chart-tick", "min", x=right + 14, y=axes.bottom + 17)


def _tick(micron: float) -> str:
    """Short enough for the margin: 20 k is twenty thousand."""
    return f"{micron / 1000:.0f} k" if micron >= 10_000 else f"{micron:,.0f}".replace(",", " ")


def _guides(root: Element, axes: _Axes, start: float) -> None:
    """What a leak and what water would look like from here: one keeps climbing, the other levels off."""
    end = axes.minutes
    leak = [(t, start + 0.06 * axes.high * t / 10) for t in (i * end / 40 for i in range(41))]
    wet = [(t, start + (min(axes.high / 4, 3000) - start) * (1 - exp(-t / (end / 6)))) for t in (i * end / 40 for i in range(41))]
    right = axes.size.width - axes.size.right + 6
    heights: list[float] = []
    for name, points in (("leak", leak), ("wet", wet)):
        add(root, "path", f"chart-guide guide-{name}", d=axes.path(points))
        y = axes.y(points[-1][1])
        while any(abs(y - other) < 16 for other in heights):
            y -= 16
        heights.append(y)
        add(root, "text", "chart-note", {"leak": "a leak climbs", "wet": "water levels"}[name], x=right, y=y + 4)


def _trace(root: Element, axes: _Axes, trace: Trace) -> None:
    if not trace.points:
        return
    css = "now" if trace.current else "earlier"
    thin = trace.points[:: max(1, len(trace.points) // 120)]
    if trace.current:
        for t, micron in thin:
            add(root, "circle", "chart-point", cx=axes.x(t), cy=axes.y(micron), r=1.6)
    add(root, "path", f"chart-line {css}", d=axes.path(trace.curve or thin))
    t, micron = (trace.curve or trace.points)[-1]
    x, y = axes.x(t), axes.y(micron)
    if trace.current:
        add(root, "line", "chart-end", x1=x, x2=x, y1=y - 10, y2=y + 10)
        room = axes.size.width - x - 8
        anchor, at = ("start", x + 8) if room > 150 else ("end", x - 8)
        number = add(root, "text", "chart-value", x=at, y=y - 14, text_anchor=anchor)
        add(number, "tspan", "chart-big", f"{micron:,.0f}")
        add(number, "tspan", "", f" μm at {t:.0f} min")
    else:
        add(root, "path", "chart-cross", d=f"M{x - 5:g} {y - 5:g}l10 10M{x - 5:g} {y + 5:g}l10 -10")
        add(root, "text", "chart-note earlier-note", trace.words, x=x + 9, y=y - 6)


def _bars(root: Element, axes: _Axes, trace: Trace) -> None:
    """What each minute added, by the smoothed curve: a leak's bars stay as they are."""
    curve = trace.curve or trace.points
    top, bottom = axes.bottom + 34, axes.size.height - 6
    beside = axes.size.width - axes.size.right + 6
    add(root, "text", "chart-tick", "rise", x=beside, y=bottom - 18)
    add(root, "text", "chart-tick", "μm/min", x=beside, y=bottom - 3)
    add(root, "line", "chart-axis", x1=axes.size.left, x2=axes.size.width - axes.size.right, y1=bottom, y2=bottom)
    if len(curve) < 2:
        return
    end = int(curve[-1][0])
    rises = [(minute, _at(curve, minute + 1.0) - _at(curve, float(minute))) for minute in range(end)]
    tallest = max([rise for _, rise in rises] + [1.0])
    for i, (minute, rise) in enumerate(rises):
        height = max(0.0, rise) / tallest * (bottom - top - 14)
        x, width = axes.x(minute), axes.x(1) - axes.x(0)
        add(root, "rect", "chart-bar", x=x + 1, y=bottom - height, width=max(width - 2, 1), height=height)
        if i in (0, len(rises) - 1) and (i == 0 or len(rises) > 3):
            add(root, "text", "chart-tick", f"{max(rise, 0):.0f}", x=x + width / 2, y=bottom - height - 4, text_anchor="middle")


def _at(curve: Points, minute: float) -> float:
    for (t, p), (u, q) in pairwise(curve):
        if t <= minute <= u and u > t:
            return p + (q - p) * (minute - t) / (u - t)
    return curve[0][1] if minute < curve[0][0] else curve[-1][1]


def pull_svg(points: Points, target_micron: float, size: Size, ident: str, *, water: bool = False) -> str:
    """The way down: milestones, where water would freeze, and the target."""
    minutes = max(_LEAST_MINUTES, 1.2 * points[-1][0] if points else 0.0)
    highest = max([micron for _, micron in points] + [20_000.0])
    axes = _Axes(size, 100.0, min(800_000.0, highest * 1.3), minutes, size.height - 34)
    shown = f"{points[-1][1]:,.0f} microns after {points[-1][0]:.0f} minutes" if points else "no points yet"
    root = svg.picture(size.width, size.height, "chart", "Pull-down", f"{shown}, target {target_micron:,.0f}.", ident)
    svg.hatch(root, f"{ident}-hatch")
    right = size.width - size.right
    y = axes.y(target_micron)
    add(root, "rect", "zone", x=size.left, y=y, width=right - size.left, height=axes.bottom - y, fill=f"url(#{ident}-hatch)")
    _grid(root, axes, _LONG_TICKS)
    add(root, "path", "chart-limit", d=f"M{axes.x(0):.5g} {y:.5g}H{right:.5g}")
    add(root, "text", "chart-note", "shut here", x=right + 6, y=y + 4)
    for milestone in MILESTONES:
        if not milestone.short:
            continue
        micron = milestone.pressure_pa / MICRON_PA
        level, css = axes.y(micron), " reached" if points and points[-1][1] <= micron else ""
        add(root, "path", "chart-milestone", d=f"M{right:g} {level:.5g}h10")
        add(root, "text", f"chart-note{css}", milestone.short, x=right + 12, y=level + 4)
    if water:
        freeze = axes.y(WATER_TRIPLE_PA / MICRON_PA)
        add(root, "path", "chart-freeze", d=f"M{axes.x(0):.5g} {freeze:.5g}H{right:.5g}")
        add(root, "text", "chart-note freeze-note", "water freezes below", x=size.left + 8, y=freeze - 5)
    if points:
        thin = points[:: max(1, len(points) // 200)]
        add(root, "path", "chart-line now", d=axes.path([*thin, points[-1]]))
        t, micron = points[-1]
        anchor, beside = ("start", 8) if right - axes.x(t) > 110 else ("end", -10)
        number = add(root, "text", "chart-value", x=axes.x(t) + beside, y=axes.y(micron) - 12, text_anchor=anchor)
        add(number, "tspan", "chart-big", f"{micron:,.0f}")
        add(number, "tspan", "", " μm")
        add(root, "circle", "chart-dot", cx=axes.x(t), cy=axes.y(micron), r=5)
    return svg.written(root)
