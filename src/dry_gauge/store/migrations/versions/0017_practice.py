"""Made-up calls to practise on, and how each was played. They point at no unit and no visit."""

from __future__ import annotations

from alembic import context, op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"
TABLES = """
CREATE TABLE practice_case (
    shop_id uuid NOT NULL REFERENCES shop (id),
    code varchar NOT NULL,
    title varchar NOT NULL,
    seed bigint NOT NULL,
    level integer NOT NULL,
    kind varchar NOT NULL DEFAULT '',
    faults jsonb,
    version integer NOT NULL,
    made_by uuid,
    made_at timestamptz NOT NULL,
    PRIMARY KEY (shop_id, code),
    FOREIGN KEY (shop_id, made_by) REFERENCES person (shop_id, id)
);
CREATE TABLE practice_game (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    code varchar NOT NULL,
    person_id uuid NOT NULL,
    begun_at timestamptz NOT NULL,
    steps jsonb NOT NULL DEFAULT '[]'::jsonb,
    named jsonb,
    ended_at timestamptz,
    result jsonb,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, code) REFERENCES practice_case (shop_id, code),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE INDEX practice_game_by_person ON practice_game (shop_id, person_id, begun_at DESC);
"""
TABLE_NAMES = ("practice_case", "practice_game")


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(TABLES)
    for table in TABLE_NAMES:
        op.execute(f"ALTER TABLE {table} ENABLE ROW LEVEL SECURITY")
        op.execute(f"CREATE POLICY own_shop ON {table} USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP})")
        op.execute(f'GRANT SELECT, INSERT ON {table} TO "{role}"')
    op.execute(f'GRANT UPDATE (steps, named, ended_at, result) ON practice_game TO "{role}"')


def downgrade() -> None:
    op.execute("DROP TABLE practice_game, practice_case")
