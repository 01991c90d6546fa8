"""Live probes as a page shows them: numbers in the reader's units, and the last minutes plotted."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from dry_gauge.core.dimensions import MICRON_PA, UNITS
from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.probes import STALE_SECONDS, TOOLS, VACUUM, LatestProbe, Tool, is_fresh
from dry_gauge.core.settling import Series, gaps_over_time
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.core.words import Reader
from dry_gauge.present.hold import served_by
from dry_gauge.present.rows import shown_unit

_WEAK_BATTERY = 0.15
_PLOTTED = ("superheat", "subcooling", "air_split")


def numbers(
    facts: UnitFacts, probes: Sequence[LatestProbe], judged: CircuitAssessment | None, reader: Reader, now: datetime
) -> dict[str, Any]:
    """Every probe as it stands, and the newest point of the plot."""
    point = {
        name: round(reader.difference(judged.derived[name].value), 2) for name in _PLOTTED if judged and name in judged.derived
    }
    serves = served_by(probes, now)
    return {
        "at": now.timestamp(),
        "probes": [_probe(probe, facts, reader, now) for probe in probes],
        "point": point,
        "hold": [probes.index(probe) for probe in serves] if serves else [],
    }


def _probe(probe: LatestProbe, facts: UnitFacts, reader: Reader, now: datetime) -> dict[str, Any]:
    fresh = is_fresh(probe, now)
    row = {
        "probe": probe.probe,
        "quantity": probe.quantity,
        "circuit": probe.circuit,
        "value": probe.value,
        "unit": probe.unit,
        "state": probe.state if (now - probe.at).total_seconds() < STALE_SECONDS else "silent",
        "weak": probe.battery is not None and probe.battery < _WEAK_BATTERY,
        "shown": "",
        "shown_unit": "",
        "at": probe.at.timestamp(),
    }
    tool = TOOLS.get(probe.quantity)
    if tool is not None:
        row |= {"label": tool.label, "takes": False}
        if fresh and probe.value_si is not None:
            row["shown"], row["shown_unit"] = _shown_by(tool, probe.quantity, probe.value_si, reader)
        return row
    quantity = QUANTITIES[probe.quantity]
    unit = shown_unit(quantity, reader)
    row |= {"label": quantity.label + (" pressure" if quantity.dimension == "pressure" else ""), "takes": True}
    if fresh and probe.value_si is not None:
        row |= {"shown": UNITS[unit].say(probe.value_si, facts.atmosphere_pa), "shown_unit": unit}
    return row


def _shown_by(tool: Tool, name: str, value_si: float, reader: Reader) -> tuple[str, str]:
    if tool.shown_in:
        return f"{value_si:.4g}" if value_si < 1000 else f"{value_si:.0f}", tool.shown_in
    return (f"{value_si / MICRON_PA:,.0f}", "μm") if name == VACUUM else (reader.say("weight", value_si), "")


def gap_history(series: Mapping[str, Series], facts: UnitFacts, reader: Reader, now: datetime) -> dict[str, Any]:
    """The plotted gaps over the last minutes; `series` counts its minutes back from `now`."""
    gaps = gaps_over_time(series, facts)
    return {
        "lines": {name: [[now.timestamp() + 60 * t, round(reader.difference(k), 2)] for t, k in gaps[name]] for name in _PLOTTED}
    }
