"""Units of a site are found by it: those of one model are each other's reference."""

from __future__ import annotations

from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("CREATE INDEX unit_by_site ON unit (shop_id, site_id)")


def downgrade() -> None:
    op.execute("DROP INDEX unit_by_site")
