"""Writes static/scripts/coefficients.js: the coefficients that the pocket's tools need in the browser. Run when they change."""

from __future__ import annotations

import json
from pathlib import Path

from dry_gauge.core.pocket import exported
from dry_gauge.core.pocket_units import exported_swaps

TARGET = Path(__file__).resolve().parent.parent / "src/dry_gauge/web/static/scripts/coefficients.js"


def written() -> str:
    """The module's text."""
    data = json.dumps({**exported(), "swaps": exported_swaps()}, separators=(",", ":"))
    head = "// Coefficients of the pocket's tools, written by scripts/make_pocket.py from the core; do not edit."
    return f"{head}\nexport const DATA = {data};\n"


if __name__ == "__main__":
    TARGET.write_text(written())
