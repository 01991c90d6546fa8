"""What moves the air: traverses of ducts, belts and sheaves, filters, outdoor air, dampers."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from dry_gauge.core.air.airflow import Grid, Traverse, outdoor_share, rectangle, round_duct, traverse
from dry_gauge.core.air.belt import BeltCheck, Turn, belt_length, check, turns
from dry_gauge.core.dimensions import UNITS, as_typed
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import FAHRENHEIT_K, INCH_M, Measured
from dry_gauge.core.vocabulary import State
from dry_gauge.notebook.fields import FewWords, SomeWords
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Obstacle, Part, VisitState, Weight, keeping
from dry_gauge.notebook.metered import Metered
from dry_gauge.notebook.subjects.actions import READ_SINCE, ActionBody, ActionSort, acted, ahead_of_readings
from dry_gauge.notebook.subjects.agenda import RETURNS, Agenda
from dry_gauge.notebook.subjects.observations import ObservationBody, seen
from dry_gauge.notebook.subjects.readings import ReadingBody, read

_M_OF = {"in": INCH_M, "cm": 0.01}
Speed = Annotated[float, Field(allow_inf_nan=False, gt=0, le=10_000)]
Temperature = Annotated[float, Field(allow_inf_nan=False, ge=-80, le=200)]
_MOST_PITCH_IN = 100  # what is more is no sheave and no span of a belt drive (chosen)
Pitch = Annotated[float, Field(allow_inf_nan=False, gt=0, le=_MOST_PITCH_IN * INCH_M * 1e3)]


class TraverseBody(Body):
    """Velocities over a duct, in the order of its grid, as they were read."""

    kind: Literal["traverse"] = "traverse"
    where: SomeWords
    shape: Literal["rectangle", "round"] = "rectangle"
    width: Annotated[float, Field(allow_inf_nan=False, gt=0)]
    height: Annotated[float, Field(allow_inf_nan=False, gt=0)] | None = None
    length_unit: Literal["in", "cm"] = "in"
    velocities: Annotated[tuple[Annotated[float, Field(allow_inf_nan=False, ge=-20_000, le=20_000)], ...], Field(max_length=64)]
    velocity_unit: Literal["fpm", "m/s"] = "fpm"
    free: Annotated[float, Field(allow_inf_nan=False, gt=0, le=100)] = 100.0
    """Of the area, what is open. [%]"""


class BeltBody(Metered):
    """A belt drive as it was found: speeds, pitch diameters; a variable sheave's own numbers and the motor's amps."""

    kind: Literal["belt"] = "belt"
    machine: SomeWords
    motor_rpm: Speed
    blower_rpm: Speed | None = None
    motor_pitch: Pitch
    blower_pitch: Pitch
    closed_pitch: Pitch | None = None
    open_pitch: Pitch | None = None
    most_turns: Annotated[float, Field(gt=0, le=12)] | None = None
    now_turns: Annotated[float, Field(ge=0, le=12)] | None = None
    centres: Pitch | None = None
    """From shaft to shaft, in the unit of the pitches."""
    pitch_unit: Literal["in", "mm"] = "in"
    amps: Annotated[float, Field(allow_inf_nan=False, gt=0, le=2000)] | None = None
    full_load_amps: Annotated[float, Field(allow_inf_nan=False, gt=0, le=2000)] | None = None


class FilterBody(Body):
    """A set of filters as it was found or left."""

    kind: Literal["filter"] = "filter"
    place: SomeWords
    size: FewWords = ""
    count: Annotated[int, Field(ge=1, le=99)] = 1
    sort: FewWords = ""
    found: Literal["clean", "loaded", "plugged", "missing", "wrong"] = "clean"
    changed: bool = False
    read_since: bool = False
    """What stands on the sheet was read after it was changed."""
    due: date | None = None


class MixedAirBody(Body):
    """Return, outdoor and mixed air at one moment: their share says how much comes from outdoors."""

    kind: Literal["mixed_air"] = "mixed_air"
    back: Temperature
    outdoor: Temperature
    mixed: Temperature
    unit: Literal["F", "C"] = "F"


class DamperTestBody(Body):
    """A damper commanded both ways, and whether it was seen to move."""

    kind: Literal["damper_test"] = "damper_test"
    damper: SomeWords
    opens: bool
    shuts: bool
    words: FewWords = ""


MOVES = {
    (True, True): "moves both ways", (True, False): "opens, does not shut", (False, True): "shuts, does not open",
    (False, False): "stands",
}  # fmt: skip
"""How a damper moved, by whether it opens and shuts."""
FILTER_WORDS = {"clean": "clean", "loaded": "loaded", "plugged": "plugged", "missing": "missing", "wrong": "does not fit"}


class MovingAir(Part):
    """The latest of each, by place or machine."""

    traverses: dict[str, Kept[TraverseBody]] = {}
    belts: dict[str, Kept[BeltBody]] = {}
    filters: dict[str, Kept[FilterBody]] = {}
    mixed: dict[str, Kept[MixedAirBody]] = {}
    dampers: dict[str, Kept[DamperTestBody]] = {}


def grid_of(body: TraverseBody) -> Grid:
    """Where the points of a traverse lie.

    Raises
    ------
    Refused
    """
    metre = _M_OF[body.length_unit]
    if body.shape == "round":
        return round_duct(body.width * metre)
    if body.height is None:
        raise Refused("A rectangle has a height as well.", "height")
    return rectangle(body.width * metre, body.height * metre)


def flow_of(body: TraverseBody) -> Traverse:
    """What a traverse gives.

    Raises
    ------
    Refused
    """
    speeds = [UNITS[body.velocity_unit].to_si(value) for value in body.velocities]
    return traverse(grid_of(body), speeds, body.free / 100)


def inches_of(body: BeltBody) -> float:
    """What a belt's distances are to be multiplied by to be inches."""
    return 1.0 if body.pitch_unit == "in" else 1e-3 / INCH_M


