"""What was believed of the true causes as a call went on, over its minutes, with what each step was."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add

_LEFT, _RIGHT, _TOP, _FOOT = 46.0, 14.0, 30.0, 40.0
_DASHES = ("", "8 5", "2 5")
_HIGH = 0.8  # from here on a name stands below its line


@dataclass(frozen=True, slots=True)
class BeliefStep:
    """One step: from when to when [minutes], how much was believed of each cause after it, and how it is marked."""

    start: float
    end: float
    believed: Mapping[str, float]
    label: str
    mended: bool = False
    harmed: bool = False


def belief_svg(causes: Sequence[tuple[str, str]], steps: Sequence[BeliefStep], width: float, height: float, ident: str) -> str:
    """The drawing; causes by name and words, steps in order and at least one."""
    last = max(steps[-1].end, 1.0)
    told = " ".join(f"{step.label}, after {step.end:.0f} min." for step in steps)
    root = svg.picture(width, height, "belief", "What was believed of the true causes, over the minutes", told, ident)
    foot = height - _FOOT

    def across(minutes: float) -> float:
        return _LEFT + (width - _LEFT - _RIGHT) * minutes / last

    def down(share: float) -> float:
        return foot - (foot - _TOP) * share

    for share, words in ((0.0, "0 %"), (0.5, "50 %"), (1.0, "100 %")):
        add(root, "line", "belief-rule", x1=_LEFT, x2=width - _RIGHT, y1=down(share), y2=down(share))
        add(root, "text", "belief-word", words, x=_LEFT - 6, y=down(share) + 4, text_anchor="end")
    for step in steps:
        css = "belief-mended" if step.mended else "belief-step"
        wide = max(across(step.end) - across(step.start) - 1, 2)
        add(root, "rect", css, x=across(step.start), y=foot + 6, width=wide, height=14 if step.mended else 7)
        if step.harmed:
            add(root, "path", "belief-harm", d=f"M{svg.number(across(step.start))} {_TOP - 4}l7 -12h-14z")
    for (name, words), dash in zip(causes, _DASHES, strict=False):
        points, at = [], 0.0
        for step in steps:
            if name not in step.believed:
                break
            points += [
                f"{svg.number(across(at))},{svg.number(down(step.believed[name]))}",
                f"{svg.number(across(step.end))},{svg.number(down(step.believed[name]))}",
            ]
            at = step.end
        if points:
            line = {"points": " ".join(points), **({"stroke_dasharray": dash} if dash else {})}
            add(root, "polyline", "belief-line", **line)
            share = float(steps[0].believed.get(name, 0))
            add(root, "text", "belief-name", words, x=across(0) + 8, y=down(share) + (22 if share > _HIGH else -8))
    add(root, "text", "belief-word", f"{last:.0f} min", x=width - _RIGHT, y=height - 6, text_anchor="end")
    return svg.written(root)
