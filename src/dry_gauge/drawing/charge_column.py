"""What is in the unit as a column on the scale's own units: each pour a layer, the target a hatched line, the rest to go."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

from dry_gauge.core.charge.mass import forms
from dry_gauge.core.quantities import POUND_KG
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add
from dry_gauge.drawing.vacuum_curve import Size

DESK, PHONE = Size(606, 520, 76, 300), Size(374, 440, 64, 166)
_TOP = 26.0


@dataclass(frozen=True, slots=True)
class Layer:
    """One movement into the unit, kg; `on` while it is still being poured."""

    kg: float
    words: str
    on: bool = False


def column_svg(
    layers: Sequence[Layer], target_kg: float | None, recovered_kg: float, size: Size, ident: str, *, metric: bool = False,
    goal: str = "target", rest: str = "to go",
) -> str:  # fmt: skip
    """The column.

    Parameters
    ----------
    layers : sequence of Layer
        In order; what was taken out to trim is negative.
    target_kg : float or None
        The target total.
    recovered_kg : float
        Taken out before: drawn beside it as an outline. [kg]
    metric : bool
        Scale in kilograms, else pounds.
    goal, rest : str
        What the hatched line is, and what lacks of it.
    """
    inside = sum(layer.kg for layer in layers)
    unit_kg, unit = (1.0, "kg") if metric else (POUND_KG, "lb")
    most = max(inside, target_kg or 0.0, recovered_kg, unit_kg) * 1.12 / unit_kg
    step = next(step for step in (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500) if most / step <= 9)
    top = ceil(most / step) * step
    bottom, left, wide = size.height - 22, size.left, 132.0 if size.width > 400 else 84.0
    beside = left + wide + (36 if recovered_kg > 0 else 12)

    def y(kg: float) -> float:
        return bottom - min(max(kg / unit_kg, 0.0), top) / top * (bottom - _TOP)

    to_go = None if target_kg is None else target_kg - inside
    told = f"{_said(inside, metric)} in"
    if to_go is not None:
        told += f", {_said(abs(to_go), metric)} {rest if to_go >= 0 else 'over'}"
    root = svg.picture(size.width, size.height, "chart column", "Charge by weight", told, ident)
    svg.hatch(root, f"{ident}-hatch", 5)
    ticks = round(top / step)
    for i in range(ticks + 1):
        level = bottom - i / ticks * (bottom - _TOP)
        add(
            root, "line", "chart-grid", x1=left, x2=left + wide + (220 if size.width > 400 else 130), y1=level, y2=level
        )
        add(root, "text", "chart-tick", f"{i * step:g} {unit}", x=left - 14, y=level + 4, text_anchor="end")
        if i % 2:
            add(root, "rect", "chart-ruler", x=left - 8, y=level, width=4, height=(bottom - _TOP) / ticks)
    if recovered_kg > 0:
        add(
            root,
            "rect",
            "column-recovered",
            x=left + wide + 10,
            y=y(recovered_kg),
            width=12,
            height=bottom - y(recovered_kg),
        )
        add(root, "text", "chart-note", "came out", x=beside, y=y(recovered_kg) + 4)
    add(root, "path", "column-glass", d=f"M{left} {_TOP}V{bottom}M{left + wide} {_TOP}V{bottom}")
    held, written_at = 0.0, bottom + 30
    for i, layer in enumerate(layers):
        start, held = held, held + layer.kg
        upper, lower = y(max(start, held)), y(min(start, held))
        css = "column-out" if layer.kg < 0 else "column-on" if layer.on else f"column-layer layer-{i % 2}"
        add(root, "rect", css, x=left + 2, y=upper, width=wide - 4, height=max(lower - upper, 1.5))
        add(root, "line", "column-edge", x1=left, x2=left + wide + 4, y1=y(held), y2=y(held))
        at = min((upper + lower) / 2 + 4, written_at - 16)
        if at > _TOP:
            said = _said(abs(layer.kg), metric)
            add(root, "text", "chart-note", f"{layer.words}, {said}", x=beside, y=at)
            written_at = at
    if target_kg is not None:
        level = y(target_kg)
        add(root, "rect", "zone", x=left - 4, y=level - 4, width=wide + 8, height=8, fill=f"url(#{ident}-hatch)")
        add(
            root,
            "path",
            "chart-limit",
            d=f"M{left - 4} {level - 4:.5g}h{wide + 8}M{left - 4} {level + 4:.5g}h{wide + 8}",
        )
        said = _said(target_kg, metric)
        name = add(root, "text", "column-target", f"{goal} ", x=beside, y=level - 6)
        add(name, "tspan", "chart-note", said)
    if to_go is not None and to_go > 0.02:
        middle = left + wide / 2
        add(root, "path", "column-to-go", d=f"M{middle} {y(inside) - 3:.5g}V{y(target_kg or 0) + 8:.5g}")
        halfway = (y(inside) + y(target_kg or 0)) / 2
        if recovered_kg > 0 and abs(halfway - y(recovered_kg)) < 20:
            halfway = y(recovered_kg) + 26
        if halfway < written_at - 18:
            said = _said(to_go, metric)
            add(root, "text", "column-target", f"{said} {rest}", x=beside, y=halfway + 4)
    return svg.written(root)


def _said(kg: float, metric: bool) -> str:
    return forms(kg).kg if metric else forms(kg).lb_oz
