"""The desks of the sealed work: plan, recovery, leak search, hold, vacuum, weigh-in; what each shows and draws."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any

from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.core import leak_search
from dry_gauge.core.charge import LIQUID_LINES, Standing, hot_fill_share
from dry_gauge.core.cylinders import CylinderKind, limit_kg
from dry_gauge.core.mass import GRAM_KG, Forms, forms
from dry_gauge.core.opening import REPAIR_WORDS, WAY_WORDS, Way
from dry_gauge.core.probes import LatestProbe, is_fresh
from dry_gauge.core.survey import Place, PlaceState
from dry_gauge.core.trim import Trim, next_step, school_of
from dry_gauge.core.vacuum import END_POINTS
from dry_gauge.core.vocabulary import State
from dry_gauge.core.words import Reader
from dry_gauge.drawing import charge_column, hold_plot, vacuum_curve
from dry_gauge.drawing.loop import SPOTS, loop_svg
from dry_gauge.notebook.subjects.charge import (
    INTO_UNIT,
    MOVEMENT_WORDS,
    OUT_OF_UNIT,
    Charge,
    KeptPour,
    MovementSort,
    standing_of,
    target_of,
)
from dry_gauge.notebook.subjects.leak import CURE_WORDS, Leaks
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.opening import Opening, plan_in, steps_in
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.vacuum import EVENT_WORDS
from dry_gauge.present.settling import settling_of
from dry_gauge.service.notebooks import VisitView, state_of
from dry_gauge.service.sealed_live import gross_g
from dry_gauge.service.settings import ShopSettings, shop_settings
from dry_gauge.store import samples
from dry_gauge.store.cylinders import Held, all_held
from dry_gauge.store.follow_ups import open_follow_ups
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import find_unit, visits_of_unit
from dry_gauge.web.permit import permit_of
from dry_gauge.web.render import circuit_of
from dry_gauge.web.tightness import hold_docked, hold_picture, hold_values, vacuum_docked, vacuum_now, vacuum_picture

_SPOT_LABELS = {"evaporator": "Evaporator", "suction": "Suction side", "compressor": "Compressor", "condenser": "Condenser",
                "liquid": "Liquid side"}  # fmt: skip


@dataclass(frozen=True, slots=True)
class CylinderOption:
    """A cylinder as a form offers it."""

    held: Held
    words: str
    room: Forms | None


def live_values(
    connection: Connection, view: VisitView, someone: Someone, reader: Reader, here: str, now: datetime
) -> dict[str, Any]:
    """What a live scale or vacuum gauge may change on a desk."""
    settings = shop_settings(connection)
    probes = samples.latest(connection, view.visit.id)
    scale = gross_g(probes, now)
    metric = someone.weight_unit == "kg"
    values: dict[str, Any] = {
        "settings": settings, "metric": metric, "weight_unit": "kg" if metric else "lb",
        "MOVEMENT_WORDS": MOVEMENT_WORDS, "forms": forms, "head_now": _head_now(view, probes, reader, now),
        **account(connection, view, settings, scale),
    }  # fmt: skip
    if here == "vacuum":
        values |= vacuum_now(connection, view, reader, now)
    return values | {"docked": _docked(view, reader, here, values)}


def _head_now(view: VisitView, probes: Sequence[LatestProbe], reader: Reader, now: datetime) -> tuple[str, bool] | None:
    """The head by a live probe, and whether it is at the stop line; None without one."""
    heads = [
        one
        for name in ("liquid_pressure", "discharge_pressure")
        for one in probes
        if one.quantity == name and is_fresh(one, now)
    ]
    if not heads or heads[0].value_si is None:
        return None
    stop = permit_of(view).stop_head_pa
    return reader.say("pressure", heads[0].value_si), stop is not None and heads[0].value_si >= stop


def _docked(view: VisitView, reader: Reader, here: str, values: Mapping[str, Any]) -> tuple[str, str]:
    """The one thing to know at a desk, and what comes next: it stays in sight on a phone while one types."""
    standing, pour = values["standing"], values["pour"]
    match here:
        case "hold":
            return hold_docked(view, values["settings"], reader)
        case "vacuum":
            return vacuum_docked(values["on"], values["forecast"])
        case "leak":
            leaks = view.state[Leaks]
            places = f"{len(leaks.places)} places searched"
            return (
                (f"{len(found)} to mend", places) if (found := leaks.to_mend) else ("Nothing to mend", places)
            )
        case "recover" if values["recovered_kg"] or pour:
            out = values["recovered_kg"] + (
                values["pour_far"] * GRAM_KG if pour and pour.body.way in OUT_OF_UNIT else 0.0
            )
            label = view.facts.label_charge_kg
            return (
                f"{reader.say('weight', out)} out",
                f"label {reader.say('weight', label)}" if label else "no label charge known",
            )
        case "weigh" if standing:
            left = reader.say("weight", abs(standing.to_go_kg))
            stop = values["stop_kg"]
            after = (
                f"Stop at {reader.say('weight', stop)} on the scale"
                if stop is not None
                else f"{standing.share * 100:.0f} % is in"
            )
            return f"{left} {'to add' if standing.to_go_kg >= 0 else 'too much'}", after
        case _:
            first = next((one for one in steps_in(view.state, view.facts) if one.progress == "next"), None)
            if first is None:
                return ("All steps done", "") if view.state[Opening].plan else ("No plan yet", "Say what it is opened for")
            return f"Next: {first.step.title}", f"about {first.step.minutes} min"


def desk_values(
    connection: Connection, view: VisitView, someone: Someone, reader: Reader, here: str, circuit: int
) -> dict[str, Any]:
    """What one desk shows besides its picture: its forms and lists, and the account of refrigerant."""
    values = live_values(connection, view, someone, reader, here, datetime.now(UTC))
    match here:
        case "sealed":
            values |= _plan(view, values["cylinders"])
        case "recover":
            values |= {"tables": values["settings"].recovery, "out_ways": (MovementSort.RECOVERED, MovementSort.REMOVED)}
        case "leak":
            values |= _leaks(connection, view)
        case "hold":
            values |= hold_values(view, values["settings"], reader)
        case "vacuum":
            plan = plan_in(view.state, view.facts)
            pumped_down = plan is not None and plan.way is Way.PUMP_DOWN
            values |= {"END_POINTS": END_POINTS, "EVENTS": EVENT_WORDS, "pumped_down": pumped_down}
        case _:
            values |= {"LINES": LIQUID_LINES, "trim": trim_of(view, circuit, values["standing"]),
                       "school": school_of(view.facts)[0],
                       "in_ways": (MovementSort.WEIGHED_IN, MovementSort.TRIMMED, MovementSort.ADDED)}  # fmt: skip
    return values


# -- the account of refrigerant --------------------------------------------


def account(connection: Connection, view: VisitView, settings: ShopSettings, scale_g: int | None) -> dict[str, Any]:
    """Target, what is in, to go, what came out; cylinders to choose from."""
    state, facts = view.state, view.facts
    charge = state[Charge]
    held = all_held(connection)
    pour = charge.pouring
    standing = standing_of(state, facts, scale_g if pour and pour.body.source == "probe" else None)
    target = target_of(state, facts)
    label = facts.label_charge_kg
    recovered = charge.recovered_g * GRAM_KG
    missing = label - recovered if label and charge.recovered_to else None
    # The scale's reading at which to stop: what the cylinder weighed, less what is to go.
    stop_g = None
    if pour and pour.body.way in OUT_OF_UNIT:
        stop_g = _full_at(held, pour)
    elif pour and standing and pour.body.way in INTO_UNIT:
        moved = pour.so_far_g(scale_g if pour.body.source == "probe" else None)
        stop_g = pour.body.gross_g - moved - round(standing.to_go_kg / GRAM_KG)
    return {
        "scale_silent": bool(pour and pour.body.source == "probe" and scale_g is None),
        "target": target, "standing": standing, "recovered_kg": recovered, "missing_kg": missing,
        "missing_cost": missing * settings.price_per_kg if missing and settings.price_per_kg else None, "pour": pour,
        "pour_far": pour.so_far_g(scale_g if pour.body.source == "probe" else None) if pour else 0,
        "stop_kg": None if stop_g is None or stop_g < 0 else stop_g * GRAM_KG,
        "cylinders": held, "cylinder_names": {one.id: one.cylinder.name for one in held},
        "moved": [(str(one.entry_id), one) for one in charge.in_order],
        "options_out": [option for one in held if (option := _option(one, view)) and one.cylinder.kind is CylinderKind.RECOVERY],
        "options_in": [option for one in held if (option := _option(one, view))
                       and one.cylinder.refrigerant is facts.refrigerant and one.holds_g > 0],
        "options_other": [CylinderOption(one, f"{one.cylinder.name}, {one.cylinder.refrigerant.name}, holds "
                                         f"{forms(one.holds_g * GRAM_KG).lb_oz}", None)
                          for one in held if one.cylinder.refrigerant not in (None, facts.refrigerant) and one.holds_g > 0
                          and one.cylinder.refrigerant and one.cylinder.kind is not CylinderKind.RECOVERY],
    }  # fmt: skip


def _full_at(held: Sequence[Held], pour: KeptPour) -> int | None:
    """What the scale shows once a recovery cylinder is at 80 %; None where nobody knows its limit. [g]"""
    into = next((one for one in held if one.id == pour.body.cylinder), None)
    most = limit_kg(into.cylinder) if into else None
    return None if into is None or most is None else pour.body.gross_g + round(most / GRAM_KG) - into.holds_g


def _option(one: Held, view: VisitView) -> CylinderOption | None:
    of = one.cylinder.refrigerant
    if of is not None and of is not view.facts.refrigerant:
        return None
    most = limit_kg(one.cylinder)
    room = None if most is None else forms(max(0.0, most - one.holds_g * GRAM_KG))
    holds = forms(one.holds_g * GRAM_KG)
    words = f"{one.cylinder.name}, {of.name if of else 'mixed'}, holds {holds.lb_oz} ({holds.kg})"
    hot = (
        one.cylinder.water_capacity_kg
        and of
        and hot_fill_share(one.cylinder.water_capacity_kg, of, one.holds_g * GRAM_KG)
    )
    if hot and hot > 0.9:
        words += ", keep it out of a hot van"
    return CylinderOption(one, words, room if one.cylinder.kind is CylinderKind.RECOVERY else None)


def column(
    view: VisitView, values: Mapping[str, Any], size: vacuum_curve.Size, ident: str, *, out: bool = False
) -> str:
    """The charge column as it stands: what is in against the target, or with `out` what came out against the label."""
    recovered_to, pour, label = view.state[Charge].recovered_to, values["pour"], view.facts.label_charge_kg
    since = recovered_to.at if recovered_to and not out else None
    layers = []
    for _, moved in values["moved"]:
        grams = -moved.into_unit_g if out else moved.into_unit_g
        if grams and (since is None or moved.at >= since) and (grams > 0 or not out):
            layers.append(charge_column.Layer(grams * GRAM_KG, MOVEMENT_WORDS[moved.way].lower()))
    if pour and values["pour_far"] and (pour.body.way in OUT_OF_UNIT) is out:
        layers.append(charge_column.Layer(values["pour_far"] * GRAM_KG, "now", on=True))
    metric = values["metric"]
    if out:
        return charge_column.column_svg(layers, label, 0.0, size, ident, metric=metric, goal="label", rest="missing")
    target = values["target"]
    recovered = values["recovered_kg"] if since or not layers else 0.0
    return charge_column.column_svg(layers, target.kg if target else None, recovered, size, ident, metric=metric)


# -- plan and leaks --------------------------------------------------------


def _plan(view: VisitView, held: Sequence[Held]) -> dict[str, Any]:
    plan = plan_in(view.state, view.facts)
    target = target_of(view.state, view.facts)
    stock = sum(one.holds_g for one in held if one.cylinder.refrigerant is view.facts.refrigerant
                and one.cylinder.kind is not CylinderKind.RECOVERY) * GRAM_KG  # fmt: skip
    guess = _guess(view)
    return {"plan": plan, "steps": steps_in(view.state, view.facts), "REPAIRS": REPAIR_WORDS, "WAYS": WAY_WORDS,
            "stock_kg": stock, "needs_kg": target.kg if target else None, "guess": guess}  # fmt: skip


def _guess(view: VisitView) -> str:
    """What the judgement suggests the system is opened for; a proposal in the form, nothing more."""
    first = view.assessment.first.causes[0].fault.value if view.assessment else ""
    return {"undercharge": "leak_unknown", "overcharge": "overcharge", "non_condensables": "gas_wrong",
            "wrong_refrigerant": "gas_wrong", "liquid_line_restriction": "drier", "metering_underfeeding": "metering",
            "metering_overfeeding": "metering", "inefficient_compressor": "compressor"}.get(first, "leak_unknown")  # fmt: skip


def _leaks(connection: Connection, view: VisitView) -> dict[str, Any]:
    leaks = view.state[Leaks]
    passed, failed = leaks.with_result("passed"), leaks.with_result("failed")
    ranked = leak_search.ranked_places(
        view.facts, view.state[Observations].states(), _age(connection, view), _oil_at(view),
        _leaked_before(connection, view), passed,
    )  # fmt: skip
    spots: dict[str, list[leak_search.Ranked]] = {}
    for one in ranked:
        spots.setdefault(one.place.spot, []).append(one)
    return {
        "ranked": ranked, "spots": spots, "SPOT_LABELS": _SPOT_LABELS, "METHODS": leak_search.METHODS,
        "METHOD_WORDS": leak_search.METHOD_WORDS, "CURES": CURE_WORDS, "failed": failed, "leaks": leaks.to_mend,
        "LEAK_PLACES": leak_search.BY_CODE, "booked": open_follow_ups(connection, view.visit.unit_id),
    }  # fmt: skip


def _leaked_before(connection: Connection, view: VisitView) -> set[str]:
    """Places at which this unit leaked on earlier visits."""
    earlier = (row for row in visits_of_unit(connection, view.visit.unit_id) if row.id != view.visit.id)
    return {place for row in earlier for place in state_of(connection, row)[Leaks].with_result("failed")}


def _age(connection: Connection, view: VisitView) -> float | None:
    unit = find_unit(connection, view.visit.unit_id)
    return None if unit is None or unit.made_year is None else max(0.0, date.today().year - unit.made_year)


def _oil_at(view: VisitView) -> tuple[str, ...]:
    return ("suction",) if view.state[Observations].states().get("oil_stain") is State.YES else ()


def leak_loop(view: VisitView, spots: Mapping[str, Sequence[leak_search.Ranked]]) -> str:
    """The loop with how far each part is searched, and what failed there."""
    places = view.state[Leaks].places
    states = []
    for spot, ranked in spots.items():
        if spot not in SPOTS:
            continue
        codes = tuple(one.place.code for one in ranked)
        found = tuple(one.place.label for one in ranked if one.place.code in places
                      and places[one.place.code].body.result == "failed")  # fmt: skip
        states.append(
            PlaceState(
                Place(spot, _SPOT_LABELS.get(spot, spot), codes), sum(code in places for code in codes), found
            )
        )
    return loop_svg(view.facts, states, ident="leak-loop")


# -- trim ------------------------------------------------------------------


def trim_of(view: VisitView, circuit: int, standing: Standing | None) -> Trim:
    """The next step of charging by what is read, or why not."""
    judged = circuit_of(view, circuit) if view.state[Readings].latest else None
    settling = settling_of(view.state, view.facts)
    head = judged.view.high_pressure if judged else None
    return next_step(
        view.facts, judged, permit_of(view), view.state[Observations].states(), standing.to_go_kg if standing else None,
        head.value if head else None, settling.ready, settling.minutes_more, locked=bool(view.state[Ledger].locked),
    )  # fmt: skip


def desk_picture(
    view: VisitView, reader: Reader, here: str, values: Mapping[str, Any], only: str | None = None
) -> dict[str, Markup]:
    """The desk's drawing for each size of page; empty where there is nothing to draw yet."""
    found = {}
    for size in ("desk", "phone") if only is None else (only,):
        ident = f"{here}-{size}"
        match here:
            case "vacuum":
                text = vacuum_picture(values["on"], vacuum_curve.DESK if size == "desk" else vacuum_curve.PHONE, ident)
            case "hold":
                plot = hold_plot.DESK if size == "desk" else hold_plot.PHONE
                text = hold_picture(view, values["settings"], reader, plot, ident)
            case "leak":
                text = leak_loop(view, values["spots"])
            case _:
                page = charge_column.DESK if size == "desk" else charge_column.PHONE
                text = column(view, values, page, ident, out=here == "recover")
        found[size] = Markup(text)  # noqa: S704  our own drawing
    return found
