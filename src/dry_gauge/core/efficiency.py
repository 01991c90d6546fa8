"""What a unit's efficiency class says: of its condenser, and of the heat that it moves for its power."""

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


BTU_PER_WH_PER_RATIO = 3.41214
"""Btu/Wh in one W/W: how EER is written beside the same ratio as a COP."""
RATED_OUTDOOR_K = (95.0 + 459.67) / 1.8
"""Air outdoors at which an EER is rated (AHRI 210/240, A test). [K]"""
# Better by so much a K below the rated air outdoors, and so much above all of that no unit is (R73).
_SHARE_A_K, _ROOM = 0.027, 1.25
_BEST_SEER = 26.0


def eer_of_seer(seer: float) -> float:
    """EER at 95 F outdoors that usually goes with a seasonal rating. [Btu/Wh]

    Parameters
    ----------
    seer : float
        Above zero; the fit was made between 10 and 20 (Wassmer 2003, used by the US Building America program).

    Examples
    --------
    >>> [round(eer_of_seer(seer), 1) for seer in (10, 13, 16)]
    [9.2, 11.2, 12.8]
    """
    return -0.02 * seer**2 + 1.12 * seer


def most_eer(seer: float | None, outdoor_k: float) -> float:
    """What no such unit reaches in that air (R73); by the best that is made where its class is not known. [Btu/Wh]"""
    cooler_k = max(RATED_OUTDOOR_K - outdoor_k, -20.0)
    return eer_of_seer(min(seer or _BEST_SEER, _BEST_SEER)) * (1 + _SHARE_A_K * cooler_k) * _ROOM
