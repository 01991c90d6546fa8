"""Every kind of entry has words of its own on the timeline, also where what it points at was taken back."""

from __future__ import annotations

from datetime import date
from uuid import UUID

import pytest

from dry_gauge.core.refrigerants.catalogue import find
from dry_gauge.core.sealed.opening import Repair
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.visit.complaints import Complaint
from dry_gauge.core.vocabulary import Fault, Kind, Mode, State
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import KINDS, VisitState
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.agenda import (
    FollowUpBody,
    FollowUpDoneBody,
    FollowUpSort,
    TaskBody,
    TaskDoneBody,
    TimerBody,
    TimerEndBody,
)
from dry_gauge.notebook.subjects.air_tables import DropTableBody, FanSpeedBody, FanTableBody
from dry_gauge.notebook.subjects.call import ClaimBody, ClaimCheckBody, ComplaintBody
from dry_gauge.notebook.subjects.change_out import NewUnitBody, SurveyBody
from dry_gauge.notebook.subjects.charge_target import ChargeTargetBody
from dry_gauge.notebook.subjects.cleaning import CleaningBody, CleaningStepBody
from dry_gauge.notebook.subjects.clock import ClockBody
from dry_gauge.notebook.subjects.closing import ClosingBody, Outcome
from dry_gauge.notebook.subjects.codes import CodeBody, CodeMeaningBody, NoMoreCodesBody
from dry_gauge.notebook.subjects.control_chain import ChainBody, ChainLink, ChainPointBody, ClosedLinkBody, CoilBody, OpenLinkBody
from dry_gauge.notebook.subjects.controls import (
    EconomiserBody,
    MeteringBody,
    OrificeTableBody,
    SensorBody,
    ThermostatBody,
    Wire,
    WiresOffBody,
)
from dry_gauge.notebook.subjects.defrosts import DefrostBody
from dry_gauge.notebook.subjects.electrical import (
    CapacitorBody,
    CompressorLineBody,
    MachineAmpsBody,
    MotorMatchBody,
    MotorTestBody,
    PowerBody,
    StripHeatBody,
    SupplyBody,
)
from dry_gauge.notebook.subjects.failed_tests import FailedTestBody, RepeatBody
from dry_gauge.notebook.subjects.findings import FindingEndBody
from dry_gauge.notebook.subjects.fuse_hunt import FuseEndBody, FuseHuntBody, FuseTryBody, LoadOhmsBody
from dry_gauge.notebook.subjects.glass import GlassBody
from dry_gauge.notebook.subjects.hold import HoldBody, HoldEndBody, HoldReadingBody
from dry_gauge.notebook.subjects.leak import LeakCureBody, LeakPlaceBody
from dry_gauge.notebook.subjects.ledger import ChangeSort, LockoutBody, RedTagBody, RestoredBody, TemporaryBody, TripBody
from dry_gauge.notebook.subjects.mode import ModeBody
from dry_gauge.notebook.subjects.movements import MovementBody, MovementSort, PourBody, PourEndBody, PourMarkBody, RecoveredToBody
from dry_gauge.notebook.subjects.moving_air import BeltBody, DamperTestBody, FilterBody, MixedAirBody, TraverseBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.opening import SealedPlanBody, StepBody
from dry_gauge.notebook.subjects.reach import OutOfReachBody
from dry_gauge.notebook.subjects.readings import InUseBody, ReadingBody, ReleasedBody
from dry_gauge.notebook.subjects.record import ExplainedBody, VoidBody
from dry_gauge.notebook.subjects.remarks import CautionBody, NoteBody, PhotoBody
from dry_gauge.notebook.subjects.running import Condition, ConditionBody, StageBody
from dry_gauge.notebook.subjects.season import SeasonBody
from dry_gauge.notebook.subjects.stood_by import StoodByBody
from dry_gauge.notebook.subjects.vacuum import EvacuationBody, TraceBody, VacuumEvent, VacuumEventBody, VacuumPointBody
from dry_gauge.notebook.subjects.verdicts import AsideBody, OverrideBody
from dry_gauge.notebook.subjects.walk_in_box import BoxCheckBody, BoxMarkBody, FoodBody, FoodDecisionBody, PressureSettingBody
from dry_gauge.notebook.subjects.weather import WeatherBody
from dry_gauge.web.timeline import makes_a_before, said, told_to
from tests.present.test_views import visit_of

