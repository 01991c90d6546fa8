"""The shop's price list, options offered to owners, and what owners decided."""

from __future__ import annotations

from alembic import context, op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"
TABLES = """
CREATE TABLE price (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    code varchar NOT NULL,
    what varchar NOT NULL,
    sort varchar NOT NULL,
    per varchar NOT NULL,
    cents bigint NOT NULL,
    on_hand integer,
    retired boolean NOT NULL DEFAULT false,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id) REFERENCES shop (id)
);
CREATE UNIQUE INDEX price_by_code ON price (shop_id, lower(code));
CREATE TABLE proposal (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    visit_id uuid NOT NULL,
    person_id uuid NOT NULL,
    made_at timestamptz NOT NULL,
    offered_at timestamptz,
    currency varchar NOT NULL,
    options jsonb NOT NULL,
    facts jsonb NOT NULL,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE INDEX proposal_by_visit ON proposal (shop_id, visit_id, made_at DESC);
CREATE TABLE decision (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    proposal_id uuid NOT NULL,
    visit_id uuid NOT NULL,
    at timestamptz NOT NULL,
    chosen integer,
    name varchar NOT NULL,
    risks jsonb NOT NULL,
    signature jsonb NOT NULL,
    words varchar NOT NULL,
    language varchar NOT NULL,
    link_id uuid,
    person_id uuid,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, proposal_id) REFERENCES proposal (shop_id, id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, link_id) REFERENCES owner_link (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE INDEX decision_by_visit ON decision (shop_id, visit_id, at DESC);
CREATE INDEX decision_by_proposal ON decision (shop_id, proposal_id);
"""
NAMES = ("price", "proposal", "decision")


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(TABLES)
    for name in NAMES:
        op.execute(f"ALTER TABLE {name} ENABLE ROW LEVEL SECURITY")
        op.execute(f"CREATE POLICY own_shop ON {name} USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP})")
    op.execute(f'GRANT SELECT, INSERT, UPDATE ON price TO "{role}"')
    # What was offered stays as it was; what was decided stays beside what is decided next.
    op.execute(f'GRANT SELECT, INSERT, UPDATE ON proposal TO "{role}"')
    op.execute(f'GRANT SELECT, INSERT ON decision TO "{role}"')


def downgrade() -> None:
    for name in reversed(NAMES):
        op.execute(f"DROP TABLE {name}")
