"""Air: what is looked at and read so that the air is proven on both coils; its static along the way, what moves it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.core.air.airflow import face_velocity
from dry_gauge.core.air.belt import Turn, belt_length, deflection, last_that_bears
from dry_gauge.core.air.static_profile import POINTS, StaticProfile, static_profile
from dry_gauge.core.quantities import INCH_M
from dry_gauge.core.visit.survey import not_asked
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import Kept, in_time
from dry_gauge.notebook.subjects.moving_air import (
    FILTER_WORDS,
    MOVES,
    BeltBody,
    DamperTestBody,
    FilterBody,
    MixedAirBody,
    MovingAir,
    belt_check,
    inches_of,
    share_of,
    sheave_turns,
)
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.present.airflow import (
    USUAL_PER_SIZE,
    Flow,
    WorkDone,
    measured,
    per_size_of,
    tables_of,
    ways_of,
    ways_words,
    work_done,
)
from dry_gauge.present.metering import last_meter
from dry_gauge.present.read import Fan, fans
from dry_gauge.present.rows import Row, SightRow, row_of, sight_row
from dry_gauge.present.scene import Scene

_SIGHTS = ("evaporator_air_proven", "filter_dirty", "filter_missing", "evaporator_dirty", "blower_stopped",
           "blower_belt_slipping", "damper_closed", "condenser_air_proven", "condenser_dirty", "condenser_fan_stopped",
           "condenser_fan_reversed", "condenser_air_recirculating", "discharge_air_pulsing")  # fmt: skip
_READINGS = (
    "airflow",
    "return_air_temp",
    "return_air_wet_bulb",
    "supply_air_temp",
    "supply_air_wet_bulb",
    "input_power",
    "outdoor_air_temp",
    "condenser_leaving_air_temp",
    "blower_amps",
    "condenser_fan_amps",
)
_READINGS_IN_A_BOX = (
    "box_air_temp",
    "supply_air_temp",
    "box_rh",
    "product_temp",
    "outdoor_air_temp",
    "condenser_leaving_air_temp",
    "blower_amps",
    "condenser_fan_amps",
)


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
    ways: Sequence[Flow]
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
    last_meter: str


def air(scene: Scene) -> Air:
    """What is looked at and read for the air on this kind of unit."""
    view, reader = scene.view, scene.reader
    in_box = view.facts.kind.is_walk_in
    sights = [what for what in _SIGHTS if what not in not_asked(view.facts)]
    names = _READINGS_IN_A_BOX if in_box else _READINGS

    def rows(listed: Sequence[str]) -> list[Row]:
        return [row_of(QUANTITIES[name], view, reader, scene.circuit) for name in listed]

    points = {} if in_box else {name: one for name in POINTS if (one := measured(scene, name)) is not None}
    profile = static_profile(points) if points else None
    moving = view.state[MovingAir]
    ways, tables = ways_of(scene, profile), tables_of(scene)
    kept = in_time(moving.filters.values())
    # Of several sets nobody knows what share of the air goes through which.
    through = ways[0].flow.value if ways and len(kept) == 1 else None
    filters = [_filter(one, through, scene.reader) for one in kept]
    return Air(
        [sight_row(SIGHTS[what], view, scene.circuit) for what in sights],
        [] if in_box else rows(POINTS),
        rows(names),
        fans(view.state[Readings]),
        profile,
        {name: one.value for name, one in points.items()},
        _profile_words(profile, reader) if profile else (),
        ways,
        ways_words(scene, profile, ways),
        work_done(scene),
        [_belt(one, scene.reader) for one in in_time(moving.belts.values())],
        filters,
        [*map(_mixed, moving.mixed.values()), *map(_damper, in_time(moving.dampers.values()))],
        _earned(profile, per_size_of(scene, ways), moving, filters),
        [one.speed for one in tables.fans.values()],
        tables.speed,
        last_meter(view.state),
    )


def _profile_words(profile: StaticProfile, reader: Reader) -> list[str]:
    found = []
    if profile.total_pa is not None:
        limit = f"{reader.say('static', profile.limit_pa)}{' assumed' if profile.limit_assumed else ' by the label'}"
        total = f"{reader.say('static', profile.total_pa.value)} ± {reader.say('static', profile.total_pa.uncertainty)}"
        found.append(f"External static {total}, limit {limit}.")
    found += [phrase.read(reader) for phrase in profile.reasons]
    return found


def _belt(one: Kept[BeltBody], reader: Reader) -> BeltView:
    body = one.body
    found, listed = belt_check(body), sheave_turns(body)
    words = found.words if found else "Blower speed not read: mark its shaft, not the motor's."
    if body.centres is not None:
        sheaves = sorted((body.motor_pitch, body.blower_pitch))
        length = belt_length(body.centres, sheaves[1], sheaves[0])
        long, gives = (_long(value * inches_of(body), reader) for value in (length, deflection(body.centres)))
        words = f"Belt about {long} long; at mid-span it should deflect {gives.rstrip('.')}. {words}"
    if found:
        words += f" {body.blower_rpm:g} rpm, {found.expected_rpm:.0f} expected."
    stands = "ok" if found and found.state == "right" else "asks" if found is None else "act"
    return BeltView(body.machine, words, stands, listed, last_that_bears(listed), body.now_turns)


def _long(inches: float, reader: Reader) -> str:
    if reader.celsius:
        return f"{inches * INCH_M * 1000:.0f} mm"
    return f"{inches:.1f} in." if inches >= 10 else f"{inches:.2f} in."


def _filter(one: Kept[FilterBody], flow_m3_s: float | None, reader: Reader) -> FilterView:
    body = one.body
    face = None if flow_m3_s is None else face_velocity(flow_m3_s, body.size, body.count)
    fast = ""
    if face is not None:
        fast = f"{reader.say('velocity', face.velocity_m_s)} through it, {reader.say('velocity', face.most_m_s)} at the most"
    parts = [
        f"{body.count} of {body.size}" if body.size else "",
        body.sort,
        f"found {FILTER_WORDS[body.found]}",
        "changed" if body.changed else "",
        f"next {body.due:%d %b %Y}" if body.due else "",
        fast,
    ]
    stands = "act" if not (body.found == "clean" or body.changed) else "asks" if face is not None and face.is_over else "ok"
    return FilterView(body.place, ", ".join(filter(None, parts)), stands)


def _mixed(one: Kept[MixedAirBody]) -> FilterView:
    share = share_of(one.body)
    words = (
        "return and outdoor air are too near"
        if share is None
        else (f"{100 * share.value:.0f} % of the mixed air, give or take {100 * share.uncertainty:.0f}")
    )
    return FilterView("Outdoor air", words, "ok")


def _damper(one: Kept[DamperTestBody]) -> FilterView:
    body = one.body
    words = "; ".join(filter(None, (MOVES[body.opens, body.shuts], body.words)))
    return FilterView(f"Damper, {body.damper}", words, "ok" if body.opens and body.shuts else "act")


def _earned(profile: StaticProfile | None, per_size: float | None, moving: MovingAir, filters: Sequence[FilterView]) -> list[str]:
    """What was measured and is in order: 'proven' rests on it, or is by eye."""
    found = ["static along the way"] if profile and profile.band == "within" and not profile.eats else []
    found += ["airflow"] if per_size is not None and USUAL_PER_SIZE[0] <= per_size <= USUAL_PER_SIZE[1] else []
    turning = [(one.body.machine, belt_check(one.body)) for one in moving.belts.values()]
    found += [f"belt of {machine}" for machine, checked in turning if checked and checked.state == "right"]
    return found + [f"filter, {one.name}" for one in filters if one.stands == "ok"]
