CREATE OR REPLACE FUNCTION tally_moved()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  UPDATE tally
  SET paused = paused + NEW.paused::int - OLD.paused::int, raised = raised + NEW.raised::int - OLD.raised::int,
    broken = broken + NEW.broken::int - OLD.broken::int;
  RETURN NULL;
END $function$;
