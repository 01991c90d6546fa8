"""The loop: the refrigerant's path and the air's, with every place one can look at, tappable, and what was found there.

Drawn for the kind of unit: the receiver where there is one, the metering device as it is, roles in heating swapped.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import pi, sin

from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.visit.survey import PlaceState
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

WIDTH, HEIGHT = 374.0, 512.0
# Where each place is drawn: x, y, width, height; sized for a thumb on a phone, where the drawing is 374 pixels wide.
SPOTS: Mapping[str, tuple[float, float, float, float]] = {
    "outside": (4, 4, 118, 62),
    "indoor_air": (128, 4, 118, 62),
    "history": (252, 4, 118, 62),
    "evaporator": (4, 128, 108, 256),
    "suction": (134, 96, 106, 66),
    "compressor": (134, 208, 106, 78),
    "condenser": (262, 128, 108, 256),
    "liquid": (134, 350, 106, 66),
    "drain": (4, 446, 118, 62),
    "moving": (128, 446, 118, 62),
    "electrics": (252, 446, 118, 62),
}
# The coil that evaporates stands where the liquid goes: in heating that is the outdoor one.
_OTHER_COIL = {"evaporator": "condenser", "condenser": "evaporator"}
_PIPE_Y = {"suction": 112.0, "liquid": 400.0}


@dataclass(frozen=True, slots=True)
class LoopMark:
    """Something to write at a place: the temperature read there, and on which side it belongs."""

    place: str
    words: str


def loop_svg(facts: UnitFacts, survey: Sequence[PlaceState], marks: Sequence[LoopMark] = (), ident: str = "loop") -> str:
    """The loop of one unit; each place is a link to its questions (``#place-...``)."""
    found = {state.place.name: state for state in survey}
    told = "; ".join(f"{state.place.label}: {', '.join(state.findings)}" for state in survey if state.findings)
    root = svg.picture(WIDTH, HEIGHT, "loop", "Refrigerant loop", told or "Nothing found yet.", ident, "group")
    _pipes(root, facts)
    _coil(root, "evaporator", "low")
    _coil(root, "condenser", "high")
    for name, spot in SPOTS.items():
        if name in found:
            drawn_at = SPOTS[_OTHER_COIL.get(name, name)] if facts.heating else spot
            _place(root, found[name], drawn_at, [mark.words for mark in marks if mark.place == name])
    return svg.written(root)


def _pipes(root: Element, facts: UnitFacts) -> None:
    suction_y, liquid_y = _PIPE_Y["suction"], _PIPE_Y["liquid"]
    add(root, "path", "pipe low-mark", d=f"M58 128V{suction_y}H187V208")
    add(root, "path", "pipe high-mark", d=f"M187 286V316H251V{suction_y}H316V128")
    add(root, "path", "pipe high-mark", d=f"M316 384V{liquid_y}H58V384")
    # The metering device, as it is: a waist for a fixed orifice, a bow tie with a bulb for a valve.
    fixed = facts.metering is not None and facts.metering.is_fixed
    x = 100
    if fixed:
        add(
            root,
            "path",
            "device",
            d=f"M{x - 14} {liquid_y - 10}L{x} {liquid_y - 3}L{x + 14} {liquid_y - 10}"
            f"V{liquid_y + 10}L{x} {liquid_y + 3}L{x - 14} {liquid_y + 10}z",
        )
    else:
        add(root, "path", "bulb", d=f"M{x} {liquid_y - 6}H{x + 22}V{suction_y + 6}")
        add(
            root,
            "path",
            "device",
            d=f"M{x - 14} {liquid_y - 11}L{x + 14} {liquid_y + 11}V{liquid_y - 11}L{x - 14} {liquid_y + 11}z",
        )
        add(root, "circle", "device", cx=x + 22, cy=suction_y, r=6)
    if facts.receiver:
        add(root, "rect", "receiver", x=258, y=liquid_y - 14, width=40, height=28, rx=13)


def _coil(root: Element, place: str, side: str) -> None:
    x, y, width, height = SPOTS[place]
    add(root, "rect", f"coil {side}-ground", x=x, y=y, width=width, height=height)
    passes = 8
    d = f"M{x + width / 2:g} {y:g}"
    for i in range(1, passes * 2):
        at = y + height * i / (passes * 2)
        d += f"L{x + width / 2 + (width / 2 - 16) * sin(i * pi / 2) * (1 if i % 2 else 0):.5g} {at:.5g}"
    add(root, "path", f"tube {side}-mark", d=d + f"L{x + width / 2:g} {y + height:g}")


def _place(root: Element, state: PlaceState, spot: tuple[float, float, float, float], marks: Sequence[str]) -> None:
    place = state.place
    x, y, width, height = spot
    found = "found" if state.findings else "done" if state.done else "begun" if state.answered else "open"
    link = add(root, "a", f"spot spot-{found}", href=f"#place-{place.name}", data_place=place.name)
    words = ", ".join(state.findings) or ("looked at" if state.done else "not looked at yet")
    add(link, "title", text=f"{place.label}: {words}")
    solid = "" if place.name in ("evaporator", "condenser") else " spot-solid"
    add(link, "rect", f"spot-box{solid}", x=x, y=y, width=width, height=height, rx=2)
    lines = _wrapped(place.label, width)
    top = y + 19 if solid else y + 22
    for i, line in enumerate(lines):
        add(link, "text", "spot-name", line, x=x + 7, y=top + 16 * i)
    below = top + 16 * len(lines) + 4
    # Told apart by shape: a lozenge for a finding, a filled square for done, a half one for begun, a hollow one for open.
    _glyph(link, found, x + 7, below - 9)
    count = f"{len(state.findings)} found" if state.findings else f"{state.answered} of {len(place.sights)}"
    add(link, "text", "spot-count", count, x=x + 25, y=below + 2)
    for i, mark in enumerate(marks):
        add(link, "text", "spot-mark", mark, x=x + width - 7, y=y + height - 8 - 16 * i, text_anchor="end")


def _glyph(parent: Element, found: str, x: float, y: float) -> None:
    if found == "found":
        add(parent, "path", "spot-glyph full", d=f"M{x + 6:g} {y - 1:g}l7 7l-7 7l-7 -7z")
        return
    add(parent, "rect", "spot-glyph" + (" full" if found == "done" else ""), x=x, y=y, width=12, height=12)
    if found == "begun":
        add(parent, "rect", "spot-glyph full", x=x, y=y + 6, width=12, height=6)


def _wrapped(label: str, width: float) -> list[str]:
    """The label in lines that fit; the usual letter is 8 pixels wide."""
    lines = [""]
    for word in label.split():
        longer = f"{lines[-1]} {word}".strip()
        if len(longer) * 8.0 > width - 10 and lines[-1]:
            lines.append(word)
        else:
            lines[-1] = longer
    return lines
