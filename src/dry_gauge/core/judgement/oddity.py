"""Something odd about the readings: what the judgement asks about before it judges."""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.words import Phrase


@dataclass(frozen=True, slots=True)
class Oddity:
    """Something odd: its code, a sentence, and the readings it is about; `holds` where nothing is judged meanwhile."""

    code: str
    phrase: Phrase
    readings: tuple[str, ...]
    holds: bool = True