def belt_check(body: BeltBody) -> BeltCheck | None:
    """Whether a blower turns as its sheaves say; None where its speed was not read."""
    if body.blower_rpm is None:
        return None
    return check(body.motor_rpm, body.blower_rpm, body.motor_pitch, body.blower_pitch)


def sheave_turns(body: BeltBody) -> list[Turn]:
    """What each half turn of its sheave would do; nothing where the sheave does not open or its numbers are not known.

    Raises
    ------
    Refused
    """
    sheave = (body.closed_pitch, body.open_pitch, body.most_turns, body.now_turns, body.amps, body.full_load_amps)
    if None in sheave:
        return []
    closed, opened, most, now, amps, full = (value or 0.0 for value in sheave)
    return turns(closed, opened, most, now, body.blower_rpm or body.motor_rpm * body.motor_pitch / body.blower_pitch, amps, full)


def share_of(body: MixedAirBody) -> Measured | None:
    """Share of outdoor air; None where return and outdoor are too near."""
    half = 1.0 * FAHRENHEIT_K
    back, outdoor, mixed = (
        Measured(UNITS[body.unit].to_si(value), {name: half})
        for name, value in (("return", body.back), ("outdoor", body.outdoor), ("mixed", body.mixed))
    )
    return outdoor_share(back, outdoor, mixed)


# -- what each kind changes ------------------------------------------------


def _mixed(visit: VisitState, entry: Entry, body: MixedAirBody) -> VisitState:
    """Kept with its share; and what enters the coil is mixed air from then on (R83)."""
    visit = keeping(MovingAir, "mixed", lambda _: "unit")(visit, entry, body)
    return read(visit, entry, ReadingBody(quantity="mixed_air_temp", value=body.mixed, unit=body.unit))


_with_filter = keeping(MovingAir, "filters", lambda body: body.place.casefold())
_with_belt = keeping(MovingAir, "belts", lambda body: body.machine.casefold())
_with_damper = keeping(MovingAir, "dampers", lambda body: body.damper.casefold())


def _answered(visit: VisitState, entry: Entry, answers: Mapping[str, bool]) -> VisitState:
    """The visit with what was seen of the air by that entry: nobody answers it once more under Look."""
    for what, yes in answers.items():
        visit = seen(visit, entry, ObservationBody(what=what, state=State.YES if yes else State.NO))
    return visit


def _filter_found(visit: VisitState, entry: Entry, body: FilterBody) -> VisitState:
    """One that is plugged or missing is a finding; of several filters the worst speaks. Changed now, it is done as well."""
    visit = _with_filter(visit, entry, body)
    if body.changed and body.read_since:
        entry = ahead_of_readings(visit, entry)
    others = {one.body.found for one in visit[MovingAir].filters.values() if not one.body.changed and one.body != body}
    visit = _answered(visit, entry, _filter_sights({body.found, *others}, clean=body.found == "clean"))
    if not body.changed:
        return visit
    visit = acted(visit, entry, ActionBody(sort=ActionSort.FILTER_CHANGED, words=body.place, read_since=body.read_since))
    return _answered(visit, entry, _filter_sights(others))


def _filter_sights(found: Collection[str], *, clean: bool = False) -> Mapping[str, bool]:
    sights = (("filter_dirty", "plugged"), ("filter_missing", "missing"))
    return {what: so in found for what, so in sights if so in found or clean}


