CREATE OR REPLACE FUNCTION make_partitions(
  parent text, unit text, from_moment timestamp with time zone, to_moment timestamp with time zone
)
 RETURNS void
 LANGUAGE plpgsql
AS $function$
DECLARE
  start timestamp := date_trunc(unit, from_moment AT TIME ZONE 'UTC');
  step interval := ('1 ' || unit)::interval;
  name text;
BEGIN
  PERFORM pg_advisory_xact_lock(hashtext('shrike partitions'));
  WHILE start <= to_moment AT TIME ZONE 'UTC' LOOP
    name := parent || to_char(start, CASE unit WHEN 'month' THEN '_YYYY_MM' ELSE '_YYYY_MM_DD' END);
    IF to_regclass(name) IS NULL THEN
      EXECUTE format('CREATE TABLE %I PARTITION OF %I FOR VALUES FROM (%L) TO (%L) %s', name, parent,
        start AT TIME ZONE 'UTC',
        (start + step) AT TIME ZONE 'UTC', CASE parent WHEN 'reading' THEN 'WITH (fillfactor = 70)' ELSE '' END);
    END IF;
    start := start + step;
  END LOOP;
END $function$;
