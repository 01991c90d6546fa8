"""What an electrical meter or a rev counter showed: with which one it was read, and whether it was taken from it live."""

from __future__ import annotations

from typing import Literal

from dry_gauge.notebook.fields import FewWords
from dry_gauge.notebook.kind import Body


class Metered(Body):
    """An entry whose numbers come from a meter."""

    instrument: FewWords = ""
    source: Literal["typed", "probe"] = "typed"

    @property
    def read_with(self) -> str:
        """Behind what was read: with what, and whether live; nothing where neither is known."""
        parts = (f"with {self.instrument}" if self.instrument else "", "live" if self.source == "probe" else "")
        return "".join(f", {part}" for part in parts if part)
