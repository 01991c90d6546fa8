"""What options cost over the years, each as a widening band, with when the dearer one has paid itself back."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from dry_gauge.core.office.replacement import Course, PayBack
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add

WIDTH, HEIGHT = 560.0, 260.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 72.0, 96.0, 16.0, 40.0
YEARS = 15
_TICKS = 4


@dataclass(frozen=True, slots=True)
class Band:
    """One option: its name and what it costs over the years."""

    name: str
    course: Course
    css: str


def pay_back_svg(
    title: str, words: str, bands: Sequence[Band], hinge: PayBack | None, money: Callable[[int], str], axis: str, ident: str
) -> str:
    """The chart.

    Parameters
    ----------
    money : callable
        An amount of money in hundredths as it is written.
    """
    root = svg.picture(WIDTH, HEIGHT, "pay-back", title, words, ident)
    most = max(band.course.after(YEARS)[1] for band in bands)
    step = _round_up(most / _TICKS)
    top = step * _TICKS
    base = HEIGHT - _BOTTOM

    def x(years: float) -> float:
        return _LEFT + (WIDTH - _LEFT - _RIGHT) * years / YEARS

    def y(cents: float) -> float:
        return base - (base - _TOP) * cents / top

    for tick in range(_TICKS + 1):
        add(root, "line", "pay-grid", x1=_LEFT, x2=WIDTH - _RIGHT, y1=y(tick * step), y2=y(tick * step))
        add(root, "text", "pay-tick", money(tick * step), x=_LEFT - 6, y=y(tick * step) + 4, text_anchor="end")
    for year in range(0, YEARS + 1, 5):
        add(root, "text", "pay-tick", str(year), x=x(year), y=base + 16, text_anchor="middle")
    add(root, "text", "pay-tick", axis, x=x(YEARS / 2), y=base + 33, text_anchor="middle")
    if hinge is not None and hinge.years is not None and hinge.years[0] <= YEARS:
        first, last = hinge.years[0], min(hinge.years[1] or YEARS, YEARS)
        add(root, "rect", "pay-when", x=x(first), y=_TOP, width=max(3.0, x(last) - x(first)), height=base - _TOP)
    ends = []
    for band in bands:
        low, high = band.course.after(YEARS)
        at_once = y(band.course.at_once)
        add(
            root,
            "path",
            f"pay-band {band.css}",
            d=f"M{svg.number(x(0))} {svg.number(at_once)}L{svg.number(x(YEARS))} {svg.number(y(low))}V{svg.number(y(high))}Z",
        )
        add(root, "line", f"pay-line {band.css}", x1=x(0), x2=x(YEARS), y1=at_once, y2=y((low + high) / 2))
        ends.append((y((low + high) / 2), band))
    last_y = -100.0
    for at, band in sorted(ends, key=lambda one: one[0]):
        last_y = max(at + 4, last_y + 15)
        add(root, "text", f"pay-name {band.css}", band.name[:14], x=x(YEARS) + 6, y=last_y)
    return svg.written(root)


def _round_up(cents: float) -> int:
    """To one, two, two and a half or five times a power of ten."""
    size = 1
    while size * 10 <= cents:
        size *= 10
    return next(int(size * factor) for factor in (1, 2, 2.5, 5, 10) if size * factor >= cents)
