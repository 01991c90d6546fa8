"""Charging by the glass, in small steps: glass, waiting and the box's curve are looked at together (R75).

A glass clears too early while the box is hot and the load is high; it bubbles too long where something else throttles the liquid.
So each step waits, is looked at, and is held against what the box did since.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.settling import AS_GOOD
from dry_gauge.core.words import Phrase

WAIT_MINUTES = 15.0
"""After a step, before the glass says anything: receiver, valve and box answer slowly."""
LOOK_FROM_MINUTES = WAIT_MINUTES * AS_GOOD
"""Sooner after a step a glass says nothing of it: it is looked at again."""
_HOT_BOX_K = 10 * FAHRENHEIT_K  # above design: a glass says nothing final there
_TELLS_OF_MORE = 3  # steps that changed nothing in the glass: it is not only charge (habit)
_TELLS_SHARE = 0.15  # or so much of the label


@dataclass(frozen=True, slots=True)
class SmallStep:
    """One step: what went in [kg], minutes since, what the glass showed after it and when [min], how fast the box fell [K/h]."""

    kg: float
    minutes_since: float
    glass: str = ""
    fell_k_h: float | None = None
    looked_after: float = WAIT_MINUTES

    @property
    def shows(self) -> str:
        """What the glass showed, if it was looked at late enough to show anything of that step."""
        return self.glass if self.looked_after >= LOOK_FROM_MINUTES else ""


def judge_steps(
    steps: Sequence[SmallStep], box_k: float | None, design_k: float | None, label_kg: float | None, *, may_add: bool
) -> Phrase | None:
    """What comes next after these steps, oldest first; None before the first.

    Parameters
    ----------
    box_k, design_k : float or None
        The box's air, and what it is built for. [K]
    label_kg : float or None
        The full charge. [kg]
    may_add : bool
        Whether the gates, the stop lines and the trim let refrigerant in at all: without, no step is proposed.
    """
    if not steps:
        return None
    last = steps[-1]
    left = WAIT_MINUTES - last.minutes_since
    if left > 0.5:
        return Phrase(f"Wait {left:.0f} min more from the last step: glass, valve and box answer slowly.")
    if not last.shows:
        return Phrase("Look at the glass now, and say what it shows.")
    hot = box_k is not None and design_k is not None and box_k - design_k > _HOT_BOX_K
    if last.glass == "clear":
        if hot:
            return Phrase(
                "Clear while the box is hot is enough for now, not the end: look again within {near} of design, before "
                "it is left.",
                {"near": ("difference", _HOT_BOX_K)},
            )
        if box_k is None or design_k is None:
            return Phrase("Clear. Read the box's air: near its design a clear glass holds, in a hot box it is not the end.")
        return Phrase("Clear near design: right by the glass. Compare the weight with the label, and stop here.")
    bubbling = 0
    for step in reversed(steps):
        if step.shows != "bubbles":
            break
        bubbling += 1
    share = sum(step.kg for step in steps) / label_kg if label_kg else 0.0
    if bubbling >= _TELLS_OF_MORE or (bubbling > 1 and share > _TELLS_SHARE):
        return Phrase(
            f"{bubbling} steps and it still bubbles: not only charge. Read the liquid line before and after the drier, "
            "and look for a throttled valve, before more goes in."
        )
    if not may_add:
        return Phrase("It bubbles, and what stands above keeps more from going in: that comes first.")
    slower = len(steps) > 1 and _slower(steps[-2], last)
    after = " The box fell slower than before it: look at the coil and the door too." if slower else ""
    return Phrase(f"It still bubbles: one more small step, then wait again.{after}")


def _slower(before: SmallStep, last: SmallStep) -> bool:
    return before.fell_k_h is not None and last.fell_k_h is not None and last.fell_k_h < 0.5 * before.fell_k_h
