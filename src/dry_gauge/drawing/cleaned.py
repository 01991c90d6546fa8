"""A coil before and after its cleaning: for each reading a line from where it stood to where it stands."""

from __future__ import annotations

from collections.abc import Sequence

from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add
from dry_gauge.present.cleaning import ReadTwice

_WIDTH, _ROW, _TOP = 340.0, 58.0, 26.0
_LEFT, _RIGHT = 44.0, 296.0
_LEAST_SHARE = 0.25
"""A row's scale reaches over this share of its larger value at the least, so that little looks little."""


def cleaned_svg(rows: Sequence[ReadTwice], ident: str) -> str:
    """The drawing; before is an open ring, after a full one, and the arrow runs from one to the other."""
    told = "; ".join(f"{row.label} {row.before_words} before, {row.after_words} after" for row in rows)
    root = svg.picture(_WIDTH, _TOP + _ROW * len(rows), "cleaned", "Before and after the cleaning", f"{told}.", ident)
    for i, row in enumerate(rows):
        y = _TOP + _ROW * i
        add(root, "text", "cleaned-label", row.label, x=4, y=y - 8)
        add(root, "line", "cleaned-track", x1=_LEFT, x2=_RIGHT, y1=y + 14, y2=y + 14)
        low, high = sorted((row.before, row.after))
        reach = max(high - low, _LEAST_SHARE * max(abs(high), abs(low)), 1e-9)
        middle = (low + high) / 2

        def x(value: float, middle: float = middle, reach: float = reach) -> float:
            return (_LEFT + _RIGHT) / 2 + (value - middle) / reach * (_RIGHT - _LEFT) * 0.8

        start, end = x(row.before), x(row.after)
        way = 1 if end >= start else -1
        if abs(end - start) > 24:
            tip = end - way * 12
            arrow = f"M{start + way * 9:g} {y + 14:g}H{tip:g}m{-way * 8:g} -6l{way * 8:g} 6l{-way * 8:g} 6"
            add(root, "path", "cleaned-way", d=arrow)
        add(root, "circle", "cleaned-before", cx=start, cy=y + 14, r=7)
        add(root, "circle", "cleaned-after", cx=end, cy=y + 14, r=7)
        left, right = ("before", "after") if start <= end else ("after", "before")
        said = {"before": row.before_words, "after": row.after_words}
        add(root, "text", f"cleaned-{left}-words", said[left], x=min(start, end) - 12, y=y + 19, text_anchor="end")
        add(root, "text", f"cleaned-{right}-words", said[right], x=max(start, end) + 12, y=y + 19)
    return svg.written(root)
