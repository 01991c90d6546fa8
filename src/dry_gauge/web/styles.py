"""The one style sheet of the pages, joined from its parts in their order: a page asks for one file.

A rule is found by the name of its part. What belongs to one page alone has a sheet of its own beside.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

STYLE_SHEET = "app.css"
"""Under this name pages ask for it."""
FOLDER = Path(__file__).parent / "static" / "styles"
# A later part overrides an earlier one: what phones and tablets change stands after what it changes.
_PARTS = (
    "palette", "base", "masthead", "doors", "board", "card", "visit", "ladder", "pocket", "pages", "phone", "stations", "sealed",
    "timeline", "tablet", "here", "hints", "onward", "measured", "sheet", "teach",
)  # fmt: skip


@cache
def style_sheet() -> str:
    """All parts, one after the other."""
    return "".join((FOLDER / f"{name}.css").read_text() for name in _PARTS)
