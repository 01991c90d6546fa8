"""Live probes as a page shows them: numbers in the reader's units, the ladder as it would be, the last minutes plotted."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from markupsafe import Markup

from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.quantities import UNITS
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.core.words import Reader
from dry_gauge.drawing.geometry import DESK, PHONE
from dry_gauge.drawing.ladder import ladder_svg
from dry_gauge.service.notebooks import VisitView
from dry_gauge.service.probes import SCALE, is_fresh, lay_over
from dry_gauge.store.samples import LatestProbe
from dry_gauge.web.render import TEMPLATES, shown_unit

_WEAK_BATTERY = 0.15
_PLOTTED = ("superheat", "subcooling", "air_split")


@dataclass(frozen=True, slots=True)
class Overlay:
    """What one tick of the probes changes on a page."""

    numbers: dict[str, Any]
    ladder: str


def overlay(
    view: VisitView,
    probes: Sequence[LatestProbe],
    school: str,
    reader: Reader,
    circuit: int,
    size: str | None,
    now: datetime,
) -> Overlay:
    """Numbers and ladder with the live probes laid over what was typed."""
    live = lay_over(view, probes, school, now)
    judged = live.assessment.circuits.get(circuit, live.assessment.first) if live.assessment else None
    point = {name: round(reader.difference(judged.derived[name].value), 2)
             for name in _PLOTTED if judged and name in judged.derived}  # fmt: skip
    numbers = {
        "at": now.timestamp(), "probes": [_probe(probe, view.facts, reader, now) for probe in probes], "point": point,
        "unit": f"°{reader.temperature_unit}", "tagged": bool(view.state.call.tags),
    }  # fmt: skip
    return Overlay(numbers, _ladder(view, judged, reader, circuit, size) if judged else "")


def _probe(probe: LatestProbe, facts: UnitFacts, reader: Reader, now: datetime) -> dict[str, Any]:
    fresh = is_fresh(probe, now)
    row = {"probe": probe.probe, "quantity": probe.quantity, "circuit": probe.circuit, "value": probe.value,
           "unit": probe.unit, "state": probe.state if (now - probe.at).total_seconds() < 12 else "silent",
           "weak": probe.battery is not None and probe.battery < _WEAK_BATTERY, "shown": "", "shown_unit": "",
           "at": probe.at.timestamp()}  # fmt: skip
    if probe.quantity == SCALE:
        row |= {"label": "Scale", "takes": False}
        if fresh and probe.value_si is not None:
            row |= {"shown": f"{probe.value_si:.3f}", "shown_unit": "kg"}
        return row
    quantity = QUANTITIES[probe.quantity]
    unit = shown_unit(quantity, reader)
    row |= {"label": quantity.label + (" pressure" if quantity.dimension == "pressure" else ""), "takes": True}
    if fresh and probe.value_si is not None:
        value = UNITS[unit].from_si(probe.value_si, facts.atmosphere_pa)
        row |= {"shown": f"{value:.2f}" if unit == "barg" else f"{value:.1f}", "shown_unit": unit}
    return row


def _ladder(view: VisitView, judged: CircuitAssessment, reader: Reader, circuit: int, size: str | None) -> str:
    before = view.before.circuits.get(circuit) if view.before else None
    sizes = {"desk": DESK, "phone": PHONE}
    drawings = {
        name: Markup(ladder_svg(judged, reader, geometry, f"ladder-{name}", before))  # noqa: S704
        for name, geometry in sizes.items()
        if size in (None, name)
    }
    return TEMPLATES.get_template("visits/_ladder.html").render(
        {"drawings": drawings, "view": view, "circuit": circuit, "oob": True}
    )


def gap_history(
    series: Mapping[tuple[str, int], Sequence[tuple[float, float]]], facts: UnitFacts, reader: Reader, circuit: int
) -> dict[str, Any]:
    """Superheat, subcooling and air split over the last minutes, every few seconds."""
    saturation = saturation_of(facts.refrigerant)

    def line(name: str) -> dict[int, float]:
        shared = QUANTITIES[name].shared
        points = series.get((name, 1 if shared else circuit), ())
        return {int(second // 5): value for second, value in points}

    suction, suction_line = line("suction_pressure"), line("suction_line_temp")
    liquid, liquid_line = line("liquid_pressure"), line("liquid_line_temp")
    entering, supply = line("return_air_temp"), line("supply_air_temp")
    lines: dict[str, list[list[float]]] = {name: [] for name in _PLOTTED}
    for slot in sorted({*suction, *liquid, *entering}):
        second = slot * 5.0
        if slot in suction_line and saturation.covers_pressure(suction.get(slot, 0.0)):
            gap = suction_line[slot] - saturation.dew_temperature_k(suction[slot])
            lines["superheat"].append([second, round(reader.difference(gap), 2)])
        if slot in liquid_line and saturation.covers_pressure(liquid.get(slot, 0.0)):
            gap = saturation.bubble_temperature_k(liquid[slot]) - liquid_line[slot]
            lines["subcooling"].append([second, round(reader.difference(gap), 2)])
        if slot in entering and slot in supply:
            gap = (entering[slot] - supply[slot]) * (-1 if facts.heating else 1)
            lines["air_split"].append([second, round(reader.difference(gap), 2)])
    return {"lines": lines, "unit": f"°{reader.temperature_unit}"}
