"""Tables of board codes that are typed at a desk or come from a file, beside those that visits leave behind."""

from __future__ import annotations

from alembic import context, op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute("""
CREATE TABLE board_line (
    shop_id uuid NOT NULL REFERENCES shop (id),
    id uuid NOT NULL,
    board varchar NOT NULL,
    code varchar NOT NULL,
    meaning varchar NOT NULL,
    first_test varchar NOT NULL,
    latches boolean NOT NULL,
    dropped boolean NOT NULL DEFAULT false,
    at timestamptz NOT NULL,
    PRIMARY KEY (shop_id, id)
);
CREATE INDEX board_line_by_board ON board_line (shop_id, lower(board), lower(code), at DESC);
""")
    op.execute("ALTER TABLE board_line ENABLE ROW LEVEL SECURITY")
    op.execute(f"CREATE POLICY own_shop ON board_line USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP})")
    op.execute(f'GRANT SELECT, INSERT ON board_line TO "{role}"')


def downgrade() -> None:
    op.execute("DROP TABLE board_line")
