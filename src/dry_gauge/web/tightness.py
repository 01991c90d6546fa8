"""Whether it is tight and dry: pressure holds and evacuations as the desks show them."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any, TypeVar

from sqlalchemy import Connection

from dry_gauge.core.pressure_hold import Hold, compare_sections
from dry_gauge.core.pull_down import WATER_TRIPLE_PA, boiling_point_k
from dry_gauge.core.quantities import UNITS
from dry_gauge.core.vacuum import END_POINTS, MICRON_PA, Rise
from dry_gauge.core.words import Reader
from dry_gauge.drawing import hold_plot, vacuum_curve
from dry_gauge.notebook.subjects.charge import MOVEMENT_WORDS, Charge, standing_of
from dry_gauge.notebook.subjects.hold import Holds, HoldView, KeptHold, hold_of
from dry_gauge.notebook.subjects.vacuum import EvacuationView, KeptEvacuation, Vacuum, VacuumEvent, evacuation_of
from dry_gauge.service.notebooks import VisitView
from dry_gauge.service.sealed_live import since_kept
from dry_gauge.service.settings import ShopSettings
from dry_gauge.web.render import Headline

RISE_WORDS = {Rise.TIGHT: "Tight and dry", Rise.MOISTURE: "Wet", Rise.LEAK: "Leaking", Rise.BOTH: "Wet, and leaking",
              Rise.TOO_SOON: "Too soon to tell"}  # fmt: skip
HOLD_WORDS = {Hold.TIGHT: "Tight", Hold.LEAKING: "Leaking", Hold.TOO_SOON: "Too soon to tell"}
_AFTER_RISE = {
    Rise.MOISTURE: "Sweep with dry nitrogen to 2 psig, warm the unit, pull again. Change the pump's oil.",
    Rise.LEAK: "Break with nitrogen, find it: caps, cores and hoses first, then a hold by sections.",
    Rise.BOTH: "Find the leak first; air brings water in faster than a pump takes it out.",
}
K = TypeVar("K", KeptHold, KeptEvacuation)


def _in_time(kept: Mapping[str, K]) -> list[tuple[str, K]]:
    """By the moment at which each began: a notebook that was stored gives its parts back in no order."""
    return sorted(kept.items(), key=lambda pair: pair[1].at)


# -- hold ------------------------------------------------------------------


def hold_values(view: VisitView, settings: ShopSettings, reader: Reader) -> dict[str, Any]:
    """Every hold with its verdict, and the sections compared."""
    found = holds_of(view, settings)
    compared = [(one.kept.body.section, one.verdict) for one in found if one.verdict]
    rate = {one.key: rate_words(one, reader) for one in found if one.verdict}
    together = compare_sections(compared) if len(compared) > 1 else None
    return {"holds": found, "HOLD": HOLD_WORDS, "rates": rate, "comparison": together}


def holds_of(view: VisitView, settings: ShopSettings) -> list[HoldView]:
    """Every hold of the visit with its verdict."""
    kept = _in_time(view.state[Holds].holds)
    return [hold_of(key, one, view.facts, settings.hold_loss_pa_h) for key, one in kept]


def rate_words(one: HoldView, reader: Reader) -> str:
    """'loses about 0.12 psi an hour, give or take 0.05', in the reader's unit."""
    verdict = one.verdict
    assert verdict is not None
    scale = UNITS[reader.gauge_unit].scale
    name = reader.gauge_unit.removesuffix("g")
    if verdict.rate_half_width_pa_h == float("inf"):
        return "One reading: read again later, gauge and pipe."
    rate, half, finest = (
        value / scale for value in (verdict.rate_pa_h, verdict.rate_half_width_pa_h, verdict.finest_pa_h)
    )
    decimals = 3 if name == "bar" else 2
    if verdict.verdict is Hold.LEAKING:
        return f"Loses about {rate:.{decimals}f} {name} an hour, ±{half:.{decimals}f}."
    return f"No loss above {finest:.{decimals}f} {name} an hour. Found {rate:.{decimals}f} ±{half:.{decimals}f}."


def hold_picture(view: VisitView, settings: ShopSettings, reader: Reader, size: vacuum_curve.Size, ident: str) -> str:
    """All holds on one page."""
    sections = []
    for one in holds_of(view, settings):
        counted = [kept.body for kept in one.kept.readings if not kept.body.stage]
        if one.verdict is None:
            continue
        shown = [UNITS[body.pressure_unit].to_si(body.pressure, view.facts.atmosphere_pa) for body in counted]
        sections.append(
            hold_plot.Section(one.kept.body.section, one.verdict.compensated, shown, settings.hold_loss_pa_h)
        )
    return hold_plot.hold_svg(sections, reader, size, ident)


# -- vacuum ----------------------------------------------------------------


def evacuations(connection: Connection, view: VisitView, now: datetime) -> list[EvacuationView]:
    """Every evacuation of the visit, with what a live gauge shows besides."""
    found = []
    for key, kept in _in_time(view.state[Vacuum].evacuations):
        live = since_kept(connection, view.visit.id, kept) if kept.open else ()
        found.append(evacuation_of(key, kept, live, now))
    return found


