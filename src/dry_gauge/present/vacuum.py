"""Vacuum: the evacuation that is on or the last one, its verdict, and when it would be done."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.sealed.opening import Way
from dry_gauge.core.sealed.pull_down import WATER_TRIPLE_PA, boiling_point_k
from dry_gauge.core.sealed.vacuum import END_POINTS, Rise
from dry_gauge.notebook.subjects.opening import plan_in
from dry_gauge.notebook.subjects.vacuum import EvacuationView, Vacuum, evacuation_of
from dry_gauge.present.scene import Scene

RISE_WORDS = {
    Rise.TIGHT: "Tight and dry",
    Rise.MOISTURE: "Wet",
    Rise.LEAK: "Leaking",
    Rise.BOTH: "Wet, and leaking",
    Rise.TOO_SOON: "Too soon to tell",
}
AFTER_RISE = {
    Rise.MOISTURE: "Sweep with dry nitrogen to 2 psig (0.1 bar), warm the unit, pull again. Change the pump's oil.",
    Rise.LEAK: "Break with nitrogen, find it: caps, cores and hoses first, then a hold by sections.",
    Rise.BOTH: "Find the leak first; air brings water in faster than a pump takes it out.",
}
# Above this nobody asks at what temperature water boils. [Pa]
_BOILS_BELOW_PA = 7000


@dataclass(frozen=True, slots=True)
class VacuumDesk:
    """Every evacuation; `on` is the one that is on, or the last."""

    evacuations: Sequence[EvacuationView]
    on: EvacuationView | None
    boils: str | None
    forecast: str
    pumped_down: bool
    elsewhere: int | None = None
    """Another circuit that is being evacuated: it is ended there first."""


def _elsewhere(scene: Scene) -> int | None:
    """The other circuit whose evacuation is on: it is ended there first. A rig is proven for all of them."""
    on = (scene.whole or scene.view).state[Vacuum].on
    other = (on.body.circuit or 1) if on and on.body.what == "system" else scene.circuit
    return other if other != scene.circuit else None


def vacuum(scene: Scene) -> VacuumDesk:
    """The evacuations as they stand, a live gauge counted in."""
    found = evacuations_of(scene)
    on = next((one for one in reversed(found) if one.kept.open), found[-1] if found else None)
    boils = None
    if on and on.micron and WATER_TRIPLE_PA < on.micron * MICRON_PA < _BOILS_BELOW_PA:
        boils = scene.reader.say("temperature", boiling_point_k(on.micron * MICRON_PA))
    plan = plan_in(scene.view.state, scene.view.facts)
    return VacuumDesk(
        found, on, boils, forecast(on, scene.now) if on else "", plan is not None and plan.way is Way.PUMP_DOWN, _elsewhere(scene)
    )


def evacuations_of(scene: Scene) -> list[EvacuationView]:
    """Every evacuation of the visit, by the moment at which it began."""
    found = [evacuation_of(key, one, scene.traces.get(key, ()), scene.now) for key, one in scene.view.state[Vacuum].in_order]
    return [replace(one, conditions=_conditions(one, found)) for one in found]


def _conditions(one: EvacuationView, all_of_them: Sequence[EvacuationView]) -> tuple[str, ...]:
    """What stands in the verdict of a system; the rig itself has none."""
    body = one.kept.body
    if body.what == "rig":
        return ()
    rig = any(other.kept.body.what == "rig" and other.passed and other.kept.at <= one.kept.at for other in all_of_them)
    said = (
        (not body.cores_out, "cores in"),
        (body.gauge_at in ("manifold", "near_pump"), _GAUGE_AT.get(body.gauge_at, "")),
        (not rig, "rig not watched"),
    )
    return tuple(words for so, words in said if so)


_GAUGE_AT = {"manifold": "gauge at the manifold", "near_pump": "gauge at the pump"}


def verdict_words(one: EvacuationView) -> str:
    """What the latest watch says, with what it is subject to: with cores in nothing is plainly tight."""
    assert one.last is not None
    words = RISE_WORDS[one.last.verdict]
    if one.last.verdict in (Rise.TOO_SOON, Rise.MOISTURE) or not one.conditions:
        return words  # water shows whatever the gauge sits at
    return f"{words}, but {', '.join(one.conditions)}"


def forecast(on: EvacuationView, now: datetime) -> str:
    """When it would be done at this pace, the watch included, and whether that is in time."""
    left = None
    if on.kept.watching and on.last:
        left = float(on.last.minutes_more or 0)
    elif on.pull and on.pull.minutes_to_target is not None:
        left = on.pull.minutes_to_target + END_POINTS[on.kept.body.school].minutes
    if left is None:
        return ""
    words = f"At this pace done in about {max(1, round(left))} min, the watch included"
    due = on.kept.body.done_by
    if due is None:
        return words + "."
    spare = (due - now).total_seconds() / 60 - left
    return f"{words}; {'in time' if spare >= 0 else f'{-spare:.0f} min too late'}."


def docked(on: EvacuationView | None, forecast: str, elsewhere: int | None = None) -> tuple[str, str]:
    """The evacuation in a line, and what comes next."""
    if elsewhere is not None:
        return f"Circuit {elsewhere} is being evacuated", "End that first"
    if on is None:
        return "Prove the rig first", ""
    micron = f"{on.micron:,.0f} μm" if on.micron else "no reading yet"
    if on.last and (on.kept.watching or not on.kept.open):
        more = f"Watch about {on.last.minutes_more} min more" if on.last.minutes_more else ""
        return verdict_words(on), ", ".join(filter(None, (micron, more)))
    if on.pull and on.pull.stalled:
        return "Stalled", micron
    return micron, forecast
