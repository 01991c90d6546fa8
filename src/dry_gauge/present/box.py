"""Box: where its air and its products are going, food at risk, what was looked at, how its control is set."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from dry_gauge.core.box.food import THAWS_K, USUAL_LIMIT_K, FoodClock
from dry_gauge.core.box.pressure_control import ControlSetting, against, as_thermostat, for_pump_down
from dry_gauge.core.box.pull_down import LONGEST_MIN, Forecast, Span
from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.local_time import clock
from dry_gauge.core.quantities import FAHRENHEIT_K, PSI_PA, to_kelvin
from dry_gauge.core.refrigerants.saturation import saturation_of
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES, Kind
from dry_gauge.core.words import Reader
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.walk_in_box import (
    CHECKS,
    DECISIONS,
    PressureSettingBody,
    WalkInBox,
    clock_of,
    forecast_of,
    lately,
    product_trail,
    products_in,
    trail_k,
)
from dry_gauge.present.rows import Row, row_of
from dry_gauge.present.scene import Scene
from dry_gauge.present.visit import VisitView

_GRAVEST = {"over": 0, "soon": 1, "warm": 2, "unknown": 3, "sound": 4}
_USUAL_TD_K = 10 * FAHRENHEIT_K


@dataclass(frozen=True, slots=True)
class Course:
    """How one temperature went on and where it is going; `aim` in words."""

    name: str
    aim_k: float
    trail: Sequence[tuple[datetime, float]]
    forecast: Forecast
    spans: Sequence[Span]
    headline: str
    lines: Sequence[str]


@dataclass(frozen=True, slots=True)
class FoodRow:
    """One product, how long it was too warm, and what its owner decided."""

    product: str
    clock: FoodClock
    decided: str
    course: Course | None


@dataclass(frozen=True, slots=True)
class CheckRow:
    """One thing to look at in the box."""

    check: str
    label: str
    good: bool | None
    words: str


@dataclass(frozen=True, slots=True)
class BoxView:
    """The box as it stands; `order` says what comes first while food is at risk."""

    box_rows: Sequence[Row]
    air: Course
    foods: Sequence[FoodRow]
    order: str
    checks: Sequence[CheckRow]
    setting: str
    setting_lines: Sequence[str]
    door_open: bool
    defrosting: bool
    design_assumed: bool
    food_limit: str
    """The shop's own limit as this reader types it, and for how long. [°F or °C], [min]"""
    food_minutes: str


def box(scene: Scene) -> BoxView:
    """All of it, the air first."""
    view, state = scene.view, scene.view.state[WalkInBox]
    # A closed visit stays as it was: its clocks stand where it was last read.
    read_at = [trail[-1].at for trail in view.state[Readings].trails.values()]
    now = scene.now if view.visit.status != "closed" or not read_at else max(read_at)
    facts, reader = view.facts, scene.reader
    air = _course("Box air", view, box_trail(scene), facts.box_target_k, reader)
    products = products_in(view.state) or (("product",) if scene.sampled.get("product_temp") else ())
    foods = [_food(scene, product, now) for product in products]
    foods.sort(key=lambda row: _GRAVEST[row.clock.state])
    proposal = next(iter(state.settings.values()), None)
    words, lines = ("", ()) if proposal is None else _setting(proposal.body, facts, reader)
    looked = {name: one.body for name, one in state.checks.items()}
    checks = [
        CheckRow(name, label, looked[name].good if name in looked else None, looked[name].words if name in looked else "")
        for name, label in CHECKS.items()
    ]
    rows = [row_of(QUANTITIES[name], view, reader, scene.circuit) for name in ("box_air_temp", "product_temp")]
    return BoxView(
        rows,
        air,
        foods,
        _order(foods),
        checks,
        words,
        lines,
        state.lasting("door"),
        state.lasting("defrost"),
        facts.design_box_k is None,
        f"{reader.temperature(to_kelvin(scene.settings.food_limit_f)):.3g}",
        f"{scene.settings.food_minutes:g}",
    )


def box_trail(scene: Scene) -> Sequence[tuple[datetime, float]]:
    """How the box's air went, as it was read and as live probes showed it, in time's order. [K]"""
    return _with(trail_k(scene.view.state, "box_air_temp/"), scene, "box_air_temp")


def docked(view: BoxView) -> tuple[str, str]:
    """What stands at the foot of a phone."""
    return view.air.headline, view.order or (view.air.lines[-1] if view.air.lines else "")


def _course(
    name: str, view: VisitView, trail: Sequence[tuple[datetime, float]], aim_k: float, reader: Reader, *, product: bool = False
) -> Course:
    trail = lately(trail)
    found = forecast_of(view.state, trail, aim_k, product=product)
    spans = view.state[WalkInBox].spans(trail[0][0]) if trail else []
    return Course(name, aim_k, trail, found, spans, _headline(name, found, aim_k, trail, reader), _lines(found, reader))


