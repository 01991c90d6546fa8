"""The whole visit: calls over several units, the register, follow-ups, instruments, photos, live probes.

Samples of live probes go to a table partitioned by day. The application may not make or drop tables, so a function that
belongs to the owner keeps the partitions.
"""

from __future__ import annotations

from alembic import context, op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

TABLES = """
ALTER TABLE person ADD weight_unit varchar NOT NULL DEFAULT 'lb_oz' CHECK (weight_unit IN ('lb_oz', 'kg'));

ALTER TABLE site ADD access varchar NOT NULL DEFAULT '';
ALTER TABLE unit ADD partner varchar NOT NULL DEFAULT '',
    ADD disconnects jsonb NOT NULL DEFAULT '[]'::jsonb,
    ADD circuits integer NOT NULL DEFAULT 1 CHECK (circuits BETWEEN 1 AND 8),
    ADD stages integer NOT NULL DEFAULT 1 CHECK (stages BETWEEN 1 AND 8),
    ADD label_from varchar NOT NULL DEFAULT '',
    ADD label_photo uuid;
CREATE TABLE unit_change (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    unit_id uuid NOT NULL,
    person_id uuid NOT NULL,
    at timestamptz NOT NULL,
    changed jsonb NOT NULL,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
CREATE INDEX unit_change_by_unit ON unit_change (shop_id, unit_id, at);
CREATE TABLE component (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    unit_id uuid NOT NULL,
    what varchar NOT NULL,
    details varchar NOT NULL DEFAULT '',
    installed_on date,
    removed_on date,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id)
);
CREATE INDEX component_by_unit ON component (shop_id, unit_id);
CREATE TABLE instrument (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    name varchar NOT NULL,
    dimension varchar NOT NULL,
    accuracy double precision,
    unit varchar NOT NULL,
    range_low double precision,
    range_high double precision,
    calibrated_until date,
    retired boolean NOT NULL DEFAULT false,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id) REFERENCES shop (id)
);

-- A call is one trip to a site: the visits to its units share a call.
ALTER TABLE visit ADD call_id uuid;
UPDATE visit SET call_id = id;
ALTER TABLE visit ALTER call_id SET NOT NULL, ADD closed_at timestamptz, ADD outcome varchar NOT NULL DEFAULT '';
UPDATE visit SET closed_at = planned_for WHERE status = 'closed';
CREATE INDEX visit_by_call ON visit (shop_id, call_id);
ALTER TABLE entry ADD waited_seconds integer NOT NULL DEFAULT 0;

CREATE TABLE follow_up (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    visit_id uuid NOT NULL,
    unit_id uuid NOT NULL,
    sort varchar NOT NULL,
    what varchar NOT NULL,
    due date NOT NULL,
    done_at timestamptz,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id)
);
CREATE INDEX follow_up_open ON follow_up (shop_id, due) WHERE done_at IS NULL;
CREATE INDEX follow_up_by_unit ON follow_up (shop_id, unit_id);

CREATE TABLE photo (
    shop_id uuid NOT NULL,
    id uuid NOT NULL,
    unit_id uuid NOT NULL,
    person_id uuid NOT NULL,
    at timestamptz NOT NULL,
    width integer NOT NULL,
    height integer NOT NULL,
    picture bytea NOT NULL,
    thumbnail bytea NOT NULL,
    PRIMARY KEY (shop_id, id),
    FOREIGN KEY (shop_id, unit_id) REFERENCES unit (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);

CREATE TABLE probe_token (
    token_hash bytea PRIMARY KEY,
    shop_id uuid NOT NULL,
    visit_id uuid NOT NULL,
    person_id uuid NOT NULL,
    expires_at timestamptz NOT NULL,
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id),
    FOREIGN KEY (shop_id, person_id) REFERENCES person (shop_id, id)
);
-- One row a hub: the last sample it sent without a gap, which is what makes sending again harmless.
CREATE TABLE probe_hub (
    shop_id uuid NOT NULL,
    visit_id uuid NOT NULL,
    hub varchar NOT NULL,
    acknowledged bigint NOT NULL DEFAULT 0,
    seen_at timestamptz NOT NULL DEFAULT now(),
    latest jsonb NOT NULL DEFAULT '{}'::jsonb,
    PRIMARY KEY (shop_id, visit_id, hub),
    FOREIGN KEY (shop_id, visit_id) REFERENCES visit (shop_id, id)
);
CREATE TABLE sample (
    shop_id uuid NOT NULL,
    visit_id uuid NOT NULL,
    at timestamptz NOT NULL,
    hub varchar NOT NULL,
    n bigint NOT NULL,
    probe varchar NOT NULL,
    quantity varchar NOT NULL,
    circuit smallint NOT NULL,
    value_si double precision,
    state varchar NOT NULL
) PARTITION BY RANGE (at);
CREATE INDEX sample_by_visit ON sample (shop_id, visit_id, at);
CREATE TABLE sample_other PARTITION OF sample DEFAULT;
"""

