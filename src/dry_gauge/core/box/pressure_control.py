"""Where a box's low-pressure control belongs, against what was found (R56)."""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.quantities import FAHRENHEIT_K, PSI_PA
from dry_gauge.core.refrigerants.saturation import Saturation

_PUMPED_DOWN_PA = 4.0 * PSI_PA  # just above atmospheric (habit)
_BELOW_COLDEST_K = 5.0 * FAHRENHEIT_K
_SWING_K = 2.0 * FAHRENHEIT_K
_APART_PA = 3.0 * PSI_PA  # what a dial and a gauge are worth together
_LEAST_DIFFERENCE_PA = 5.0 * PSI_PA


@dataclass(frozen=True, slots=True)
class ControlSetting:
    """A proposal: where it cuts out and in, absolute [Pa], and why; what is wrong with what was found."""

    cut_out_pa: float
    cut_in_pa: float
    why: str
    wrong: tuple[str, ...] = ()


def for_pump_down(saturation: Saturation, coldest_k: float, atmosphere_pa: float) -> ControlSetting:
    """Pump-down: it cuts out just above atmospheric, and in below saturation at the coldest place it can stand.

    Parameters
    ----------
    coldest_k : float
        The coldest of the box's air and the air over the condenser in winter. [K]
    """
    cut_out = atmosphere_pa + _PUMPED_DOWN_PA
    cut_in = max(saturation.dew_pressure_pa(coldest_k - _BELOW_COLDEST_K), cut_out + _LEAST_DIFFERENCE_PA)
    return ControlSetting(cut_out, cut_in, "cuts out just above atmospheric, in below saturation at the coldest place")


def as_thermostat(saturation: Saturation, design_k: float, td_k: float) -> ControlSetting:
    """As the box's thermostat: in at saturation of the box's top, out at its bottom less the coil's TD. [K]"""
    cut_in = saturation.dew_pressure_pa(design_k + _SWING_K)
    cut_out = saturation.dew_pressure_pa(design_k - _SWING_K - td_k)
    return ControlSetting(cut_out, cut_in, "in at saturation of the box's top, out at its bottom less the coil's TD")


def against(proposal: ControlSetting, cut_out_pa: float, cut_in_pa: float) -> ControlSetting:
    """The same with what is wrong about what was found. [Pa]"""
    wrong = []
    if cut_in_pa <= cut_out_pa:
        wrong.append("It cuts in at or below its cut-out: the two dials are mixed up, or one is the difference.")
    elif cut_in_pa - cut_out_pa < _LEAST_DIFFERENCE_PA:
        wrong.append("So narrow a difference short-cycles.")
    if cut_out_pa > proposal.cut_out_pa + _APART_PA:
        wrong.append("It cuts out early: the box stays warm, or stops before it is pumped down.")
    if cut_out_pa < proposal.cut_out_pa - _APART_PA:
        wrong.append("It cuts out late: towards a vacuum, or the coil too cold.")
    if cut_in_pa > proposal.cut_in_pa + _APART_PA:
        wrong.append("It cuts in late: in cold weather it may never start.")
    if cut_in_pa < proposal.cut_in_pa - _APART_PA and cut_in_pa > cut_out_pa:
        wrong.append("It cuts in early: what leaks by starts it again and again.")
    return ControlSetting(proposal.cut_out_pa, proposal.cut_in_pa, proposal.why, tuple(wrong))
