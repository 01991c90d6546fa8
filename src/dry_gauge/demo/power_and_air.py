"""What the demo's visits measured of power and air: an old rooftop being decided on, and a kiln room short of air."""

from __future__ import annotations

from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.change_out import NewUnitBody, SurveyBody
from dry_gauge.notebook.subjects.electrical import (
    CapacitorBody,
    CompressorLineBody,
    MachineAmpsBody,
    MotorMatchBody,
    MotorTestBody,
    SupplyBody,
)
from dry_gauge.notebook.subjects.moving_air import BeltBody, FilterBody, TraverseBody
from dry_gauge.notebook.subjects.readings import ReadingBody

OLD_ROOFTOP: tuple[Body, ...] = (
    # The port's curb, and a unit that fits it only turned half around.
    SurveyBody(length_in=76, width_in=44, inner_length_in=73, inner_width_in=41, height_in=14, supply_in=(4, 10, 16, 24),
               return_in=(52, 8, 20, 28), clear_in=(48, 30, 60, 36), volts=208, phases=3, breaker_amps=50,
               disconnect="60 A, by the stair", drain="scupper, sea side", way="crane from the pier", weight_lb=640),
    NewUnitBody(maker="Norrland", model="NR-060-5", length_in=81, width_in=49, recess_length_in=77, recess_width_in=45,
                supply_in=(57, 10, 18, 27), return_in=(7, 11, 19, 27), needs_in=(36, 30, 36, 12), volts=208, phases=3,
                min_amps=27, most_amps=45, weight_lb=705),
    SupplyBody(loaded=False, three_phase=True, label_v=208, pairs={"l1_l2": 209, "l2_l3": 208, "l3_l1": 211}),
    SupplyBody(three_phase=True, label_v=208, pairs={"l1_l2": 206, "l2_l3": 201, "l3_l1": 208},
               ground={"l1": 120, "l2": 117, "l3": 120}, drops={"contactor pole 2": 1.8}),
    MachineAmpsBody(machine="compressor", legs={"l1": 9.1, "l2": 9.4, "l3": 9.0}, rated=18.6, volts=205),
    MachineAmpsBody(machine="blower", legs={"l1": 4.9, "l2": 5.0, "l3": 4.8}, rated=4.6, volts=205),
    CapacitorBody(machine="outdoor fan", rated_uf=7.5, bench_uf=6.4, amps=0.87, volts=358),
    MotorTestBody(machine="outdoor fan", ohms=(11.2, 14.8, 26.1), ground_ohm=4.2e7, spins="stiff", wires_off=True),
    MotorMatchBody(machine="outdoor fan", old={"hp": "1/3", "rpm": "1075", "volts": "208-230", "rotation": "ccw"},
                   new={"hp": "1/2", "rpm": "1075", "volts": "208-230", "rotation": "ccw", "amps": "2.8"}),
    BeltBody(machine="blower", motor_rpm=1740, blower_rpm=768, motor_pitch=3.4, blower_pitch=7.4, closed_pitch=3.8,
             open_pitch=2.8, most_turns=5, now_turns=2, amps=4.9, full_load_amps=4.6),
    CompressorLineBody(line="pumps", answer="shallow"),
    CompressorLineBody(line="windings", answer="fit"),
    CompressorLineBody(line="ground", answer="good"),
)  # fmt: skip

_STATIC = {
    "external_static_return": -0.09,
    "static_after_filter": -0.61,
    "static_after_coil": -0.83,
    "external_static_supply": 0.11,
}
KILN_ROOM: tuple[Body, ...] = (
    *(ReadingBody(quantity=name, value=value, unit="inwc") for name, value in _STATIC.items()),
    FilterBody(place="return grille", size="20 x 25 x 1", count=1, sort="pleated", found="plugged"),
    TraverseBody(where="return drop", width=18, height=14, velocities=(
        310.0, 350.0, 360.0, 355.0, 300.0, 340.0, 390.0, 405.0, 385.0, 330.0, 345.0, 400.0, 415.0, 395.0, 340.0, 330.0, 380.0,
        400.0, 375.0, 325.0, 290.0, 330.0, 345.0, 335.0, 285.0)),
)  # fmt: skip
