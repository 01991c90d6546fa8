"""Planned calls, how visits turned out, and parts on their way."""

from __future__ import annotations

from alembic import context, op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"
TABLES = """
ALTER TABLE visit ADD COLUMN minutes integer NOT NULL DEFAULT 90;
ALTER TABLE visit ADD COLUMN bring varchar NOT NULL DEFAULT '';
ALTER TABLE visit ADD COLUMN follow_up_id uuid;
ALTER TABLE visit ADD COLUMN called_off varchar;
CREATE INDEX visit_by_follow_up ON visit (shop_id, follow_up_id) WHERE follow_up_id IS NOT NULL;
CREATE TABLE visit_result (
    shop_id uuid NOT NULL,
    visit_id uuid NOT NULL,
    unit_id uuid NOT NULL,
    closed_at timestamptz NOT NULL,
    outcome varchar NOT NULL,
    causes jsonb NOT NULL,
    parts jsonb NOT NULL,
    PRIMARY KEY (shop_id, visit_id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id)
);
CREATE INDEX visit_result_by_day ON visit_result (shop_id, closed_at);
CREATE TABLE visit_held (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    visit_id uuid NOT NULL,
    person_id uuid NOT NULL,
    at timestamptz NOT NULL,
    held boolean NOT NULL,
    symptom varchar NOT NULL,
    words varchar NOT NULL,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE INDEX visit_held_by_visit ON visit_held (shop_id, visit_id, at DESC);
CREATE TABLE part_order (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    unit_id uuid NOT NULL,
    visit_id uuid,
    person_id uuid NOT NULL,
    made_at timestamptz NOT NULL,
    what varchar NOT NULL,
    number varchar NOT NULL,
    pieces integer NOT NULL,
    other_piece varchar NOT NULL,
    from_whom varchar NOT NULL,
    ordered_on date,
    expected_on date,
    arrived_on date,
    return_visit uuid,
    done_on date,
    dropped varchar NOT NULL DEFAULT '',
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, return_visit) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE INDEX part_order_by_unit ON part_order (shop_id, unit_id);
CREATE INDEX part_order_waiting ON part_order (shop_id) WHERE done_on IS NULL;
"""
NAMES = ("visit_result", "visit_held", "part_order")


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(TABLES)
    for name in NAMES:
        op.execute(f"ALTER TABLE {name} ENABLE ROW LEVEL SECURITY")
        op.execute(f"CREATE POLICY own_shop ON {name} USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP})")
    op.execute(f'GRANT UPDATE (planned_for, technician_id, complaint, minutes, bring, called_off) ON visit TO "{role}"')
    # The result follows the notebook; what was said weeks later stays beside what is said next.
    op.execute(f'GRANT SELECT, INSERT, UPDATE, DELETE ON visit_result TO "{role}"')
    op.execute(f'GRANT SELECT, INSERT ON visit_held TO "{role}"')
    op.execute(f'GRANT SELECT, INSERT, UPDATE ON part_order TO "{role}"')


def downgrade() -> None:
    for name in NAMES:
        op.execute(f"DROP TABLE {name}")
    for column in ("called_off", "follow_up_id", "bring", "minutes"):
        op.execute(f"ALTER TABLE visit DROP COLUMN {column}")