OWN_SHOP = "nullif(current_setting('dry_gauge.shop_id', true), '')::uuid"
OF_A_SHOP = ("unit_change", "component", "instrument", "follow_up", "photo", "probe_hub", "sample")

FUNCTIONS = """
DROP FUNCTION open_session(bytea);
CREATE FUNCTION open_session(hash bytea)
RETURNS TABLE (shop_id uuid, shop_name varchar, superheat_school varchar, person_id uuid, name varchar, role varchar,
               temperature_unit varchar, pressure_unit varchar, weight_unit varchar, theme varchar, setting text)
LANGUAGE sql VOLATILE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT s.shop_id, h.name, h.superheat_school, p.id, p.name, p.role, p.temperature_unit, p.pressure_unit,
           p.weight_unit, p.theme, set_config('dry_gauge.shop_id', s.shop_id::text, true)
    FROM web_session s
    JOIN person p ON p.shop_id = s.shop_id AND p.id = s.person_id AND p.active
    JOIN shop h ON h.id = s.shop_id
    WHERE s.token_hash = hash AND s.expires_at > now()
$$;

CREATE FUNCTION make_probe_token(hash bytea, visit uuid, person uuid, lifetime interval) RETURNS void
LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    DELETE FROM probe_token WHERE expires_at < now();
    -- Only for a visit of the shop that this transaction sees.
    INSERT INTO probe_token (token_hash, shop_id, visit_id, person_id, expires_at)
    SELECT hash, v.shop_id, v.id, person, now() + lifetime FROM visit v
    WHERE v.id = visit AND v.shop_id = nullif(current_setting('dry_gauge.shop_id', true), '')::uuid
$$;

-- Which visit this token may feed; and, for the rest of the transaction, whose rows it may see.
CREATE FUNCTION open_probe_token(hash bytea) RETURNS TABLE (shop_id uuid, visit_id uuid, setting text)
LANGUAGE sql VOLATILE SECURITY DEFINER SET search_path = public, pg_temp AS $$
    SELECT t.shop_id, t.visit_id, set_config('dry_gauge.shop_id', t.shop_id::text, true)
    FROM probe_token t WHERE t.token_hash = hash AND t.expires_at > now()
$$;

-- A lead adds people and changes their role or password; nobody else, whatever the application believes.
CREATE FUNCTION add_person(actor uuid, new_id uuid, new_login varchar, new_name varchar, new_role varchar, hash varchar)
RETURNS boolean
LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    INSERT INTO person (shop_id, id, login, name, role, password_hash)
    SELECT a.shop_id, new_id, new_login, new_name, new_role, hash FROM person a
    WHERE a.id = actor AND a.role = 'lead' AND a.active
      AND a.shop_id = nullif(current_setting('dry_gauge.shop_id', true), '')::uuid
    ON CONFLICT (login) DO NOTHING RETURNING true
$$;

CREATE FUNCTION change_person(actor uuid, changed uuid, new_role varchar, new_active boolean, hash varchar)
RETURNS boolean
LANGUAGE sql SECURITY DEFINER SET search_path = public, pg_temp AS $$
    DELETE FROM web_session s USING person a
    WHERE s.person_id = changed AND s.shop_id = a.shop_id AND a.id = actor AND a.role = 'lead' AND a.active
      AND a.shop_id = nullif(current_setting('dry_gauge.shop_id', true), '')::uuid
      AND (NOT new_active OR hash IS NOT NULL);
    UPDATE person p SET role = new_role, active = new_active, password_hash = coalesce(hash, p.password_hash)
    FROM person a
    WHERE p.id = changed AND p.shop_id = a.shop_id AND a.id = actor AND a.role = 'lead' AND a.active
      AND a.shop_id = nullif(current_setting('dry_gauge.shop_id', true), '')::uuid
    RETURNING true
$$;

-- Partitions for yesterday, today and the days ahead; days older than the retention are dropped whole.
CREATE FUNCTION keep_sample_days(retained integer) RETURNS integer
LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
    day date;
    old record;
    dropped integer := 0;
BEGIN
    PERFORM pg_advisory_xact_lock(hashtext('dry_gauge sample days'));
    FOR day IN SELECT generate_series(current_date - 1, current_date + 2, interval '1 day')::date LOOP
        IF to_regclass('sample_' || to_char(day, 'YYYYMMDD')) IS NULL THEN
            BEGIN
                EXECUTE format('CREATE TABLE %I PARTITION OF sample FOR VALUES FROM (%L) TO (%L)',
                               'sample_' || to_char(day, 'YYYYMMDD'),
                               day::timestamp AT TIME ZONE 'UTC', (day + 1)::timestamp AT TIME ZONE 'UTC');
            EXCEPTION WHEN check_violation THEN NULL;  -- that day's first samples already lie in sample_other
            END;
        END IF;
    END LOOP;
    FOR old IN SELECT relname FROM pg_class
               WHERE relname ~ '^sample_[0-9]{8}$' AND relkind = 'r'
                 AND to_date(right(relname, 8), 'YYYYMMDD') < current_date - retained LOOP
        EXECUTE format('DROP TABLE %I', old.relname);
        dropped := dropped + 1;
    END LOOP;
    DELETE FROM sample_other WHERE at < now() - make_interval(days => retained);
    RETURN dropped;
END $$;
"""


