"""Labor is spelt as in the shops that have price lists here; options that were offered before are read either way."""

from __future__ import annotations

from alembic import op

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("UPDATE price SET sort = 'labor' WHERE sort = 'labour'")


def downgrade() -> None:
    op.execute("UPDATE price SET sort = 'labour' WHERE sort = 'labor'")
