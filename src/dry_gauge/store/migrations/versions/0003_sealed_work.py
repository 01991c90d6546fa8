"""Sealed work: cylinders, the book of refrigerant movements, and what a shop sets for itself."""

from __future__ import annotations

from alembic import context, op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

TABLES = """
ALTER TABLE shop ADD settings jsonb NOT NULL DEFAULT '{}'::jsonb;

CREATE TABLE cylinder (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    name varchar NOT NULL,
    kind varchar NOT NULL CHECK (kind IN ('new', 'in_use', 'recovery')),
    refrigerant varchar NOT NULL DEFAULT '',
    tare_g integer CHECK (tare_g >= 0),
    water_capacity_g integer CHECK (water_capacity_g > 0),
    service_pressure_pa double precision,
    retest_by date,
    for_flammables boolean NOT NULL DEFAULT false,
    refillable boolean NOT NULL DEFAULT true,
    keeper varchar NOT NULL DEFAULT '',
    retired boolean NOT NULL DEFAULT false,
    PRIMARY KEY (shop_id, id),
    UNIQUE (shop_id, name),
    FOREIGN KEY (shop_id) REFERENCES shop (id)
);
-- Whole grams from one place to another, never changed: a mistake is taken back by its moment, and both stay.
CREATE TABLE movement (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    entry_id uuid,
    visit_id uuid,
    unit_id uuid,
    person_id uuid NOT NULL,
    at timestamptz NOT NULL,
    refrigerant varchar NOT NULL,
    grams integer NOT NULL CHECK (grams > 0),
    origin varchar NOT NULL,
    goal varchar NOT NULL,
    origin_cylinder uuid,
    goal_cylinder uuid,
    way varchar NOT NULL DEFAULT '',
    reason varchar NOT NULL DEFAULT '',
    taken_back_at timestamptz,
    PRIMARY KEY (shop_id, id),
    CHECK ((origin = 'cylinder') = (origin_cylinder IS NOT NULL)),
    CHECK ((goal = 'cylinder') = (goal_cylinder IS NOT NULL)),
    CHECK (origin <> goal OR origin = 'cylinder'),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id),
    FOREIGN KEY (shop_id, origin_cylinder) REFERENCES cylinder (shop_id, id),
    FOREIGN KEY (shop_id, goal_cylinder) REFERENCES cylinder (shop_id, id)
);
CREATE INDEX movement_out ON movement (shop_id, origin_cylinder) WHERE taken_back_at IS NULL;
CREATE INDEX movement_in ON movement (shop_id, goal_cylinder) WHERE taken_back_at IS NULL;
CREATE INDEX movement_by_unit ON movement (shop_id, unit_id, at);
CREATE INDEX movement_by_entry ON movement (shop_id, entry_id);
CREATE INDEX movement_by_day ON movement (shop_id, at);
"""

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"
OF_A_SHOP = ("cylinder", "movement")


def upgrade() -> None:
    op.execute(TABLES)
    for table in OF_A_SHOP:
        op.execute(f"ALTER TABLE {table} ENABLE ROW LEVEL SECURITY")
        op.execute(f"CREATE POLICY own_shop ON {table} USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP})")
    role = context.config.attributes["application_role"]
    op.execute(f'GRANT SELECT, INSERT, UPDATE ON cylinder TO "{role}"')
    op.execute(f'GRANT SELECT, INSERT, UPDATE (taken_back_at) ON movement TO "{role}"')
    op.execute(f'GRANT UPDATE (settings) ON shop TO "{role}"')


def downgrade() -> None:
    op.execute("DROP TABLE movement, cylinder")
    op.execute("ALTER TABLE shop DROP settings")