def _headline(name: str, found: Forecast, aim_k: float, trail: Sequence[tuple[datetime, float]], reader: Reader) -> str:
    aim = reader.say("temperature", aim_k)
    if not trail:
        return f"{name}: not read yet."
    last = trail[-1][0]
    match found.state:
        case "falling" if found.minutes is not None and found.high is not None:
            return f"{name}: {aim} about {_clock(last, found.minutes)}."
        case "falling" if found.low is not None and found.low < LONGEST_MIN:
            return f"{name}: {aim} not before {_clock(last, found.low)}."
        case "falling":
            return f"{name}: {aim} may take over a day."
        case "there":
            return f"{name}: at {aim}."
        case "early" if found.rate_k_h:
            return f"{name}: falling {reader.say('difference', found.rate_k_h)} an hour."
        case "warming" if found.rate_k_h:
            return f"{name}: warming {reader.say('difference', -found.rate_k_h)} an hour."
        case "not_enough":
            return f"{name}: {aim} is not in sight."
    return f"{name}: {reader.say('temperature', trail[-1][1])}."


def _lines(found: Forecast, reader: Reader) -> list[str]:
    lines = [found.words]
    if found.state == "falling" and found.low is not None:
        until = f"{_hours(found.high)}" if found.high is not None else "over a day"
        lines.append(f"Between {_hours(found.low)} and {until} from the last reading, in nine of ten such boxes.")
    if found.floor_k is not None and found.floor_half_k is not None and found.state in ("falling", "not_enough"):
        lines.append(
            f"As it is it would end at {reader.say('temperature', found.floor_k)}, give or take "
            f"{reader.say('difference', found.floor_half_k)}."
        )
    if found.state == "not_enough":
        lines.append("What would explain it: ice or fans on the coil, a door, hot product, short of charge, a dirty condenser.")
    if found.left_out:
        lines.append(f"{found.left_out} point{'s' if found.left_out > 1 else ''} left out for a door or a defrost.")
    return lines


def _hours(minutes: float) -> str:
    if minutes < 90:
        return f"{minutes:.0f} min"
    return f"{minutes / 60:.1f} h"


def _clock(since: datetime, minutes: float) -> str:
    return clock(since + timedelta(minutes=minutes))


def _with(trail: Sequence[tuple[datetime, float]], scene: Scene, quantity: str) -> Sequence[tuple[datetime, float]]:
    """What was read, and between it what live probes showed."""
    return sorted([*trail, *scene.sampled.get(quantity, ())])


def _food(scene: Scene, product: str, now: datetime) -> FoodRow:
    view, reader = scene.view, scene.reader
    usual = THAWS_K if view.facts.kind is Kind.WALK_IN_FREEZER else USUAL_LIMIT_K
    trail = product_trail(view.state, product)
    if product == "product":  # a probe knows no name
        trail = _with(trail, scene, "product_temp")
    clock = clock_of(view.state, product, now, usual, trail)
    decided = view.state[WalkInBox].decisions.get(product.casefold())
    words = f"{decided.body.told} {DECISIONS[decided.body.decision]}" if decided else ""
    known = view.state[WalkInBox].foods.get(product.casefold())
    limit = UNITS[known.body.limit_unit].to_si(known.body.limit) if known else usual
    course = _course(product.capitalize(), view, trail, limit, reader, product=True) if trail else None
    return FoodRow(product, clock, words, course)


def _order(foods: Sequence[FoodRow]) -> str:
    if any(row.clock.state in ("soon", "over") and not row.decided for row in foods):
        return "Food first: tell the owner, save what can be saved (move it, ice, another box), book the return, then mend."
    if any(row.clock.state == "warm" for row in foods):
        return "Food warms: read it again within half an hour, before anything that stops the box."
    return ""


def _setting(body: PressureSettingBody, facts: UnitFacts, reader: Reader) -> tuple[str, tuple[str, ...]]:
    saturation, atmosphere = saturation_of(facts.refrigerant), facts.atmosphere_pa
    td = body.td_f * FAHRENHEIT_K if body.td_f else _USUAL_TD_K
    assumed = []
    if body.way == "pump_down":
        coldest = to_kelvin(body.coldest_f) if body.coldest_f is not None else facts.box_target_k
        if body.coldest_f is None:
            assumed.append("The coldest place is assumed to be the box at design.")
        proposal = for_pump_down(saturation, coldest, atmosphere)
    else:
        if body.td_f is None:
            assumed.append(f"A TD of {reader.say('difference', td)} is assumed.")
        proposal = as_thermostat(saturation, facts.box_target_k, td)
    found = against(proposal, body.cut_out_psig * PSI_PA + atmosphere, body.cut_in_psig * PSI_PA + atmosphere)
    return _proposed(found, reader), (*found.wrong, *assumed)


def _proposed(found: ControlSetting, reader: Reader) -> str:
    unit, decimals = reader.gauge_unit, reader.pressure_decimals
    out, into = (f"{reader.pressure(one):.{decimals}f}" for one in (found.cut_out_pa, found.cut_in_pa))
    return f"Proposed: out {out}, in {into} {unit}: {found.why}."
