"""Survey: what stands there, what is to stand there, and every way round with its reasons."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.office.adapter import Adapter, adapter_for, lacking
from dry_gauge.core.office.change_out import GRADE_WORDS, TURNS, ChangeOut, Grade, Reason, WayRound
from dry_gauge.notebook.subjects.change_out import NewUnitBody, Survey, SurveyBody
from dry_gauge.present.scene import KnownFoot, Scene


@dataclass(frozen=True, slots=True)
class SurveyView:
    """The survey as it stands.

    Parameters
    ----------
    change_out : ChangeOut or None
        The two compared; None before both were measured.
    verdict : str
        In words.
    """

    there: SurveyBody | None
    new: NewUnitBody | None
    change_out: ChangeOut | None
    verdict: str
    good: bool
    ways: Sequence[tuple[WayRound, str, str]]
    reasons: Sequence[Reason] = ()
    """Of the best way and of what holds always, the gravest first."""
    adapter: Adapter | None = None
    """For the best way round, where it needs one and enough was measured."""
    adapter_lacks: Sequence[str] = ()
    feet: Sequence[KnownFoot] = ()
    """Models whose foot the shop knows from other visits, latest first."""


def survey(scene: Scene) -> SurveyView:
    """The survey."""
    part = scene.view.state[Survey]
    found = part.compared
    there, new = part.there.body if part.there else None, part.new.body if part.new else None
    if found is None:
        lacks = "what stands there" if there is None else "the new unit"
        return SurveyView(there, new, None, f"Measure {lacks}", False, (), feet=scene.feet)
    reasons = sorted([*found.best.reasons, *found.always], key=lambda one: -one.grade)
    ways = [(way, TURNS[way.quarters], GRADE_WORDS[way.grade]) for way in found.ways]
    adapter, missing = None, tuple[str, ...]()
    if there is not None and new is not None and found.best.grade is Grade.ADAPTER:
        adapter, missing = adapter_for(there.found, new.unit, found.best), lacking(there.found, new.unit)
    return SurveyView(
        there,
        new,
        found,
        _verdict(found),
        found.grade in (Grade.FITS, Grade.ADAPTER),
        ways,
        reasons,
        adapter,
        missing,
        scene.feet,
    )


def _verdict(found: ChangeOut) -> str:
    best = found.best
    if max(found.grade, best.grade) is Grade.NO:
        return "Does not fit, whichever way it stands" if best.grade is Grade.NO else "Does not go there as it is"
    words = f"{GRADE_WORDS[best.grade].capitalize()}, {TURNS[best.quarters]}"
    return words + ("; more needs attention" if found.grade > best.grade else "")
