"""A device's clock may show what it likes; a moment that cannot be read back makes a whole visit unreadable."""

from __future__ import annotations

from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

UP = """
UPDATE entry SET device_time = NULL WHERE device_time < '1989-12-31' OR device_time > '2191-01-01';
ALTER TABLE entry ADD CONSTRAINT possible_device_time CHECK (device_time BETWEEN '1989-12-31' AND '2191-01-01');
"""


def upgrade() -> None:
    op.execute(UP)


def downgrade() -> None:
    op.execute("ALTER TABLE entry DROP CONSTRAINT possible_device_time")
