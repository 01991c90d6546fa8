"""First tables: shops and people, sites and units, visits and their notebooks.

The application's role gets what it needs and no more: entries can be added, never changed; sessions and sign-ins are
reached only through functions, because they come before the shop is known.
"""

from __future__ import annotations

from alembic import context, op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

TABLES = """
CREATE TABLE shop (
    id uuid PRIMARY KEY,
    name varchar NOT NULL,
    town varchar NOT NULL DEFAULT '',
    superheat_school varchar NOT NULL DEFAULT 'common' CHECK (superheat_school IN ('common', 'strict'))
);
CREATE TABLE person (
    shop_id uuid NOT NULL REFERENCES shop (id),
    id uuid NOT NULL,
    login varchar NOT NULL UNIQUE,
    name varchar NOT NULL,
    role varchar NOT NULL CHECK (role IN ('technician', 'lead', 'read_only')),
    password_hash varchar NOT NULL,
    active boolean NOT NULL DEFAULT true,
    temperature_unit varchar NOT NULL DEFAULT 'F' CHECK (temperature_unit IN ('F', 'C')),
    pressure_unit varchar NOT NULL DEFAULT 'psi' CHECK (pressure_unit IN ('psi', 'kPa', 'bar')),
    theme varchar NOT NULL DEFAULT 'auto' CHECK (theme IN ('auto', 'day', 'night')),
    PRIMARY KEY (shop_id, id)
);
CREATE TABLE web_session (
    token_hash bytea PRIMARY KEY,
    shop_id uuid NOT NULL,
    person_id uuid NOT NULL,
    created_at timestamptz NOT NULL DEFAULT now(),
    expires_at timestamptz NOT NULL,
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE INDEX web_session_expires_at ON web_session (expires_at);
CREATE UNLOGGED TABLE rate_window (
    key varchar NOT NULL,
    window_start timestamptz NOT NULL,
    hits integer NOT NULL,
    PRIMARY KEY (key, window_start)
);
CREATE TABLE site (
    shop_id uuid NOT NULL REFERENCES shop (id),
    id uuid NOT NULL,
    name varchar NOT NULL,
    address varchar NOT NULL DEFAULT '',
    PRIMARY KEY (shop_id, id)
);
CREATE TABLE unit (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    site_id uuid NOT NULL,
    tag varchar NOT NULL,
    serves varchar NOT NULL DEFAULT '',
    maker varchar,
    model varchar,
    serial varchar,
    made_year integer,
    facts jsonb NOT NULL,
    card_notes varchar NOT NULL DEFAULT '',
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, site_id) REFERENCES site (shop_id, id)
);
CREATE TABLE visit (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    unit_id uuid NOT NULL,
    technician_id uuid NOT NULL,
    planned_for timestamptz NOT NULL,
    complaint varchar NOT NULL DEFAULT '',
    status varchar NOT NULL DEFAULT 'planned' CHECK (status IN ('planned', 'open', 'closed')),
    summary varchar NOT NULL DEFAULT '',
    sequence integer NOT NULL DEFAULT 0,
    state jsonb NOT NULL DEFAULT '{}'::jsonb,
    rule_set varchar NOT NULL DEFAULT '',
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id),
    FOREIGN KEY (shop_id, technician_id) REFERENCES person (shop_id, id)
);
CREATE INDEX visit_by_day ON visit (shop_id, planned_for);
CREATE INDEX visit_by_unit ON visit (shop_id, unit_id, planned_for);
CREATE TABLE entry (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    visit_id uuid NOT NULL,
    sequence integer NOT NULL,
    person_id uuid NOT NULL,
    received_at timestamptz NOT NULL,
    device_time timestamptz,
    voids uuid,
    body jsonb NOT NULL,
    PRIMARY KEY (shop_id, id),
    UNIQUE (shop_id, visit_id, sequence),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE UNIQUE INDEX entry_voids ON entry (shop_id, voids) WHERE voids IS NOT NULL;
"""

