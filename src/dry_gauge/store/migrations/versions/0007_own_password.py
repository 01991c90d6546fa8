"""Somebody's own password and sessions, reached with the token of one of them."""

from __future__ import annotations

from alembic import context, op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

UP = """
CREATE FUNCTION own_password_hash(hash bytea) RETURNS varchar
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT p.password_hash FROM web_session s JOIN person p ON p.shop_id = s.shop_id AND p.id = s.person_id AND p.active
    WHERE s.token_hash = hash AND s.expires_at > now()
$$;

-- Every other session of the same person; how many there were.
CREATE FUNCTION end_other_sessions(hash bytea) RETURNS bigint
LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    WITH own AS (SELECT shop_id, person_id FROM web_session WHERE token_hash = hash AND expires_at > now()),
    ended AS (DELETE FROM web_session s USING own
              WHERE s.shop_id = own.shop_id AND s.person_id = own.person_id AND s.token_hash <> hash RETURNING 1)
    SELECT count(*) FROM ended
$$;

CREATE FUNCTION change_own_password(hash bytea, changed varchar) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    UPDATE person p SET password_hash = changed FROM web_session s
    WHERE s.token_hash = hash AND s.expires_at > now() AND p.shop_id = s.shop_id AND p.id = s.person_id;
    SELECT end_other_sessions(hash);
$$;

CREATE FUNCTION own_sessions(hash bytea) RETURNS TABLE (expires_at timestamptz, is_this boolean)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT o.expires_at, o.token_hash = hash FROM web_session s
    JOIN web_session o ON o.shop_id = s.shop_id AND o.person_id = s.person_id AND o.expires_at > now()
    WHERE s.token_hash = hash AND s.expires_at > now() ORDER BY o.expires_at DESC
$$;
"""
_NAMES = ("own_password_hash(bytea)", "end_other_sessions(bytea)", "change_own_password(bytea, varchar)", "own_sessions(bytea)")


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(UP)
    for name in _NAMES:
        op.execute(f"REVOKE ALL ON FUNCTION {name} FROM PUBLIC")
        op.execute(f'GRANT EXECUTE ON FUNCTION {name} TO "{role}"')


def downgrade() -> None:
    for name in _NAMES:
        op.execute(f"DROP FUNCTION {name}")
