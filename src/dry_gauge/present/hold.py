"""Hold: every section under nitrogen with its verdict, the sections compared, and the gauges that serve it live."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.probes import LatestProbe, live_among
from dry_gauge.core.sealed.pressure_hold import Hold, SectionComparison, compare_sections
from dry_gauge.core.shop import ShopSettings
from dry_gauge.core.words import Reader
from dry_gauge.notebook.subjects.hold import Holds, HoldView, hold_of
from dry_gauge.present.scene import Scene
from dry_gauge.present.visit import VisitView

HOLD_WORDS = {
    Hold.TIGHT: "Tight",
    Hold.LEAKING: "Leaking",
    Hold.TOO_SOON: "Too soon to tell",
    Hold.GAIN: "Gaining: gas warmer than the clamp says",
}
_LEAST_MINUTES = 15  # below this no rate an hour is said
# Gauge and pipe of a hold: those that stand first among the live ones.
GAUGES = ("standing_pressure", "liquid_pressure", "suction_pressure", "discharge_pressure")
PIPES = ("equalized_ambient_temp", "liquid_line_temp", "suction_line_temp", "outdoor_air_temp")


@dataclass(frozen=True, slots=True)
class HoldSection:
    """One section as it is plotted: hours, compensated pressure and half-width; what the gauge showed; the loss allowed. [Pa]"""

    name: str
    compensated: Sequence[tuple[float, float, float]]
    shown_pa: Sequence[float]
    allowed_pa_h: float


@dataclass(frozen=True, slots=True)
class HoldDesk:
    """Every hold; how fast each loses, in words."""

    holds: Sequence[HoldView]
    rates: Mapping[str, str]
    comparison: SectionComparison | None
    sections: Sequence[HoldSection]


def hold(scene: Scene) -> HoldDesk:
    """The holds as they stand."""
    view, settings = scene.view, scene.settings
    found = holds_of(view, settings)
    compared = [(one.kept.body.section, one.verdict) for one in found if one.verdict]
    return HoldDesk(
        found,
        {one.key: rate_words(one, scene.reader) for one in found if one.verdict},
        compare_sections(compared) if len(compared) > 1 else None,
        _sections(view, found, settings),
    )


def holds_of(view: VisitView, settings: ShopSettings) -> list[HoldView]:
    """Every hold of the visit with its verdict, by the moment at which it began."""
    return [hold_of(key, one, view.facts, settings.hold_loss_pa_h) for key, one in view.state[Holds].in_order]


def _sections(view: VisitView, found: Sequence[HoldView], settings: ShopSettings) -> list[HoldSection]:
    sections = []
    for one in found:
        if one.verdict is None:
            continue
        counted = [kept.body for kept in one.kept.readings if not kept.body.stage]
        shown = [UNITS[body.pressure_unit].to_si(body.pressure, view.facts.atmosphere_pa) for body in counted]
        sections.append(HoldSection(one.kept.body.section, one.verdict.compensated, shown, settings.hold_loss_pa_h))
    return sections


def rate_words(one: HoldView, reader: Reader) -> str:
    """'loses about 0.12 psi an hour, give or take 0.05', in the reader's unit."""
    verdict = one.verdict
    assert verdict is not None
    scale = UNITS[reader.gauge_unit].scale
    name = reader.gauge_unit.removesuffix("g")
    if verdict.rate_half_width_pa_h == float("inf"):
        return "One reading: read again later, gauge and pipe."
    minutes = verdict.hours * 60
    if minutes < _LEAST_MINUTES:  # an hour's rate made of seconds is a number without a meaning
        fell, half = -verdict.change_pa / scale, verdict.change_half_width_pa / scale
        moved = f"{'Fell' if fell >= 0 else 'Rose'} {abs(fell):.1f} ±{half:.1f} {name} in {minutes:.0f} min."
        return f"{moved} Read again after {_LEAST_MINUTES} min."
    rate, half, finest = (value / scale for value in (verdict.rate_pa_h, verdict.rate_half_width_pa_h, verdict.finest_pa_h))
    decimals = 3 if name == "bar" else 2
    if verdict.verdict is Hold.LEAKING:
        return f"Loses about {rate:.{decimals}f} {name} an hour, ±{half:.{decimals}f}."
    if verdict.verdict is Hold.GAIN:
        return f"Gains {-rate:.{decimals}f} {name} an hour: shade the clamp, off warm metal; read again when gas and pipe agree."
    return f"No loss above {finest:.{decimals}f} {name} an hour. Found {rate:.{decimals}f} ±{half:.{decimals}f}."


def docked(scene: Scene) -> tuple[str, str]:
    """The latest hold in a line, and how fast it loses."""
    holds = holds_of(scene.view, scene.settings)
    if not holds:
        return "Not under pressure", ""
    last = holds[-1]
    if last.verdict is None:
        return f"{last.kept.body.section}: no reading", "Type gauge and pipe"
    if not last.kept.open:
        return f"Ended: {(last.kept.verdict or '').replace('_', ' ')}", rate_words(last, scene.reader)
    more = f", come back in about {last.verdict.hours_more} h" if last.verdict.hours_more else ""
    return f"{HOLD_WORDS[last.verdict.verdict]}{more}", rate_words(last, scene.reader)


def served_by(probes: Sequence[LatestProbe], now: datetime) -> tuple[LatestProbe, LatestProbe] | None:
    """The live gauge and pipe from which a reading of a hold can be taken by a tap; None without both."""
    gauges, pipes = live_among(probes, GAUGES, now), live_among(probes, PIPES, now)
    return (gauges[0], pipes[0]) if gauges and pipes else None
