"""The stations of a visit, in working order. Each is a row here and a folder beside: forms, templates, drawings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from dry_gauge.core.air.airflow import GRID_RULE
from dry_gauge.core.charge.amounts import LIQUID_LINES
from dry_gauge.core.cleaning.coil import CLEANER_WORDS, COIL_WORDS, KIT
from dry_gauge.core.controls.chain import HABITS, PLACE_WORDS
from dry_gauge.core.controls.delays import DELAYS
from dry_gauge.core.controls.thermistor import CURVES
from dry_gauge.core.electrical.motor import MATCH_LABELS
from dry_gauge.core.office.change_out import MARKS
from dry_gauge.core.sealed import leak_search
from dry_gauge.core.sealed.opening import REPAIR_WORDS, WAY_WORDS
from dry_gauge.core.sealed.vacuum import END_POINTS
from dry_gauge.core.season import PART_WORDS, SURROUNDING_WORDS
from dry_gauge.core.visit.complaints import TRIAGE, Complaint
from dry_gauge.core.visit.teach import Step
from dry_gauge.core.visit.weather import SKY_WORDS
from dry_gauge.notebook.subjects.agenda import FollowUpSort
from dry_gauge.notebook.subjects.cleaning import CoilPlace
from dry_gauge.notebook.subjects.closing import OUTCOME_WORDS
from dry_gauge.notebook.subjects.controls import BULB_WORDS
from dry_gauge.notebook.subjects.failed_tests import GAP_WORDS
from dry_gauge.notebook.subjects.glass import GLASS_WORDS
from dry_gauge.notebook.subjects.leak import CURE_WORDS
from dry_gauge.notebook.subjects.ledger import CHANGE_WORDS
from dry_gauge.notebook.subjects.running import CONDITION_WORDS
from dry_gauge.notebook.subjects.vacuum import EVENT_WORDS

# Not under their own names: those are the folders here.
from dry_gauge.present import air as air_view
from dry_gauge.present import arrive as arrive_view
from dry_gauge.present import box as box_view
from dry_gauge.present import controls as controls_view
from dry_gauge.present import electrical as electrical_view
from dry_gauge.present import hold as hold_view
from dry_gauge.present import leak as leak_view
from dry_gauge.present import look as look_view
from dry_gauge.present import mend as mend_view
from dry_gauge.present import plan as plan_view
from dry_gauge.present import rail
from dry_gauge.present import read as read_view
from dry_gauge.present import recover as recover_view
from dry_gauge.present import survey as survey_view
from dry_gauge.present import vacuum as vacuum_view
from dry_gauge.present import weigh as weigh_view
from dry_gauge.web.stations.folders import template_in
from dry_gauge.web.stations.pictures import (
    box_courses,
    change_out,
    charge_in,
    charge_out,
    control_chain,
    desk,
    hold_plots,
    leak_loop,
    loop,
    nothing,
    supply_legs,
    vacuum_curves,
)
from dry_gauge.web.stations.station import Station
from dry_gauge.web.stations.survey.forms import as_typed
from dry_gauge.web.typed import Reads

_WEIGHTS = frozenset({"weights"})
_CONDITIONS = {"CONDITIONS": CONDITION_WORDS}
_DRAWN_LIVE = ("visits/_desk_picture.html", "visits/_dock.html")


def _desk(name: str, label: str) -> Station:
    """A desk of the sealed work: they share a frame, and the account stands beside them."""
    return Station(
        name,
        label,
        needs=_WEIGHTS,
        group="sealed",
        picture_tab="Charge",
        side_tab="Account",
        panel="visits/_desk.html",
        body=f"stations/{name}/panel.html",
        head=template_in(name, "head.html"),
        picture="visits/_desk_picture.html",
        pictured=desk,
        side="visits/_account.html",
    )


STATIONS = (
    Station(
        "arrive", "Arrive", arrive_view.arrive, frozenset({"history", "daylight"}), rail.arrive, key="a", pictured=nothing,
        pictures_judged=False, picture_tab="Before", beside=("stations/arrive/weather.html",),
        offers={"triage": TRIAGE, "Complaint": Complaint, "SKIES": SKY_WORDS},
    ),
    Station("look", "Look", look_view.look, frozenset({"daylight"}), rail.look, key="l", pictured=loop,
            steps=(Step.RESET, Step.BRIDGE), picture_tab="Loop", offers=_CONDITIONS),
    Station(
        "controls", "Controls", controls_view.controls, frozenset({"controls", "orifices"}), rail.controls, key="o",
        pictured=control_chain, steps=(Step.LIVE_PANEL, Step.RESET, Step.BRIDGE),
        picture_tab="Chain", docked=lambda _scene, view, _account: controls_view.docked(view), moments=("electrical",),
        beside=tuple(f"stations/controls/{part}.html" for part in ("walk", "open", "coils", "editor", "results")),
        offers={"DELAYS": DELAYS, "LINK_HABITS": HABITS, "PLACE_WORDS": PLACE_WORDS, "BULB_WORDS": BULB_WORDS,
                "CURVE_NAMES": [(name, name) for name in CURVES]},
    ),
    Station("air", "Air", air_view.air, frozenset({"air_tables"}), rail.air, key="i",
            offers=_CONDITIONS | {"GRID_RULE": GRID_RULE}, beside=("stations/air/fans.html", "stations/air/way.html"),
            beside_reading=("stations/air/way.html",)),
    Station(
        "read", "Read", read_view.read, frozenset({"instruments"}), rail.read, key="r", tab="Readings", offers=_CONDITIONS,
        beside=("stations/read/beside.html",), live=("stations/read/settling.html",),
    ),
    Station(
        "box", "Box", box_view.box, frozenset({"box"}), rail.box, key="b", pictured=box_courses, picture_tab="Curve",
        docked=lambda _scene, view, _account: box_view.docked(view), only=lambda facts: facts.kind.is_walk_in,
        beside=("stations/box/found.html",), beside_reading=("stations/box/found.html",),
    ),
    Station("judge", "Judge", stop=rail.judge, leads_to="read", mark="#judge"),
    Station(
        "electrical", "Electrical", electrical_view.electrical, frozenset({"daylight"}), rail.electrical, key="e",
        pictured=supply_legs, steps=(Step.LIVE_PANEL,),
        picture_tab="Supply", beside=("stations/electrical/results.html",), beside_reading=("stations/electrical/results.html",),
        offers={"MATCH_LABELS": MATCH_LABELS, "MATCH_WORDS": electrical_view.MATCH_WORDS},
    ),
    Station(
        "mend", "Mend", mend_view.mend, frozenset({"daylight"}), rail.mend, key="m",
        beside=("stations/mend/cleaning.html",),
        steps=(Step.ELECTRICAL_PART, Step.CLEAN),
        offers={"COILS": list(CoilPlace), "COIL_WORDS": COIL_WORDS, "CLEANER_WORDS": CLEANER_WORDS, "KIT": KIT,
                "CHANGES": CHANGE_WORDS, "GAPS": GAP_WORDS},
    ),
    replace(
        _desk("sealed", "Plan"), steps=(Step.OPEN_SYSTEM,),
        shows=plan_view.plan, stop=rail.sealed, stop_label="Sealed work", key="s", draw=charge_in,
        docked=lambda scene, _view, _account: plan_view.next_step(scene.view), moments=("open_system",),
        offers={"REPAIRS": REPAIR_WORDS, "WAYS": WAY_WORDS},
    ),
    replace(
        _desk("recover", "Recover"), steps=(Step.RECOVER,),
        shows=recover_view.recover, draw=charge_out, moments=("open_system",),
        docked=lambda scene, _view, account: recover_view.docked(scene, account), live=_DRAWN_LIVE,
    ),
    replace(
        _desk("leak", "Leak"), steps=(Step.NITROGEN,),
        shows=leak_view.leak, needs=_WEIGHTS | {"past"}, draw=leak_loop, picture_tab="Loop",
        docked=lambda scene, _view, _account: leak_view.docked(scene.view),
        offers={"SPOT_LABELS": leak_view.SPOT_LABELS, "CURES": CURE_WORDS,
                "METHOD_WORDS": leak_search.METHOD_WORDS, "LEAK_PLACES": leak_search.BY_CODE},
    ),
    replace(
        _desk("hold", "Pressure test"), steps=(Step.NITROGEN,),
        shows=hold_view.hold, draw=hold_plots, picture_tab="Plot", moments=("nitrogen",),
        docked=lambda scene, _view, _account: hold_view.docked(scene), offers={"HOLD": hold_view.HOLD_WORDS},
        draws_nothing="The line is drawn from the first reading of gauge and pipe.",
    ),
    replace(
        _desk("vacuum", "Vacuum"), steps=(Step.EVACUATE,),
        shows=vacuum_view.vacuum, needs=_WEIGHTS | {"trace"}, draw=vacuum_curves,
        docked=lambda _scene, view, _account: vacuum_view.docked(view.on, view.forecast, view.elsewhere), live=_DRAWN_LIVE,
        offers={"RISE": vacuum_view.RISE_WORDS, "THEN": vacuum_view.AFTER_RISE, "END_POINTS": END_POINTS,
                "EVENTS": EVENT_WORDS}, picture_tab="Curve",
        draws_nothing="The curve is drawn from the first point: typed, or live from a vacuum gauge.",
    ),
    replace(
        _desk("weigh", "Weigh in"), steps=(Step.CHARGE,),
        shows=weigh_view.weigh, needs=_WEIGHTS | {"box"}, draw=charge_in, moments=("open_system", "read"),
        docked=lambda scene, _view, account: weigh_view.docked(scene, account), live=_DRAWN_LIVE,
        offers={"LINES": LIQUID_LINES, "GLASS_WORDS": GLASS_WORDS},
    ),
    Station(
        "close", "Close", stop=rail.close, key="c", steps=(Step.CLOSE,),
        offers={"SEASON_PARTS": list(PART_WORDS.items()), "SURROUNDINGS": list(SURROUNDING_WORDS.items()),
                "OUTCOMES": OUTCOME_WORDS, "FOLLOW_UPS": [sort.value for sort in FollowUpSort]},
    ),
    Station(
        "survey", "Survey", survey_view.survey, needs=frozenset({"feet"}), under="close", pictured=change_out, picture_tab="Plan",
        beside=("stations/survey/verdict.html",), offers={"GRADES": MARKS, "as_typed": as_typed},
    ),
)  # fmt: skip
BY_NAME: Mapping[str, Station] = {station.name: station for station in STATIONS if station.panel}
FORMS: Mapping[str, Reads] = {kind: reads for station in STATIONS for kind, reads in station.forms.items()}
"""How each kind's fields are read, whichever station sends it."""


def station_named(asked: str) -> Station:
    """A station of that name, or the reading sheet."""
    return BY_NAME.get(asked, BY_NAME["read"])
