"""A pressure hold over hours, with the weather taken out: what is left is a line that stays, or one that falls."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from math import ceil, floor

from dry_gauge.core.words import Reader
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add
from dry_gauge.drawing.vacuum_curve import Size
from dry_gauge.present.hold import HoldSection

DESK, PHONE = Size(606, 440, 64, 96), Size(374, 400, 54, 70)
_TOP = 22.0
_LEAST_HOURS = 1.0
Across = Callable[[float], float]


def hold_svg(sections: Sequence[HoldSection], reader: Reader, size: Size, ident: str) -> str:
    """Every section to one scale; the hatched wedge is the loss that a tight one stays within."""
    drawn = [one for one in sections if one.compensated]
    hours = max([_LEAST_HOURS] + [one.compensated[-1][0] * 1.15 for one in drawn])
    edges = [edge for one in drawn for _, p, half in one.compensated for edge in (p - half, p + half)]
    edges += [p for one in drawn for p in one.shown_pa]
    edges += [one.compensated[0][1] - one.allowed_pa_h * hours for one in drawn]
    low, high = _rounded(edges, reader)
    bottom, right = size.height - 34, size.width - size.right

    def x(hour: float) -> float:
        return size.left + hour / hours * (right - size.left)

    def y(pressure_pa: float) -> float:
        return bottom - (reader.pressure(pressure_pa) - low) / (high - low) * (bottom - _TOP)

    told = "; ".join(f"{one.name}: {reader.say('pressure', one.compensated[-1][1])} at the first temperature" for one in drawn)
    root = svg.picture(size.width, size.height, "chart", "Pressure hold", told or "No readings yet.", ident)
    svg.hatch(root, f"{ident}-hatch")
    _axes(root, size, reader, low, high, hours, bottom, x)
    for number, one in enumerate(drawn):
        start = one.compensated[0][1]
        add(
            root,
            "path",
            "zone",
            d=f"M{x(0):.5g} {y(start):.5g}L{right:.5g} {y(start):.5g}L{right:.5g} {y(start - one.allowed_pa_h * hours):.5g}z",
            fill=f"url(#{ident}-hatch)",
        )
        _section(root, one, number, x, y)
        end = one.compensated[-1]
        add(root, "text", "chart-note", one.name[:14], x=min(x(end[0]) + 10, right + 4), y=y(end[1]) + 20 + 16 * number)
    add(root, "text", "chart-note", "hatched: loss still allowed", x=size.left + 8, y=bottom - 8)
    return svg.written(root)


def _rounded(edges: Sequence[float], reader: Reader) -> tuple[float, float]:
    values = [reader.pressure(edge) for edge in edges] or [0.0, 1.0]
    span = max(max(values) - min(values), 1e-6)
    step = 10 ** floor(len(str(int(span))) - 1) if span >= 1 else 0.1
    low, high = floor(min(values) / step) * step, ceil(max(values) / step) * step
    return (low, high) if high > low else (low - step, high + step)


def _axes(root: Element, size: Size, reader: Reader, low: float, high: float, hours: float, bottom: float, x: Across) -> None:
    right = size.width - size.right
    for i in range(6):
        value = low + (high - low) * i / 5
        level = bottom - i / 5 * (bottom - _TOP)
        add(root, "line", "chart-grid", x1=size.left, x2=right, y1=level, y2=level)
        decimals = 0 if high - low >= 10 else 1 if high - low >= 1 else 2
        add(root, "text", "chart-tick", f"{value:,.{decimals}f}", x=size.left - 8, y=level + 4, text_anchor="end")
    step = next(step for step in (0.25, 0.5, 1, 2, 4, 8, 12, 24, 48, 168) if hours / step <= 7)
    for i in range(int(hours // step) + 1):
        at = x(i * step)
        add(root, "line", "chart-grid", x1=at, x2=at, y1=_TOP, y2=bottom)
        add(root, "text", "chart-tick", f"{i * step:g}", x=at, y=bottom + 17, text_anchor="middle")
    add(root, "text", "chart-tick", "hours", x=right + 6, y=bottom + 17)
    add(root, "text", "chart-tick", reader.gauge_unit, x=size.left - 8, y=13, text_anchor="end")


def _section(root: Element, one: HoldSection, number: int, x: Across, y: Across) -> None:
    css = f"section-{number % 3}"
    for (hour, p, half), shown in zip(one.compensated, one.shown_pa, strict=True):
        at, level = x(hour), y(p)
        add(root, "line", f"chart-error {css}", x1=at, x2=at, y1=y(p - half), y2=y(p + half))
        add(root, "circle", "chart-raw", cx=at, cy=y(shown), r=3.5)
        add(root, "rect", f"chart-mark {css}", x=at - 4, y=level - 4, width=8, height=8)
    d = "M" + "L".join(f"{x(h):.5g} {y(p):.5g}" for h, p, _ in one.compensated)
    add(root, "path", f"chart-line {css}", d=d)
