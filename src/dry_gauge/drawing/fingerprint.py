"""A ladder without words, to be recognised at a glance: all of them on one temperature range, so they compare by eye."""

from __future__ import annotations

from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.drawing import svg
from dry_gauge.drawing.rungs import contents_of
from dry_gauge.drawing.svg import Element, add

TOP_K, BOTTOM_K = to_kelvin(135), to_kelvin(-25)
_COLUMNS = {"air": (0.16, 0.36), "low": (0.42, 0.62), "high": (0.72, 0.92)}
_STEMS = {"split": 0.10, "a": 0.37, "b": 0.645, "b2": 0.685, "c": 0.935}
_GRID_F = (0, 20, 40, 60, 80, 100, 120)


def fingerprint_svg(
    circuit: CircuitAssessment | None, title: str, width: float = 150, height: float = 200, *, ident: str, past: bool = False
) -> str:
    """The small ladder of one circuit; empty rails without one, dashed rungs where it shows a past visit."""
    words = "No readings yet." if circuit is None else _told(circuit)
    root = svg.picture(width, height, f"fingerprint{' past' if past else ''}", title, words, ident)
    # Stretched to whatever room there is: heights still compare, since every fingerprint is stretched alike.
    root.set("preserveAspectRatio", "none")

    def y(temperature_k: float) -> float:
        inside = min(max(temperature_k, BOTTOM_K), TOP_K)
        return (TOP_K - inside) / (TOP_K - BOTTOM_K) * height

    for tick in _GRID_F:
        add(root, "line", "grid", x1=0, x2=width, y1=y(to_kelvin(tick)), y2=y(to_kelvin(tick)))
    for side, (left, right) in _COLUMNS.items():
        add(root, "rect", f"column {side}-ground", x=left * width, y=0, width=(right - left) * width, height=height)
    if circuit is None:
        return svg.written(root)
    contents = contents_of(circuit)
    for gap in contents.gaps:
        _stem(root, gap.side, gap.stands, _STEMS[gap.gutter] * width, y(gap.base_k), y(gap.tip_k))
    for rung in contents.rungs:
        left, right = (share * width for share in _COLUMNS[rung.column])
        add(root, "line", f"bar {rung.column}-mark", x1=left, x2=right, y1=y(rung.temperature_k), y2=y(rung.temperature_k))
        if rung.bubble_k is not None:
            add(root, "line", f"bubble {rung.column}-mark", x1=left, x2=right, y1=y(rung.bubble_k), y2=y(rung.bubble_k))
    return svg.written(root)


def _stem(root: Element, side: str, stands: str, x: float, base_y: float, tip_y: float) -> None:
    add(root, "line", f"stem {side}-mark", x1=x, x2=x, y1=base_y, y2=tip_y)
    # Right is a filled block at the tip, not right a hollow one; undecided none.
    if stands in ("right", "short", "long", "check"):
        css = "block-full" if stands == "right" else "block-hollow"
        add(root, "rect", css, x=x - 3, y=tip_y - 3, width=6, height=6)


def _told(circuit: CircuitAssessment) -> str:
    told = [f"{gap.label} {gap.stands}" for gap in contents_of(circuit).gaps]
    return "; ".join(told) + "." if told else "No gaps yet."
