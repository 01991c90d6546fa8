"""The desks' drawings: from a station's frozen view to SVG text for a size of page."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields, replace
from typing import TYPE_CHECKING, Any

from markupsafe import Markup

from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.office.change_out import WayRound
from dry_gauge.core.sealed.vacuum import END_POINTS
from dry_gauge.core.vocabulary import Mode
from dry_gauge.drawing import chain as chain_drawing
from dry_gauge.drawing import charge_column, hold_plot, power_legs, pull_down, vacuum_curve
from dry_gauge.drawing.change_out import change_out_svg
from dry_gauge.drawing.loop import SPOTS, loop_svg
from dry_gauge.notebook.subjects.control_chain import ControlChain
from dry_gauge.notebook.subjects.movements import MOVEMENT_WORDS, OUT_OF_UNIT, Charge
from dry_gauge.notebook.subjects.vacuum import EvacuationView, VacuumEvent
from dry_gauge.present import controls
from dry_gauge.present.account import Account
from dry_gauge.present.box import Course
from dry_gauge.present.hold import HoldDesk
from dry_gauge.present.leak import LeakView
from dry_gauge.present.scene import Scene
from dry_gauge.present.vacuum import RISE_WORDS, VacuumDesk
from dry_gauge.web.drawings import ladders, look_loop

if TYPE_CHECKING:
    from dry_gauge.web.visit_page import VisitPage


def shown(view: object) -> dict[str, Any]:
    """What a template sees of a frozen view: its fields by name."""
    return {} if view is None else {one.name: getattr(view, one.name) for one in fields(view)}  # type: ignore[arg-type]


def nothing(_: VisitPage) -> Mapping[str, Any]:
    """The picture's template needs no more than the station shows."""
    return {}


def ladder(page: VisitPage) -> Mapping[str, Any]:
    """The temperature ladder, for the size of page that is shown."""
    return {"drawings": ladders(page.view, page.reader, page.circuit, page.size)}


def loop(page: VisitPage) -> Mapping[str, Any]:
    """The unit on the loop, with what was seen."""
    return {"loop": look_loop(page.view, page.shows), **shown(page.shows)}


def supply_legs(page: VisitPage) -> Mapping[str, Any]:
    """The supply as its legs."""
    shows = page.shows
    if shows.supply is None or shows.supply_body is None:
        return {"legs": None}
    body = shows.supply_body
    drawn = power_legs.legs_svg(shows.supply, body.pairs, body.ground, "supply", three_phase=body.three_phase)
    return {"legs": Markup(drawn), "legs_state": "under load" if body.loaded else "with nothing running"}  # noqa: S704  (ours)


def box_courses(page: VisitPage) -> Mapping[str, Any]:
    """How the box's air and its products go on."""
    shows = page.shows
    courses = [shows.air, *(row.course for row in shows.foods if row.course)]
    drawn = {}
    for size, width, height in (("desk", 560.0, 250.0), ("phone", 370.0, 230.0)):
        if page.size in (None, size):
            drawn[size] = [(one, _course(one, page, width, height, f"{size}-{i}")) for i, one in enumerate(courses) if one.trail]
    return {"courses": drawn}


def _course(one: Course, page: VisitPage, width: float, height: float, ident: str) -> Markup:
    since = one.trail[0][0]
    points = [((at - since).total_seconds() / 60, temp) for at, temp in one.trail]
    drawn = pull_down.pull_down_svg(
        one.name, points, one.forecast, one.aim_k, one.spans, page.reader, width, height, f"course-{ident}"
    )
    return Markup(drawn)  # noqa: S704  (ours)


def control_chain(page: VisitPage) -> Mapping[str, Any]:
    """The control chain."""
    shows = page.shows
    drawings = {}
    if shows.walk is not None:
        chain = page.view.state[ControlChain]
        opened = [one.body.link for one in chain.still_open]
        for name, size in (("desk", chain_drawing.DESK), ("phone", chain_drawing.PHONE)):
            if page.size in (None, name):
                drawn = chain_drawing.chain_svg(shows.walk, controls.volts_read(chain), opened, size, f"chain-{name}")
                drawings[name] = Markup(drawn)  # noqa: S704  (ours)
    return {"chain_drawings": drawings}


def desk(page: VisitPage) -> Mapping[str, Any]:
    """A desk's own drawing, from its view and the account."""
    draw = page.station.draw
    sizes = ("desk", "phone") if page.size is None else (page.size,)
    # Our own drawings, escaped where they are made.
    return {"pictures": {size: Markup(draw(page.shows, page.account, page.own, size)) for size in sizes} if draw else {}}  # noqa: S704


