namespace ComeAboard.Core.Connections;

/// <summary>What a PostgreSQL server has to have before login roles of members are looked after there.</summary>
public static class PostgresSetUp
{
    /// <summary>
    /// The script, for version 15 and later; run by a superuser in every database of the server, any number of times. By it a login
    /// called come_aboard may execute functions that touch roles of members and nothing else. It holds no right by itself.
    /// </summary>
    public const string Script = """
        -- Lets Come Aboard look after the login roles of members, and after nothing else. As a superuser, in every database of the server:
        --   aboard connections script | psql -v ON_ERROR_STOP=1 DATABASE
        -- Then give the login a password (\password come_aboard in psql), and say which group roles may be given to members:
        --   GRANT readers TO come_aboard_keeper WITH ADMIN OPTION;
        -- Whoever signs in as come_aboard may execute the functions below. They act as come_aboard_keeper, whom nobody signs in as.

        DO $$
        BEGIN
          IF to_regrole('come_aboard') IS NULL THEN
            CREATE ROLE come_aboard LOGIN NOINHERIT;
          END IF;
          IF to_regrole('come_aboard_keeper') IS NULL THEN
            CREATE ROLE come_aboard_keeper NOLOGIN CREATEROLE;
          END IF;
          -- Everybody who is looked after is in this one, which gives them nothing.
          IF to_regrole('come_aboard_members') IS NULL THEN
            CREATE ROLE come_aboard_members NOLOGIN;
          END IF;
          -- What a member leaves behind belongs to this one afterwards.
          IF to_regrole('come_aboard_left') IS NULL THEN
            CREATE ROLE come_aboard_left NOLOGIN;
          END IF;
        END $$;

        GRANT pg_signal_backend TO come_aboard_keeper;
        GRANT come_aboard_members, come_aboard_left TO come_aboard_keeper WITH ADMIN OPTION;

        CREATE SCHEMA IF NOT EXISTS come_aboard;
        REVOKE ALL ON SCHEMA come_aboard FROM PUBLIC;
        GRANT USAGE ON SCHEMA come_aboard TO come_aboard, come_aboard_keeper;

        -- Roles that were removed: a session of one goes on without a name, and is found by its number.
        CREATE TABLE IF NOT EXISTS come_aboard.gone (
          role oid PRIMARY KEY,
          name text NOT NULL,
          mark text NOT NULL,
          at timestamptz NOT NULL DEFAULT now()
        );
        ALTER TABLE come_aboard.gone OWNER TO come_aboard_keeper;

        -- The name of a role of a member; nothing is done to any other role.
        CREATE OR REPLACE FUNCTION come_aboard.managed(role oid) RETURNS name
        LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
        DECLARE
          found name;
        BEGIN
          SELECT r.rolname INTO found
          FROM pg_roles r
          JOIN pg_auth_members m ON m.member = r.oid AND m.roleid = to_regrole('come_aboard_members')
          WHERE r.oid = managed.role
            AND NOT (r.rolsuper OR r.rolcreaterole OR r.rolcreatedb OR r.rolreplication OR r.rolbypassrls);
          IF found IS NULL THEN
            RAISE EXCEPTION 'That is no role of a member.' USING ERRCODE = 'no_data_found';
          END IF;
          RETURN found;
        END $$;

        CREATE OR REPLACE FUNCTION come_aboard.offered() RETURNS SETOF text
        LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
          SELECT g.rolname::text
          FROM pg_auth_members m
          JOIN pg_roles g ON g.oid = m.roleid
          WHERE m.member = to_regrole('come_aboard_keeper') AND m.admin_option
            AND NOT (g.rolsuper OR g.rolcanlogin OR g.rolcreaterole OR g.rolreplication OR g.rolbypassrls)
            AND g.rolname NOT LIKE 'pg\_%'
            AND g.rolname NOT IN ('come_aboard_members', 'come_aboard_left')
        $$;

        CREATE OR REPLACE FUNCTION come_aboard.said(comment text) RETURNS json
        LANGUAGE plpgsql IMMUTABLE SET search_path = pg_catalog, pg_temp AS $$
        BEGIN
          RETURN comment::json;
        EXCEPTION WHEN OTHERS THEN
          RETURN NULL;
        END $$;

        -- What is there, sessions of roles that are gone among it.
        CREATE OR REPLACE FUNCTION come_aboard.held()
        RETURNS TABLE (
          role oid, name text, is_gone boolean, may_sign_in boolean, sessions bigint,
          ends timestamptz, mark text, display text, groups text[]
        )
        LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
          WITH open AS (
            SELECT a.usesysid, count(*) AS sessions FROM pg_stat_activity a WHERE a.usesysid IS NOT NULL GROUP BY a.usesysid
          )
          SELECT r.oid, r.rolname::text, false, r.rolcanlogin, coalesce(o.sessions, 0), nullif(r.rolvaliduntil, 'infinity'),
            coalesce(c.said->>'member', ''), coalesce(c.said->>'name', ''),
            ARRAY(
              SELECT g.rolname::text FROM pg_auth_members i JOIN pg_roles g ON g.oid = i.roleid
              WHERE i.member = r.oid AND i.roleid <> m.roleid
            )
          FROM pg_auth_members m
          JOIN pg_roles r ON r.oid = m.member
          LEFT JOIN open o ON o.usesysid = r.oid
          CROSS JOIN LATERAL (SELECT come_aboard.said(shobj_description(r.oid, 'pg_authid')) AS said) c
          WHERE m.roleid = to_regrole('come_aboard_members')
            AND NOT (r.rolsuper OR r.rolcreaterole OR r.rolcreatedb OR r.rolreplication OR r.rolbypassrls)
          UNION ALL
          SELECT g.role, g.name, true, false, o.sessions, NULL, g.mark, '', '{}'
          FROM come_aboard.gone g
          JOIN open o ON o.usesysid = g.role
          WHERE NOT EXISTS (SELECT FROM pg_roles r WHERE r.oid = g.role)
        $$;

        CREATE OR REPLACE FUNCTION come_aboard.describe(role oid, mark text, display text, ends timestamptz) RETURNS void
        LANGUAGE plpgsql SECURITY DEFINER
        SET search_path = pg_catalog, pg_temp SET timezone = 'UTC' SET datestyle = 'ISO' AS $$
        DECLARE
          who name := come_aboard.managed(role);
        BEGIN
          EXECUTE format('ALTER ROLE %I VALID UNTIL %L', who, coalesce(ends::text, 'infinity'));
          EXECUTE format('COMMENT ON ROLE %I IS %L', who, json_build_object('member', mark, 'name', display)::text);
        END $$;

        CREATE OR REPLACE FUNCTION come_aboard.make(name text, mark text, display text, ends timestamptz) RETURNS oid
        LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
        DECLARE
          made oid;
        BEGIN
          -- A longer one would be cut without a word.
          IF octet_length(name) NOT BETWEEN 1 AND 63 THEN
            RAISE EXCEPTION 'The name of a role has 1 to 63 bytes.' USING ERRCODE = 'invalid_name';
          END IF;
          EXECUTE format(
            'CREATE ROLE %I LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION NOBYPASSRLS IN ROLE come_aboard_members',
            name
          );
          made := (SELECT r.oid FROM pg_roles r WHERE r.rolname = make.name);
          PERFORM come_aboard.describe(made, mark, display, ends);
          RETURN made;
        END $$;

        CREATE OR REPLACE FUNCTION come_aboard.rename(role oid, name text) RETURNS void
        LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
        BEGIN
          IF octet_length(name) NOT BETWEEN 1 AND 63 THEN
            RAISE EXCEPTION 'The name of a role has 1 to 63 bytes.' USING ERRCODE = 'invalid_name';
          END IF;
          IF come_aboard.managed(role) <> name THEN
            EXECUTE format('ALTER ROLE %I RENAME TO %I', come_aboard.managed(role), name);
          END IF;
        END $$;

        CREATE OR REPLACE FUNCTION come_aboard.let_in(role oid, may_sign_in boolean) RETURNS void
        LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
        BEGIN
          EXECUTE format(
            'ALTER ROLE %I %s', come_aboard.managed(role), CASE WHEN may_sign_in THEN 'LOGIN' ELSE 'NOLOGIN' END
          );
        END $$;

        -- Called by itself, after letting nobody in is committed: in one transaction a session would get in between.
        CREATE OR REPLACE FUNCTION come_aboard.end_sessions(role oid) RETURNS bigint
        LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
        BEGIN
          IF EXISTS (SELECT FROM pg_roles r WHERE r.oid = end_sessions.role)
            OR NOT EXISTS (SELECT FROM come_aboard.gone g WHERE g.role = end_sessions.role)
          THEN
            PERFORM come_aboard.managed(role);
          END IF;
          PERFORM pg_terminate_backend(a.pid) FROM pg_stat_activity a WHERE a.usesysid = end_sessions.role;
          PERFORM pg_stat_clear_snapshot();
          RETURN (SELECT count(*) FROM pg_stat_activity a WHERE a.usesysid = end_sessions.role);
        END $$;

        CREATE OR REPLACE FUNCTION come_aboard.put_in(role oid, into_group text, is_in boolean) RETURNS void
        LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
        BEGIN
          IF NOT EXISTS (SELECT FROM come_aboard.offered() o WHERE o = into_group) THEN
            RAISE EXCEPTION 'That group role is not one that may be given to members.' USING ERRCODE = 'no_data_found';
          END IF;
          EXECUTE format(
            CASE WHEN is_in THEN 'GRANT %I TO %I' ELSE 'REVOKE %I FROM %I' END, into_group, come_aboard.managed(role)
          );
        END $$;

        -- In which databases a role owns something, or something is granted to it.
        CREATE OR REPLACE FUNCTION come_aboard.owned_in(role oid) RETURNS SETOF text
        LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
          SELECT DISTINCT d.datname::text
          FROM pg_shdepend s
          JOIN pg_database d ON d.oid = s.dbid
          WHERE s.refclassid = 'pg_authid'::regclass AND s.refobjid = owned_in.role
        $$;

        -- Hands over what a role owns in this database, and takes away what is granted to it here.
        CREATE OR REPLACE FUNCTION come_aboard.hand_over(role oid) RETURNS void
        LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
        DECLARE
          who name := come_aboard.managed(role);
        BEGIN
          EXECUTE format('GRANT %I TO come_aboard_keeper', who);
          EXECUTE format('REASSIGN OWNED BY %I TO come_aboard_left', who);
          EXECUTE format('DROP OWNED BY %I', who);
          EXECUTE format('REVOKE %I FROM come_aboard_keeper', who);
        END $$;

        CREATE OR REPLACE FUNCTION come_aboard.remove(role oid) RETURNS void
        LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, pg_temp AS $$
        DECLARE
          who name := come_aboard.managed(role);
        BEGIN
          IF EXISTS (SELECT FROM pg_stat_activity a WHERE a.usesysid = remove.role) THEN
            RAISE EXCEPTION 'They are still signed in.' USING ERRCODE = 'object_in_use';
          END IF;
          INSERT INTO come_aboard.gone (role, name, mark)
          VALUES (
            remove.role, who, coalesce(come_aboard.said(shobj_description(remove.role, 'pg_authid'))->>'member', '')
          )
          ON CONFLICT ON CONSTRAINT gone_pkey DO UPDATE SET name = excluded.name, mark = excluded.mark, at = now();
          EXECUTE format('DROP ROLE %I', who);
        END $$;

        DO $$
        DECLARE
          one regprocedure;
        BEGIN
          FOR one IN SELECT p.oid FROM pg_proc p WHERE p.pronamespace = 'come_aboard'::regnamespace LOOP
            EXECUTE format('ALTER FUNCTION %s OWNER TO come_aboard_keeper', one);
            EXECUTE format('REVOKE ALL ON FUNCTION %s FROM PUBLIC', one);
            EXECUTE format('GRANT EXECUTE ON FUNCTION %s TO come_aboard', one);
          END LOOP;
        END $$;
        """;
}
