"""Whether a failed measurement is proven: read again after the last change, as the unit ran when it failed, and passed.

One rule for the list on the screen, for what a proof is refused for, and for closing.
"""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.notebook.call_state import KeptTest
from dry_gauge.notebook.state import KeptReading, VisitState


@dataclass(frozen=True, slots=True)
class Proving:
    """How one failed measurement stands.

    Parameters
    ----------
    again : KeptReading or None
        The reading that repeats it; None until it is read after the last change, in the same mode and stage.
    judged : bool
        Whether someone has said, since the last change, that it passes or fails.
    """

    test: KeptTest
    again: KeptReading | None
    judged: bool

    @property
    def passed(self) -> bool:
        """Whether it is proven."""
        return self.judged and bool(self.test.good)

    @property
    def label(self) -> str:
        """What is measured."""
        return QUANTITIES[self.test.body.quantity].label

    @property
    def to_do(self) -> str:
        """What is still to be read, in words."""
        how = [self.test.mode.value] if self.test.mode else []
        how += [f"stage {self.test.stage}"] if self.test.stage else []
        return f"Read {self.label.lower()} again after the last change{', in ' + ', '.join(how) if how else ''}."


def proving(state: VisitState, test: KeptTest) -> Proving:
    """How one failed measurement of a visit stands now."""
    last_at = state.last_change_at
    since = max(test.at, last_at) if last_at else test.at
    kept = state.reading(test.body.quantity, test.body.circuit)
    alike = kept is not None and kept.mode == test.mode and kept.stage.casefold() == test.stage.casefold()
    again = kept if kept is not None and kept.at > since and alike else None
    judged = test.settled_at is not None and (last_at is None or test.settled_at >= last_at)
    return Proving(test, again, judged)
