"""Whoever opens a session is told in which time zone their shop works, and how they like hours said."""

from __future__ import annotations

from alembic import context, op

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None

_DEFINER = "SECURITY DEFINER SET search_path = public, pg_temp"
SESSION = f"""
DROP FUNCTION open_session(bytea);
CREATE FUNCTION open_session(hash bytea)
RETURNS TABLE (shop_id uuid, shop_name varchar, superheat_school varchar, person_id uuid, name varchar, role varchar,
               temperature_unit varchar, pressure_unit varchar, weight_unit varchar, theme varchar, hints_seen jsonb,
               second_step_due boolean{{column}}, practice_shop uuid, practice_person uuid, practice_game uuid,
               practice_visit uuid, practice_now timestamptz, practice_help varchar, practice_title varchar, setting text)
LANGUAGE plpgsql VOLATILE {_DEFINER} AS $$
#variable_conflict use_column
BEGIN
    -- Four days: a long weekend signs nobody out. Written every ten minutes at most: each request passes here.
    UPDATE web_session SET seen_at = now()
    WHERE token_hash = hash AND seen_at BETWEEN now() - interval '4 days' AND now() - interval '10 minutes';
    RETURN QUERY SELECT s.shop_id, h.name, h.superheat_school, p.id, p.name, p.role, p.temperature_unit, p.pressure_unit,
           p.weight_unit, p.theme, p.hints_seen,
           p.role = 'lead' AND coalesce((h.settings ->> 'leads_second_step')::boolean, false)
               AND NOT EXISTS (SELECT 1 FROM second_factor f WHERE f.shop_id = p.shop_id AND f.person_id = p.id){{value}},
           t.id, CASE WHEN t.id IS NOT NULL THEN practice_person(p.id) END, g.id, g.visit_id,
           g.begun_at + g.minutes * interval '1 minute', g.help, c.title,
           set_config('dry_gauge.shop_id', coalesce(t.id, s.shop_id)::text, true)
    FROM web_session s
    JOIN person p ON p.shop_id = s.shop_id AND p.id = s.person_id AND p.active
    JOIN shop h ON h.id = s.shop_id
    LEFT JOIN practice_game g ON g.shop_id = s.shop_id AND g.id = s.practice_game AND g.person_id = s.person_id
        AND g.ended_at IS NULL
    LEFT JOIN practice_case c ON c.shop_id = g.shop_id AND c.code = g.code
    LEFT JOIN shop t ON t.practice_of = g.shop_id
    WHERE s.token_hash = hash AND s.expires_at > now() AND s.seen_at > now() - interval '4 days';
END $$;
"""


def upgrade() -> None:
    op.execute("ALTER TABLE person ADD clock varchar NOT NULL DEFAULT '24' CHECK (clock IN ('12', '24'))")
    _made(", time_zone text, clock varchar", ",\n           coalesce(h.settings ->> 'time_zone', ''), p.clock")
    role = context.config.attributes["application_role"]
    op.execute(f'GRANT SELECT (clock), UPDATE (clock) ON person TO "{role}"')


def downgrade() -> None:
    _made("", "")
    op.execute("ALTER TABLE person DROP clock")


def _made(column: str, value: str) -> None:
    op.execute(SESSION.format(column=column, value=value))
    role = context.config.attributes["application_role"]
    op.execute("REVOKE ALL ON FUNCTION open_session(bytea) FROM PUBLIC")
    op.execute(f'GRANT EXECUTE ON FUNCTION open_session(bytea) TO "{role}"')
