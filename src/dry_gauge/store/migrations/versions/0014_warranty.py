"""Warranties of units and their parts, and claims on them."""

from __future__ import annotations

from alembic import context, op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"
TABLES = """
CREATE TABLE warranty (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    unit_id uuid NOT NULL,
    what varchar NOT NULL,
    whose varchar NOT NULL,
    starts_on date NOT NULL,
    start_from varchar NOT NULL,
    parts_months integer NOT NULL,
    labour_months integer NOT NULL,
    terms varchar NOT NULL,
    dropped boolean NOT NULL DEFAULT false,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id)
);
CREATE INDEX warranty_by_unit ON warranty (shop_id, unit_id);
CREATE TABLE warranty_claim (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    warranty_id uuid NOT NULL,
    visit_id uuid,
    person_id uuid NOT NULL,
    made_at timestamptz NOT NULL,
    failed varchar NOT NULL,
    why varchar NOT NULL,
    evidence jsonb NOT NULL,
    sent_on date,
    answer varchar NOT NULL DEFAULT '',
    answered_on date,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, warranty_id) REFERENCES warranty (shop_id, id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE INDEX warranty_claim_by_warranty ON warranty_claim (shop_id, warranty_id);
"""
NAMES = ("warranty", "warranty_claim")


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(TABLES)
    for name in NAMES:
        op.execute(f"ALTER TABLE {name} ENABLE ROW LEVEL SECURITY")
        op.execute(f"CREATE POLICY own_shop ON {name} USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP})")
        op.execute(f'GRANT SELECT, INSERT, UPDATE ON {name} TO "{role}"')


def downgrade() -> None:
    for name in reversed(NAMES):
        op.execute(f"DROP TABLE {name}")
