"""Static pressure along the way of the air: one line that falls to the blower and rises at it, and what each part costs."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.air.static_profile import StaticProfile
from dry_gauge.core.quantities import INCH_WATER_PA
from dry_gauge.core.words import Reader
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add

_WIDTH, _HEIGHT, _ZERO, _HALF = 300.0, 250.0, 112.0, 76.0  # as narrow as its numbers allow: it stands in a sheet's column
_LEAST_PA = 0.3 * INCH_WATER_PA
# Places along the way, from the room and back to it; the blower stands between the third and the fourth.
_X = {
    "room": 6.0,
    "external_static_return": 66.0,
    "static_after_filter": 112.0,
    "static_after_coil": 159.0,
    "static_after_blower": 206.0,
    "external_static_supply": 246.0,
    "out": 294.0,
}
_PART_X = {"return duct": 32.0, "filter": 88.0, "supply duct": 270.0}
_COIL_X = {False: 136.0, True: 226.0}
"""Before the blower, or behind it."""
_BLOWER_X = 182.0


def path_svg(profile: StaticProfile, points_pa: Mapping[str, float], reader: Reader, ident: str) -> str:
    """The path as far as it was read. [Pa]"""
    told = "; ".join(f"{drop.part} {reader.say('static', drop.pa.value)}" for drop in profile.drops)
    root = svg.picture(_WIDTH, _HEIGHT, "air-path", "Static along the air", told or "Nothing read yet.", ident)
    tallest = max([_LEAST_PA, *(abs(value) for value in points_pa.values())]) * 1.1

    def y(pa: float) -> float:
        return _ZERO - pa / tallest * _HALF

    add(root, "line", "path-room", x1=_X["room"], x2=_X["out"], y1=_ZERO, y2=_ZERO)
    add(root, "text", "path-word", "room", x=_X["room"] - 6, y=_ZERO - 8)
    known = [(name, points_pa[name]) for name in _X if name in points_pa]
    before = [("room", 0.0), *((name, pa) for name, pa in known if _X[name] < _BLOWER_X)]
    behind = [*((name, pa) for name, pa in known if _X[name] > _BLOWER_X), ("out", 0.0)]
    if len(before) > 1:
        add(root, "path", "path-line", d="M" + "L".join(f"{_X[name]:g} {y(pa):.5g}" for name, pa in before))
    if len(behind) > 1:
        add(root, "path", "path-line", d="M" + "L".join(f"{_X[name]:g} {y(pa):.5g}" for name, pa in behind))
    if len(before) > 1 and len(behind) > 1:
        (last, low), (first, high) = before[-1], behind[0]
        way = f"M{_X[last]:g} {y(low):.5g}H{_BLOWER_X:g}V{y(high):.5g}H{_X[first]:g}"
        add(root, "path", "path-jump", d=way)
    add(root, "circle", "path-blower", cx=_BLOWER_X, cy=_ZERO, r=11)
    add(root, "path", "path-vane", d=f"M{_BLOWER_X - 6:g} {_ZERO + 6:g}l13 -6l-13 -6z")
    for name, pa in known:
        add(root, "circle", "path-point", cx=_X[name], cy=y(pa), r=5)
        above = pa >= 0
        add(
            root,
            "text",
            "path-value",
            reader.say("static", pa).split(" ")[0].replace("-", "−"),
            x=_X[name],
            y=y(pa) + (-10 if above else 20),
            text_anchor="middle",
        )
    for drop in profile.drops:
        x = _PART_X.get(drop.part, _COIL_X["static_after_blower" in points_pa])
        css = "path-part over" if drop.is_over or drop.part == profile.eats else "path-part"
        for line, word in enumerate(drop.part.split(" ")[::-1]):
            add(root, "text", css, word, x=x, y=_HEIGHT - 34 - 17 * line, text_anchor="middle")
        add(root, "text", css, reader.say("static", drop.pa.value).split(" ")[0], x=x, y=_HEIGHT - 14, text_anchor="middle")
    return svg.written(root)
