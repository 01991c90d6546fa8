"""Cleaning: each coil under way, with its mixture, what is next and what is lacking."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from dry_gauge.core.cleaning.coil import CLEANER_WORDS, FLUID_OUNCE_L, PLACES, may_clean, mixture
from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.notebook.kind import in_time
from dry_gauge.notebook.subjects.cleaning import STEP_WORDS, Cleaning, CleaningStep, CoilPlace, KeptCleaning
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.remarks import Remarks
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.present.scene import Scene
from dry_gauge.present.visit import circuit_of, judged_before


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
    pair: Sequence[ReadTwice]
    """Readings before it and after it, where it was the last thing done and both were read."""
    photos: tuple[UUID | None, UUID | None]
    """Of that coil, the last before it was rinsed and the last after."""


@dataclass(frozen=True, slots=True)
class ReadTwice:
    """One reading before and after a cleaning: both in one unit, and as they are said."""

    label: str
    before: float
    after: float
    before_words: str
    after_words: str


# What a coil that was washed moves, by its role.
_PAIRED = {CoilPlace.CONDENSER: ("condenser_split", "air_split"), CoilPlace.EVAPORATOR: ("evaporator_td", "air_split")}
_PAIRED_PRESSURE = {CoilPlace.CONDENSER: ("liquid_pressure", "Head"), CoilPlace.EVAPORATOR: ("suction_pressure", "Suction")}
_OTHER_ROLE = {CoilPlace.CONDENSER: CoilPlace.EVAPORATOR, CoilPlace.EVAPORATOR: CoilPlace.CONDENSER}
_DIRTY = {CoilPlace.CONDENSER: "condenser_dirty", CoilPlace.EVAPORATOR: "evaporator_dirty"}

_STEPS = (CleaningStep.APPLIED, CleaningStep.RINSED, CleaningStep.OTHER_SIDE, CleaningStep.BLOWN_OUT)


def cleanings(scene: Scene) -> list[CleaningRow]:
    """All of them, in their order."""
    return [_row(one, scene) for one in in_time(scene.view.state[Cleaning].cleanings.values())]


def _row(one: KeptCleaning, scene: Scene) -> CleaningRow:
    body = one.body
    allowed = may_clean(body.coil_kind, body.cleaner, maker_allows=body.maker_allows)
    steps = [
        (step.value, STEP_WORDS[step], one.when(step) is not None)
        for step in _STEPS
        if step is not CleaningStep.OTHER_SIDE or body.rows > 1
    ]
    return CleaningRow(
        str(one.entry_id),
        one.words,
        _mixed(one, metric=scene.metric),
        allowed.why,
        [(place, place in one.places) for place in PLACES],
        steps,
        one.lacks,
        STEP_WORDS[one.ended] if one.ended else "",
        _pair(one, scene),
        _photos(one, scene),
    )


def _pair(one: KeptCleaning, scene: Scene) -> list[ReadTwice]:
    """What was read before it and after it; nothing where something else was done since, which would share in it."""
    state, number = scene.view.state, one.body.circuit or 1
    if one.when(CleaningStep.DONE) is None or state[Running].changed_at != one.when(CleaningStep.DONE):
        return []
    earlier, now = judged_before(scene.view), circuit_of(scene.view, number)
    then = earlier.circuits.get(number) if earlier else None
    if then is None or now is None:
        return []
    found, reader = [], scene.reader
    coil = _OTHER_ROLE[one.body.coil] if now.view.unit.heating else one.body.coil
    name, label = _PAIRED_PRESSURE[coil]
    pressures = then.view.get(name), now.view.get(name)
    if pressures[0] is not None and pressures[1] is not None:
        before, after = pressures[0].value, pressures[1].value
        found.append(ReadTwice(label, before, after, reader.say("pressure", before), reader.say("pressure", after)))
    for gap in _PAIRED[coil]:
        if gap in then.derived and gap in now.derived:
            before, after = then.derived[gap].value, now.derived[gap].value
            found.append(
                ReadTwice(GAP_LABELS[gap], before, after, reader.say("difference", before), reader.say("difference", after))
            )
    return found


def _photos(one: KeptCleaning, scene: Scene) -> tuple[UUID | None, UUID | None]:
    seen, rinsed = scene.view.state[Observations], one.when(CleaningStep.RINSED)
    of_coil = {
        one.entry_id,
        *(look.entry_id for look in (*seen.found.values(), *seen.latest.values()) if look.body.what == _DIRTY[one.body.coil]),
    }
    kept = [photo for photo in in_time(scene.view.state[Remarks].photos.values()) if photo.body.about in of_coil]
    before = [photo.body.photo for photo in kept if rinsed is None or photo.at < rinsed]
    after = [photo.body.photo for photo in kept if rinsed is not None and photo.at >= rinsed]
    return before[-1] if before else None, after[-1] if after else None


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
