"""What a visit's report for its owner shows, and the links under which it is read without a sign-in."""

from __future__ import annotations

from alembic import context, op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"
TABLES = """
CREATE TABLE owner_report (
    shop_id uuid NOT NULL,
    visit_id uuid NOT NULL,
    words varchar NOT NULL,
    pictures jsonb NOT NULL,
    PRIMARY KEY (shop_id, visit_id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id)
);
CREATE TABLE owner_link (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    visit_id uuid NOT NULL,
    person_id uuid NOT NULL,
    made_at timestamptz NOT NULL,
    expires_at timestamptz NOT NULL,
    withdrawn_at timestamptz,
    language varchar NOT NULL,
    temperature_unit varchar NOT NULL,
    pressure_unit varchar NOT NULL,
    weight_unit varchar NOT NULL,
    opened integer NOT NULL DEFAULT 0,
    opened_at timestamptz,
    PRIMARY KEY (shop_id, id),
    UNIQUE (id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE INDEX owner_link_by_visit ON owner_link (shop_id, visit_id);
"""
# Whoever holds a link is of no shop: it says which one. A link that is over or withdrawn is as good as none.
FUNCTIONS = """
CREATE FUNCTION shop_of_owner_link(wanted uuid) RETURNS uuid
LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
    RETURN (SELECT shop_id FROM owner_link WHERE id = wanted AND withdrawn_at IS NULL AND expires_at > now());
END $$;
"""
NAMES = ("owner_report", "owner_link")


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(TABLES)
    op.execute(FUNCTIONS)
    for name in NAMES:
        op.execute(f"ALTER TABLE {name} ENABLE ROW LEVEL SECURITY")
        op.execute(f"CREATE POLICY own_shop ON {name} USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP})")
    op.execute(f'GRANT SELECT, INSERT, UPDATE ON owner_report TO "{role}"')
    op.execute(f'GRANT SELECT, INSERT ON owner_link TO "{role}"')
    op.execute(f'GRANT UPDATE (withdrawn_at, opened, opened_at) ON owner_link TO "{role}"')
    op.execute("REVOKE ALL ON FUNCTION shop_of_owner_link(uuid) FROM PUBLIC")
    op.execute(f'GRANT EXECUTE ON FUNCTION shop_of_owner_link(uuid) TO "{role}"')


def downgrade() -> None:
    op.execute("DROP FUNCTION shop_of_owner_link(uuid)")
    for name in NAMES:
        op.execute(f"DROP TABLE {name}")
