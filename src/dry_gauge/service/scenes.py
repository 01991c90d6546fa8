"""What a station looks at, read from the tables: only what it asks for."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from datetime import UTC, date, datetime, timedelta
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.core.local_time import day_of
from dry_gauge.core.office.replacement import age_years
from dry_gauge.core.sealed.leak_search import BY_CODE, part_named
from dry_gauge.core.shop import ShopSettings
from dry_gauge.core.words import Reader
from dry_gauge.notebook.entries import BODY
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.change_out import NewUnitBody
from dry_gauge.notebook.subjects.leak import Leaks
from dry_gauge.notebook.subjects.readings import TRAILED
from dry_gauge.notebook.subjects.vacuum import Vacuum
from dry_gauge.present.scene import ControlPast, KnownFoot, Points, Scene, UnitPast
from dry_gauge.present.visit import VisitView
from dry_gauge.service.control_past import control_past
from dry_gauge.service.daylight import dark_at
from dry_gauge.service.history import history_of
from dry_gauge.service.notebooks import state_of
from dry_gauge.service.sealed_live import since_kept
from dry_gauge.service.settings import shop_settings
from dry_gauge.service.today import today_here
from dry_gauge.store import samples
from dry_gauge.store.cylinders import all_held
from dry_gauge.store.follow_ups import open_follow_ups
from dry_gauge.store.people import Someone
from dry_gauge.store.register import components_of, instruments_of
from dry_gauge.store.visits import feet_of_models, find_unit, tables_of_model, visits_of_unit

BOX_HOURS, BOX_STEP_SECONDS = 6, 120


def scene_of(
    connection: Connection,
    view: VisitView,
    someone: Someone,
    reader: Reader,
    needs: Collection[str],
    circuit: int = 1,
    now: datetime | None = None,
) -> Scene:
    """A visit with what stands around it.

    Parameters
    ----------
    needs : collection of str
        Of ``weights``, ``trace``, ``history``, ``past``, ``controls``, ``box``, ``instruments``, ``feet``, ``air_tables``,
        ``orifices`` and ``daylight``.
    """
    weights = "weights" in needs
    return Scene(
        view,
        reader,
        now or someone.now(),
        circuit,
        someone.may_write and view.visit.status != "closed",
        settings=shop_settings(connection) if weights or "box" in needs else ShopSettings(),
        cylinders=all_held(connection) if weights else (),
        probes=samples.latest(connection, view.visit.id) if weights else (),
        traces=_traces(connection, view) if "trace" in needs else {},
        sampled=_in_box(connection, view, now or someone.now()) if "box" in needs and view.facts.kind.is_walk_in else {},
        history=history_of(connection, someone, view.visit.unit_id, but=view.visit.id) if "history" in needs else None,
        past=_past(connection, view) if "past" in needs else UnitPast(),
        controls=control_past(connection, view) if "controls" in needs else ControlPast(),
        instruments=instruments_of(connection) if "instruments" in needs else (),
        feet=_feet(connection) if "feet" in needs else (),
        dark_at=dark_at(shop_settings(connection), now or someone.now()) if "daylight" in needs else None,
        model_tables=_of_model(connection, view, [kind for need in needs for kind in _TABLES.get(need, ())]),
    )


_TABLES: Mapping[str, Sequence[str]] = {"air_tables": ("fan_table", "drop_table"), "orifices": ("orifice_table",)}


def _of_model(connection: Connection, view: VisitView, kinds: Sequence[str]) -> list[Body]:
    if not kinds:
        return []
    found = tables_of_model(connection, view.visit.unit_id, view.visit.id, kinds)
    return [BODY.validate_python(one) for one in found]


def _in_box(connection: Connection, view: VisitView, now: datetime) -> dict[str, Points]:
    """A box's air and product as live probes showed them, averaged over minutes."""
    rows = samples.recent(connection, view.visit.id, now - timedelta(hours=BOX_HOURS), BOX_STEP_SECONDS)
    found: dict[str, list[tuple[datetime, float]]] = {}
    for row in rows:
        if row.quantity in TRAILED:
            found.setdefault(row.quantity, []).append((datetime.fromtimestamp(float(row.second), UTC), float(row.value_si)))
    return {quantity: tuple(points) for quantity, points in found.items()}


def _feet(connection: Connection) -> list[KnownFoot]:
    """Feet of new units by their model, over all visits of the shop."""
    return [KnownFoot(NewUnitBody.model_validate(row.body), row.written_at, row.name) for row in feet_of_models(connection)]


def _traces(connection: Connection, view: VisitView) -> dict[str, Points]:
    return {key: since_kept(connection, view.visit.id, one) for key, one in view.state[Vacuum].in_order if one.open}


def _past(connection: Connection, view: VisitView) -> UnitPast:
    unit_id, today = view.visit.unit_id, today_here()
    put_in = _put_in(connection, unit_id)
    leaked = set()
    for row in visits_of_unit(connection, unit_id):
        if row.id != view.visit.id:
            for place in state_of(connection, row)[Leaks].with_result("failed"):
                if put_in.get(BY_CODE[place].part, date.min) <= day_of(row.planned_for):  # else that leak went out with its part
                    leaked.add(place)
    years = {part: max(0.0, (today - day).days / 365.25) for part, day in put_in.items()}
    return UnitPast(_age(connection, unit_id), frozenset(leaked), years, open_follow_ups(connection, unit_id))


def _put_in(connection: Connection, unit_id: UUID) -> dict[str, date]:
    """When each part that holds refrigerant was put in; of several the latest."""
    found: dict[str, date] = {}
    for part in components_of(connection, unit_id):
        name = part_named(part.what)
        if name and part.installed_on and not part.removed_on:
            found[name] = max(part.installed_on, found.get(name, date.min))
    return found


def _age(connection: Connection, unit_id: UUID) -> float | None:
    unit = find_unit(connection, unit_id)
    return age_years(unit.made_year if unit else None, today_here().year)
