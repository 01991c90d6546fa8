"""How much air moves, by every way in which it is known, and the work that the unit does with it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.core.air.airflow import by_drop, by_electric_heat, by_fan_table, cfm, disagreements
from dry_gauge.core.air.psychrometrics import STANDARD_AIR_KG_M3
from dry_gauge.core.air.static_profile import StaticProfile
from dry_gauge.core.dimensions import unit_for
from dry_gauge.core.efficiency import BTU_PER_WH_PER_RATIO, RATED_OUTDOOR_K, eer_of_seer, most_eer
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import CFM_M3_S, INCH_WATER_PA, STANDARD_ATMOSPHERE_PA, TON_W, Measured
from dry_gauge.core.words import in_percent
from dry_gauge.notebook.kind import VisitState, in_time
from dry_gauge.notebook.subjects.actions import indoor_air_changed_at
from dry_gauge.notebook.subjects.air_tables import AirTables, DropTableBody, FanTableBody
from dry_gauge.notebook.subjects.electrical import Electrical, heat_of
from dry_gauge.notebook.subjects.moving_air import MovingAir, TraverseBody, flow_of
from dry_gauge.present.scene import Scene

USUAL_PER_SIZE = (350 * CFM_M3_S / TON_W, 450 * CFM_M3_S / TON_W)
"""Airflow for the size of a comfort unit, least and most: 350 and 450 cfm a ton. (habit) [m3/s per W]"""


@dataclass(frozen=True, slots=True)
class Flow:
    """One way in which the airflow is known. `takes` is the number that the judgement may take, in cfm."""

    name: str
    words: str
    flow: Measured
    warning: str = ""
    takes: str = ""


@dataclass(frozen=True, slots=True)
class WorkDone:
    """What the unit does with its air and its power: a figure with its error, and what that says; `asks` where it cannot be."""

    name: str
    value: str
    error: str
    words: str = ""
    asks: bool = False


def work_done(scene: Scene) -> list[WorkDone]:
    """Heat moved, its sensible share and what it takes for that, as far as airflow, wet bulbs and watts were read."""
    judged = scene.view.assessment
    derived = judged.first.derived if judged else {}
    found, facts = [], scene.view.facts
    if "capacity" in derived:
        heat = derived["capacity"].measured
        size, metric = facts.nominal_capacity_w, scene.reader.celsius
        value, error = (
            (f"{heat.value / 1000:.1f} kW", f"{heat.uncertainty / 1000:.1f} kW")
            if metric
            else (f"{heat.value / TON_W:.2f} ton", f"{heat.uncertainty / TON_W:.2f} ton")
        )
        words = f"{in_percent(heat.value / size)} of its nominal size" if size else ""
        found.append(WorkDone("Capacity delivered", value, error, words))
    if "sensible_heat_ratio" in derived:
        share = derived["sensible_heat_ratio"].measured
        found.append(WorkDone("Sensible share", in_percent(share.value), in_percent(share.uncertainty)))
    if "eer" in derived:
        found.append(_heat_for_power(scene, derived["eer"].measured))
    return found


def _heat_for_power(scene: Scene, ratio: Measured) -> WorkDone:
    facts, outdoor = scene.view.facts, measured(scene, "outdoor_air_temp")
    if facts.heating:
        return WorkDone("Efficiency, COP", f"{ratio.value:.2f}", f"{ratio.uncertainty:.2f}")
    eer, error = ratio.value * BTU_PER_WH_PER_RATIO, ratio.uncertainty * BTU_PER_WH_PER_RATIO
    words = f"COP {ratio.value:.2f}"
    if facts.seer:
        words += f"; its class gives about {eer_of_seer(facts.seer):.1f} at {scene.reader.say('temperature', RATED_OUTDOOR_K)}"
    too_good = outdoor is not None and eer - error > most_eer(facts.seer, outdoor.value)
    if too_good:
        words += ". No such unit has that: look at airflow, both wet bulbs, and whether the watts are of the whole unit"
    return WorkDone("Efficiency, EER", f"{eer:.1f}", f"{error:.1f}", words, too_good)


def measured(scene: Scene, name: str) -> Measured | None:
    """A quantity as the judgement has it; None where it was not read."""
    judged = scene.view.assessment
    return judged.first.view.get(name) if judged else None


@dataclass(frozen=True, slots=True)
class KnownTables:
    """Tables of this visit, and where it has none, those of the unit's model: by speed, and by part."""

    fans: Mapping[str, FanTableBody]
    drops: Mapping[str, DropTableBody]
    speed: str
    """The one that is set, or the only one that is known; empty where nobody said."""


def tables_of(scene: Scene) -> KnownTables:
    """What is known of the blower and of the parts in its way."""
    own = scene.view.state[AirTables]
    fans: dict[str, FanTableBody] = {}
    drops: dict[str, DropTableBody] = {}
    for body in (*scene.model_tables, *(one.body for one in own.fans.values()), *(one.body for one in own.drops.values())):
        if isinstance(body, FanTableBody):
            fans[body.speed.casefold()] = body
        elif isinstance(body, DropTableBody):
            drops[body.part] = body
    set_to = own.speed[""].body.speed if own.speed else next(iter(fans.values())).speed if len(fans) == 1 else ""
    return KnownTables(fans, drops, set_to)


