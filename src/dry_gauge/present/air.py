"""Air: what is looked at and read so that the air is proven on both coils."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.visit.survey import not_asked
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.present.read import Fan, fans
from dry_gauge.present.rows import Row, SightRow, row_of, sight_row
from dry_gauge.present.scene import Scene

_SIGHTS = ("evaporator_air_proven", "filter_dirty", "filter_missing", "evaporator_dirty", "blower_stopped",
           "blower_belt_slipping", "damper_closed", "condenser_air_proven", "condenser_dirty", "condenser_fan_stopped",
           "condenser_fan_reversed", "condenser_air_recirculating", "discharge_air_pulsing")  # fmt: skip
_READINGS = ("external_static_return", "external_static_supply", "airflow", "return_air_temp", "return_air_wet_bulb",
             "supply_air_temp", "outdoor_air_temp", "condenser_leaving_air_temp", "blower_amps",
             "condenser_fan_amps")  # fmt: skip
_READINGS_IN_A_BOX = ("box_air_temp", "supply_air_temp", "box_rh", "product_temp", "outdoor_air_temp",
                      "condenser_leaving_air_temp", "blower_amps", "condenser_fan_amps")  # fmt: skip


@dataclass(frozen=True, slots=True)
class Air:
    """Sights and readings of the air."""

    air_sights: Sequence[SightRow]
    air_rows: Sequence[Row]
    fans: Sequence[Fan]


def air(scene: Scene) -> Air:
    """What is looked at and read for the air on this kind of unit."""
    in_box = scene.view.facts.kind.is_walk_in
    sights = [what for what in _SIGHTS if what not in not_asked(scene.view.facts)]
    names = _READINGS_IN_A_BOX if in_box else _READINGS
    return Air([sight_row(SIGHTS[what], scene.view, scene.circuit) for what in sights],
               [row_of(QUANTITIES[name], scene.view, scene.reader, scene.circuit) for name in names],
               fans(scene.view.state[Readings]))  # fmt: skip
