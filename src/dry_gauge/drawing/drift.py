"""How a unit moves away from what its sort shows: a dot for each visit, and the straight line through them."""

from __future__ import annotations

from collections.abc import Sequence

from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add

WIDTH, HEIGHT = 132.0, 64.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 6.0, 126.0, 8.0, 56.0
_LEAST_K = 6.0
"""A drawing reaches at least so far both ways, so that little looks little."""


def drift_svg(
    label: str, words: str, days: Sequence[float], own_k: Sequence[float], line_k: tuple[float, float], ident: str
) -> str:
    """The drawing; days in order and at least two, differences from the sort in kelvin, the line's two ends."""
    root = svg.picture(WIDTH, HEIGHT, "drift", label, words, ident)
    far = max(_LEAST_K, *(abs(value) for value in (*own_k, *line_k)))
    middle = (_TOP + _BOTTOM) / 2

    def x(day: float) -> float:
        return _LEFT + (_RIGHT - _LEFT) * (day - days[0]) / max(days[-1] - days[0], 1e-6)

    def y(value_k: float) -> float:
        return middle - value_k / far * (_BOTTOM - _TOP) / 2

    add(root, "line", "drift-sort", x1=0, x2=WIDTH, y1=middle, y2=middle)
    add(root, "line", "drift-line", x1=x(days[0]), x2=x(days[-1]), y1=y(line_k[0]), y2=y(line_k[1]))
    for day, value_k in zip(days, own_k, strict=True):
        add(root, "circle", "drift-dot", cx=x(day), cy=y(value_k), r=4)
    return svg.written(root)
