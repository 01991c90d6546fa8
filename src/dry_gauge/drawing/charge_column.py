"""What is in the unit as a column on the scale's own units: each pour a layer, the target a hatched line, the rest to go."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

from dry_gauge.core.charge.mass import forms
from dry_gauge.core.quantities import POUND_KG
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add
from dry_gauge.drawing.vacuum_curve import Size

DESK, PHONE = Size(606, 520, 76, 300), Size(374, 440, 64, 166)
_TOP, _LINE = 26.0, 18
_STEPS = (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500)
_SHOWN_KG = 0.02  # less than this is not worth an arrow


@dataclass(frozen=True, slots=True)
class Layer:
    """One movement into the unit, kg; `on` while it is still being poured."""

    kg: float
    words: str
    on: bool = False


def column_svg(
    layers: Sequence[Layer],
    target_kg: float | None,
    recovered_kg: float,
    size: Size,
    ident: str,
    *,
    metric: bool = False,
    goal: str = "target",
    rest: str = "to go",
) -> str:
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
    column = _Column(layers, target_kg, recovered_kg, size, metric)
    to_go = None if target_kg is None else target_kg - column.inside_kg
    told = f"{column.said(column.inside_kg)} in"
    if to_go is not None:
        told += f", {column.said(abs(to_go))} {rest if to_go >= 0 else 'over'}"
    root = svg.picture(size.width, size.height, "chart column", "Charge by weight", told, ident)
    svg.hatch(root, f"{ident}-hatch", 5)
    column.ruler(root)
    if recovered_kg > 0:
        column.came_out(root)
    lowest = column.filled(root)
    if target_kg is not None:
        column.target(root, target_kg, f"{ident}-hatch", goal)
        if to_go is not None and to_go > _SHOWN_KG:
            column.to_go(root, target_kg, f"{column.said(to_go)} {rest}", above=lowest - _LINE)
    return svg.written(root)


class _Column:
    """Where everything stands: the glass, the ruler left of it, the words right of it."""

    def __init__(self, layers: Sequence[Layer], target_kg: float | None, recovered_kg: float, size: Size, metric: bool) -> None:
        self.layers, self.recovered_kg, self.size, self.metric = layers, recovered_kg, size, metric
        self.inside_kg = sum(layer.kg for layer in layers)
        self.unit_kg, self.unit = (1.0, "kg") if metric else (POUND_KG, "lb")
        most = max(self.inside_kg, target_kg or 0.0, recovered_kg, self.unit_kg) * 1.12 / self.unit_kg
        self.step = next(step for step in _STEPS if most / step <= 9)
        self.top = ceil(most / self.step) * self.step
        self.bottom, self.left, self.wide = size.height - 22, size.left, 132.0 if size.width > 400 else 84.0
        self.right = self.left + self.wide
        self.beside = self.right + (36 if recovered_kg > 0 else 12)

    def y(self, kg: float) -> float:
        """Height of a weight."""
        return self.bottom - min(max(kg / self.unit_kg, 0.0), self.top) / self.top * (self.bottom - _TOP)

    def said(self, kg: float) -> str:
        """A weight in the reader's units."""
        return forms(kg).kg if self.metric else forms(kg).lb_oz

    def note(self, root: Element, words: str, y: float, css: str = "chart-note") -> Element:
        """Words right of the glass."""
        return add(root, "text", css, words, x=self.beside, y=y)

    def ruler(self, root: Element) -> None:
        """Ticks of the scale's own units, every other space filled."""
        ticks, far = round(self.top / self.step), self.right + (220 if self.size.width > 400 else 130)
        for i in range(ticks + 1):
            level = self.bottom - i / ticks * (self.bottom - _TOP)
            add(root, "line", "chart-grid", x1=self.left, x2=far, y1=level, y2=level)
            add(root, "text", "chart-tick", f"{i * self.step:g} {self.unit}", x=self.left - 14, y=level + 4, text_anchor="end")
            if i % 2:
                add(root, "rect", "chart-ruler", x=self.left - 8, y=level, width=4, height=(self.bottom - _TOP) / ticks)

    def came_out(self, root: Element) -> None:
        """What was recovered before, as an outline beside the glass."""
        y = self.y(self.recovered_kg)
        add(root, "rect", "column-recovered", x=self.right + 10, y=y, width=12, height=self.bottom - y)
        self.note(root, "came out", y + 4)

    def filled(self, root: Element) -> float:
        """The glass and its layers; answers how high the words beside them reach."""
        add(root, "path", "column-glass", d=f"M{self.left} {_TOP}V{self.bottom}M{self.right} {_TOP}V{self.bottom}")
        held, written_at = 0.0, self.bottom + 30
        for i, layer in enumerate(self.layers):
            start, held = held, held + layer.kg
            upper, lower = self.y(max(start, held)), self.y(min(start, held))
            css = "column-out" if layer.kg < 0 else "column-on" if layer.on else f"column-layer layer-{i % 2}"
            add(root, "rect", css, x=self.left + 2, y=upper, width=self.wide - 4, height=max(lower - upper, 1.5))
            add(root, "line", "column-edge", x1=self.left, x2=self.right + 4, y1=self.y(held), y2=self.y(held))
            at = min((upper + lower) / 2 + 4, written_at - 16)
            if at > _TOP:
                self.note(root, f"{layer.words}, {self.said(abs(layer.kg))}", at)
                written_at = at
        return written_at

    def target(self, root: Element, target_kg: float, hatch: str, goal: str) -> None:
        """The hatched line, and what it is."""
        level, left, wide = self.y(target_kg), self.left - 4, self.wide + 8
        add(root, "rect", "zone", x=left, y=level - 4, width=wide, height=8, fill=f"url(#{hatch})")
        add(root, "path", "chart-limit", d=f"M{left} {level - 4:.5g}h{wide}M{left} {level + 4:.5g}h{wide}")
        name = self.note(root, f"{goal} ", level - 6, "column-target")
        add(name, "tspan", "chart-note", self.said(target_kg))

    def to_go(self, root: Element, target_kg: float, words: str, above: float) -> None:
        """An arrow from what is in to the target, its words above those of the layers or left out."""
        middle = self.left + self.wide / 2
        now, then = self.y(self.inside_kg), self.y(target_kg)
        add(root, "path", "column-to-go", d=f"M{middle} {now - 3:.5g}V{then + 8:.5g}")
        halfway = (now + then) / 2
        if self.recovered_kg > 0 and abs(halfway - self.y(self.recovered_kg)) < 20:
            halfway = self.y(self.recovered_kg) + 26
        if halfway < above:
            self.note(root, words, halfway + 4, "column-target")
