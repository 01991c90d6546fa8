"""Ways in which a sound unit reads sick: asked about before anything is added or removed.

A misreading is a hypothesis like any fault. Where it could explain the numbers it becomes a question; where it
explains them better than anything else the readings do not earn a verdict at all.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.judgement.evidence import Cause
from dry_gauge.core.judgement.hypotheses import Misreading
from dry_gauge.core.judgement.inference import Judgement
from dry_gauge.core.judgement.oddity import Oddity
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Phrase

ASKED_FROM = 0.04
"""A misreading this probable is asked about where charge would be touched otherwise."""
DOUBTED_FROM = 0.5
"""From here the readings are held back: see `doubts`."""
CHARGE_FAULTS = (
    Fault.UNDERCHARGE,
    Fault.OVERCHARGE,
    Fault.NON_CONDENSABLES,
    Fault.METERING_UNDERFEEDING,
    Fault.LIQUID_LINE_RESTRICTION,
    Fault.WRONG_REFRIGERANT,
)

_WORDS = {
    Misreading.LOOSE_SUCTION_CLAMP: (
        "Is the suction clamp tight, on bare pipe and insulated? Read warm by the air around it, it would show too much "
        "superheat on a sound unit.",
        ("suction_line_temp",),
    ),
    Misreading.LOOSE_LIQUID_CLAMP: (
        "Is the liquid clamp tight and on bare pipe? Cooled by the air around it, it would show too much subcooling.",
        ("liquid_line_temp",),
    ),
    Misreading.DISCHARGE_PORT: (
        "Which port is the high gauge on? The discharge port reads the condenser's own pressure drop on top: too much "
        "subcooling.",
        ("liquid_pressure",),
    ),
    Misreading.PROBE_IN_SUN: (
        "Is the outdoor probe in shade, in the air that enters the coil? In the sun it makes a dirty condenser look clean.",
        ("outdoor_air_temp",),
    ),
    Misreading.DRY_SOCK: (
        "Is the wet bulb's sock wet and in moving air? Dry, it asks for too much superheat and too small a split.",
        ("return_air_wet_bulb",),
    ),
}


@dataclass(frozen=True, slots=True)
class Question:
    """Something to make sure of: its words, the readings it is about, how probable the misreading is."""

    misreading: Misreading
    phrase: Phrase
    readings: tuple[str, ...]
    probability: float


def questions(judgement: Judgement, view: CircuitView, causes: Sequence[Cause]) -> list[Question]:
    """What to make sure of, the likeliest first; with a charge fault in the lead even what is only possible."""
    leads = next((cause.fault for cause in causes if cause.fault is not Fault.NONE), None)
    threshold = ASKED_FROM if leads in CHARGE_FAULTS and causes[0].fault is leads else 0.15
    found = []
    for kind, (words, readings) in _WORDS.items():
        probability = judgement.misreading(kind)
        if probability >= threshold and all(name in view.measured for name in readings):
            found.append(Question(kind, Phrase(words), readings, probability))
    return sorted(found, key=lambda question: -question.probability)


def doubts(asked: Sequence[Question]) -> list[Oddity]:
    """Misreadings that explain the numbers better than anything else: they hold the verdict."""
    return [
        Oddity("looks_misread", question.phrase, question.readings) for question in asked if question.probability >= DOUBTED_FROM
    ]
