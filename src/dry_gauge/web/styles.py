"""The one style sheet of the pages, joined from its parts in their order: a page asks for one file.

A rule is found by the name of its part; what only one station shows stands in that station's folder. What belongs to one page
alone has a sheet of its own beside.
"""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path

STYLE_SHEET = "app.css"
"""Under this name pages ask for it."""
FOLDER = Path(__file__).parent / "static" / "styles"
# A later part overrides an earlier one: what phones and tablets change stands after what it changes.
_PARTS = (
    "palette", "base", "masthead", "doors", "board", "card", "visit", "ladder", "pocket", "pages", "phone", "forms", "lists",
    "loop", "outbox", "sealed", "cylinders", "timeline", "tablet", "here", "hints", "onward", "measured", "sheet", "teach",
)  # fmt: skip


def parts() -> list[Path]:
    """The parts in their order, those of the stations last."""
    stations = Path(__file__).parent / "stations"
    return [*(FOLDER / f"{name}.css" for name in _PARTS), *sorted(stations.glob("*/style.css"))]


@cache
def style_sheet() -> str:
    """All parts, one after the other, the palette in words that phones of some years ago know."""
    palette, *rest = (part.read_text() for part in parts())
    return "".join([_day_and_night(palette), *rest])


_PAIR = re.compile(r"(--[\w-]+): light-dark\(([^,]+), ([^)]+)\);")


def _day_and_night(palette: str) -> str:
    """The palette by day, then its colours by night, where the person or their device asks for it; paper is always by day.

    Where ``light-dark()`` is not known (before the spring of 2024) no colour that is named with it is drawn at all: a chosen
    answer would look like any other.
    """
    night = "\n".join(f"  {name}: {dark};" for name, _, dark in _PAIR.findall(palette))
    return (
        _PAIR.sub(r"\1: \2;", palette)
        + f'@media screen and (prefers-color-scheme: dark) {{ :root[data-theme="auto"] {{\n{night}\n}} }}\n'
        + f'@media screen {{ :root[data-theme="night"] {{\n{night}\n}} }}\n'
    )
