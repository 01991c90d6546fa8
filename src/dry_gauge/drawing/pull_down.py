"""A box as it pulls down: points, doors and defrosts as bars, the curve it follows, where it should be and when."""

from __future__ import annotations

from collections.abc import Sequence

from dry_gauge.core.box.pull_down import Forecast, Span
from dry_gauge.core.words import Reader, counted
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

Points = Sequence[tuple[float, float]]
"""Minutes from the first, and temperature. [min, K]"""

_LEFT, _RIGHT, _TOP, _BOTTOM = 52.0, 14.0, 22.0, 44.0
_LABEL_APART = 62.0
_STEPS_MIN = (15, 30, 60, 120, 240, 480)
_LONGEST_MIN = 720.0  # as far ahead as the page goes
_MOST_DOTS = 60


def pull_down_svg(
    name: str,
    points: Points,
    found: Forecast,
    aim_k: float,
    spans: Sequence[Span],
    reader: Reader,
    width: float,
    height: float,
    ident: str,
) -> str:
    """One course; points and spans in minutes from the first, temperatures in K."""
    return _PullDown(points, found, aim_k, spans, reader, width, height).written(name, ident)


class _PullDown:
    """The page of one course, stroke by stroke from the back to the front."""

    def __init__(
        self, points: Points, found: Forecast, aim_k: float, spans: Sequence[Span], reader: Reader, width: float, height: float
    ) -> None:
        self.points, self.found, self.aim_k, self.spans, self.reader = points, found, aim_k, spans, reader
        self.width, self.height, self.base = width, height, height - _BOTTOM
        self.first_k, self.last_k = points[0][1], points[-1][1]
        self.last = points[-1][0]
        until = found.high if found.high is not None else found.minutes or 60.0
        self.minutes = max(30.0, self.last + min(max(until, found.low or 0.0, 30.0), _LONGEST_MIN) * 1.05)
        temps = [temp for _, temp in points]
        self.top_k, self.low_k = max(*temps, aim_k) + 1.0, min(*temps, aim_k) - 1.5

    def x(self, minute: float) -> float:
        return _LEFT + (self.width - _LEFT - _RIGHT) * minute / self.minutes

    def y(self, temp: float) -> float:
        return _TOP + (self.height - _TOP - _BOTTOM) * (self.top_k - temp) / (self.top_k - self.low_k)

    def path(self, points: Points) -> str:
        return "M" + "L".join(f"{svg.number(self.x(at))} {svg.number(self.y(temp))}" for at, temp in points)

    def written(self, name: str, ident: str) -> str:
        first, last, aim = (self.reader.say("temperature", one) for one in (self.first_k, self.last_k, self.aim_k))
        told = f"{counted(len(self.points), 'point')} from {first} to {last}, aim {aim}. {self.found.words}"
        root = svg.picture(self.width, self.height, "pull-down", name, told, ident)
        self._disturbed(root)
        self._aim(root, aim)
        self._axes(root)
        self._course(root)
        return svg.written(root)

    def _disturbed(self, root: Element) -> None:
        """Bars where a door stood open or a defrost ran."""
        for one in self.spans:
            end = min(one.until if one.until is not None else self.minutes, self.minutes)
            if end > 0:
                start = self.x(max(0.0, one.start))
                width = max(2.0, self.x(end) - start)
                add(root, "rect", f"course-{one.what}", x=start, y=_TOP, width=width, height=self.base - _TOP)

    def _aim(self, root: Element, aim: str) -> None:
        """Where it should be, and between when and when it will."""
        y, low, high = self.y(self.aim_k), self.found.low, self.found.high
        if low is not None:
            start, end = self.x(self.last + low), self.x(self.last + high if high is not None else self.minutes)
            width = max(3.0, min(end, self.x(self.minutes)) - start)
            add(root, "rect", "course-when", x=start, y=y - 7, width=width, height=14)
        add(root, "line", "course-aim", x1=_LEFT, x2=self.width - _RIGHT, y1=y, y2=y)
        add(root, "text", "course-word", aim, x=_LEFT + 4, y=y + 17)

    def _axes(self, root: Element) -> None:
        add(root, "line", "course-base", x1=_LEFT, x2=self.width - _RIGHT, y1=self.base, y2=self.base)
        for minute in range(0, int(self.minutes) + 1, self._step()):
            words = f"{minute} min" if self._step() < 60 else f"{minute // 60} h"
            add(root, "text", "course-minute", words, x=self.x(minute), y=self.base + 18, text_anchor="middle")
        apart = abs(self.y(self.first_k) - self.y(self.last_k)) >= 16
        for temp in (self.first_k, self.last_k) if apart else (self.last_k,):
            words = f"{self.reader.temperature(temp):.0f}"
            add(root, "text", "course-word", words, x=_LEFT - 8, y=self.y(temp) + 5, text_anchor="end")

    def _step(self) -> int:
        """Minutes from label to label, so that they stand apart."""
        wide = (step for step in _STEPS_MIN if (self.width - _LEFT) * step / self.minutes >= _LABEL_APART)
        return next(wide, _STEPS_MIN[-1])

    def _course(self, root: Element) -> None:
        """The curve it follows, and the points on the way."""
        ahead = [(at, temp) for at, temp in self.found.curve if at <= self.minutes]
        if ahead:
            add(root, "path", "course-ahead", d=self.path(ahead))
        add(root, "path", "course-line", d=self.path(self.points))
        if len(self.points) <= _MOST_DOTS:
            for at, temp in self.points:
                add(root, "circle", "course-point", cx=self.x(at), cy=self.y(temp), r=4)
