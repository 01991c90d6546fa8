"""Run capacitors: what the meter says on the bench and what it does under load, side by side with their doubt.

Under load C = I / (2 pi f V): 2652 I / V in microfarads at 60 Hz, 3183 at 50 (R40).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot, pi

from dry_gauge.core.words import Phrase, in_percent

USUAL_TOLERANCE = 0.06
"""Of the rating, either way, where none is printed (habit)."""
_METER = 0.03  # accuracy of each meter, 95 %
_MOST_UF = 500.0


@dataclass(frozen=True, slots=True)
class CapacitorVerdict:
    """How one section of a capacitor stands: ``good``, ``weak``, ``failed`` or ``unclear``; measured in microfarads."""

    state: str
    bench_uf: float | None
    loaded_uf: float | None
    phrase: Phrase


def under_load_uf(amps: float, volts: float, hz: float = 60.0) -> float:
    """Capacitance from the current through it and the volts across it. [uF]

    Raises
    ------
    ValueError
        For volts that are not above nothing.
    """
    if volts <= 0:
        raise ValueError("Volts across the capacitor are needed.")
    return 1e6 * amps / (2 * pi * hz * volts)


def judge_capacitor(
    rated_uf: float,
    bench_uf: float | None,
    amps: float | None,
    volts: float | None,
    tolerance: float = USUAL_TOLERANCE,
    hz: float = 60.0,
) -> CapacitorVerdict:
    """One section of a capacitor against its rating.

    Parameters
    ----------
    rated_uf : float
        As printed, above 0 and at most 500. [uF]
    tolerance : float
        As printed, of one.

    Raises
    ------
    ValueError
        For a rating outside its range.
    """
    if not 0 < rated_uf <= _MOST_UF:
        raise ValueError(f"A run capacitor is rated up to {_MOST_UF:.0f} microfarads.")
    loaded_uf = under_load_uf(amps, volts, hz) if amps is not None and volts else None
    measured = [value for value in (bench_uf, loaded_uf) if value is not None]
    if not measured:
        return CapacitorVerdict("unclear", None, None, Phrase("Measure it on the bench, discharged, or under load."))
    doubt = hypot(_METER, _METER) * max(measured)
    if bench_uf is not None and loaded_uf is not None and abs(bench_uf - loaded_uf) > doubt:
        words = (
            f"Bench {bench_uf:.1f} and under load {loaded_uf:.1f} µF disagree by more than both meters may: clamp around one "
            "wire only, volts across this section. Under load counts."
        )
        return CapacitorVerdict(_state(loaded_uf, rated_uf, tolerance), bench_uf, loaded_uf, Phrase(words))
    value = loaded_uf if loaded_uf is not None else measured[0]
    share = value / rated_uf
    state = _state(value, rated_uf, tolerance)
    words = {
        "good": "within its tolerance.",
        "weak": "at the edge of its tolerance, within the meter's doubt: measure again hot, or under load.",
        "failed": "outside its tolerance: replace with the same value, volts the same or higher, never to tune a motor.",
    }[state]
    said = f"{value:.1f} of {rated_uf:g} µF, {in_percent(share)}: {words}"
    return CapacitorVerdict(state, bench_uf, loaded_uf, Phrase(said))


def _state(value_uf: float, rated_uf: float, tolerance: float) -> str:
    off = abs(value_uf / rated_uf - 1)
    if off <= tolerance - _METER / 2:
        return "good"
    return "weak" if off <= tolerance + _METER else "failed"


def looks_like_dual(rated_uf: float) -> tuple[float, float] | None:
    """A dual rating written without its stroke: 455 is 45/5, 357.5 is 35/7.5; None where it is a plausible single one."""
    if rated_uf <= 100:
        return None
    digits = f"{rated_uf:g}"
    for cut in (2, 3):
        large, small = digits[:cut], digits[cut:]
        if small and 15 <= float(large) <= 100 and 2 <= float(small) <= 15:
            return float(large), float(small)
    return None
