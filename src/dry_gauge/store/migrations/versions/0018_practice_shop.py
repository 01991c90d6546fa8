"""Practice on the stations themselves: a shop of its own beside each shop, entered by a session while a call is played.

Nobody signs in to such a shop. A session that has entered a play sees the practice shop's rows and nothing of its own shop's,
under an id that is not the person's: what waits in a browser for one of them is never taken for the other's.
"""

from __future__ import annotations

from alembic import context, op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None

_DEFINER = "SECURITY DEFINER SET search_path = public, pg_temp"
TABLES = """
ALTER TABLE shop ADD practice_of uuid UNIQUE REFERENCES shop (id);
ALTER TABLE web_session ADD practice_game uuid;
ALTER TABLE practice_game
    ADD visit_id uuid,
    ADD minutes double precision NOT NULL DEFAULT 0,
    ADD help varchar NOT NULL DEFAULT 'asked',
    ADD told varchar NOT NULL DEFAULT '';
"""
ENTERING = f"""
-- Under which id somebody practises: always the same, and not their own.
CREATE FUNCTION practice_person(person uuid) RETURNS uuid
LANGUAGE sql IMMUTABLE AS $$ SELECT md5(person::text || ' practises')::uuid $$;

-- Whoever has that session goes on with a play of theirs that is not over; where and as whom.
CREATE FUNCTION enter_practice(hash bytea, game uuid) RETURNS TABLE (shop_id uuid, person_id uuid)
LANGUAGE plpgsql {_DEFINER} AS $$
#variable_conflict use_column
DECLARE
    own web_session%ROWTYPE;
    twin uuid;
BEGIN
    SELECT s.* INTO own FROM web_session s JOIN practice_game g ON g.shop_id = s.shop_id AND g.person_id = s.person_id
    WHERE s.token_hash = hash AND s.expires_at > now() AND g.id = game AND g.ended_at IS NULL;
    IF NOT FOUND THEN
        RETURN;
    END IF;
    INSERT INTO shop (id, name, town, practice_of) SELECT gen_random_uuid(), 'Practice', '', own.shop_id
    ON CONFLICT (practice_of) DO NOTHING;
    SELECT t.id INTO twin FROM shop t WHERE t.practice_of = own.shop_id;
    UPDATE shop t SET superheat_school = h.superheat_school, settings = h.settings FROM shop h
    WHERE t.id = twin AND h.id = own.shop_id
      AND (t.superheat_school, t.settings) IS DISTINCT FROM (h.superheat_school, h.settings);
    INSERT INTO person (shop_id, id, login, name, role, password_hash)
    SELECT twin, practice_person(p.id), 'practice ' || p.id, p.name, p.role, '!' FROM person p
    WHERE p.shop_id = own.shop_id AND p.id = own.person_id
    ON CONFLICT (login) DO UPDATE SET name = excluded.name, role = excluded.role;
    UPDATE web_session SET practice_game = game WHERE token_hash = hash;
    RETURN QUERY SELECT twin, practice_person(own.person_id);
END $$;

CREATE FUNCTION leave_practice(hash bytea) RETURNS void
LANGUAGE sql {_DEFINER} AS $$ UPDATE web_session SET practice_game = NULL WHERE token_hash = hash $$;
"""
SIGN_IN = f"""
CREATE OR REPLACE FUNCTION find_sign_in(wanted varchar)
RETURNS TABLE (shop_id uuid, person_id uuid, password_hash varchar, second_secret varchar)
LANGUAGE sql STABLE {_DEFINER} AS $$
    SELECT p.shop_id, p.id, p.password_hash, f.secret FROM person p
    {{joins}}
    LEFT JOIN second_factor f ON f.shop_id = p.shop_id AND f.person_id = p.id
    WHERE p.login = wanted AND p.active
$$;
"""
_COMMON = """s.shop_id, h.name, h.superheat_school, p.id, p.name, p.role, p.temperature_unit, p.pressure_unit,
           p.weight_unit, p.theme, p.hints_seen,
           p.role = 'lead' AND coalesce((h.settings ->> 'leads_second_step')::boolean, false)
               AND NOT EXISTS (SELECT 1 FROM second_factor f WHERE f.shop_id = p.shop_id AND f.person_id = p.id)"""
