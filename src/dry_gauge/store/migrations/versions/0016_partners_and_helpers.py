"""Indoor and outdoor units that belong together, people who help, and feet of units found by their model."""

from __future__ import annotations

from alembic import context, op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None

# Deferred: both sides of a pair are written in one transaction, in any order.
UP = """
ALTER TABLE unit ADD partner_id uuid;
ALTER TABLE unit ADD CONSTRAINT unit_partner FOREIGN KEY (shop_id, partner_id) REFERENCES unit (shop_id, id)
    DEFERRABLE INITIALLY DEFERRED;
CREATE INDEX unit_by_partner ON unit (shop_id, partner_id) WHERE partner_id IS NOT NULL;
ALTER TABLE person DROP CONSTRAINT person_role_check;
ALTER TABLE person ADD CONSTRAINT person_role_check CHECK (role IN ('technician', 'lead', 'helper', 'read_only'));
CREATE INDEX entry_of_new_units ON entry (shop_id, written_at DESC) WHERE body ->> 'kind' = 'new_unit';
"""
DOWN = """
DROP INDEX entry_of_new_units;
UPDATE person SET role = 'read_only' WHERE role = 'helper';
ALTER TABLE person DROP CONSTRAINT person_role_check;
ALTER TABLE person ADD CONSTRAINT person_role_check CHECK (role IN ('technician', 'lead', 'read_only'));
ALTER TABLE unit DROP partner_id;
"""


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(UP)
    op.execute(f'GRANT UPDATE (partner_id) ON unit TO "{role}"')


def downgrade() -> None:
    op.execute(DOWN)
