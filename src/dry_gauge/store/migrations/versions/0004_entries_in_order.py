"""Entries stand where they were written: the moment is decided once, stored, and gives the order.

Entries themselves stay as they are. States are folded again when they are next touched (`fold_version`).
"""

from __future__ import annotations

from alembic import context, op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

UP = """
ALTER TABLE entry ADD written_at timestamptz, ADD sender varchar NOT NULL DEFAULT '';
-- Received less what it waited, and as until now in the order in which each person's entries came.
UPDATE entry SET written_at = least(entry.received_at, placed.at) FROM (
    SELECT shop_id, id, max(received_at - make_interval(secs => waited_seconds)) OVER (
        PARTITION BY shop_id, visit_id, person_id ORDER BY sequence) AS at FROM entry
) AS placed WHERE placed.shop_id = entry.shop_id AND placed.id = entry.id;
ALTER TABLE entry ALTER written_at SET NOT NULL, ADD CHECK (written_at <= received_at), DROP waited_seconds;
CREATE INDEX entry_in_order ON entry (shop_id, visit_id, written_at, sequence);

ALTER TABLE visit ADD fold_version integer NOT NULL DEFAULT 1,
    ADD at_work jsonb NOT NULL DEFAULT '{}'::jsonb,
    ADD opened_after jsonb NOT NULL DEFAULT '[]'::jsonb;
"""
DOWN = """
ALTER TABLE visit DROP fold_version, DROP at_work, DROP opened_after;
DROP INDEX entry_in_order;
ALTER TABLE entry ADD waited_seconds integer NOT NULL DEFAULT 0;
UPDATE entry SET waited_seconds = extract(epoch FROM received_at - written_at);
ALTER TABLE entry DROP written_at, DROP sender;
"""


def upgrade() -> None:
    op.execute(UP)
    role = context.config.attributes["application_role"]
    op.execute(f'GRANT UPDATE (fold_version, at_work, opened_after) ON visit TO "{role}"')


def downgrade() -> None:
    op.execute(DOWN)
