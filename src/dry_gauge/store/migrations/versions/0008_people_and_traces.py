"""A second step at sign-in, sessions with a name and an end when idle, probe tokens that can be ended, and the audit trail."""

from __future__ import annotations

from alembic import context, op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"

TABLES = f"""
ALTER TABLE web_session ADD id uuid NOT NULL DEFAULT gen_random_uuid(), ADD seen_at timestamptz NOT NULL DEFAULT now(),
    ADD device varchar NOT NULL DEFAULT '';
ALTER TABLE probe_token ADD id uuid NOT NULL DEFAULT gen_random_uuid(), ADD made_at timestamptz NOT NULL DEFAULT now();
-- The secret is encrypted by the application; only functions reach these two.
CREATE TABLE second_factor (
    shop_id uuid NOT NULL,
    person_id uuid NOT NULL,
    secret varchar NOT NULL,
    last_step bigint NOT NULL DEFAULT 0,
    PRIMARY KEY (shop_id, person_id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE TABLE recovery_code (
    shop_id uuid NOT NULL,
    person_id uuid NOT NULL,
    code_hash bytea NOT NULL,
    PRIMARY KEY (shop_id, person_id, code_hash),
    FOREIGN KEY (shop_id, person_id) REFERENCES second_factor (shop_id, person_id) ON DELETE CASCADE
);
-- The application may add to it and read it, never change or remove.
CREATE TABLE audit_event (
    shop_id uuid NOT NULL REFERENCES shop (id),
    id uuid NOT NULL DEFAULT gen_random_uuid(),
    at timestamptz NOT NULL DEFAULT now(),
    person_id uuid,
    what varchar NOT NULL,
    about varchar NOT NULL DEFAULT '',
    address varchar NOT NULL DEFAULT '',
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE INDEX audit_event_by_time ON audit_event (shop_id, at DESC);
ALTER TABLE audit_event ENABLE ROW LEVEL SECURITY;
CREATE POLICY own_shop ON audit_event USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP});
"""

