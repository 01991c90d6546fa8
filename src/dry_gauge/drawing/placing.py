"""Where labels go so that they never cover each other: small exact searches in one dimension. Pixels, y downwards."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle on the page."""

    x: float
    y: float
    width: float
    height: float

    @property
    def right(self) -> float:
        """Right edge."""
        return self.x + self.width

    @property
    def bottom(self) -> float:
        """Lower edge."""
        return self.y + self.height

    def overlaps(self, other: Box) -> bool:
        """Whether the two share any area."""
        return self.x < other.right and other.x < self.right and self.y < other.bottom and other.y < self.bottom


@dataclass(frozen=True, slots=True)
class RungLabel:
    """A label that wants to stand above or below its bar, `height` tall."""

    bar_y: float
    height: float


_OUTWARD, _CROSSING, _PER_PIXEL, _OFF_PAGE = 9.0, 90.0, 8.0, 400.0
_BAR = 4.0


def label_tops(labels: Sequence[RungLabel], top: float, bottom: float) -> list[float]:
    """Top of each label, in the order given; none overlap while they fit between `top` and `bottom` at all.

    First each label's side is chosen by dynamic programming over the bars from top to bottom (a label only meets its
    neighbours), then what still overlaps is pushed apart.
    """
    order = sorted(range(len(labels)), key=lambda i: labels[i].bar_y)
    sides = _choose_sides([labels[i] for i in order], top, bottom)
    tops = [_top(labels[i], side) for i, side in zip(order, sides, strict=True)]
    heights = [labels[i].height for i in order]
    tops = _push_apart(tops, heights, top, bottom)
    placed = [0.0] * len(labels)
    for i, y in zip(order, tops, strict=True):
        placed[i] = y
    return placed


def _top(label: RungLabel, above: bool) -> float:
    return label.bar_y - _BAR - label.height if above else label.bar_y + _BAR


def _choose_sides(labels: Sequence[RungLabel], top: float, bottom: float) -> list[bool]:
    """True for above. `best[side]` is the cheapest way so far that ends with that side."""
    best: dict[bool, tuple[float, list[bool]]] = {}
    for i, label in enumerate(labels):
        options: dict[bool, tuple[float, list[bool]]] = {}
        for above in (True, False):
            y = _top(label, above)
            own = _OFF_PAGE if y < top or y + label.height > bottom else 0.0
            # Outward: the top rung's label above it, the bottom rung's below.
            own += _OUTWARD if (i == 0 and not above) or (i == len(labels) - 1 and i > 0 and above) else 0.0
            own += sum(_CROSSING for other in labels if other is not label and y - 2 < other.bar_y < y + label.height + 2)
            if not best:
                options[above] = (own, [above])
                continue
            previous = labels[i - 1]
            options[above] = min(
                (
                    (cost + own + _PER_PIXEL * max(0.0, _top(previous, side) + previous.height - y), [*sides, above])
                    for side, (cost, sides) in best.items()
                ),
                key=lambda option: option[0],
            )
        best = options
    return min(best.values(), key=lambda option: option[0])[1] if best else []


def _push_apart(tops: Sequence[float], heights: Sequence[float], top: float, bottom: float) -> list[float]:
    """Least movement downwards, then back up from the foot; the order of the labels stays."""
    moved = list(tops)
    floor = top
    for i, height in enumerate(heights):
        moved[i] = max(moved[i], floor)
        floor = moved[i] + height
    ceiling = bottom
    for i in reversed(range(len(heights))):
        moved[i] = min(moved[i], ceiling - heights[i])
        ceiling = moved[i]
    return moved


@dataclass(frozen=True, slots=True)
class Slot:
    """A strip of the page in which a plate may stand, and how little it is wanted there."""

    x: float
    penalty: float = 0.0


def free_place(
    wanted_y: float,
    width: float,
    height: float,
    slots: Iterable[Slot],
    obstacles: Sequence[Box],
    top: float,
    bottom: float,
    margin: float = 3.0,
) -> Box | None:
    """The free place for a plate nearest to `wanted_y` (its middle), over all slots; None if there is none."""
    best: tuple[float, Box] | None = None
    for slot in slots:
        blocked = sorted(
            (box.y - height - margin, box.bottom + margin)
            for box in obstacles
            if box.x < slot.x + width + margin and slot.x < box.right + margin
        )
        y = _nearest_free(wanted_y - height / 2, blocked, top, bottom - height)
        if y is None:
            continue
        cost = abs(y + height / 2 - wanted_y) + slot.penalty
        if best is None or cost < best[0]:
            best = (cost, Box(slot.x, y, width, height))
    return best[1] if best else None


def _nearest_free(wanted: float, blocked: Sequence[tuple[float, float]], low: float, high: float) -> float | None:
    """The value nearest to `wanted` in low..high outside every open interval of `blocked` (sorted)."""
    if high < low:
        return None
    candidates = [min(max(wanted, low), high)]
    candidates += [edge for interval in blocked for edge in interval if low <= edge <= high]
    free = (c for c in candidates if not any(start < c < end for start, end in blocked))
    return min(free, key=lambda c: abs(c - wanted), default=None)
