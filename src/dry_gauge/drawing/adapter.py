"""An adapter for the sheet-metal shop, to scale: from above, and from the front."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from dry_gauge.core.office.adapter import Adapter
from dry_gauge.core.office.change_out import Rect, said
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

_MARGIN, _GAP, _WORDS = 52.0, 44.0, 18.0


def adapter_svg(adapter: Adapter, width: float, ident: str) -> str:
    """Both views, one above the other; what is drawn strong is the upper end."""
    below, above = adapter.below, adapter.above
    left, low = min(below.x, above.x), min(below.y, above.y)
    right, far = max(below.x + below.length, above.x + above.length), max(below.y + below.width, above.y + above.width)
    scale = (width - 2 * _MARGIN) / (right - left)
    plan_foot = _WORDS + _MARGIN / 2 + (far - low) * scale
    front_top = plan_foot + _GAP
    height = front_top + adapter.height * scale + _GAP
    told = (
        f"Below {said(below.length)} by {said(below.width)}, above {said(above.length)} by {said(above.width)}, "
        f"at least {said(adapter.height)} high."
    )
    root = svg.picture(width, height, "change-out adapter", "Adapter from above and from the front", told, ident)
    svg.hatch(root, f"{ident}-hatch")

    def across(x: float) -> float:
        return _MARGIN + (x - left) * scale

    def down(y: float) -> float:  # the front is at the bottom
        return plan_foot - (y - low) * scale

    def box(css: str, rect: Rect, **more: str) -> None:
        at: dict[str, Any] = {
            "x": across(rect.x),
            "y": down(rect.y + rect.width),
            "width": rect.length * scale,
            "height": rect.width * scale,
        }
        add(root, "rect", css, **at, **more)

    add(root, "text", "curb-word", "From above", x=4, y=14)
    box("curb-outer", below)
    for duct in adapter.ducts:
        box("curb-opening", duct.below, fill=f"url(#{ident}-hatch)")
        box("unit-opening", duct.above)
        for (ax, ay), (bx, by) in zip(_corners(duct.above), _corners(duct.below), strict=True):
            add(root, "line", "dimension", x1=across(ax), y1=down(ay), x2=across(bx), y2=down(by))
        add(root, "text", "unit-word", duct.name, x=across(duct.above.x) + 6, y=down(duct.above.y) - 6)
    box("unit-foot", above)
    _front(root, adapter, across, front_top, scale)
    return svg.written(root)


def _corners(rect: Rect) -> list[tuple[float, float]]:
    return [(x, y) for x in (rect.x, rect.x + rect.length) for y in (rect.y, rect.y + rect.width)]


def _front(root: Element, adapter: Adapter, across: Callable[[float], float], top: float, scale: float) -> None:
    """As whoever stands in front sees it: the old curb below, the new unit above."""
    foot = top + adapter.height * scale
    below, above = adapter.below, adapter.above
    add(root, "text", "curb-word", "From the front", x=4, y=top - 14)

    def side(css: str, low: Rect, high: Rect) -> None:
        points = ((low.x, foot), (low.x + low.length, foot), (high.x + high.length, top), (high.x, top))
        add(root, "polygon", css, points=" ".join(f"{svg.number(across(x))},{svg.number(y)}" for x, y in points))

    side("curb-outer", below, above)
    for duct in adapter.ducts:
        side("unit-opening", duct.below, duct.above)
    add(root, "line", "unit-foot", x1=across(above.x), x2=across(above.x + above.length), y1=top, y2=top)
    for words, rect, y in ((said(above.length), above, top - 6), (said(below.length), below, foot + 16)):
        add(root, "text", "unit-word", words, x=across(rect.x + rect.length / 2), y=y, text_anchor="middle")
    add(root, "text", "unit-word", said(adapter.height), x=across(below.x + below.length / 2), y=foot + 34, text_anchor="middle")
