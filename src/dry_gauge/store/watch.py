"""What a shop's tables say of all its units, summed where the rows are."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from typing import Any

from sqlalchemy import Connection, text

_UNITS = text("""
    SELECT unit.id, unit.tag, unit.serves, unit.circuits, unit.made_year, unit.facts ->> 'kind' AS kind, site.name AS site_name
    FROM unit JOIN site ON site.shop_id = unit.shop_id AND site.id = unit.site_id ORDER BY site.name, unit.tag
""")
_CAUSES = text("""
    SELECT visit_result.unit_id, named.cause, count(*) AS times
    FROM visit_result CROSS JOIN LATERAL jsonb_array_elements_text(visit_result.causes) AS named (cause)
    WHERE closed_at >= :since GROUP BY 1, 2 HAVING count(*) >= :least
""")
_HELD = text("""
    SELECT visit_result.unit_id, count(*) AS times
    FROM (SELECT DISTINCT ON (visit_id) visit_id, held FROM visit_held WHERE at >= :since ORDER BY visit_id, at DESC) AS latest
    JOIN visit_result ON visit_result.visit_id = latest.visit_id WHERE NOT latest.held GROUP BY 1
""")
_OUTCOMES = text("""
    SELECT DISTINCT ON (unit_id) unit_id, outcome FROM visit_result ORDER BY unit_id, closed_at DESC
""")
_OVERDUE = text("""
    SELECT unit_id, count(*) AS times, (array_agg(what ORDER BY due, id))[1] AS what, min(due) AS due
    FROM follow_up WHERE done_at IS NULL AND due < :before GROUP BY unit_id
""")
# A straight line through what is the unit's own over its visits, since its parts were changed last.
_DRIFTS = text("""
    WITH own AS MATERIALIZED (  -- so that each value is taken out of its document once, not once for each sum
        SELECT unit_id, circuit, day, gap, (residuals ->> gap)::float8 AS own_k
        FROM (
            SELECT sound_day.unit_id, each.number::int AS circuit, each.shown -> 'residuals' AS residuals,
                   (extract(epoch FROM sound_day.at) - extract(epoch FROM CAST(:since AS timestamptz)))::float8 / 86400 AS day
            FROM sound_day LEFT JOIN (SELECT unit_id, max(at) AS at FROM sound_day WHERE changed GROUP BY 1) AS mended
                           ON mended.unit_id = sound_day.unit_id
                           CROSS JOIN LATERAL jsonb_each(gaps) AS each (number, shown)
            WHERE sound_day.at >= coalesce(mended.at, :since) AND sound_day.at >= :since OFFSET 0
        ) AS visit CROSS JOIN unnest(CAST(:gaps AS text[])) AS gap
    ), line AS (
        SELECT unit_id, circuit, gap, count(*) AS visits, regr_r2(own_k, day) AS straight,
               regr_intercept(own_k, day) + regr_slope(own_k, day) * min(day) AS first_k,
               regr_intercept(own_k, day) + regr_slope(own_k, day) * max(day) AS last_k
        FROM own WHERE own_k IS NOT NULL GROUP BY 1, 2, 3 HAVING count(*) >= :least AND regr_r2(own_k, day) >= :straight
    )
    SELECT line.*, array_agg(day ORDER BY day) AS days, array_agg(own_k ORDER BY day) AS own_k
    FROM line JOIN own USING (unit_id, circuit, gap)
    WHERE own_k IS NOT NULL AND abs(last_k - first_k) >= :far AND abs(last_k) > abs(first_k)
    GROUP BY unit_id, circuit, gap, visits, straight, first_k, last_k
""")


def units(connection: Connection) -> Sequence[Any]:
    """Every unit with what its card says of age and sort."""
    return connection.execute(_UNITS).all()


def causes_since(connection: Connection, since: datetime, least: int) -> Sequence[Any]:
    """Causes that were named so often and more, by unit."""
    return connection.execute(_CAUSES, {"since": since, "least": least}).all()


def came_back_since(connection: Connection, since: datetime) -> dict[Any, int]:
    """Repairs that did not hold, by unit."""
    return {row.unit_id: row.times for row in connection.execute(_HELD, {"since": since})}


def last_outcomes(connection: Connection) -> dict[Any, str]:
    """How the last closed visit to each unit ended."""
    return {row.unit_id: row.outcome for row in connection.execute(_OUTCOMES)}


def overdue(connection: Connection, before: date) -> dict[Any, Any]:
    """Follow-ups past their day, by unit: how many, and which has waited longest since when."""
    return {row.unit_id: row for row in connection.execute(_OVERDUE, {"before": before})}


def drifts_since(
    connection: Connection, since: datetime, gaps: Sequence[str], *, least: int, straight: float, far_k: float
) -> Sequence[Any]:
    """Straight lines through each gap of each circuit over the visits since its unit was changed last, that leave its sort.

    Only what may count (`core.office.watch.Drift.goes_away`) comes back, with its points in order.
    """
    asked = {"since": since, "gaps": list(gaps), "least": least, "straight": straight, "far": far_k}
    return connection.execute(_DRIFTS, asked).all()
