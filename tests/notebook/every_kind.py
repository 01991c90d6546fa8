"""Bodies of every kind of entry, pointing at each other or at nothing."""

from __future__ import annotations

import re
from datetime import date
from pathlib import Path
from uuid import UUID, uuid5

from hypothesis import strategies as st

from dry_gauge import notebook
from dry_gauge.core.sealed.opening import Repair
from dry_gauge.core.vocabulary import Fault, Mode, State
from dry_gauge.notebook.entries import BODY
from dry_gauge.notebook.kind import KINDS, Body

SOMEONE, BLUE = UUID(int=7), UUID(int=8)
MOST = 14
OBSTACLES = {
    code
    for file in Path(notebook.__file__).parent.rglob("*.py")
    for code in re.findall(r'Obstacle\(\s*"(\w+)"', file.read_text())
}
"""By what anything that stands open at closing is known."""


def ident(sequence: int) -> UUID:
    return uuid5(SOMEONE, str(sequence))


_point = st.integers(1, MOST).map(ident)
_few = st.sampled_from(["{gap}", "roof", "whole"])
_grams = st.integers(1, 9000)
_yes = st.booleans()
CHAIN = [
    {"name": "source", "sort": "source"},
    {"name": "coil", "sort": "coil", "after": "source"},
    {"name": "common", "sort": "common", "after": "coil"},
]
_link = st.sampled_from(["source", "coil", "common"])
_way = st.sampled_from(["recovered", "removed", "weighed_in", "trimmed", "added", "lost"])
FIELDS: dict[str, dict[str, st.SearchStrategy]] = {
    "reading": {"quantity": st.sampled_from(["suction_pressure", "liquid_pressure"]), "value": st.floats(60, 300),
                "unit": st.just("psig"), "circuit": st.sampled_from([None, 1, 2]), "place": st.sampled_from([None, "rack"])},
    "in_use": {"dimension": st.just("pressure"), "instrument": _few, "unit": st.just("psig"),
               "high": st.sampled_from([100.0, 500.0])},
    "observation": {"what": st.sampled_from(["filter_dirty", "oil_stain"]), "state": st.sampled_from(list(State)),
                    "circuit": st.sampled_from([None, 1, 2])},
    "clock": {"event": st.sampled_from(["started", "changed"]), "minutes_ago": st.floats(0, 99)},
    "mode": {"mode": st.sampled_from(list(Mode)), "read_since": st.booleans()},
    "stage": {"commanded": _few, "actual": _few},
    "condition": {"condition": st.sampled_from(["coil_wet", "panel_off"]), "on": _yes},
    "override": {"fault": st.sampled_from(list(Fault)), "reason": st.just("seen it")},
    "aside": {"warning": _few, "basis": _few, "reason": st.just("seen it")},
    "complaint": {"words": _few}, "claim": {"text": _few}, "claim_check": {"claim": _point, "true": _yes},
    "timer": {"what": _few, "minutes": st.just(5.0), "thaw": _yes}, "timer_end": {"timer": _point},
    "follow_up": {"sort": st.sampled_from(["recheck", "part"]), "what": _few, "due": st.just(date(2027, 1, 1))},
    "follow_up_done": {"follow_up": _point}, "task": {"what": _few}, "task_done": {"task": _point},
    "action": {"sort": st.sampled_from(["filter_changed", "thawed", "charge_adjusted", "drier_changed"]), "read_since": _yes},
    "failed_test": {"quantity": st.just("suction_pressure"), "should": _few},
    "proof": {"failed_test": _point, "passed": _yes},
    "temporary": {"sort": st.sampled_from(["jumper", "safety", "cover"]), "where": _few}, "restored": {"change": _point},
    "trip": {"event": st.sampled_from(["trip", "reset"]), "switch": _few}, "lockout": {"disconnect": _few, "locked": _yes},
    "red_tag": {"danger": _few, "told": _few}, "note": {"text": _few}, "caution": {"code": _few}, "photo": {"photo": _point},
    "closing": {"outcome": st.sampled_from(["fixed", "waiting"]), "summary": _few, "override": st.just("must go")},
    "explained": {"clash": _point, "reason": st.just("both are so")},
    "sealed_plan": {"repair": st.sampled_from(list(Repair))}, "step": {"step": st.just("hold"), "done": _yes},
    "charge_target": {"label_g": _grams}, "movement": {"way": _way, "grams": _grams, "cylinder": st.just(BLUE)},
    "pour": {"way": _way, "cylinder": st.just(BLUE), "gross_g": st.integers(9000, 20_000)},
    "pour_mark": {"pour": _point, "gross_g": st.integers(0, 20_000)},
    "pour_end": {"pour": _point, "gross_g": st.integers(0, 20_000)},
    "recovered_to": {"appliance": _few, "value": st.just(0.0), "unit": st.just("psig")},
    "leak_place": {"place": st.sampled_from(["flares", "drier"]), "result": st.sampled_from(["passed", "failed"])},
    "leak_cure": {"leak": _point, "cure": st.sampled_from(["patch", "joint"])},
    "hold": {"section": _few, "vacuum_gauge_off": st.just(True)},
    "hold_reading": {"hold": _point, "pressure": st.floats(100, 400), "pressure_unit": st.just("psig"), "temp": st.floats(40, 90),
                     "temp_unit": st.just("F")},
    "hold_end": {"hold": _point, "verdict": st.sampled_from(["tight", "leaking"])},
    "evacuation": {"what": st.sampled_from(["rig", "system"])},
    "vacuum_point": {"evacuation": _point, "micron": st.floats(100, 5000)},
    "vacuum_event": {"evacuation": _point, "event": st.sampled_from(["pump_on", "isolated", "swept", "broken"])},
    "trace": {"evacuation": _point, "seconds_ago": st.just((9.0, 3.0)), "micron": st.just((500.0, 400.0))},
    "finding_end": {"what": st.sampled_from(["filter_dirty", "oil_stain"]), "way": st.sampled_from(["accepted", "booked"]),
                    "reason": st.just("left for autumn")},
    "stood_by": {"step": st.sampled_from(["charge", "close"]), "who": _few},
    "out_of_reach": {"check": st.sampled_from(["static", "amps"])},
    "supply": {"pairs": st.just({"l1_l2": 238.0}), "loaded": _yes},
    "machine_amps": {"machine": _few, "legs": st.just({"l1": 8.0})},
    "capacitor": {"machine": _few, "rated_uf": st.just(45.0), "bench_uf": st.floats(20, 50)},
    "strip_heat": {"amps": st.floats(20, 60), "volts": st.just(238.0), "installed_kw": st.just(10.0)},
    "motor_test": {"machine": _few, "ohms": st.just((3.0, 4.0, 7.0)), "wires_off": st.just(True)},
    "motor_match": {"machine": _few, "old": st.just({"hp": "1/3"}), "new": st.just({"hp": "1/2"})},
    "chain": {"links": st.sampled_from([CHAIN, CHAIN[:2]])},
    "chain_point": {"link": _link, "volts": st.sampled_from([0.0, 24.0]), "how": st.sampled_from(["common", "across"])},
    "coil": {"coil": st.just("coil"), "runs": _yes},
    "open_link": {"link": _link, "cause": st.sampled_from(["", "drain"])}, "closed_link": {"link": _link},
    "fuse_hunt": {"circuit_v": st.just(24.0), "fuse_a": st.just(5.0), "breaker_a": st.just(3.0), "loads": st.just(["x", "roof"])},
    "fuse_try": {"connected": st.sampled_from([[], ["x"], ["x", "roof"]]), "held": _yes},
    "load_ohms": {"load": st.sampled_from(["x", "roof"]), "ohms": st.floats(0, 99)}, "fuse_end": {"found": _few},
    "code": {"board": _few, "code": st.sampled_from(["4", "2-3"])}, "no_more_codes": {"board": _few},
    "code_meaning": {"board": _few, "code": st.just("4"), "meaning": _few},
    "defrost": {"mark": st.sampled_from(["called", "valve", "ended_by_time", "ended_by_temperature", "ice_left"])},
    "sensor": {"name": _few, "ohms": st.floats(100, 50_000)},
    "economiser": {"temp": st.floats(20, 90), "letter": st.sampled_from(["A", "D"])},
    "thermostat": {"setpoint": st.floats(60, 80)}, "metering_check": {"bulb": st.sampled_from(["sound", "loose"])},
    "wires_off": {"of": _few, "wires": st.just([{"terminal": "Y2", "colour": "yellow"}, {"terminal": "C"}])},
    "box_mark": {"what": st.sampled_from(["door", "defrost"]), "begins": _yes},
    "food": {"product": _few, "warm_for_minutes": st.sampled_from([None, 50.0])},
    "food_decision": {"product": _few, "told": _few, "decision": st.sampled_from(["kept", "moved"])},
    "box_check": {"check": st.sampled_from(["fans", "door"]), "good": _yes},
    "pressure_setting": {"way": st.just("pump_down"), "cut_out_psig": st.just(5.0), "cut_in_psig": st.just(25.0)},
    "power": {"machine": _few, "watts": st.just(900.0), "volts": st.just(230.0), "amps": st.floats(2, 9)},
    "mixed_air": {"back": st.just(75.0), "outdoor": st.just(95.0), "mixed": st.floats(76, 90)},
    "damper_test": {"damper": _few, "opens": _yes, "shuts": _yes},
    "season": {"part": st.sampled_from(["filter", "belt"]), "surroundings": st.sampled_from(["sea", "dust"])},
    "cleaning": {"coil": st.sampled_from(["condenser", "evaporator"]), "coil_kind": st.just("copper_aluminium"),
                 "cleaner": st.just("water")},
    "cleaning_step": {"cleaning": _point, "step": st.sampled_from(["applied", "rinsed", "blown_out", "done", "quote"])},
    "compressor_line": {"line": st.just("ground"), "answer": st.sampled_from(["good", "low"]),
                        "circuit": st.sampled_from([None, 1, 2])},
    "traverse": {"where": _few, "width": st.just(20.0), "height": st.just(16.0), "velocities": st.just((600.0,) * 25)},
    "belt": {"machine": _few, "motor_rpm": st.just(1725.0), "motor_pitch": st.just(3.0), "blower_pitch": st.just(7.0)},
    "fan_table": {"speed": _few, "statics": st.just((0.1, 0.5)), "flows": st.just((1300.0, 1000.0))},
    "fan_speed": {"speed": _few},
    "orifice_table": {"rows": st.just(({"coil": "CK36", "orifice": ".063"}, {"coil": "CK42", "orifice": ".067"}))},
    "drop_table": {"part": st.sampled_from(["coil", "filter"]), "drop": st.just(0.25), "flow": st.just(1200.0)},
    "filter": {"place": _few, "found": st.sampled_from(["clean", "plugged"]), "changed": _yes, "read_since": _yes},
    "survey": {"length_in": st.just(60.0), "width_in": st.floats(30, 60), "volts": st.sampled_from([None, 208.0])},
    "new_unit": {"length_in": st.just(64.0), "width_in": st.floats(32, 64), "supply_in": st.just((3.0, 3.0, 20.0, 12.0))},
    "glass": {"movement": _point, "shows": st.sampled_from(["bubbles", "clear"])},
    "weather": {"sky": st.sampled_from(["dry", "rain", "thunder", "ice"]), "temp": st.sampled_from([None, 91.0])},
    "released": {"reading": _point, "reason": st.just("panel was on")},
    "void": {"voids": _point},
}  # fmt: skip
assert set(FIELDS) == set(KINDS), "a new kind needs a line here"


def bodies() -> st.SearchStrategy[Body]:
    """Any body of any kind."""
    return st.one_of(
        *(st.fixed_dictionaries({"kind": st.just(kind), **fields}).map(BODY.validate_python) for kind, fields in FIELDS.items())
    )
