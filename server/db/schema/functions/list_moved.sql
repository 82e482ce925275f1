CREATE OR REPLACE FUNCTION list_moved()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  PERFORM report_moved(report_id) FROM report_reader
  WHERE list_id = CASE WHEN TG_OP = 'DELETE' THEN OLD.list_id ELSE NEW.list_id END;
  RETURN NULL;
END $function$;
