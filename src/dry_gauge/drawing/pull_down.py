"""A box as it pulls down: points, doors and defrosts as bars, the curve it follows, where it should be and when."""

from __future__ import annotations

from collections.abc import Sequence

from dry_gauge.core.box.pull_down import Forecast, Span
from dry_gauge.core.words import Reader, counted
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add

_LEFT, _TOP, _BOTTOM = 52.0, 22.0, 44.0
_LABEL_APART = 62.0


def pull_down_svg(
    name: str,
    points: Sequence[tuple[float, float]],
    found: Forecast,
    aim_k: float,
    spans: Sequence[Span],
    reader: Reader,
    width: float,
    height: float,
    ident: str,
) -> str:
    """One course; points and spans in minutes from the first, temperatures in K."""
    last = points[-1][0]
    ahead = found.low if found.low is not None else 0.0
    until = found.high if found.high is not None else found.minutes or 60.0
    span = max(30.0, last + min(max(until, ahead, 30.0), 720.0) * 1.05)
    temps = [temp for _, temp in points]
    top_k, low_k = max(*temps, aim_k) + 1.0, min(*temps, aim_k) - 1.5
    first_k, last_k, aim = (reader.say("temperature", one) for one in (temps[0], temps[-1], aim_k))
    told = f"{counted(len(points), 'point')} from {first_k} to {last_k}, aim {aim}"
    root = svg.picture(width, height, "pull-down", name, f"{told}. {found.words}", ident)

    def x(minute: float) -> float:
        return _LEFT + (width - _LEFT - 14) * minute / span

    def y(temp: float) -> float:
        return _TOP + (height - _TOP - _BOTTOM) * (top_k - temp) / (top_k - low_k)

    base = height - _BOTTOM
    for one in spans:
        end = min(one.until if one.until is not None else span, span)
        if end > 0:
            start = x(max(0.0, one.start))
            add(root, "rect", f"course-{one.what}", x=start, y=_TOP, width=max(2.0, x(end) - start), height=base - _TOP)
    if found.low is not None:
        high = min(found.high, span - last) if found.high is not None else span - last
        start = x(last + found.low)
        add(root, "rect", "course-when", x=start, y=y(aim_k) - 7, width=max(3.0, x(last + high) - start), height=14)
    add(root, "line", "course-aim", x1=_LEFT, x2=width - 14, y1=y(aim_k), y2=y(aim_k))
    add(root, "text", "course-word", aim, x=_LEFT + 4, y=y(aim_k) + 17)
    add(root, "line", "course-base", x1=_LEFT, x2=width - 14, y1=base, y2=base)
    step = next(one for one in (15, 30, 60, 120, 240, 480) if (width - _LEFT) * one / span >= _LABEL_APART or one == 480)
    for minute in range(0, int(span) + 1, step):
        words = f"{minute} min" if step < 60 else f"{minute // 60} h"
        add(root, "text", "course-minute", words, x=x(minute), y=base + 18, text_anchor="middle")
    apart = abs(y(temps[0]) - y(temps[-1])) >= 16
    for temp in (temps[0], temps[-1]) if apart else (temps[-1],):
        add(root, "text", "course-word", f"{reader.temperature(temp):.0f}", x=_LEFT - 8, y=y(temp) + 5, text_anchor="end")
    path = [(at, temp) for at, temp in found.curve if at <= span]
    if path:
        add(root, "path", "course-ahead", d="M" + "L".join(f"{svg.number(x(at))} {svg.number(y(temp))}" for at, temp in path))
    add(root, "path", "course-line", d="M" + "L".join(f"{svg.number(x(at))} {svg.number(y(temp))}" for at, temp in points))
    if len(points) <= 60:
        for at, temp in points:
            add(root, "circle", "course-point", cx=x(at), cy=y(temp), r=4)
    return svg.written(root)
