"""Cleaning: each coil under way, with its mixture, what is next and what is lacking."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.cleaning.coil import CLEANER_WORDS, FLUID_OUNCE_L, PLACES, may_clean, mixture
from dry_gauge.notebook.kind import in_time
from dry_gauge.notebook.subjects.cleaning import STEP_WORDS, Cleaning, CleaningStep, KeptCleaning
from dry_gauge.present.scene import Scene


@dataclass(frozen=True, slots=True)
class CleaningRow:
    """One cleaning: what it is done with, which taps are offered next, what is lacking, how it ended."""

    key: str
    words: str
    with_what: str
    care: str
    places: Sequence[tuple[str, bool]]
    steps: Sequence[tuple[str, str, bool]]
    """Steps in their order: name, words, whether it was done."""
    lacks: Sequence[str]
    ended: str


_STEPS = (CleaningStep.APPLIED, CleaningStep.RINSED, CleaningStep.OTHER_SIDE, CleaningStep.BLOWN_OUT)


def cleanings(scene: Scene) -> list[CleaningRow]:
    """All of them, in their order."""
    return [_row(one, metric=scene.metric) for one in in_time(scene.view.state[Cleaning].cleanings.values())]


def _row(one: KeptCleaning, *, metric: bool) -> CleaningRow:
    body = one.body
    allowed = may_clean(body.coil_kind, body.cleaner, maker_allows=body.maker_allows)
    steps = [(step.value, STEP_WORDS[step], one.when(step) is not None) for step in _STEPS
             if step is not CleaningStep.OTHER_SIDE or body.rows > 1]  # fmt: skip
    return CleaningRow(
        str(one.entry_id), one.words, _mixed(one, metric=metric), allowed.why, [(place, place in one.places) for place in PLACES],
        steps, one.lacks, STEP_WORDS[one.ended] if one.ended else "",
    )  # fmt: skip


def _mixed(one: KeptCleaning, *, metric: bool) -> str:
    words = CLEANER_WORDS[one.body.cleaner].capitalize()
    if not one.body.ratio:
        return words
    if one.body.volume_l is None:
        return f"{words}, {one.body.ratio}"
    cleaner, water = mixture(one.body.ratio, one.body.volume_l)
    if metric:
        return f"{words}: {cleaner:.2f} L into {water:.2f} L of water"
    return f"{words}: {cleaner / FLUID_OUNCE_L:.0f} fl oz into {water / FLUID_OUNCE_L:.0f} fl oz of water"