def _by_tables(scene: Scene, profile: StaticProfile | None) -> list[Flow]:
    known, found = tables_of(scene), []
    table = known.fans.get(known.speed.casefold())
    if profile is None:
        return []
    if table is not None and profile.total_pa is not None:
        statics, flows = [one * INCH_WATER_PA for one in table.statics], [one * CFM_M3_S for one in table.flows]
        try:
            flow = by_fan_table(statics, flows, profile.total_pa)
            found.append(Flow("Fan table", f"{table.speed}, at the external static", flow, "", f"{cfm(flow.value):.0f}"))
        except Refused:
            pass  # a static that its table does not hold says nothing
    for drop in profile.drops:
        row = known.drops.get(drop.part)
        if row is None:
            continue
        try:
            flow = by_drop(row.flow * CFM_M3_S, row.drop * INCH_WATER_PA, drop.pa)
        except Refused:
            continue
        warning = "It drops too much for a clean one: by this way the air is overstated." if drop.is_over else ""
        at = scene.reader.say("airflow", row.flow * CFM_M3_S)
        clean = f"{scene.reader.say('static', row.drop * INCH_WATER_PA)} at {at} when clean"
        found.append(Flow(f"{drop.part.capitalize()} drop", clean, flow, warning, f"{cfm(flow.value):.0f}"))
    return found


def _traverses(state: VisitState) -> tuple[list[TraverseBody], list[TraverseBody]]:
    """Traverses of the air that there is now, and those from before something changed it."""
    changed_at = indoor_air_changed_at(state)
    now: list[TraverseBody] = []
    before: list[TraverseBody] = []
    for one in in_time(state[MovingAir].traverses.values()):
        (before if changed_at is not None and one.at <= changed_at else now).append(one.body)
    return now, before


def ways_of(scene: Scene, profile: StaticProfile | None) -> list[Flow]:
    """Every way in which the airflow is known: measured ones, tables, then the reading."""
    state, found = scene.view.state, []
    for body in _traverses(state)[0]:
        result = flow_of(body)
        mean = scene.reader.say("velocity", result.mean_m_s)
        found.append(
            Flow(
                f"Traverse, {body.where}",
                f"{result.read} of {result.planned} points, mean {mean}",
                result.airflow,
                result.warning,
                f"{cfm(result.airflow.value):.0f}",
            )
        )
    heat, supply, back = state[Electrical].strips, measured(scene, "supply_air_temp"), measured(scene, "return_air_temp")
    if heat and supply and back:
        density = STANDARD_AIR_KG_M3 * scene.view.facts.atmosphere_pa / STANDARD_ATMOSPHERE_PA
        try:
            flow = by_electric_heat(heat_of(heat.body).kilowatts * 1000, supply - back, density)
            found.append(
                Flow("Electric heat", f"{heat_of(heat.body).kilowatts:.1f} kW over the rise", flow, "", f"{cfm(flow.value):.0f}")
            )
        except Refused:
            pass  # cold air, or hardly a rise: the heat was measured at another time
    found += _by_tables(scene, profile)
    typed = measured(scene, "airflow")
    if typed:
        found.append(Flow("As read", "the reading that is judged", typed))
    return found


def _table_words(scene: Scene, profile: StaticProfile | None, ways: Sequence[Flow]) -> list[str]:
    """Why a table of the blower that is known says nothing."""
    known = tables_of(scene)
    if not known.fans or any(way.name == "Fan table" for way in ways):
        return []
    if not known.speed:
        return ["Say on which speed the blower runs, under its tables: then its table tells the airflow."]
    if profile is None or profile.total_pa is None:
        return ["Read the static on both sides of the unit: then the blower's table tells the airflow."]
    return [f"The external static lies outside of the table of {known.speed}: it tells no airflow there."]


def ways_words(scene: Scene, profile: StaticProfile | None, ways: Sequence[Flow]) -> list[str]:
    """What the ways say together: airflow for the size, a table that says nothing, two that differ."""
    found, per_size = [], per_size_of(scene, ways)
    if per_size is not None:
        unit = unit_for("airflow_per_size", scene.reader.chosen_units)
        least, most = (unit.say(one) for one in USUAL_PER_SIZE)
        usual = "" if USUAL_PER_SIZE[0] <= per_size <= USUAL_PER_SIZE[1] else f", outside the usual {least} to {most}"
        found.append(f"{unit.say(per_size)} {unit.written} by {ways[0].name.lower()}{usual}.")
    found += [
        f"The traverse of {body.where} is from before the indoor air was changed: measure again."
        for body in _traverses(scene.view.state)[1]
    ]
    found += _table_words(scene, profile, ways)
    for clash in disagreements([(way.name, way.flow) for way in ways]):
        words = f"{clash.one} and {clash.other.lower()} differ by {in_percent(clash.share)}, more than their errors:"
        found.append(f"{words} one is wrong.")
    return found


def per_size_of(scene: Scene, ways: Sequence[Flow]) -> float | None:
    """Airflow for the size, by the first way; None where that is not known or there is no such habit. [m3/s per W]"""
    capacity_w = scene.view.facts.nominal_capacity_w
    if not ways or not capacity_w or scene.view.facts.kind.is_walk_in:
        return None
    return ways[0].flow.value / capacity_w