def vacuum_now(connection: Connection, view: VisitView, reader: Reader, now: datetime) -> dict[str, Any]:
    """The evacuation that is on, or the last one: its verdict, and the number to look at."""
    found = evacuations(connection, view, now)
    on = next((one for one in reversed(found) if one.kept.open), found[-1] if found else None)
    boils = None
    if on and on.micron and WATER_TRIPLE_PA < on.micron * MICRON_PA < 7000:
        boils = reader.say("temperature", boiling_point_k(on.micron * MICRON_PA))
    return {
        "evacuations": found,
        "on": on,
        "boils": boils,
        "RISE": RISE_WORDS,
        "THEN": _AFTER_RISE,
        "forecast": _forecast(on, now) if on else "",
    }


def _forecast(on: EvacuationView, now: datetime) -> str:
    """When it would be done at this pace, and whether that is in time."""
    watch = END_POINTS[on.kept.body.school].minutes
    left = None
    if on.kept.watching and on.last:
        left = float(on.last.minutes_more or 0)
    elif on.pull and on.pull.minutes_to_target is not None:
        left = on.pull.minutes_to_target + watch
    if left is None:
        return ""
    words = f"At this pace done in about {max(1, round(left))} min, the watch included"
    due = on.kept.body.done_by
    if due is None:
        return words + "."
    spare = (due - now).total_seconds() / 60 - left
    return f"{words}; {'in time' if spare >= 0 else f'{-spare:.0f} min too late'}."


def vacuum_picture(on: EvacuationView | None, size: vacuum_curve.Size, ident: str) -> str:
    """The watches, or while the pump pulls the way down."""
    if on is None or (not on.watches and on.pull is None):
        return ""
    if on.watches and (on.kept.watching or not on.kept.open):
        traces = []
        for number, watch in enumerate(on.watches, 1):
            points = on.kept.points_between(watch.started, watch.ended)
            minutes = [(seconds / 60, micron) for seconds, micron in points]
            curve = [(t, p / MICRON_PA) for t, p in watch.decay.curve]
            words = f"watch {number}: {RISE_WORDS[watch.decay.verdict].lower()}"
            traces.append(vacuum_curve.Trace(words, minutes, curve, watch is on.watches[-1]))
        return vacuum_curve.watch_svg(traces[-3:], END_POINTS[on.kept.body.school], size, ident)
    starts = [one.at for one in on.kept.events if one.body.event in (VacuumEvent.PUMP_ON, VacuumEvent.OPENED)]
    points = on.kept.points_between(starts[-1] if on.watches else starts[0], None)
    return vacuum_curve.pull_svg([(at / 60, micron) for at, micron in points], on.kept.body.target_micron, size, ident,
                                 water=on.kept.body.water_suspected)  # fmt: skip


# -- on a phone, docked ----------------------------------------------------


def hold_docked(view: VisitView, settings: ShopSettings, reader: Reader) -> tuple[str, str]:
    """The latest hold in a line, and how fast it loses."""
    holds = holds_of(view, settings)
    if not holds:
        return "Not under pressure", ""
    last = holds[-1]
    if last.verdict is None:
        return f"{last.kept.body.section}: no reading", "Type gauge and pipe"
    more = f", come back in about {last.verdict.hours_more} h" if last.verdict.hours_more else ""
    return f"{HOLD_WORDS[last.verdict.verdict]}{more}", rate_words(last, reader)


def vacuum_docked(on: EvacuationView | None, forecast: str) -> tuple[str, str]:
    """The evacuation in a line, and what comes next."""
    if on is None:
        return "Prove the rig first", ""
    micron = f"{on.micron:,.0f} μm" if on.micron else "no reading yet"
    if on.last and (on.kept.watching or not on.kept.open):
        more = f"Watch about {on.last.minutes_more} min more" if on.last.minutes_more else ""
        return RISE_WORDS[on.last.verdict], ", ".join(filter(None, (micron, more)))
    if on.pull and on.pull.stalled:
        return "Stalled", micron
    return micron, forecast


def sealed_headline(view: VisitView, reader: Reader) -> Headline | None:
    """Where open sealed work stands, for the board: a pour, an evacuation or a hold that is on says more than old readings."""
    charge = view.state[Charge]
    if view.visit.status == "closed":
        return None
    if charge.pouring:
        standing = standing_of(view.state, view.facts)
        left = (
            f"{reader.say('weight', standing.to_go_kg)} to add by the last mark."
            if standing and standing.to_go_kg > 0
            else ""
        )
        return Headline(f"A pour is on: {MOVEMENT_WORDS[charge.pouring.body.way].lower()}", "open", left)
    for key, kept in view.state[Vacuum].in_order:
        if kept.open:
            words, after = vacuum_docked(found := evacuation_of(key, kept), "")
            bad = found.last is not None and found.last.verdict in _AFTER_RISE
            return Headline(f"Under vacuum: {words[0].lower()}{words[1:]}", "act" if bad else "open", after)
    for key, one in view.state[Holds].in_order:
        if one.open:
            verdict = hold_of(key, one, view.facts).verdict
            says = HOLD_WORDS[verdict.verdict].lower() if verdict else "no reading yet"
            mark = "act" if verdict and verdict.verdict is Hold.LEAKING else "open"
            return Headline(
                f"Under nitrogen: {says}", mark, f"{one.body.section}, since {one.at.astimezone():%a %H:%M}."
            )
    return None
