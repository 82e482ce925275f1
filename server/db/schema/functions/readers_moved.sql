CREATE OR REPLACE FUNCTION readers_moved()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  PERFORM report_moved(CASE WHEN TG_OP = 'DELETE' THEN OLD.report_id ELSE NEW.report_id END);
  RETURN NULL;
END $function$;
