"""Sites and units of the demo shop. All invented."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class DemoUnit:
    """A unit of the demo shop."""

    key: str
    site: str
    tag: str
    serves: str
    maker: str
    model: str | None
    serial: str | None
    made: int | None
    facts: dict[str, Any]
    notes: str = ""


SITES = {
    "Tern Point Ferry Terminal": "Pier Road 1",
    "Quillfeather Library": "Lantern Street 14",
    "Marrow Lane Cheese Cellar": "Marrow Lane 3, cellar door",
    "Alder Row Florist": "Alder Row 22",
    "Gannet Street Ice Works": "Gannet Street 9",
    "Foxglove Pottery Studio": "Kiln Yard 2",
}
UNITS = (
    DemoUnit("rtu1", "Tern Point Ferry Terminal", "RTU-1", "waiting hall, sea side", "Norrland", "NR-060-4A", "NL1806 22417",
             2018, {"kind": "package_ac", "refrigerant": "R-410A", "metering": "txv", "seer": 14,
                    "nominal_capacity_btuh": 60000, "label_charge_g": 4990, "target_subcooling_f": 11,
                    "rated_load_amps": 21.8, "elevation_ft": 20},
             "Salt air: the coil face needs rinsing every spring."),
    DemoUnit("rtu2", "Tern Point Ferry Terminal", "RTU-2", "waiting hall, road side", "Norrland", None, None, 2003,
             {"kind": "package_ac", "refrigerant": "R-22", "metering": "orifice", "seer": 10,
              "nominal_capacity_btuh": 60000, "elevation_ft": 20},
             "Label weathered: charge and model not readable. Near the end of its life, the port knows."),
    DemoUnit("hp1", "Quillfeather Library", "HP-1", "reading room", "Pelican Air", "PH36-15", "PA20 118842", 2020,
             {"kind": "split_heat_pump", "refrigerant": "R-410A", "metering": "txv", "seer": 15,
              "nominal_capacity_btuh": 36000, "label_charge_g": 3265, "target_subcooling_f": 9, "rated_load_amps": 14.9,
              "elevation_ft": 35}),
    DemoUnit("ac2", "Quillfeather Library", "AC-2", "map store", "Pelican Air", "PC24-13", "PA15 090311", 2015,
             {"kind": "split_ac", "refrigerant": "R-410A", "metering": "orifice", "seer": 13,
              "nominal_capacity_btuh": 24000, "label_charge_g": 2270, "rated_load_amps": 10.4, "elevation_ft": 35},
             "Lost a little charge each year; leak never found."),
    DemoUnit("cheese", "Marrow Lane Cheese Cellar", "Cooler 1", "wheel room", "Coldharbour", "CH-09M", "CHX 4471", 2019,
             {"kind": "walk_in_cooler", "refrigerant": "R-448A", "metering": "txv", "receiver": True,
              "design_box_temp_f": 42, "evaporator_class": "high_humidity", "head_pressure_control": "fan_cycling",
              "elevation_ft": 12}),
    DemoUnit("flowers", "Alder Row Florist", "Cooler 1", "cut flowers", "Coldharbour", "CH-05M", None, 2012,
             {"kind": "walk_in_cooler", "refrigerant": "R-134a", "metering": "txv", "receiver": True,
              "design_box_temp_f": 38, "evaporator_class": "high_humidity", "head_pressure_control": "none",
              "elevation_ft": 18}),
    DemoUnit("ice", "Gannet Street Ice Works", "Freezer 2", "block store", "Coldharbour", "CH-22L", "CHX 1180", 2016,
             {"kind": "walk_in_freezer", "refrigerant": "R-404A", "metering": "txv", "receiver": True, "label_charge_g": 6350,
              "design_box_temp_f": -10, "head_pressure_control": "flooded", "elevation_ft": 8}),
    DemoUnit("pottery", "Foxglove Pottery Studio", "PHP-1", "throwing room", "Pelican Air", "PP30-16", "PA23 200761", 2023,
             {"kind": "package_heat_pump", "refrigerant": "R-454B", "metering": "exv", "seer": 16,
              "nominal_capacity_btuh": 30000, "label_charge_g": 2380, "target_subcooling_f": 8, "elevation_ft": 60}),
)  # fmt: skip
