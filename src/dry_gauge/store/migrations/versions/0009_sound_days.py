"""What each visit left behind as its unit's last readings, whether they were sound, and which of them a visit was judged by."""

from __future__ import annotations

from alembic import context, op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"
TABLES = f"""
CREATE TABLE sound_day (
    shop_id uuid NOT NULL,
    visit_id uuid NOT NULL,
    unit_id uuid NOT NULL,
    at timestamptz NOT NULL,
    earned boolean NOT NULL,
    why varchar NOT NULL,
    marked boolean,
    changed boolean NOT NULL DEFAULT false,
    shown jsonb NOT NULL,
    gaps jsonb NOT NULL,
    PRIMARY KEY (shop_id, visit_id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id)
);
CREATE INDEX sound_day_by_unit ON sound_day (shop_id, unit_id, at DESC);
ALTER TABLE sound_day ENABLE ROW LEVEL SECURITY;
CREATE POLICY own_shop ON sound_day USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP});
-- What a closed visit was judged by; marks that change later leave it as it is.
ALTER TABLE visit ADD earlier jsonb;
"""


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(TABLES)
    op.execute(f'GRANT SELECT, INSERT, UPDATE (at, earned, why, marked, changed, shown, gaps) ON sound_day TO "{role}"')
    op.execute(f'GRANT UPDATE (earlier) ON visit TO "{role}"')


def downgrade() -> None:
    op.execute("ALTER TABLE visit DROP earlier")
    op.execute("DROP TABLE sound_day")