_DEFINER = "SECURITY DEFINER SET search_path = public, pg_temp"
FUNCTIONS = f"""
DROP FUNCTION find_sign_in(varchar);
CREATE FUNCTION find_sign_in(wanted varchar)
RETURNS TABLE (shop_id uuid, person_id uuid, password_hash varchar, second_secret varchar)
LANGUAGE sql STABLE {_DEFINER} AS $$
    SELECT p.shop_id, p.id, p.password_hash, f.secret FROM person p
    LEFT JOIN second_factor f ON f.shop_id = p.shop_id AND f.person_id = p.id
    WHERE p.login = wanted AND p.active
$$;

-- A code is good once: whoever looked over a shoulder comes too late.
CREATE FUNCTION use_step(shop uuid, person uuid, step bigint) RETURNS boolean
LANGUAGE sql {_DEFINER} AS $$
    UPDATE second_factor SET last_step = step WHERE shop_id = shop AND person_id = person AND last_step < step RETURNING true
$$;

CREATE FUNCTION use_recovery_code(shop uuid, person uuid, hash bytea) RETURNS boolean
LANGUAGE sql {_DEFINER} AS $$
    DELETE FROM recovery_code WHERE shop_id = shop AND person_id = person AND code_hash = hash RETURNING true
$$;

CREATE FUNCTION set_own_second_factor(session bytea, new_secret varchar, step bigint, codes bytea[]) RETURNS void
LANGUAGE sql {_DEFINER} AS $$
    DELETE FROM second_factor f USING web_session s
    WHERE s.token_hash = session AND s.expires_at > now() AND f.shop_id = s.shop_id AND f.person_id = s.person_id;
    INSERT INTO second_factor (shop_id, person_id, secret, last_step)
    SELECT s.shop_id, s.person_id, new_secret, step FROM web_session s WHERE s.token_hash = session AND s.expires_at > now();
    INSERT INTO recovery_code (shop_id, person_id, code_hash)
    SELECT s.shop_id, s.person_id, code FROM web_session s, unnest(codes) AS code
    WHERE s.token_hash = session AND s.expires_at > now();
    SELECT end_other_sessions(session);
$$;

CREATE FUNCTION end_own_second_factor(session bytea) RETURNS void
LANGUAGE sql {_DEFINER} AS $$
    DELETE FROM second_factor f USING web_session s
    WHERE s.token_hash = session AND s.expires_at > now() AND f.shop_id = s.shop_id AND f.person_id = s.person_id
$$;

-- How many recovery codes are left; nothing where there is no second factor.
CREATE FUNCTION own_second_factor(session bytea) RETURNS bigint
LANGUAGE sql STABLE {_DEFINER} AS $$
    SELECT (SELECT count(*) FROM recovery_code c WHERE c.shop_id = f.shop_id AND c.person_id = f.person_id)
    FROM web_session s JOIN second_factor f ON f.shop_id = s.shop_id AND f.person_id = s.person_id
    WHERE s.token_hash = session AND s.expires_at > now()
$$;

-- A lost phone: a lead takes the second factor of somebody of the same shop away.
CREATE FUNCTION end_second_factor_of(actor uuid, person uuid) RETURNS boolean
LANGUAGE sql {_DEFINER} AS $$
    DELETE FROM second_factor f USING person a
    WHERE f.person_id = person AND f.shop_id = a.shop_id AND a.id = actor AND a.role = 'lead' AND a.active
      AND a.shop_id = {OWN_SHOP} RETURNING true
$$;

-- Who of the shop has one, for a lead's list of people.
CREATE FUNCTION with_second_factor() RETURNS SETOF uuid
LANGUAGE sql STABLE {_DEFINER} AS $$ SELECT person_id FROM second_factor WHERE shop_id = {OWN_SHOP} $$;

DROP FUNCTION start_session(bytea, uuid, uuid, interval);
CREATE FUNCTION start_session(hash bytea, shop uuid, person uuid, lifetime interval, on_device varchar) RETURNS void
LANGUAGE sql {_DEFINER} AS $$
    DELETE FROM web_session WHERE expires_at < now();
    DELETE FROM rate_window WHERE window_start < now() - interval '1 day';
    INSERT INTO web_session (token_hash, shop_id, person_id, expires_at, device)
    VALUES (hash, shop, person, now() + lifetime, on_device)
$$;

DROP FUNCTION open_session(bytea);
-- In plpgsql: its plans last as long as the connection. In SQL each request would pay for planning them (1.4 ms, now 0.3).
CREATE FUNCTION open_session(hash bytea)
RETURNS TABLE (shop_id uuid, shop_name varchar, superheat_school varchar, person_id uuid, name varchar, role varchar,
               temperature_unit varchar, pressure_unit varchar, weight_unit varchar, theme varchar, hints_seen jsonb,
               second_step_due boolean, setting text)
LANGUAGE plpgsql VOLATILE {_DEFINER} AS $$
#variable_conflict use_column
BEGIN
    -- Four days: a long weekend signs nobody out. Written every ten minutes at most: each request passes here.
    UPDATE web_session SET seen_at = now()
    WHERE token_hash = hash AND seen_at BETWEEN now() - interval '4 days' AND now() - interval '10 minutes';
    RETURN QUERY SELECT s.shop_id, h.name, h.superheat_school, p.id, p.name, p.role, p.temperature_unit, p.pressure_unit,
           p.weight_unit, p.theme, p.hints_seen,
           p.role = 'lead' AND coalesce((h.settings ->> 'leads_second_step')::boolean, false)
               AND NOT EXISTS (SELECT 1 FROM second_factor f WHERE f.shop_id = p.shop_id AND f.person_id = p.id),
           set_config('dry_gauge.shop_id', s.shop_id::text, true)
    FROM web_session s
    JOIN person p ON p.shop_id = s.shop_id AND p.id = s.person_id AND p.active
    JOIN shop h ON h.id = s.shop_id
    WHERE s.token_hash = hash AND s.expires_at > now() AND s.seen_at > now() - interval '4 days';
END $$;

DROP FUNCTION own_sessions(bytea);
CREATE FUNCTION own_sessions(hash bytea)
RETURNS TABLE (id uuid, device varchar, created_at timestamptz, seen_at timestamptz, is_this boolean)
LANGUAGE sql STABLE {_DEFINER} AS $$
    SELECT o.id, o.device, o.created_at, o.seen_at, o.token_hash = hash FROM web_session s
    JOIN web_session o ON o.shop_id = s.shop_id AND o.person_id = s.person_id AND o.expires_at > now()
        AND o.seen_at > now() - interval '4 days'
    WHERE s.token_hash = hash AND s.expires_at > now() ORDER BY o.seen_at DESC, o.created_at DESC
$$;

CREATE FUNCTION end_own_session(hash bytea, ended uuid) RETURNS boolean
LANGUAGE sql {_DEFINER} AS $$
    DELETE FROM web_session o USING web_session s
    WHERE s.token_hash = hash AND s.expires_at > now() AND o.shop_id = s.shop_id AND o.person_id = s.person_id
      AND o.id = ended RETURNING true
$$;

-- A lead lets somebody of the same shop try again; a stranger's tries elsewhere never locked them out.
CREATE FUNCTION forgive_tries(actor uuid, person uuid) RETURNS void
LANGUAGE sql {_DEFINER} AS $$
    DELETE FROM rate_window r USING person a, person p
    WHERE a.id = actor AND a.role = 'lead' AND a.active AND a.shop_id = {OWN_SHOP}
      AND p.id = person AND p.shop_id = a.shop_id
      AND (starts_with(r.key, 'sign-in login ' || p.login || ' ') OR r.key = 'second step ' || p.id)
$$;

-- Sign-ins are noted before the shop is known.
CREATE FUNCTION note_sign_in(login_tried varchar, what_happened varchar, said varchar, from_address varchar) RETURNS void
LANGUAGE sql {_DEFINER} AS $$
    INSERT INTO audit_event (shop_id, person_id, what, about, address)
    SELECT p.shop_id, p.id, what_happened, said, from_address FROM person p WHERE p.login = login_tried
$$;

DROP FUNCTION open_probe_token(bytea);
CREATE FUNCTION open_probe_token(hash bytea) RETURNS TABLE (shop_id uuid, visit_id uuid, setting text)
LANGUAGE plpgsql VOLATILE {_DEFINER} AS $$
#variable_conflict use_column
BEGIN
    RETURN QUERY SELECT t.shop_id, t.visit_id, set_config('dry_gauge.shop_id', t.shop_id::text, true)
    FROM probe_token t JOIN person p ON p.shop_id = t.shop_id AND p.id = t.person_id AND p.active
    WHERE t.token_hash = hash AND t.expires_at > now();
END $$;

CREATE FUNCTION probe_tokens_of(visit uuid)
RETURNS TABLE (id uuid, person_id uuid, made_at timestamptz, expires_at timestamptz)
LANGUAGE sql STABLE {_DEFINER} AS $$
    SELECT t.id, t.person_id, t.made_at, t.expires_at FROM probe_token t
    WHERE t.visit_id = visit AND t.shop_id = {OWN_SHOP} AND t.expires_at > now() ORDER BY t.made_at
$$;

CREATE FUNCTION end_probe_token(visit uuid, ended uuid) RETURNS boolean
LANGUAGE sql {_DEFINER} AS $$
    DELETE FROM probe_token WHERE id = ended AND visit_id = visit AND shop_id = {OWN_SHOP} RETURNING true
$$;
"""


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(TABLES)
    op.execute(FUNCTIONS)
    op.execute("REVOKE ALL ON ALL FUNCTIONS IN SCHEMA public FROM PUBLIC")
    op.execute(f'GRANT EXECUTE ON ALL FUNCTIONS IN SCHEMA public TO "{role}"')
    op.execute(f'GRANT SELECT, INSERT ON audit_event TO "{role}"')
    # The application never reads a password's hash but by the functions that sign somebody in.
    op.execute(f'REVOKE SELECT ON person FROM "{role}"')
    op.execute(
        "GRANT SELECT (shop_id, id, login, name, role, active, temperature_unit, pressure_unit, weight_unit, theme, hints_seen) "
        f'ON person TO "{role}"'
    )


def downgrade() -> None:
    raise NotImplementedError("Restore a backup instead: sessions and second factors would be lost without a word.")