def _belt_found(visit: VisitState, entry: Entry, body: BeltBody) -> VisitState:
    found = belt_check(body)
    told = {"slips": True, "right": False}.get(found.state) if found else None
    return _answered(_with_belt(visit, entry, body), entry, {} if told is None else {"blower_belt_slipping": told})


def _damper_tested(visit: VisitState, entry: Entry, body: DamperTestBody) -> VisitState:
    stays_shut = body.shuts and not body.opens
    return _answered(_with_damper(visit, entry, body), entry, {"damper_closed": True} if stays_shut else {})


# -- what is refused -------------------------------------------------------


def _mixed_checked(case: Case[MixedAirBody]) -> None:
    body = case.body
    share = share_of(body)
    if share is None:
        raise Refused("Return and outdoor air differ by less than 10 °F (6 °C): no share follows from them.", "outdoor")
    if not -0.15 <= share.value <= 1.15:
        raise Refused("Mixed air lies between return and outdoor air: which of the three is it?", "mixed")


def _traverse_checked(case: Case[TraverseBody]) -> None:
    flow_of(case.body)


def _belt_checked(case: Case[BeltBody]) -> None:
    body = case.body
    for name in ("motor_pitch", "blower_pitch", "closed_pitch", "open_pitch", "centres"):
        if (getattr(body, name) or 0.0) * inches_of(body) > _MOST_PITCH_IN:
            most = f"{_MOST_PITCH_IN} in. ({_MOST_PITCH_IN * INCH_M * 1e3:.0f} mm)"
            raise Refused(f"Beyond {most}: is it typed in another unit?", name)
    belt_check(body)
    sheave_turns(body)
    if body.centres is not None:
        belt_length(body.centres, max(body.motor_pitch, body.blower_pitch), min(body.motor_pitch, body.blower_pitch))
    some = [value is not None for value in (body.closed_pitch, body.open_pitch, body.most_turns, body.now_turns)]
    if any(some) and not all(some):
        raise Refused("An adjustable sheave has four numbers: closed, open, turns in all, turns now.", "closed_pitch")


def _traverse_said(body: TraverseBody, _: VisitState) -> tuple[str, str]:
    size = f"{body.width:g}" if body.shape == "round" else f"{body.width:g} x {body.height:g}"
    return f"Traverse, {body.where}", f"{len(body.velocities)} points, {size} {body.length_unit}"


def _belt_said(body: BeltBody, _: VisitState) -> tuple[str, str]:
    blower = f", blower {body.blower_rpm:g}" if body.blower_rpm else ""
    sheaves = f"sheaves {body.motor_pitch:g} and {body.blower_pitch:g} {body.pitch_unit}"
    return f"Belt, {body.machine}", f"motor {body.motor_rpm:g}{blower} rpm, {sheaves}{body.read_with}"


def _damper_said(body: DamperTestBody, _: VisitState) -> tuple[str, str]:
    return f"Damper, {body.damper}", "; ".join(filter(None, (MOVES[body.opens, body.shuts], body.words)))


def _damper_stuck(visit: VisitState) -> list[Obstacle]:
    if visit[Agenda].booked(RETURNS):
        return []
    return [
        Obstacle(
            "damper",
            f"Damper of {one.body.damper} does not move both ways. Mend it, or book the return.",
            str(one.entry_id),
            weight=Weight.PROOF,
        )
        for one in visit[MovingAir].dampers.values()
        if not (one.body.opens and one.body.shuts)
    ]


def _filter_said(body: FilterBody, _: VisitState) -> tuple[str, str]:
    changed = f"changed {READ_SINCE}" if body.read_since else "changed"
    parts = [
        f"{body.count} of {body.size}" if body.size else "",
        body.sort,
        FILTER_WORDS[body.found],
        changed if body.changed else "",
        f"due {body.due:%d %b %Y}" if body.due else "",
    ]
    return f"Filter, {body.place}", ", ".join(filter(None, parts))


KINDS = (
    Kind(TraverseBody, _traverse_said, keeping(MovingAir, "traverses", lambda body: body.where.casefold()), _traverse_checked),
    Kind(BeltBody, _belt_said, _belt_found, _belt_checked, sweeps=True),
    Kind(FilterBody, _filter_said, _filter_found, sweeps=True),
    Kind(
        MixedAirBody,
        lambda body, _: ("Mixed air", f"return {body.back:g}, outdoor {body.outdoor:g}, mixed {as_typed(body.mixed, body.unit)}"),
        _mixed,
        _mixed_checked,
    ),
    Kind(DamperTestBody, _damper_said, _damper_tested, leaves_open=_damper_stuck, sweeps=True),
)
