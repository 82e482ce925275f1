CREATE OR REPLACE FUNCTION rule_moved()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  UPDATE standing SET due_at = '-infinity' WHERE watch_id = NEW.watch_id;
  RETURN NULL;
END $function$;
