"""A change-out from above, to scale: the curb with its openings, and the unit's foot over it as it would stand."""

from __future__ import annotations

from typing import Any

from dry_gauge.core.office.change_out import Found, Rect, WayRound, said
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

_MARGIN, _DIMENSION = 46.0, 22.0


def change_out_svg(found: Found, way: WayRound, words: str, width: float, ident: str, *, plain: bool = False) -> str:
    """One way round.

    Parameters
    ----------
    plain : bool
        Without lengths: for the small ones.
    """
    curb, unit = found.base, way.unit
    left, low = min(0.0, way.at[0]), min(0.0, way.at[1])
    right = max(curb.length, way.at[0] + unit.length)
    far = max(curb.width, way.at[1] + unit.width)
    margin = 10.0 if plain else _MARGIN
    scale = (width - 2 * margin) / (right - left)
    height = (far - low) * scale + 2 * margin
    root = svg.picture(width, height, "change-out", words, _told(found, way), ident)

    def box(rect: Rect) -> dict[str, Any]:
        # The front is at the bottom: y grows away from whoever stands in front.
        return {
            "x": margin + (rect.x - left) * scale,
            "y": height - margin - (rect.y + rect.width - low) * scale,
            "width": rect.length * scale,
            "height": rect.width * scale,
        }

    if not plain:
        svg.hatch(root, f"{ident}-hatch")
    add(root, "rect", "curb-outer", **box(curb.outside))
    if found.inner is not None:
        add(root, "rect", "curb-inner", **box(found.inner))
    for name, opening in (("S", curb.supply), ("R", curb.back)):
        if opening is not None:
            at = box(opening)
            add(root, "rect", "curb-opening", **at, **({} if plain else {"fill": f"url(#{ident}-hatch)"}))
            _named(root, f"old {name}" if not plain else name, at, "curb-word", 14)
    foot = unit.outside.moved(*way.at)
    add(root, "rect", "unit-foot", **box(foot))
    for name, opening in (("S", unit.supply), ("R", unit.back)):
        if opening is not None:
            at = box(opening.moved(*way.at))
            add(root, "rect", "unit-opening", **at)
            _named(root, name, at, "unit-word", at["height"] - 6)
    _front(root, box(foot), way.quarters)
    if not plain:
        _lengths(root, box(curb.outside), said(curb.length), said(curb.width), height, "curb-word")
        add(root, "text", "unit-word", f"new: {said(unit.length)} by {said(unit.width)}", x=width / 2, y=16, text_anchor="middle")
    return svg.written(root)


def _named(root: Element, words: str, at: dict[str, Any], css: str, down: float) -> None:
    add(root, "text", css, words, x=at["x"] + 6, y=at["y"] + down)


def _front(root: Element, at: dict[str, Any], quarters: int) -> None:
    """A notch at the side where the unit's front looks: as it stood, to whoever stands in front."""
    x, y, width, height = at["x"], at["y"], at["width"], at["height"]
    sides = ((x + width / 2, y + height), (x, y + height / 2), (x + width / 2, y), (x + width, y + height / 2))
    add(root, "circle", "unit-front", cx=sides[quarters % 4][0], cy=sides[quarters % 4][1], r=6)


def _lengths(root: Element, at: dict[str, Any], along: str, across: str, height: float, css: str) -> None:
    x, y, long, wide = at["x"], at["y"], at["width"], at["height"]
    line = height - _MARGIN + _DIMENSION
    add(root, "line", "dimension", x1=x, x2=x + long, y1=line, y2=line)
    add(root, "text", css, along, x=x + long / 2, y=line + 16, text_anchor="middle")
    side = x - _DIMENSION
    add(root, "line", "dimension", x1=side, x2=side, y1=y, y2=y + wide)
    add(
        root,
        "text",
        css,
        across,
        x=side - 6,
        y=y + wide / 2,
        text_anchor="middle",
        transform=f"rotate(-90 {svg.number(side - 6)} {svg.number(y + wide / 2)})",
    )


def _told(found: Found, way: WayRound) -> str:
    sizes = [f"{said(base.length)} by {said(base.width)}" for base in (found.base, way.unit)]
    return f"There: {sizes[0]}; new unit: {sizes[1]}. " + " ".join(one.words for one in way.reasons)
