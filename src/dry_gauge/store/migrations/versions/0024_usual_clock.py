"""Who never chose how hours are said has them as where their shop works; whoever was here before keeps what they read."""

from __future__ import annotations

from alembic import op

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


def upgrade() -> None:
    _chosen_from("'', '12', '24'", "''")


def downgrade() -> None:
    op.execute("UPDATE person SET clock = '24' WHERE clock = ''")
    _chosen_from("'12', '24'", "'24'")


def _chosen_from(clocks: str, usual: str) -> None:
    op.execute(
        f"ALTER TABLE person DROP CONSTRAINT person_clock_check, ADD CONSTRAINT person_clock_check"
        f" CHECK (clock IN ({clocks})), ALTER clock SET DEFAULT {usual}"
    )
