"""Who goes along on a planned call."""

from __future__ import annotations

from alembic import context, op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute("ALTER TABLE visit ADD along_id uuid")
    op.execute("ALTER TABLE visit ADD FOREIGN KEY (shop_id, along_id) REFERENCES person (shop_id, id)")
    op.execute(f'GRANT UPDATE (along_id) ON visit TO "{role}"')


def downgrade() -> None:
    op.execute("ALTER TABLE visit DROP along_id")
