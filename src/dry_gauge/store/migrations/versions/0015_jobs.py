"""Work that takes minutes: asked for by somebody, done by whichever process is free, its result kept in pieces."""

from __future__ import annotations

from alembic import context, op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"
TABLES = """
CREATE TABLE job (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    person_id uuid NOT NULL,
    sort varchar NOT NULL,
    asked jsonb NOT NULL,
    made_at timestamptz NOT NULL,
    state varchar NOT NULL DEFAULT 'waiting',
    done integer NOT NULL DEFAULT 0,
    of_all integer NOT NULL DEFAULT 0,
    words varchar NOT NULL DEFAULT '',
    name varchar NOT NULL DEFAULT '',
    seen_at timestamptz,
    ended_at timestamptz,
    tries integer NOT NULL DEFAULT 0,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE INDEX job_to_do ON job (made_at) WHERE state IN ('waiting', 'going');
CREATE INDEX job_by_shop ON job (shop_id, made_at DESC);
CREATE TABLE job_piece (
    shop_id uuid NOT NULL,
    job_id uuid NOT NULL,
    part varchar NOT NULL,
    n integer NOT NULL,
    piece bytea NOT NULL,
    PRIMARY KEY (shop_id, job_id, part, n),
    FOREIGN KEY (shop_id, job_id) REFERENCES job (shop_id, id) ON DELETE CASCADE
);
"""
# Whoever looks for work is of no shop: it learns which one. Work that nobody has spoken of for two minutes is free again:
# its process has died. Three tries, then it has failed.
FUNCTIONS = """
CREATE FUNCTION claim_job() RETURNS TABLE (shop_id uuid, id uuid)
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
#variable_conflict use_column
BEGIN
    UPDATE job SET state = 'failed', ended_at = now(), words = 'It ended three times without an answer.'
    WHERE state = 'going' AND seen_at < now() - interval '2 minutes' AND tries >= 3;
    RETURN QUERY UPDATE job SET state = 'going', seen_at = now(), tries = tries + 1
    WHERE (job.shop_id, job.id) = (
        SELECT j.shop_id, j.id FROM job j
        WHERE j.state = 'waiting' OR (j.state = 'going' AND j.seen_at < now() - interval '2 minutes')
        ORDER BY j.made_at LIMIT 1 FOR UPDATE SKIP LOCKED)
    RETURNING job.shop_id, job.id;
END $$;
"""
NAMES = ("job", "job_piece")


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(TABLES)
    op.execute(FUNCTIONS)
    for name in NAMES:
        op.execute(f"ALTER TABLE {name} ENABLE ROW LEVEL SECURITY")
        op.execute(f"CREATE POLICY own_shop ON {name} USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP})")
        op.execute(f'GRANT SELECT, INSERT, UPDATE, DELETE ON {name} TO "{role}"')
    op.execute("REVOKE ALL ON FUNCTION claim_job() FROM PUBLIC")
    op.execute(f'GRANT EXECUTE ON FUNCTION claim_job() TO "{role}"')


def downgrade() -> None:
    op.execute("DROP FUNCTION claim_job()")
    for name in reversed(NAMES):
        op.execute(f"DROP TABLE {name}")
