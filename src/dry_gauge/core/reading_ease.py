"""How easily a text reads, by the two formulas that its readers' languages have."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

_WORD = re.compile(r"[^\W\d_]+(?:['’-][^\W\d_]+)*")
_END = re.compile(r"[.!?:;]+(?=\s|$|[”»\"])")


@dataclass(frozen=True, slots=True)
class Counts:
    """What a text consists of."""

    words: int
    sentences: int
    syllables: int


def counts(text: str, syllables: Callable[[str], int]) -> Counts:
    """Count a text.

    Parameters
    ----------
    text : str
        Sentences end with a full stop, a question or exclamation mark, a colon or a semicolon; a line is one at most.
    syllables : callable
        Of one word; at least 1 is counted.
    """
    lines = [line for line in text.splitlines() if _WORD.search(line)]
    words = [word for line in lines for word in _WORD.findall(line)]
    sentences = sum(max(1, sum(bool(_WORD.search(part)) for part in _END.split(line))) for line in lines)
    return Counts(len(words), sentences, sum(max(1, syllables(word)) for word in words))


def flesch_kincaid_grade(found: Counts) -> float:
    """The school year in which English of that sort is read (Kincaid et al. 1975): 8 is read by most people.

    Raises
    ------
    ValueError
        For no words.
    """
    _any(found)
    return 0.39 * found.words / found.sentences + 11.8 * found.syllables / found.words - 15.59


def fernandez_huerta(found: Counts) -> float:
    """How easily Spanish reads (Fernández Huerta 1959, with words a sentence): 60 to 70 is normal, more is easier.

    Raises
    ------
    ValueError
        For no words.
    """
    _any(found)
    return 206.84 - 60 * found.syllables / found.words - 1.02 * found.words / found.sentences


def _any(found: Counts) -> None:
    if not found.words:
        raise ValueError("There are no words to count.")
