"""A defrost along its minutes: what was tapped, one below the other where they would touch, and its longest time."""

from __future__ import annotations

from collections.abc import Sequence

from dry_gauge.core.controls.defrost import ENDS, LONGEST_MIN, MARK_WORDS, Mark
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add

_WIDTH, _LEFT, _RIGHT, _LINE, _ROW = 460.0, 16.0, 444.0, 26.0, 20.0
_GRAVE = frozenset({Mark.ICE_LEFT, Mark.ENDED_BY_TIME, Mark.FAN_RUNS_ON})


def defrost_svg(marks: Sequence[tuple[Mark, float]], ident: str) -> str:
    """The moments of one defrost, minutes from its call."""
    last = marks[-1][1]
    span = max(LONGEST_MIN * 1.15, last * 1.08)
    height = _LINE + _ROW * len(marks) + 14
    told = "; ".join(f"{MARK_WORDS[mark]} at {at:.0f} min" for mark, at in marks)
    root = svg.picture(_WIDTH, height, "defrost-line", "Defrost", f"{told}.", ident)

    def x(minute: float) -> float:
        return _LEFT + (_RIGHT - _LEFT) * minute / span

    for minute in range(0, int(span) + 1, 5):
        add(root, "line", "defrost-tick", x1=x(minute), x2=x(minute), y1=_LINE - 6, y2=_LINE)
        add(root, "text", "defrost-minute", f"{minute}", x=x(minute), y=_LINE - 9, text_anchor="middle")
    add(root, "line", "defrost-longest", x1=x(LONGEST_MIN), x2=x(LONGEST_MIN), y1=_LINE - 6, y2=height - 6)
    end = next((at for mark, at in marks if mark in ENDS), last)
    add(root, "line", "defrost-whole", x1=x(0), x2=_RIGHT, y1=_LINE, y2=_LINE)
    add(root, "line", "defrost-on", x1=x(0), x2=x(end), y1=_LINE, y2=_LINE)
    for i, (mark, at) in enumerate(marks):
        y = _LINE + _ROW * (i + 1)
        css = "grave" if mark in _GRAVE else "sound"
        add(root, "line", f"defrost-drop {css}", x1=x(at), x2=x(at), y1=_LINE, y2=y - 4)
        add(root, "circle", f"defrost-mark {css}", cx=x(at), cy=_LINE, r=4)
        left = x(at) > 0.55 * _WIDTH
        add(
            root,
            "text",
            f"defrost-words {css}",
            f"{MARK_WORDS[mark]}, {at:.0f} min",
            x=x(at) + (-6 if left else 6),
            y=y,
            text_anchor="end" if left else "start",
        )
    return svg.written(root)
