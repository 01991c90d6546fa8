"""Control chains as they were drawn, links found open and codes read, and the shop's tables of codes."""

from __future__ import annotations

from alembic import context, op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"
TABLES = """
CREATE TABLE control_chain (
    shop_id uuid NOT NULL,
    visit_id uuid NOT NULL,
    unit_id uuid NOT NULL,
    at timestamptz NOT NULL,
    chain jsonb NOT NULL,
    PRIMARY KEY (shop_id, visit_id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id)
);
CREATE INDEX control_chain_by_unit ON control_chain (shop_id, unit_id, at DESC);
CREATE TABLE control_finding (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    visit_id uuid NOT NULL,
    unit_id uuid NOT NULL,
    sort varchar NOT NULL,
    board varchar NOT NULL,
    name varchar NOT NULL,
    at timestamptz NOT NULL,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id)
);
CREATE INDEX control_finding_by_unit ON control_finding (shop_id, unit_id, at DESC);
CREATE INDEX control_finding_by_visit ON control_finding (shop_id, visit_id);
CREATE TABLE board_code (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    visit_id uuid NOT NULL,
    board varchar NOT NULL,
    code varchar NOT NULL,
    meaning varchar NOT NULL,
    first_test varchar NOT NULL,
    latches boolean NOT NULL,
    at timestamptz NOT NULL,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id)
);
CREATE INDEX board_code_by_board ON board_code (shop_id, lower(board), lower(code), at DESC);
CREATE INDEX board_code_by_visit ON board_code (shop_id, visit_id);
"""
NAMES = ("control_chain", "control_finding", "board_code")


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(TABLES)
    for name in NAMES:
        op.execute(f"ALTER TABLE {name} ENABLE ROW LEVEL SECURITY")
        op.execute(f"CREATE POLICY own_shop ON {name} USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP})")
        # They follow the notebook: what is taken back there goes here.
        op.execute(f'GRANT SELECT, INSERT, UPDATE, DELETE ON {name} TO "{role}"')


def downgrade() -> None:
    for name in NAMES:
        op.execute(f"DROP TABLE {name}")