# A forgotten WHERE shows one shop only. Without the setting (NULL, or '' after a transaction) nothing shows at all.
OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"
SHOP_KEYS = {"shop": "id", "person": "shop_id", "site": "shop_id", "unit": "shop_id", "visit": "shop_id", "entry": "shop_id"}

FUNCTIONS = """
CREATE FUNCTION find_sign_in(wanted varchar)
RETURNS TABLE (shop_id uuid, person_id uuid, password_hash varchar)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT p.shop_id, p.id, p.password_hash FROM person p WHERE p.login = wanted AND p.active
$$;

CREATE FUNCTION start_session(hash bytea, shop uuid, person uuid, lifetime interval) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    DELETE FROM web_session WHERE expires_at < now();
    DELETE FROM rate_window WHERE window_start < now() - interval '1 day';
    INSERT INTO web_session (token_hash, shop_id, person_id, expires_at) VALUES (hash, shop, person, now() + lifetime)
$$;

CREATE FUNCTION end_session(hash bytea) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    DELETE FROM web_session WHERE token_hash = hash
$$;

-- Who this token belongs to; and, for the rest of the transaction, whose rows it may see.
CREATE FUNCTION open_session(hash bytea)
RETURNS TABLE (shop_id uuid, shop_name varchar, superheat_school varchar, person_id uuid, name varchar, role varchar,
               temperature_unit varchar, pressure_unit varchar, theme varchar, setting text)
LANGUAGE sql VOLATILE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT s.shop_id, h.name, h.superheat_school, p.id, p.name, p.role, p.temperature_unit, p.pressure_unit, p.theme,
           set_config('dry_gauge.shop_id', s.shop_id::text, true)
    FROM web_session s
    JOIN person p ON p.shop_id = s.shop_id AND p.id = s.person_id AND p.active
    JOIN shop h ON h.id = s.shop_id
    WHERE s.token_hash = hash AND s.expires_at > now()
$$;

CREATE FUNCTION count_hit(wanted varchar, seconds integer) RETURNS integer
LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    DELETE FROM rate_window WHERE key = wanted AND window_start < now() - make_interval(secs => seconds);
    INSERT INTO rate_window (key, window_start, hits)
    VALUES (wanted, to_timestamp(floor(extract(epoch FROM now()) / seconds) * seconds), 1)
    ON CONFLICT (key, window_start) DO UPDATE SET hits = rate_window.hits + 1
    RETURNING hits
$$;

CREATE FUNCTION forgive_hit(wanted varchar) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    UPDATE rate_window SET hits = hits - 1 WHERE key = wanted AND hits > 0
$$;
"""


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(TABLES)
    for table, key in SHOP_KEYS.items():
        op.execute(f"ALTER TABLE {table} ENABLE ROW LEVEL SECURITY")
        op.execute(f"CREATE POLICY own_shop ON {table} USING ({key} = {OWN_SHOP}) WITH CHECK ({key} = {OWN_SHOP})")
    op.execute(FUNCTIONS)
    op.execute("REVOKE ALL ON ALL FUNCTIONS IN SCHEMA public FROM PUBLIC")
    op.execute(f'GRANT USAGE ON SCHEMA public TO "{role}"')
    op.execute(f'GRANT EXECUTE ON ALL FUNCTIONS IN SCHEMA public TO "{role}"')
    op.execute(f'GRANT SELECT ON shop, person, site, unit, visit, entry TO "{role}"')
    op.execute(f'GRANT INSERT ON visit, entry TO "{role}"')
    op.execute(f'GRANT UPDATE (status, summary, sequence, state, rule_set) ON visit TO "{role}"')
    op.execute(f'GRANT UPDATE (temperature_unit, pressure_unit, theme) ON person TO "{role}"')
    op.execute(f'GRANT SELECT ON alembic_version TO "{role}"')
