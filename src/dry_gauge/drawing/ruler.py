"""One number on a short ruler: where it should lie, where it lay before and where it lies now."""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

WIDTH, HEIGHT = 220.0, 30.0
_EDGE, _AXIS = 8.0, 15.0


@dataclass(frozen=True, slots=True)
class Ruler:
    """What is drawn, all in one unit.

    Parameters
    ----------
    low, high : float or None
        Where it should lie; None is open to that side.
    now, before : float or None
        Where it lies and lay; `now_off` and `before_off` are 95 % half-widths.
    """

    low: float | None
    high: float | None
    now: float | None
    before: float | None = None
    now_off: float = 0.0
    before_off: float = 0.0

    @property
    def span(self) -> tuple[float, float]:
        """The ends of the ruler: everything on it, with a fifth of room to either side."""
        numbers = [one for one in (self.low, self.high) if one is not None]
        for value, off in ((self.now, self.now_off), (self.before, self.before_off)):
            numbers += [] if value is None else [value - off, value + off]
        room = 0.2 * (max(numbers) - min(numbers)) or max(1.0, 0.1 * abs(numbers[0]))
        return min(numbers) - room, max(numbers) + room


def ruler_svg(ruler: Ruler, title: str, words: str, ident: str) -> str:
    """The ruler as SVG; `title` and `words` are what a screen reader says of it."""
    first, last = ruler.span
    root = svg.picture(WIDTH, HEIGHT, "ruler", title, words, ident)

    def x(value: float) -> float:
        return _EDGE + (value - first) / (last - first) * (WIDTH - 2 * _EDGE)

    left = _EDGE if ruler.low is None else x(ruler.low)
    right = WIDTH - _EDGE if ruler.high is None else x(ruler.high)
    add(root, "line", "ruler-axis", x1=_EDGE, y1=_AXIS, x2=WIDTH - _EDGE, y2=_AXIS)
    add(root, "rect", "ruler-band", x=min(left, right - 4), y=_AXIS - 6, width=max(right - left, 4), height=12)
    scale = (WIDTH - 2 * _EDGE) / (last - first)
    for sort, value, off in (("before", ruler.before, ruler.before_off), ("now", ruler.now, ruler.now_off)):
        if value is not None:
            _mark(root, sort, x(value), off * scale)
    return svg.written(root)


def _mark(root: Element, sort: str, at: float, half: float) -> None:
    add(root, "line", f"ruler-off {sort}", x1=at - half, y1=_AXIS, x2=at + half, y2=_AXIS)
    add(root, "circle", f"ruler-mark {sort}", cx=at, cy=_AXIS, r=5.5)
