"""What is said to someone outside the trade, before it is words: the name of a sentence, and what goes into it.

The sentence itself stands in a file per language; numbers stay in SI until a reader's units are known.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import TypeAlias


@dataclass(frozen=True, slots=True)
class Amount:
    """A number with its dimension. [SI]

    Parameters
    ----------
    dimension : str
        As `words.Reader.say` takes it.
    plus_minus_si : float or None
        95 % half-width; None where none is known.
    bare : bool
        Without its unit, which follows.
    """

    dimension: str
    value_si: float
    plus_minus_si: float | None = None
    bare: bool = False


@dataclass(frozen=True, slots=True)
class Share:
    """A part of one, said in percent."""

    value: float


@dataclass(frozen=True, slots=True)
class Money:
    """An amount of money in hundredths of the shop's currency."""

    cents: int


@dataclass(frozen=True, slots=True)
class Statement:
    """One sentence, by its name in the files of languages. Strings among its values are somebody's own words."""

    key: str
    values: Mapping[str, Value] = field(default_factory=dict)


Value: TypeAlias = "str | int | date | Amount | Share | Money | Statement"
