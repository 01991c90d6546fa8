"""What a unit's efficiency class says of its condenser."""

from __future__ import annotations

_SPLITS_F = ((11.0, 30.0), (13.0, 25.0), (16.0, 20.0))
_BEST_F = 15.0


def split_by_seer_f(seer: float) -> float:
    """Condenser split that a unit of that SEER was built for: the better, the more face it has (docs/rules.md, R12). [F]

    Examples
    --------
    >>> [split_by_seer_f(seer) for seer in (10, 11, 14, 16)]
    [30.0, 25.0, 20.0, 15.0]
    """
    return next((split for below, split in _SPLITS_F if seer < below), _BEST_F)
