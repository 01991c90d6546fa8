"""A supply as the legs it is: lines with their volts to ground, pairs between them, a lost leg broken."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.electrical.supply import LEGS, PAIRS, Supply, pair_words
from dry_gauge.core.words import in_percent
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import Element, add

_WIDTH, _TOP, _STEP = 460.0, 46.0, 84.0
_LEFT, _RIGHT = 92.0, 330.0
# Where each pair's brace stands, from the left: neighbours close in, the outer pair outside.
_BRACE_X = {"l1_l2": 372.0, "l2_l3": 372.0, "l3_l1": 424.0}


def legs_svg(supply: Supply, pairs: Mapping[str, float], ground: Mapping[str, float], ident: str, *, three_phase: bool) -> str:
    """The legs of one supply; volts are [V]."""
    legs = LEGS if three_phase else LEGS[:2]
    height = _TOP + _STEP * (len(legs) - 1) + 64
    told = ", ".join(f"{pair_words(name)} {volts:.0f} V" for name, volts in pairs.items())
    told += "".join(f", {leg.upper()} to ground {volts:.0f} V" for leg, volts in ground.items())
    root = svg.picture(_WIDTH, height, "power-legs", "Supply", f"{told}.", ident)
    lost = {one.leg for one in supply.findings if one.code == "leg_lost"}
    for i, leg in enumerate(legs):
        _leg(root, leg, _TOP + _STEP * i, ground.get(leg), broken=leg in lost)
    for name in PAIRS if three_phase else PAIRS[:1]:
        if name in pairs:
            _pair(root, name, pairs[name], pairs)
    words = [
        f"{supply.mean_v:.0f} V on average" if supply.mean_v is not None and three_phase else "",
        f"{in_percent(supply.imbalance, 1)} apart" if supply.imbalance is not None else "",
        supply.supply_class.name if supply.supply_class else "",
    ]
    add(root, "text", "legs-sum", ", ".join(filter(None, words)), x=12, y=height - 14)
    return svg.written(root)


def _leg(root: Element, leg: str, y: float, volts: float | None, *, broken: bool) -> None:
    add(root, "text", "leg-name", leg.upper(), x=12, y=y + 6)
    css = "leg broken" if broken else "leg"
    if broken:
        middle = _LEFT + 0.75 * (_RIGHT - _LEFT)
        add(root, "line", css, x1=_LEFT, x2=middle - 16, y1=y, y2=y)
        add(root, "line", css, x1=middle + 16, x2=_RIGHT, y1=y, y2=y)
        add(root, "path", "leg-gap", d=f"M{middle - 12:g} {y - 12:g}l24 24m0-24l-24 24")
    else:
        add(root, "line", css, x1=_LEFT, x2=_RIGHT, y1=y, y2=y)
    for x in (_LEFT, _RIGHT):
        add(root, "circle", "leg-end", cx=x, cy=y, r=5)
    if volts is not None:
        add(root, "text", "leg-ground", f"{volts:.0f} V to ground", x=_LEFT + 10, y=y - 10)


def _pair(root: Element, name: str, volts: float, pairs: Mapping[str, float]) -> None:
    first, second = sorted(LEGS.index(leg) for leg in name.split("_"))
    x, upper, lower = _BRACE_X[name], _TOP + _STEP * first, _TOP + _STEP * second
    low = volts < 0.85 * max(pairs.values())
    add(root, "path", "leg-brace low" if low else "leg-brace", d=f"M{_RIGHT + 8:g} {upper:g}H{x:g}V{lower:g}H{_RIGHT + 8:g}")
    # The outer pair's number stands above, where no other brace runs.
    at = (x - 4, upper - 12) if second - first == 2 else (x - 6, (upper + lower) / 2 + 6)
    add(root, "text", "leg-volts low" if low else "leg-volts", f"{volts:.0f} V", x=at[0], y=at[1], text_anchor="end")
