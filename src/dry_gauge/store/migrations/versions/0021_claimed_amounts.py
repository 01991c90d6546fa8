"""What a warranty claim asks for, and what came back."""

from __future__ import annotations

from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None

NAMES = ("parts_cents", "labour_cents", "granted_cents")
MOST_CENTS = 10_000_000_00


def upgrade() -> None:
    for name in NAMES:
        op.execute(f"ALTER TABLE warranty_claim ADD {name} bigint CHECK ({name} BETWEEN 0 AND {MOST_CENTS})")


def downgrade() -> None:
    for name in NAMES:
        op.execute(f"ALTER TABLE warranty_claim DROP {name}")
