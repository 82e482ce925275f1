CREATE OR REPLACE FUNCTION tally_counted()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
DECLARE
  way int := CASE TG_OP WHEN 'INSERT' THEN 1 ELSE -1 END;
BEGIN
  UPDATE tally
  SET watches = watches + way * n.all, paused = tally.paused + way * n.paused, raised = tally.raised + way * n.raised,
    broken = tally.broken + way * n.broken
  FROM (SELECT count(*) AS all, count(*) FILTER (WHERE paused) AS paused, count(*) FILTER (WHERE raised) AS raised,
    count(*) FILTER (WHERE broken) AS broken FROM counted) n WHERE n.all > 0;
  RETURN NULL;
END $function$;
