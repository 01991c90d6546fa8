"""A hand that is counted: what it touches has to be visible, and what it types costs a field."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from playwright.sync_api import Locator, Page, expect

# Every shift of the layout, by the browser's own reckoning. It takes for asked what follows a touch by half a second; on a
# machine that is busy with other tests an answer takes longer, so here it is two.
_OBSERVED = """
let touched = -9999;
for (const kind of ["pointerdown", "keydown"]) addEventListener(kind, (event) => { touched = event.timeStamp; }, true);
new PerformanceObserver((list) => list.getEntries().forEach((entry) => window.shifted && window.shifted(
  entry.value, entry.hadRecentInput || entry.startTime - touched < 2000,
  entry.sources.map((s) => s.node && (s.node.id || s.node.className || s.node.nodeName)).join(" ")
))).observe({ type: "layout-shift", buffered: true });
"""


@dataclass
class Hand:
    """Touches and typed fields so far, and by how much the page moved."""

    page: Page
    clicks: int = 0
    fields: int = 0
    shifts: list[tuple[float, bool, str]] = field(default_factory=list)

    def watch_shifts(self) -> None:
        """From the next page on."""
        self.page.expose_function("shifted", lambda *shift: self.shifts.append(shift))
        self.page.add_init_script(_OBSERVED)

    def _visible(self, what: str | Locator) -> Locator:
        found = self.page.locator(what).first if isinstance(what, str) else what
        expect(found).to_be_visible()
        return found

    def touch(self, what: str | Locator) -> None:
        """One touch."""
        self.clicks += 1
        self._visible(what).click()

    @contextmanager
    def answered(self) -> Iterator[None]:
        """What is touched meanwhile is answered by the server before the hand goes on."""
        with self.page.expect_response(lambda response: response.request.method == "POST"):
            yield

    def type(self, value: str, into: str | Locator | None = None) -> None:
        """One field: where the cursor stands, or touched first."""
        if into is not None:
            self.touch(into)
        self.fields += 1
        self.page.keyboard.type(value)

    def enter(self) -> None:
        """On to the next field: part of typing."""
        self.page.keyboard.press("Enter")

    def choose(self, what: str, label: str) -> None:
        """Open a list and take one line of it: two touches."""
        self.clicks += 2
        self._visible(what).select_option(label=label)

    @property
    def cost(self) -> tuple[int, int]:
        """Touches and typed fields."""
        return self.clicks, self.fields

    def moved(self) -> float:
        """By how much the layout shifted unasked; what follows a touch at once is what was asked for."""
        return sum(value for value, asked, _ in self.shifts if not asked)

    def moved_rows(self) -> float:
        """By how much rows of readings and answers moved, even at once after a touch: the next one is about to be touched."""
        return sum(value for value, _, what in self.shifts if "row-" in what or "sight-" in what)