def charge_in(_: Any, account: Account | None, scene: Scene, size: str) -> str:
    """The charge column: what is in against the target."""
    assert account is not None
    recovered_to = scene.view.state[Charge].recovered_to
    since = recovered_to.at if recovered_to else None
    layers = _layers([(moved.into_unit_g, moved) for _, moved in account.moved if since is None or moved.at >= since])
    pour = account.pour
    if pour and account.pour_far and pour.body.way not in OUT_OF_UNIT:
        layers.append(charge_column.Layer(account.pour_far * GRAM_KG, "now", on=True))
    recovered = account.recovered_kg if since or not layers else 0.0
    page = charge_column.DESK if size == "desk" else charge_column.PHONE
    target = account.target.kg if account.target else None
    return charge_column.column_svg(layers, target, recovered, page, f"charge-{size}", metric=account.metric)


def charge_out(_: Any, account: Account | None, scene: Scene, size: str) -> str:
    """The charge column: what came out against the label."""
    assert account is not None
    out = [(-moved.into_unit_g, moved) for _, moved in account.moved if moved.into_unit_g < 0]
    layers, pour = _layers(out), account.pour
    if pour and account.pour_far and pour.body.way in OUT_OF_UNIT:
        layers.append(charge_column.Layer(account.pour_far * GRAM_KG, "now", on=True))
    page = charge_column.DESK if size == "desk" else charge_column.PHONE
    return charge_column.column_svg(
        layers,
        scene.view.facts.label_charge_kg,
        0.0,
        page,
        f"recover-{size}",
        metric=account.metric,
        goal="label",
        rest="missing",
    )


def _layers(moved: list[tuple[int, Any]]) -> list[charge_column.Layer]:
    return [charge_column.Layer(grams * GRAM_KG, MOVEMENT_WORDS[one.way].lower()) for grams, one in moved if grams]


def leak_loop(view: LeakView, _: Account | None, scene: Scene, size: str) -> str:
    """The loop with how far each part is searched, and what failed there: a part keeps its place, whatever the unit does."""
    found = [state for state in view.found if state.place.name in SPOTS]
    return loop_svg(replace(scene.view.facts, mode=Mode.COOLING), found, ident=f"leak-loop-{size}")


def hold_plots(view: HoldDesk, _: Account | None, scene: Scene, size: str) -> str:
    """All holds on one page."""
    page = hold_plot.DESK if size == "desk" else hold_plot.PHONE
    return hold_plot.hold_svg(view.sections, scene.reader, page, f"hold-{size}")


def vacuum_curves(view: VacuumDesk, _: Account | None, scene: Scene, size: str) -> str:
    """The watches, or while the pump pulls the way down."""
    return evacuation_svg(view.on, vacuum_curve.DESK if size == "desk" else vacuum_curve.PHONE, f"vacuum-{size}")


def evacuation_svg(on: EvacuationView | None, size: vacuum_curve.Size, ident: str) -> str:
    """One evacuation; nothing where there is nothing to draw yet."""
    if on is None or (not on.watches and on.pull is None):
        return ""
    if on.watches and (on.kept.watching or not on.kept.open):
        traces = []
        for number, watch in enumerate(on.watches, 1):
            points = on.kept.points_between(watch.started, watch.ended)
            words = f"watch {number}: {RISE_WORDS[watch.decay.verdict].lower()}"
            minutes = [(seconds / 60, micron) for seconds, micron in points]
            traces.append(vacuum_curve.Trace(words, minutes, watch.decay.micron.curve, watch is on.watches[-1]))
        return vacuum_curve.watch_svg(traces[-3:], END_POINTS[on.kept.body.school], size, ident)
    starts = [one.at for one in on.kept.events if one.body.event in (VacuumEvent.PUMP_ON, VacuumEvent.OPENED)]
    points = on.kept.points_between(starts[-1] if on.watches else starts[0], None)
    return vacuum_curve.pull_svg(
        [(at / 60, micron) for at, micron in points], on.kept.body.target_micron, size, ident, water=on.kept.body.water_suspected
    )


def change_out(page: VisitPage) -> Mapping[str, Any]:
    """The new unit over the old one's curb, from above: the best way round large, the others small."""
    shows = page.shows
    if shows.change_out is None or shows.there is None:
        return {"plans": None}
    found = shows.there.found
    best, *others = shows.ways

    def drawn(way: WayRound, words: str, width: float, *, plain: bool = False) -> Markup:
        return Markup(change_out_svg(found, way, words, width, f"change-out-{way.quarters}", plain=plain))  # noqa: S704  (ours)

    way, turn, words = best
    small = [(f"{turn}: {words}", drawn(way, f"{turn}: {words}", 180.0, plain=True)) for way, turn, words in others]
    return {"plans": {"best": drawn(way, f"{turn}: {words}", 560.0), "others": small}}