GONE = UUID(int=7)
WORDS = {
    ReadingBody(quantity="suction_pressure", value=118, unit="psig", circuit=2, source="probe"):
        ("Suction pressure, circuit 2", "118 psig, live"),
    ObservationBody(what="filter_dirty", state=State.NOT_SEEN): ("Filter dirty", "not seen"),
    NoteBody(text="two fans"): ("Note", "two fans"),
    ClockBody(event="started", minutes_ago=12): ("Unit started", "12 min before"),
    ModeBody(mode=Mode.HEATING): ("Mode", "heating"),
    StageBody(commanded="full", actual="first", witness="amps"): ("Stage", "called full, runs first, by amps"),
    ConditionBody(condition=Condition.COIL_WET, on=False): ("Coil wet", "no longer"),
    InUseBody(dimension="pressure", instrument="G1", accuracy=0.5, unit="psig"):
        ("Instrument for pressure", "G1, ±0.5 psig"),
    OverrideBody(fault=Fault.NONE, reason="seen worse"): ("Own verdict: Nothing wrong", "seen worse"),
    AsideBody(warning="x", basis="y", reason="clamp moved"): ("Warning put aside", "clamp moved"),
    ComplaintBody(sorts=(Complaint.ICE,), words="frozen", since="May", who_touched_it="a roofer"):
        ("Complaint", "ice; frozen; since May; worked on since: a roofer"),
    ClaimBody(text="new filter"): ("They say", "new filter"),
    ClaimCheckBody(claim=GONE, true=False, how="looked"): ("Not so", "looked"),
    TimerBody(what="thaw", minutes=40): ("Timer", "thaw, 40 min"),
    TimerEndBody(timer=GONE): ("Timer ended", ""),
    ActionBody(sort=ActionSort.FILTER_CHANGED, against=Fault.LOW_EVAPORATOR_AIRFLOW):
        ("Filter changed", "against evaporator short of air"),
    FailedTestBody(quantity="supply_air_temp", should="below 58"): ("To prove: Supply air", "below 58"),
    RepeatBody(failed_test=GONE, passed=True, how="57 F"): ("Repeated and passed", "57 F"),
    ReleasedBody(reading=GONE, reason="panel was on"): ("Taken without it", "panel was on"),
    FindingEndBody(what="oil_stain", way="accepted", reason="owner told"): ("Oil stain: accepted", "owner told"),
    TemporaryBody(sort=ChangeSort.SETPOINT, where="box", was="42"): ("Setpoint changed", "box; was 42"),
    RestoredBody(change=GONE, how="by hand"): ("Put back", "by hand"),
    TripBody(event="reset", switch="High pressure"): ("High pressure reset", "cause not known"),
    CautionBody(code="bypass"): ("Caution read", "A bypassed safety is never left: it is on the ledger now and blocks "
                                   "closing the visit."),
    LockoutBody(disconnect="roof", locked=True): ("Locked out, proven dead", "roof"),
    RedTagBody(danger="cracked", told="owner", gas_off=True, heard="absent", how="note"):
        ("Red tag", "cracked; told owner; gas off; was not there; note"),
    FollowUpBody(sort=FollowUpSort.PART, what="motor", due=date(2026, 12, 1)): ("Follow-up", "motor, 01 Dec 2026"),
    FollowUpDoneBody(follow_up=GONE, how="done"): ("Follow-up done", "done"),
    TaskBody(what="gasket"): ("To do", "gasket"),
    TaskDoneBody(task=GONE): ("Done", ""),
    PhotoBody(photo=GONE, caption="lug"): ("Photo", "lug"),
    ClosingBody(outcome=Outcome.WAITING, summary="part ordered"):
        ("Closed: waiting for a part or an answer", "part ordered"),
    VoidBody(voids=GONE, reason="typo"): ("Taken back", "typo"),
    SealedPlanBody(repair=Repair.LEAK_LOW): ("Opened for", "leak on the low side"),
    StepBody(step="close_up", done=False, reason="no drier here"): ("Step: close up", "left out: no drier here"),
    ChargeTargetBody(label_g=3000, line_length_m=9): ("Charge target", "label 6 lb 9.8 oz, 3.000 kg, line set 9.0 m of 3/8"),
    MovementBody(way=MovementSort.ADDED, grams=454, cylinder=GONE, phase="liquid", reason="leak"):
        ("Topped up", "1 lb 0.0 oz, 0.454 kg; liquid; leak"),
    PourBody(way=MovementSort.RECOVERED, cylinder=GONE, gross_g=12_000, source="probe"):
        ("Recovered: begun", "scale 26 lb 7.3 oz, 12.000 kg, live"),
    PourMarkBody(pour=GONE, gross_g=12_500): ("Scale", "27 lb 8.9 oz, 12.500 kg"),
    PourEndBody(pour=GONE, grams=500, reason="zero lost"): ("Pour ended", "1 lb 1.6 oz, 0.500 kg by hand; zero lost"),
    RecoveredToBody(appliance="High pressure", value=0, unit="psig"): ("Recovered to", "0 psig, high pressure"),
    LeakPlaceBody(place="flares", result="not_reached", words="behind the wall"):
        ("Flares and field joints", "not reached, behind the wall"),
    LeakCureBody(leak=GONE, cure="patch", part="epoxy", months=6): ("Patched for now", "epoxy, expected to last 6 months"),
    HoldBody(section="all", limit=450): ("Hold begun", "all, limit 450 psig"),
    HoldReadingBody(hold=GONE, pressure=120, pressure_unit="psig", temp=70, temp_unit="F", stage=True):
        ("Pressure test", "on the way up, 120 psig at 70 °F"),
    HoldEndBody(hold=GONE, verdict="too_soon", reason="dark"): ("Pressure test ended", "too soon; dark"),
    EvacuationBody(what="rig", gauge="V2"): ("Rig to be proven", "V2"),
    VacuumPointBody(evacuation=GONE, micron=1412): ("Vacuum", "1,412 microns"),
    VacuumEventBody(evacuation=GONE, event=VacuumEvent.SWEPT): ("Swept with dry nitrogen", ""),
    ChainPointBody(link="Float", volts=24.5, how="across"): ("Across Float", "24.5 V"),
    CoilBody(coil="Contactor", runs=False): ("Contactor", "does not pull in"),
    OpenLinkBody(link="Float", cause="drain blocked"): ("Found open", "Float; drain blocked"),
    ClosedLinkBody(link="Float", how="drain cleared"): ("Float carries again", "drain cleared"),
    FuseHuntBody(circuit_v=24, fuse_a=5, breaker_a=3, loads=("valve", "relay")):
        ("Hunt for what opens the fuse", "5 A at 24 V; valve, relay"),
    FuseTryBody(connected=("valve",), held=False): ("Opened again", "with valve"),
    LoadOhmsBody(load="valve", ohms=12): ("Ohms, valve", "12"),
    FuseEndBody(found="the valve"): ("The fuse is back", "the valve"),
    CodeBody(board="drive", taps_s=(0, 0.5, 2.5, 3.0), times=2): ("Code 2", "drive; 2 times; tapped along"),
    CodeMeaningBody(board="drive", code="F12", meaning="bus volts high"): ("drive, code F12", "bus volts high"),
    NoMoreCodesBody(board="drive"): ("drive", "no second code"),
    DefrostBody(mark="called", temp=28): ("Defrost: called, or forced", "sensor 28 °F"),
    SensorBody(name="coil", ohms=32650, temp=32, wire="brown"): ("Sensor, coil", "32650 ohm, at 32 °F, brown"),
    EconomiserBody(temp=58, letter="B", damper="shut"): ("Economizer", "outdoors 58 °F, letter B, damper shut"),
    ThermostatBody(setpoint=72, space=76, mode="cool"): ("Thermostat", "cool, set 72 °F, sees 76"),
    MeteringBody(orifice_found="59", orifice_due="61", bulb="loose"):
        ("Metering device", "orifice 59, table 61, bulb loose on its pipe"),
    WiresOffBody(of="board", wires=(Wire(terminal="Y2", colour="yellow"), Wire(terminal="C"))):
        ("Off: board", "Y2, yellow; C"),
    ChainBody(links=(ChainLink(name="a", sort="source"), ChainLink(name="b", sort="coil", after="a")), taken_from="drawn here"):
        ("Control chain", "2 links, 24 V; drawn here"),
    BoxMarkBody(what="door", begins=True): ("Door of the box", "open"),
    FoodBody(product="fish", warm_for_minutes=90): ("Food: fish", "limit 41 °F for 240 min, warm for 90 min"),
    FoodDecisionBody(product="fish", told="the owner", decision="moved"): ("Food: fish", "the owner moves it"),
    BoxCheckBody(check="door", good=False, words="closer broken"):
        ("Door closes by itself, frame heater warm", "not so; closer broken"),
    PressureSettingBody(way="pump_down", cut_out_psig=22, cut_in_psig=26):
        ("Low-pressure control", "pump-down: out 22, in 26 psig"),
    CleaningBody(coil="condenser", coil_kind="micro_channel", cleaner="neutral", ratio="1:10", dirt="lint"):
        ("Cleaning of the condenser", "all-aluminum, micro-channel; lint; neutral cleaner 1:10"),
    CleaningStepBody(cleaning=GONE, step="runs_through", place="top"): ("Cleaning", "water runs through, top"),
    SeasonBody(part="outdoor_coil", surroundings="sea", months=5): ("Season: outdoor coil", "sea air, every 5 months"),
    PowerBody(machine="compressor", watts=2900, volts=232, amps=14): ("Power, compressor", "2900 W at 232 V, 14 A"),
    MixedAirBody(back=76, outdoor=96, mixed=80): ("Mixed air", "return 76, outdoor 96, mixed 80 °F"),
    DamperTestBody(damper="zone 2", opens=True, shuts=False, words="linkage off"):
        ("Damper, zone 2", "opens, does not shut; linkage off"),
    StoodByBody(step="charge", who="Ida lead"): ("Stands by", "Ida lead: charging"),
    OutOfReachBody(check="static"): ("Cannot be done here", "External static, supply and return"),
    CapacitorBody(machine="outdoor fan", rated_uf=5, amps=0.7, volts=370): ("Capacitor, outdoor fan", "5 µF; 0.7 A at 370 V"),
    StripHeatBody(amps=44, blower_amps=3, volts=238, installed_kw=10): ("Strip heat", "44 A less 3 at 238 V"),
    MotorTestBody(machine="blower", ohms=(3, 4, None), ground_ohm=2e7, spins="stiff", wires_off=True):
        ("Off-test, blower", "3 ohm, 4 ohm, open; 20 megohm to ground; spins stiff"),
    CompressorLineBody(line="ground", answer="good", circuit=2): ("Compressor, circuit 2: ground", "over 20 megohm"),
    TraverseBody(where="return", width=20, height=16, velocities=(600.0,) * 25): ("Traverse, return", "25 points, 20 x 16 in"),
    BeltBody(machine="blower", motor_rpm=1725, blower_rpm=730, motor_pitch=3, blower_pitch=7):
        ("Belt, blower", "motor 1725, blower 730 rpm, sheaves 3 and 7 in"),
    FilterBody(place="grille", size="16x25x1", found="plugged", changed=True):
        ("Filter, grille", "1 of 16x25x1, plugged, changed"),
    ExplainedBody(clash=GONE, reason="two phones"): ("Both are right", "two phones"),
    SurveyBody(length_in=60, width_in=44): ("Survey", "curb, 60 x 44 in."),
    NewUnitBody(maker="Norrland", length_in=64, width_in=46): ("New unit", "Norrland 64 x 46 in."),
    TraceBody(evacuation=GONE, seconds_ago=(9.0, 1.0), micron=(500.0, 480.0)): ("Vacuum, live", "2 points to 480 microns"),
}  # fmt: skip
# Bodies that hold mappings are no keys.
MORE = [
    (
        SupplyBody(three_phase=True, pairs={"l1_l2": 238, "l2_l3": 236}, ground={"l1": 137}, drops={"pole 2": 1.4}),
        ("Supply, under load", "L1-L2 238, L2-L3 236; L1 to ground 137; 1.4 across pole 2 V"),
    ),
    (MachineAmpsBody(machine="compressor", legs={"l1": 8.5}, rated=12), ("Amps, compressor", "L1 8.5 A of 12")),
    (FanTableBody(speed="tap 4", statics=(0.1, 0.5), flows=(1300, 1000)), ("Fan table, tap 4", "2 points")),
    (FanSpeedBody(speed="tap 4"), ("Blower runs on", "tap 4")),
    (OrificeTableBody(rows=({"coil": "CK36", "orifice": ".063"},)), ("Orifice table", "CK36 .063")),
    (GlassBody(movement=UUID(int=1), shows="clear"), ("Glass after the step", "clear")),
    (WeatherBody(sky="rain", temp=91, humidity=60), ("Weather", "rain, 91 °F, 60 % humidity")),
    (DropTableBody(part="coil", drop=0.25, flow=1200), ("Coil drops", "0.25 in. w.c. at 1200 cfm")),
    (MotorMatchBody(machine="blower", old={"hp": "1/3"}, new={"hp": "1/2"}), ("Match sheet, blower", "1/3 against 1/2 hp")),
]


