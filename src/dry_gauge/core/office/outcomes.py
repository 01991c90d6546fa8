"""Whether repairs held, summed: a share with what few cases leave open (docs/rules.md, R59)."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

FEW = 10
"""Below so many cases a share is said to rest on few (habit)."""
ASKED_AFTER_DAYS, ASKED_UNTIL_DAYS = 21, 120
"""When it is asked whether a repair held: weeks later, and not for ever."""
_Z95 = 1.959964  # two-sided 95 % of the normal distribution


@dataclass(frozen=True, slots=True)
class CameBack:
    """How many of so many came back. `low` and `high` are the 95 % interval of the share."""

    came_back: int
    of: int
    low: float
    high: float

    @property
    def share(self) -> float:
        """Of those that were asked about."""
        return self.came_back / self.of

    @property
    def few(self) -> bool:
        """Whether that rests on few cases."""
        return self.of < FEW


def came_back(count: int, of: int) -> CameBack:
    """A share with Wilson's interval (E. B. Wilson 1927), which is honest for few cases and for none that came back.

    Raises
    ------
    ValueError
        For no cases, or more that came back than there were.
    """
    if not 0 <= count <= of or of == 0:
        raise ValueError(f"{count} of {of} is no share")
    share, z2 = count / of, _Z95**2
    middle = (share + z2 / (2 * of)) / (1 + z2 / of)
    half = _Z95 * sqrt(share * (1 - share) / of + z2 / (4 * of * of)) / (1 + z2 / of)
    return CameBack(count, of, max(0.0, middle - half), min(1.0, middle + half))
