"""Air: what is looked at and read so that the air is proven on both coils; its static along the way, its flow by several ways."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.core.air.airflow import by_drop, by_electric_heat, by_fan_table, cfm, disagreements, fpm
from dry_gauge.core.air.belt import Turn, last_that_bears
from dry_gauge.core.air.static_profile import POINTS, StaticProfile, static_profile
from dry_gauge.core.efficiency import BTU_PER_WH_PER_RATIO, RATED_OUTDOOR_K, eer_of_seer, most_eer
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import CFM_M3_S, INCH_WATER_PA, STANDARD_ATMOSPHERE_PA, TON_W, Measured
from dry_gauge.core.visit.survey import not_asked
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import Kept, in_time
from dry_gauge.notebook.subjects.air_tables import AirTables, DropTableBody, FanTableBody
from dry_gauge.notebook.subjects.electrical import Electrical, heat_of
from dry_gauge.notebook.subjects.moving_air import (
    FILTER_WORDS,
    MOVES,
    BeltBody,
    DamperTestBody,
    FilterBody,
    MixedAirBody,
    MovingAir,
    TraverseBody,
    belt_check,
    flow_of,
    share_of,
    sheave_turns,
)
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.present.read import Fan, fans
from dry_gauge.present.rows import Row, SightRow, row_of, sight_row
from dry_gauge.present.scene import Scene

_SIGHTS = ("evaporator_air_proven", "filter_dirty", "filter_missing", "evaporator_dirty", "blower_stopped",
           "blower_belt_slipping", "damper_closed", "condenser_air_proven", "condenser_dirty", "condenser_fan_stopped",
           "condenser_fan_reversed", "condenser_air_recirculating", "discharge_air_pulsing")  # fmt: skip
_READINGS = ("airflow", "return_air_temp", "return_air_wet_bulb", "supply_air_temp", "supply_air_wet_bulb", "input_power",
             "outdoor_air_temp", "condenser_leaving_air_temp", "blower_amps", "condenser_fan_amps")  # fmt: skip
_READINGS_IN_A_BOX = ("box_air_temp", "supply_air_temp", "box_rh", "product_temp", "outdoor_air_temp",
                      "condenser_leaving_air_temp", "blower_amps", "condenser_fan_amps")  # fmt: skip
_PER_TON = (350.0, 450.0)  # cfm per ton, as usual (habit)
_AIR_KG_M3 = 1.2  # at sea level, as the trade's 1.08 has it


@dataclass(frozen=True, slots=True)
class Way:
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


@dataclass(frozen=True, slots=True)
class BeltView:
    """A belt drive: what its speeds say, and what each half turn of its sheave would do."""

    name: str
    words: str
    stands: str
    turns: Sequence[Turn]
    last: Turn | None
    now_turns: float | None


@dataclass(frozen=True, slots=True)
class FilterView:
    """A set of filters, how it was found, what was done."""

    name: str
    words: str
    stands: str


@dataclass(frozen=True, slots=True)
class Air:
    """Sights and readings of the air; its way, its flow, and what moves it."""

    air_sights: Sequence[SightRow]
    static_rows: Sequence[Row]
    air_rows: Sequence[Row]
    fans: Sequence[Fan]
    profile: StaticProfile | None
    points_pa: Mapping[str, float]
    profile_words: Sequence[str]
    ways: Sequence[Way]
    ways_words: Sequence[str]
    work: Sequence[WorkDone]
    belts: Sequence[BeltView]
    filters: Sequence[FilterView]
    moved: Sequence[FilterView]
    """Outdoor air in the mixture, and dampers that were commanded both ways."""
    earned: Sequence[str]
    """What 'proven' rests on; nothing where it is by eye."""
    speeds: Sequence[str]
    speed_set: str
    """Speeds whose table is known, and the one that counts."""


def air(scene: Scene) -> Air:
    """What is looked at and read for the air on this kind of unit."""
    view, reader = scene.view, scene.reader
    in_box = view.facts.kind.is_walk_in
    sights = [what for what in _SIGHTS if what not in not_asked(view.facts)]
    names = _READINGS_IN_A_BOX if in_box else _READINGS

    def rows(listed: Sequence[str]) -> list[Row]:
        return [row_of(QUANTITIES[name], view, reader, scene.circuit) for name in listed]

    points = {} if in_box else {name: one for name in POINTS if (one := _measured(scene, name)) is not None}
    profile = static_profile(points) if points else None
    moving = view.state[MovingAir]
    ways, tables = _ways(scene, profile), tables_of(scene)
    return Air(
        [sight_row(SIGHTS[what], view, scene.circuit) for what in sights], [] if in_box else rows(POINTS), rows(names),
        fans(view.state[Readings]), profile, {name: one.value for name, one in points.items()},
        _profile_words(profile, reader) if profile else (), ways, _ways_words(scene, profile, ways),
        work_done(scene), [_belt(one) for one in in_time(moving.belts.values())],
        [_filter(one) for one in in_time(moving.filters.values())],
        [*map(_mixed, moving.mixed.values()), *map(_damper, in_time(moving.dampers.values()))],
        _earned(profile, _per_ton(scene, ways), moving), [one.speed for one in tables.fans.values()], tables.speed,
    )  # fmt: skip


def work_done(scene: Scene) -> list[WorkDone]:
    """Heat moved, its sensible share and what it takes for that, as far as airflow, wet bulbs and watts were read."""
    judged = scene.view.assessment
    derived = judged.first.derived if judged else {}
    found, facts = [], scene.view.facts
    if "capacity" in derived:
        heat = derived["capacity"].measured
        size, metric = facts.nominal_capacity_w, scene.metric
        value, error = ((f"{heat.value / 1000:.1f} kW", f"{heat.uncertainty / 1000:.1f} kW") if metric else
                        (f"{heat.value / TON_W:.2f} ton", f"{heat.uncertainty / TON_W:.2f} ton"))  # fmt: skip
        words = f"{heat.value / size * 100:.0f} % of its nominal size" if size else ""
        found.append(WorkDone("Heat moved", value, error, words))
    if "sensible_heat_ratio" in derived:
        share = derived["sensible_heat_ratio"].measured
        found.append(WorkDone("Of it, sensible", f"{share.value * 100:.0f} %", f"{share.uncertainty * 100:.0f} %"))
    if "eer" in derived:
        found.append(_heat_for_power(scene, derived["eer"].measured))
    return found


def _heat_for_power(scene: Scene, ratio: Measured) -> WorkDone:
    facts, outdoor = scene.view.facts, _measured(scene, "outdoor_air_temp")
    if facts.heating:
        return WorkDone("Heat for its power, COP", f"{ratio.value:.2f}", f"{ratio.uncertainty:.2f}")
    eer, error = ratio.value * BTU_PER_WH_PER_RATIO, ratio.uncertainty * BTU_PER_WH_PER_RATIO
    words = f"COP {ratio.value:.2f}"
    if facts.seer:
        words += f"; its class gives about {eer_of_seer(facts.seer):.1f} at {scene.reader.say('temperature', RATED_OUTDOOR_K)}"
    too_good = outdoor is not None and eer - error > most_eer(facts.seer, outdoor.value)
    if too_good:
        words += ". No such unit has that: look at airflow, both wet bulbs, and whether the watts are of the whole unit"
    return WorkDone("Heat for its power, EER", f"{eer:.1f}", f"{error:.1f}", words, too_good)


def _measured(scene: Scene, name: str) -> Measured | None:
    judged = scene.view.assessment
    return judged.first.view.get(name) if judged else None


def _profile_words(profile: StaticProfile, reader: Reader) -> list[str]:
    found = []
    if profile.total_pa is not None:
        limit = f"{reader.say('static', profile.limit_pa)}{' assumed' if profile.limit_assumed else ' by the label'}"
        total = f"{reader.say('static', profile.total_pa.value)} ± {reader.say('static', profile.total_pa.uncertainty)}"
        found.append(f"External static {total}, limit {limit}.")
    found += [phrase.read(reader) for phrase in profile.reasons]
    return found


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
    for body in (*scene.air_tables, *(one.body for one in own.fans.values()), *(one.body for one in own.drops.values())):
        if isinstance(body, FanTableBody):
            fans[body.speed.casefold()] = body
        elif isinstance(body, DropTableBody):
            drops[body.part] = body
    set_to = own.speed[""].body.speed if own.speed else next(iter(fans.values())).speed if len(fans) == 1 else ""
    return KnownTables(fans, drops, set_to)


def _by_tables(scene: Scene, profile: StaticProfile | None) -> list[Way]:
    known, found = tables_of(scene), []
    table = known.fans.get(known.speed.casefold())
    if profile is None:
        return []
    if table is not None and profile.total_pa is not None:
        statics, flows = [one * INCH_WATER_PA for one in table.statics], [one * CFM_M3_S for one in table.flows]
        try:
            flow = by_fan_table(statics, flows, profile.total_pa)
            found.append(Way("Fan table", f"{table.speed}, at the external static", flow, "", f"{cfm(flow.value):.0f}"))
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
        found.append(Way(f"{drop.part.capitalize()} drop", f"{row.drop:g} in. w.c. at {row.flow:g} cfm when clean", flow, warning,
                         f"{cfm(flow.value):.0f}"))  # fmt: skip
    return found


def _ways(scene: Scene, profile: StaticProfile | None) -> list[Way]:
    state, found = scene.view.state, []
    for one in in_time(state[MovingAir].traverses.values()):
        body: TraverseBody = one.body
        result = flow_of(body)
        found.append(Way(f"Traverse, {body.where}", f"{result.read} of {result.planned} points, mean "
                         f"{fpm(result.mean_m_s):.0f} fpm", result.airflow, result.warning,
                         f"{cfm(result.airflow.value):.0f}"))  # fmt: skip
    heat, supply, back = state[Electrical].strips, _measured(scene, "supply_air_temp"), _measured(scene, "return_air_temp")
    if heat and supply and back:
        density = _AIR_KG_M3 * scene.view.facts.atmosphere_pa / STANDARD_ATMOSPHERE_PA
        try:
            flow = by_electric_heat(heat_of(heat.body).kilowatts * 1000, supply - back, density)
            found.append(Way("Electric heat", f"{heat_of(heat.body).kilowatts:.1f} kW over the rise", flow, "",
                             f"{cfm(flow.value):.0f}"))  # fmt: skip
        except Refused:
            pass  # cold air, or hardly a rise: the heat was measured at another time
    found += _by_tables(scene, profile)
    typed = _measured(scene, "airflow")
    if typed:
        found.append(Way("As read", "the reading that is judged", typed))
    return found


def _table_words(scene: Scene, profile: StaticProfile | None, ways: Sequence[Way]) -> list[str]:
    """Why a table of the blower that is known says nothing."""
    known = tables_of(scene)
    if not known.fans or any(way.name == "Fan table" for way in ways):
        return []
    if not known.speed:
        return ["Say on which speed the blower runs, under its tables: then its table tells the airflow."]
    if profile is None or profile.total_pa is None:
        return ["Read the static on both sides of the unit: then the blower's table tells the airflow."]
    return [f"The external static lies outside of the table of {known.speed}: it tells no airflow there."]


def _ways_words(scene: Scene, profile: StaticProfile | None, ways: Sequence[Way]) -> list[str]:
    found, per_ton = [], _per_ton(scene, ways)
    if per_ton is not None:
        usual = "" if _PER_TON[0] <= per_ton <= _PER_TON[1] else ", outside the usual 350 to 450"
        found.append(f"{per_ton:.0f} cfm per ton by {ways[0].name.lower()}{usual}.")
    found += _table_words(scene, profile, ways)
    for clash in disagreements([(way.name, way.flow) for way in ways]):
        words = f"{clash.one} and {clash.other.lower()} differ by {clash.share * 100:.0f} %, more than their errors:"
        found.append(f"{words} one is wrong.")
    return found


def _per_ton(scene: Scene, ways: Sequence[Way]) -> float | None:
    """Airflow for each ton, by the first way; None where the size is not known or there is no such habit."""
    capacity_w = scene.view.facts.nominal_capacity_w
    if not ways or not capacity_w or scene.view.facts.kind.is_walk_in:
        return None
    return cfm(ways[0].flow.value) / capacity_w * TON_W


def _belt(one: Kept[BeltBody]) -> BeltView:
    body = one.body
    found, listed = belt_check(body), sheave_turns(body)
    words = found.words if found else "Blower speed not read: mark its shaft, not the motor's."
    if found:
        words += f" {body.blower_rpm:g} rpm, {found.expected_rpm:.0f} expected."
    stands = "ok" if found and found.state == "right" else "asks" if found is None else "act"
    return BeltView(body.machine, words, stands, listed, last_that_bears(listed), body.now_turns)


def _filter(one: Kept[FilterBody]) -> FilterView:
    body = one.body
    parts = [f"{body.count} of {body.size}" if body.size else "", body.sort, f"found {FILTER_WORDS[body.found]}",
             "changed" if body.changed else "", f"next {body.due:%d %b %Y}" if body.due else ""]  # fmt: skip
    good = body.found == "clean" or body.changed
    return FilterView(body.place, ", ".join(filter(None, parts)), "ok" if good else "act")


def _mixed(one: Kept[MixedAirBody]) -> FilterView:
    share = share_of(one.body)
    words = "return and outdoor air are too near" if share is None else (
        f"{100 * share.value:.0f} % of the mixed air, give or take {100 * share.uncertainty:.0f}")  # fmt: skip
    return FilterView("Outdoor air", words, "ok")


def _damper(one: Kept[DamperTestBody]) -> FilterView:
    body = one.body
    words = "; ".join(filter(None, (MOVES[body.opens, body.shuts], body.words)))
    return FilterView(f"Damper, {body.damper}", words, "ok" if body.opens and body.shuts else "act")


def _earned(profile: StaticProfile | None, per_ton: float | None, moving: MovingAir) -> list[str]:
    """What was measured and is in order: 'proven' rests on it, or is by eye."""
    found = ["static along the way"] if profile and profile.band == "within" and not profile.eats else []
    found += ["airflow"] if per_ton is not None and _PER_TON[0] <= per_ton <= _PER_TON[1] else []
    turning = [(one.body.machine, belt_check(one.body)) for one in moving.belts.values()]
    found += [f"belt of {machine}" for machine, checked in turning if checked and checked.state == "right"]
    return found + [f"filter, {one.body.place}" for one in moving.filters.values() if _filter(one).stands == "ok"]
