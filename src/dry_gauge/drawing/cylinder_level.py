"""A cylinder as a small staff: how far it is filled, and for a recovery cylinder the hatched part that stays empty."""

from __future__ import annotations

from dry_gauge.core.charge.amounts import FULL_SHARE
from dry_gauge.core.charge.mass import forms
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add

_WIDTH, _HEIGHT, _LEFT, _BODY, _TOP, _BOTTOM = 34.0, 62.0, 9.0, 22.0, 10.0, 58.0


def level_svg(holds_kg: float, most_kg: float | None, *, recovery: bool, ident: str) -> str:
    """The level by weight, against what fills it to 80 %; without a known capacity a dashed outline.

    Parameters
    ----------
    holds_kg : float
        By the book. [kg]
    most_kg : float or None
        What it may hold, for a bought cylinder what would fill it as far; None is not known. [kg]
    recovery : bool
        Whether the part above the limit is drawn as a limit.
    """
    told = f"holds {forms(holds_kg).lb_oz}" + (f" of {forms(most_kg).lb_oz}" if most_kg else "")
    root = svg.picture(_WIDTH, _HEIGHT, "level", "Cylinder", told, ident)
    svg.hatch(root, f"{ident}-hatch", 4)
    limit_y = _BOTTOM - FULL_SHARE * (_BOTTOM - _TOP)
    add(root, "path", "level-valve", d=f"M{_LEFT + _BODY / 2 - 4} 3h8M{_LEFT + _BODY / 2} 3v{_TOP - 3}")
    if recovery:
        add(root, "rect", "zone", x=_LEFT, y=_TOP, width=_BODY, height=limit_y - _TOP, fill=f"url(#{ident}-hatch)")
    if most_kg:
        share = min(max(holds_kg / most_kg, 0.0), 1 / FULL_SHARE)
        y = _BOTTOM - share * FULL_SHARE * (_BOTTOM - _TOP)
        full = recovery and holds_kg > 0.95 * most_kg
        add(root, "rect", "level-fill" + (" level-full" if full else ""), x=_LEFT + 2, y=y, width=_BODY - 4, height=_BOTTOM - y)
    add(root, "rect", "level-body" + ("" if most_kg else " level-unknown"), x=_LEFT, y=_TOP, width=_BODY, height=_BOTTOM - _TOP)
    for i in range(5):
        add(
            root,
            "line",
            "level-tick",
            x1=_LEFT - 4,
            x2=_LEFT - 1,
            y1=_BOTTOM - i * (_BOTTOM - _TOP) / 4,
            y2=_BOTTOM - i * (_BOTTOM - _TOP) / 4,
        )
    return svg.written(root)
