"""A photo may be the still of a clip, which is kept beside it."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("photo", sa.Column("clip_type", sa.String(), server_default="", nullable=False))
    op.add_column("photo", sa.Column("clip", sa.LargeBinary(), nullable=True))


def downgrade() -> None:
    op.drop_column("photo", "clip")
    op.drop_column("photo", "clip_type")
