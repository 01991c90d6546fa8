"""Tables by which a pressure tells the airflow: the maker's of a blower at one speed, and what a part drops at a known flow."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from dry_gauge.core.air.airflow import check_fan_table
from dry_gauge.notebook.fields import SomeWords
from dry_gauge.notebook.kind import Body, Case, Kept, Kind, Part, keeping

Static = Annotated[float, Field(allow_inf_nan=False, ge=0, le=5)]
Flow = Annotated[float, Field(allow_inf_nan=False, gt=0, le=100_000)]


class FanTableBody(Body):
    """A blower's table at one speed: external static [in. w.c.] and airflow [cfm], point by point."""

    kind: Literal["fan_table"] = "fan_table"
    speed: SomeWords
    statics: Annotated[tuple[Static, ...], Field(max_length=20)]
    flows: Annotated[tuple[Flow, ...], Field(max_length=20)]


class FanSpeedBody(Body):
    """The speed on which the blower runs, as its table names it."""

    kind: Literal["fan_speed"] = "fan_speed"
    speed: SomeWords


class DropTableBody(Body):
    """What a part drops [in. w.c.] at a known airflow [cfm], clean: its maker's figure."""

    kind: Literal["drop_table"] = "drop_table"
    part: Literal["coil", "filter"]
    drop: Annotated[float, Field(allow_inf_nan=False, gt=0, le=5)]
    flow: Flow


class AirTables(Part):
    """Tables by speed and by part; the speed that is set under an empty name."""

    fans: dict[str, Kept[FanTableBody]] = {}
    drops: dict[str, Kept[DropTableBody]] = {}
    speed: dict[str, Kept[FanSpeedBody]] = {}


def _table_checked(case: Case[FanTableBody]) -> None:
    check_fan_table(case.body.statics, case.body.flows)


KINDS = (
    Kind(FanTableBody, lambda body, _: (f"Fan table, {body.speed}", f"{len(body.statics)} points"),
         keeping(AirTables, "fans", lambda body: body.speed.casefold()), _table_checked),
    Kind(FanSpeedBody, lambda body, _: ("Blower runs on", body.speed), keeping(AirTables, "speed", lambda _: "")),
    Kind(DropTableBody, lambda body, _: (f"{body.part.capitalize()} drops", f"{body.drop:g} in. w.c. at {body.flow:g} cfm"),
         keeping(AirTables, "drops", lambda body: body.part)),
)  # fmt: skip
