"""The loop: the refrigerant's path and the air's, with every place one can look at, tappable, and what was found there.

Drawn for the kind of unit: the receiver where there is one, the metering device as it is, roles in heating swapped.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import pi, sin

from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.survey import PlaceState
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

WIDTH, HEIGHT = 606.0, 420.0
# Where each place is drawn: x, y, width, height; sized for a thumb.
SPOTS: Mapping[str, tuple[float, float, float, float]] = {
    "outside": (12, 12, 132, 58),
    "indoor_air": (12, 108, 104, 84),
    "evaporator": (132, 92, 84, 232),
    "drain": (132, 344, 84, 58),
    "suction": (252, 40, 104, 58),
    "compressor": (252, 164, 104, 92),
    "condenser": (394, 92, 84, 232),
    "liquid": (252, 322, 104, 58),
    "moving": (496, 108, 98, 84),
    "electrics": (496, 236, 98, 58),
    "history": (462, 12, 132, 58),
}
_PIPE_Y = {"suction": 69.0, "liquid": 351.0}


@dataclass(frozen=True, slots=True)
class LoopMark:
    """Something to write at a place: the temperature read there, and on which side it belongs."""

    place: str
    words: str


def loop_svg(facts: UnitFacts, survey: Sequence[PlaceState], marks: Sequence[LoopMark] = (), ident: str = "loop") -> str:
    """The loop of one unit; each place is a link to its questions (``#place-...``)."""
    found = {state.place.name: state for state in survey}
    told = "; ".join(f"{state.place.label}: {', '.join(state.findings)}" for state in survey if state.findings)
    root = svg.picture(WIDTH, HEIGHT, "loop", "Refrigerant loop", told or "Nothing found yet.", ident)
    _pipes(root, facts)
    _air(root, 116, 132, 208)
    _air(root, 478, 496, 322)
    _coil(root, "evaporator", "low")
    _coil(root, "condenser", "high")
    for name in SPOTS:
        if name in found:
            _place(root, found[name], [mark.words for mark in marks if mark.place == name])
    return svg.written(root)


def _pipes(root: Element, facts: UnitFacts) -> None:
    suction_y, liquid_y = _PIPE_Y["suction"], _PIPE_Y["liquid"]
    add(root, "path", "pipe low-mark", d=f"M174 92V{suction_y}H304V164")
    add(root, "path", "pipe high-mark", d=f"M304 256V290H376V{suction_y}H436V92")
    add(root, "path", "pipe high-mark", d=f"M436 324V{liquid_y}H174V324")
    # The metering device, as it is: a waist for a fixed orifice, a bow tie with a bulb for a valve.
    fixed = facts.metering is not None and facts.metering.is_fixed
    x = 224
    if fixed:
        add(root, "path", "device", d=f"M{x - 14} {liquid_y - 10}L{x} {liquid_y - 3}L{x + 14} {liquid_y - 10}"
            f"V{liquid_y + 10}L{x} {liquid_y + 3}L{x - 14} {liquid_y + 10}z")  # fmt: skip
    else:
        add(root, "path", "device", d=f"M{x - 14} {liquid_y - 11}L{x + 14} {liquid_y + 11}V{liquid_y - 11}"
            f"L{x - 14} {liquid_y + 11}z")  # fmt: skip
        add(root, "path", "bulb", d=f"M{x} {liquid_y - 6}V{suction_y + 6}")
        add(root, "circle", "device", cx=x, cy=suction_y, r=6)
    if facts.receiver:
        add(root, "rect", "receiver", x=380, y=liquid_y - 16, width=44, height=32, rx=14)


def _air(root: Element, x1: float, x2: float, y: float) -> None:
    for dy in (-44, 0, 44):
        add(root, "path", "air-way air-mark", d=f"M{x1 - 22:g} {y + dy:g}H{x2 + 8:g}m-7 -5l7 5l-7 5")


def _coil(root: Element, place: str, side: str) -> None:
    x, y, width, height = SPOTS[place]
    add(root, "rect", f"coil {side}-ground", x=x, y=y, width=width, height=height)
    passes = 7
    d = f"M{x + width / 2:g} {y:g}"
    for i in range(1, passes * 2):
        at = y + height * i / (passes * 2)
        d += f"L{x + width / 2 + (width / 2 - 12) * sin(i * pi / 2) * (1 if i % 2 else 0):.5g} {at:.5g}"
    add(root, "path", f"tube {side}-mark", d=d + f"L{x + width / 2:g} {y + height:g}")


def _place(root: Element, state: PlaceState, marks: Sequence[str]) -> None:
    place = state.place
    x, y, width, height = SPOTS[place.name]
    found = "found" if state.findings else "done" if state.done else "begun" if state.answered else "open"
    link = add(root, "a", f"spot spot-{found}", href=f"#place-{place.name}", data_place=place.name)
    words = ", ".join(state.findings) or ("looked at" if state.done else "not looked at yet")
    add(link, "title", text=f"{place.label}: {words}")
    solid = "" if place.name in ("evaporator", "condenser") else " spot-solid"
    add(link, "rect", f"spot-box{solid}", x=x, y=y, width=width, height=height, rx=2)
    lines = _wrapped(place.label, width)
    top = y + 20 if solid else y + 22
    for i, line in enumerate(lines):
        add(link, "text", "spot-name", line, x=x + 8, y=top + 15 * i)
    below = top + 15 * len(lines) + 2
    # Told apart by shape: a lozenge for a finding, a filled square for done, a half one for begun, a hollow one for open.
    _glyph(link, found, x + 8, below - 8)
    count = f"{len(state.findings)} found" if state.findings else f"{state.answered} of {len(place.sights)}"
    add(link, "text", "spot-count", count, x=x + 25, y=below + 3)
    for i, mark in enumerate(marks):
        add(link, "text", "spot-mark", mark, x=x + 8, y=below + 20 + 16 * i)


def _glyph(parent: Element, found: str, x: float, y: float) -> None:
    if found == "found":
        add(parent, "path", "spot-glyph full", d=f"M{x + 6:g} {y - 1:g}l7 7l-7 7l-7 -7z")
        return
    add(parent, "rect", "spot-glyph" + (" full" if found == "done" else ""), x=x, y=y, width=12, height=12)
    if found == "begun":
        add(parent, "rect", "spot-glyph full", x=x, y=y + 6, width=12, height=6)


def _wrapped(label: str, width: float) -> list[str]:
    """The label in lines that fit; the usual letter is 7 pixels wide."""
    lines = [""]
    for word in label.split():
        longer = f"{lines[-1]} {word}".strip()
        if len(longer) * 7.2 > width - 14 and lines[-1]:
            lines.append(word)
        else:
            lines[-1] = longer
    return lines