SESSION = f"""
DROP FUNCTION open_session(bytea);
CREATE FUNCTION open_session(hash bytea)
RETURNS TABLE (shop_id uuid, shop_name varchar, superheat_school varchar, person_id uuid, name varchar, role varchar,
               temperature_unit varchar, pressure_unit varchar, weight_unit varchar, theme varchar, hints_seen jsonb,
               second_step_due boolean{{columns}}, setting text)
LANGUAGE plpgsql VOLATILE {_DEFINER} AS $$
#variable_conflict use_column
BEGIN
    -- Four days: a long weekend signs nobody out. Written every ten minutes at most: each request passes here.
    UPDATE web_session SET seen_at = now()
    WHERE token_hash = hash AND seen_at BETWEEN now() - interval '4 days' AND now() - interval '10 minutes';
    RETURN QUERY SELECT {_COMMON},
           {{values}}
    FROM web_session s
    JOIN person p ON p.shop_id = s.shop_id AND p.id = s.person_id AND p.active
    JOIN shop h ON h.id = s.shop_id
    {{joins}}
    WHERE s.token_hash = hash AND s.expires_at > now() AND s.seen_at > now() - interval '4 days';
END $$;
"""
# Which shop the transaction sees is the practice shop's while a play is under way.
PRACTISING = SESSION.format(
    columns=""", practice_shop uuid, practice_person uuid, practice_game uuid, practice_visit uuid,
               practice_now timestamptz, practice_help varchar, practice_title varchar""",
    values="""t.id, CASE WHEN t.id IS NOT NULL THEN practice_person(p.id) END, g.id, g.visit_id,
           g.begun_at + g.minutes * interval '1 minute', g.help, c.title,
           set_config('dry_gauge.shop_id', coalesce(t.id, s.shop_id)::text, true)""",
    joins="""LEFT JOIN practice_game g ON g.shop_id = s.shop_id AND g.id = s.practice_game AND g.person_id = s.person_id
        AND g.ended_at IS NULL
    LEFT JOIN practice_case c ON c.shop_id = g.shop_id AND c.code = g.code
    LEFT JOIN shop t ON t.practice_of = g.shop_id""",
)
PLAIN = SESSION.format(columns="", values="set_config('dry_gauge.shop_id', s.shop_id::text, true)", joins="")
_OPEN, _ENTER = "open_session(bytea)", ("practice_person(uuid)", "enter_practice(bytea, uuid)", "leave_practice(bytea)")


def upgrade() -> None:
    op.execute(TABLES)
    op.execute(ENTERING)
    op.execute(SIGN_IN.format(joins="JOIN shop h ON h.id = p.shop_id AND h.practice_of IS NULL"))
    op.execute(PRACTISING)
    _grant(_OPEN, *_ENTER)
    role = context.config.attributes["application_role"]
    op.execute(f'GRANT UPDATE (visit_id, minutes, help, told) ON practice_game TO "{role}"')


def downgrade() -> None:
    op.execute(PLAIN)
    _grant(_OPEN)
    for function in _ENTER:
        op.execute(f"DROP FUNCTION {function}")
    op.execute(SIGN_IN.format(joins=""))
    # Practice shops go, and what was played in them: in rounds, since rows of one table hold those of another.
    op.execute("""
DO $$
DECLARE
    named text;
BEGIN
    FOR round IN 1..12 LOOP
        FOR named IN SELECT c.table_name FROM information_schema.columns c JOIN information_schema.tables b
            ON b.table_schema = c.table_schema AND b.table_name = c.table_name AND b.table_type = 'BASE TABLE'
            WHERE c.table_schema = 'public' AND c.column_name = 'shop_id'
        LOOP
            BEGIN
                EXECUTE format('DELETE FROM %I WHERE shop_id IN (SELECT id FROM shop WHERE practice_of IS NOT NULL)', named);
            EXCEPTION WHEN foreign_key_violation THEN
                NULL;
            END;
        END LOOP;
    END LOOP;
    DELETE FROM shop WHERE practice_of IS NOT NULL;
END $$;
ALTER TABLE practice_game DROP visit_id, DROP minutes, DROP help, DROP told;
ALTER TABLE web_session DROP practice_game;
ALTER TABLE shop DROP practice_of;
""")


def _grant(*functions: str) -> None:
    role = context.config.attributes["application_role"]
    for function in functions:
        op.execute(f"REVOKE ALL ON FUNCTION {function} FROM PUBLIC")
        op.execute(f'GRANT EXECUTE ON FUNCTION {function} TO "{role}"')
