-- Hands all that is in a database of an earlier version to the application's own role, which is no superuser.
DO $$
DECLARE what record;
BEGIN
  FOR what IN SELECT nspname FROM pg_namespace WHERE nspname IN ('public', 'hangfire') LOOP
    EXECUTE format('ALTER SCHEMA %I OWNER TO falzkunst_app', what.nspname);
  END LOOP;
  FOR what IN SELECT n.nspname, c.relname, c.relkind FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
    WHERE n.nspname IN ('public', 'hangfire') AND c.relkind IN ('r', 'v', 'm', 'S')
      AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = c.oid AND d.deptype IN ('a', 'i') AND c.relkind = 'S') LOOP
    EXECUTE format('ALTER %s %I.%I OWNER TO falzkunst_app', CASE what.relkind WHEN 'S' THEN 'SEQUENCE' WHEN 'v' THEN 'VIEW' WHEN 'm' THEN 'MATERIALIZED VIEW'
      ELSE 'TABLE' END, what.nspname, what.relname);
  END LOOP;
  FOR what IN SELECT p.oid::regprocedure AS name FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace WHERE n.nspname IN ('public', 'hangfire') LOOP
    EXECUTE format('ALTER ROUTINE %s OWNER TO falzkunst_app', what.name);
  END LOOP;
END $$;