@pytest.mark.parametrize(("body", "words"), [*WORDS.items(), *MORE], ids=lambda one: getattr(one, "kind", ""))
def test_every_kind_is_said(body, words):
    assert said(body, VisitState()) == words


def test_no_kind_is_missing_here():
    assert set(KINDS) == {body.kind for body in [*WORDS, *(body for body, _ in MORE)]}


def test_what_was_converted_where_it_was_typed_is_read_in_the_reader_s_unit():
    setting = PressureSettingBody(way="pump_down", cut_out_psig=22, cut_in_psig=26)
    view = visit_of()
    assert told_to(setting, view, Reader("C", "bar"))[1] == "pump-down: out 1.52 barg, in 1.79 barg"
    assert told_to(setting, view, Reader())[1] == said(setting, VisitState())[1]


def test_a_coil_is_called_as_its_unit_calls_it():
    seen = ObservationBody(what="evaporator_dirty", state="yes", circuit=2)
    assert told_to(seen, visit_of(), Reader()) == ("Indoor coil dirty, circuit 2", "yes")
    box = UnitFacts(Kind.WALK_IN_COOLER, find("R-448A"))
    assert told_to(seen, visit_of(unit=box), Reader()) == ("Evaporator dirty, circuit 2", "yes")


CHANGED = FilterBody(place="grille", changed=True)
CLEANED = ActionBody(sort=ActionSort.CONDENSER_CLEANED)
DONE = CleaningStepBody(cleaning=GONE, step="done")


@pytest.mark.parametrize(
    ("body", "so"),
    [
        (CHANGED, True),
        (CHANGED.model_copy(update={"changed": False}), False),
        (CHANGED.model_copy(update={"read_since": True}), False),
        (CLEANED, True),
        (CLEANED.model_copy(update={"read_since": True}), False),
        (DONE, True),
        (CleaningStepBody(cleaning=GONE, step="rinsed"), False),
        (PourEndBody(pour=GONE, grams=500), True),
        (NoteBody(text="filter changed"), False),
    ],
)
def test_what_changes_the_unit_makes_a_before_unless_it_was_read_since(body, so):
    assert makes_a_before(body) is so