def upgrade() -> None:
    role = context.config.attributes["application_role"]
    op.execute(TABLES)
    for table in OF_A_SHOP:
        op.execute(f"ALTER TABLE {table} ENABLE ROW LEVEL SECURITY")
        op.execute(f"CREATE POLICY own_shop ON {table} USING (shop_id = {OWN_SHOP}) WITH CHECK (shop_id = {OWN_SHOP})")
    op.execute(FUNCTIONS)
    op.execute("REVOKE ALL ON ALL FUNCTIONS IN SCHEMA public FROM PUBLIC")
    op.execute(f'GRANT EXECUTE ON ALL FUNCTIONS IN SCHEMA public TO "{role}"')
    op.execute(f'GRANT SELECT ON {", ".join(OF_A_SHOP)} TO "{role}"')
    op.execute(f'GRANT INSERT ON site, unit, {", ".join(OF_A_SHOP)} TO "{role}"')
    op.execute(f'GRANT UPDATE (name, address, access) ON site TO "{role}"')
    op.execute(
        "GRANT UPDATE (tag, serves, maker, model, serial, made_year, facts, card_notes, partner, disconnects, circuits, "
        f'stages, label_from, label_photo) ON unit TO "{role}"'
    )
    op.execute(f'GRANT UPDATE (closed_at, outcome) ON visit TO "{role}"')
    op.execute(f'GRANT UPDATE (removed_on) ON component TO "{role}"')
    op.execute(f'GRANT UPDATE (name, accuracy, range_low, range_high, calibrated_until, retired) ON instrument TO "{role}"')
    op.execute(f'GRANT UPDATE (weight_unit) ON person TO "{role}"')
    op.execute(f'GRANT UPDATE, DELETE ON follow_up TO "{role}"')
    op.execute(f'GRANT UPDATE (acknowledged, seen_at, latest) ON probe_hub TO "{role}"')
