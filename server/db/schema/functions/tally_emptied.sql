CREATE OR REPLACE FUNCTION tally_emptied()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  UPDATE tally SET watches = 0, paused = 0, raised = 0, broken = 0;
  RETURN NULL;
END $function$;
