"""Which first-visit hints somebody has put away for good."""

from __future__ import annotations

from alembic import context, op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

SESSION = """
DROP FUNCTION open_session(bytea);
CREATE FUNCTION open_session(hash bytea)
RETURNS TABLE (shop_id uuid, shop_name varchar, superheat_school varchar, person_id uuid, name varchar, role varchar,
               temperature_unit varchar, pressure_unit varchar, weight_unit varchar, theme varchar{more}, setting text)
LANGUAGE sql VOLATILE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT s.shop_id, h.name, h.superheat_school, p.id, p.name, p.role, p.temperature_unit, p.pressure_unit,
           p.weight_unit, p.theme{column}, set_config('dry_gauge.shop_id', s.shop_id::text, true)
    FROM web_session s
    JOIN person p ON p.shop_id = s.shop_id AND p.id = s.person_id AND p.active
    JOIN shop h ON h.id = s.shop_id
    WHERE s.token_hash = hash AND s.expires_at > now()
$$;
"""


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute("ALTER TABLE person ADD hints_seen jsonb NOT NULL DEFAULT '[]'::jsonb")
    op.execute(SESSION.format(more=", hints_seen jsonb", column=", p.hints_seen"))
    _grant(role)
    op.execute(f'GRANT UPDATE (hints_seen) ON person TO "{role}"')


def downgrade() -> None:
    op.execute(SESSION.format(more="", column=""))
    _grant(context.config.attributes["application_role"])
    op.execute("ALTER TABLE person DROP hints_seen")


def _grant(role: str) -> None:
    op.execute("REVOKE ALL ON FUNCTION open_session(bytea) FROM PUBLIC")
    op.execute(f'GRANT EXECUTE ON FUNCTION open_session(bytea) TO "{role}"')
