"""Fault codes blinked by a lamp and tapped along: the rhythm is learnt from the taps, a recount is asked for when unsure (R48).

Flashes of one digit follow each other at the lamp's own pace; a longer gap parts digits, a longer one still the next round.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import median

MOST_TAPS = 120
_FASTEST_S = 0.12  # no thumb follows faster; a bounce of the button does
_GAP_RATIO = 1.75  # a gap so much longer than the pace parts two digits
_ROUND_RATIO = 1.6  # and so much longer than the gap between digits begins the code anew
_UNEVEN = 0.35  # gaps that spread more than this about their pace are no count
_SLOW_S = 0.9  # a pace slower than this is the slow flash of boards that know two


@dataclass(frozen=True, slots=True)
class Count:
    """What the taps say.

    Parameters
    ----------
    code : str
        Digits joined by a dash, such as ``2-3``; nothing where they say none.
    slow : bool
        Whether the lamp flashes slowly: many boards mean 'all is well' by it.
    sure : bool
        Whether the rhythm was even and every full round said the same.
    words : str
        What to do where it is not sure.
    """

    code: str
    slow: bool
    sure: bool
    rounds: int
    words: str = ""


def count(taps_s: Sequence[float]) -> Count:
    """The code behind moments of taps, from the first on. [s]"""
    taps = [at for i, at in enumerate(taps_s) if i == 0 or at > taps_s[i - 1]]
    if len(taps) != len(taps_s) or len(taps) > MOST_TAPS:
        return Count("", False, False, 0, "These taps are in no order. Count again.")
    if not taps:
        return Count("", False, False, 0, "Tap once for each flash.")
    gaps = [after - before for before, after in pairwise(taps)]
    if any(gap < _FASTEST_S for gap in gaps):
        return Count("", False, False, 0, "Two taps fell together: faster than a thumb counts. Count again, slower.")
    if not gaps:
        return Count("1", False, False, 1, "One flash: watch a second round, then tap both.")
    pace = _pace(gaps)
    within = [gap for gap in gaps if gap < _GAP_RATIO * pace]
    between = [gap for gap in gaps if gap >= _GAP_RATIO * pace]
    uneven = max(within) - min(within) > 2 * _UNEVEN * pace if within else False
    long = _long(between)
    rounds = _rounds(gaps, pace, long)
    codes = ["-".join(map(str, one)) for one in rounds]
    whole = codes[:-1] if len(codes) > 1 and codes[-1] != codes[0] and _is_part(rounds[-1], rounds[0]) else codes
    alike = len(set(whole)) == 1
    slow = pace >= _SLOW_S and bool(within)
    if not between:
        words = "Even flashes without a pause: tap a second round. Is it one flash again and again? Type 1."
        return Count(whole[0], slow, False, 1, words)
    if uneven:
        return Count(whole[0], slow, False, len(whole), "The rhythm was uneven: count once more.")
    if len(between) == 1 and not alike:
        return Count("-".join(whole), slow, False, 1, "One round of two digits, or two counts that differ? Tap a second round.")
    if not alike:
        return Count(max(whole, key=whole.count), slow, False, len(whole), "The rounds differ: count again.")
    if len(whole) < 2:
        return Count(whole[0], slow, False, 1, "One round only: tap a second one.")
    return Count(whole[0], slow, True, len(whole))


def _pace(gaps: Sequence[float]) -> float:
    """The lamp's own pace: the median of the gaps that are near the shortest. [s]"""
    short: list[float] = [gap for gap in gaps if gap < _GAP_RATIO * min(gaps)]
    return float(median(short))


def _long(between: Sequence[float]) -> float:
    """From which gap on the code begins anew: where gaps between digits are of two sorts; else all of them do. [s]"""
    if not between:
        return float("inf")
    if max(between) >= _ROUND_RATIO * min(between):
        return float((max(between) * min(between)) ** 0.5)
    return min(between)


def _rounds(gaps: Sequence[float], pace: float, long: float) -> list[list[int]]:
    rounds = [[1]]
    for gap in gaps:
        if gap < _GAP_RATIO * pace:
            rounds[-1][-1] += 1
        elif gap < long:
            rounds[-1].append(1)
        else:
            rounds.append([1])
    return rounds


def _is_part(part: Sequence[int], whole: Sequence[int]) -> bool:
    """Whether a round was broken off."""
    if len(part) > len(whole):
        return False
    *full, last = part
    return list(full) == list(whole[: len(full)]) and last <= whole[len(full)]
