"""What a helper sees before a step with consequence: who has to stand by, what goes wrong, what is theirs and what not."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.core.visit.teach import CARDS, LIMIT_WORDS, Limit, Step, TeachCard
from dry_gauge.notebook.subjects.stood_by import StoodBy
from dry_gauge.present.scene import Scene


@dataclass(frozen=True, slots=True)
class TaughtStep:
    """One card with the shop's limit; `by` is who stands by now."""

    card: TeachCard
    limit: Limit
    limit_words: str
    by: str

    @property
    def waits(self) -> bool:
        """Whether somebody has to come before it is begun."""
        return self.limit is Limit.NOT or (self.limit is Limit.BESIDE and not self.by)


def taught(scene: Scene, here: Sequence[Step], limits: Mapping[Step, Limit]) -> Sequence[TaughtStep]:
    """The cards of a station, those that wait first."""
    stood_by = scene.view.state[StoodBy]
    steps = [TaughtStep(CARDS[step], limits[step], LIMIT_WORDS[limits[step]], stood_by.at(step, scene.now)) for step in here]
    return sorted(steps, key=lambda one: not one.waits)
