CREATE OR REPLACE FUNCTION delivery_moved()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  UPDATE standing SET due_at = '-infinity' FROM notification t JOIN alert a ON a.id = t.alert_id
  WHERE t.delivery_id = NEW.id AND a.watch_id = standing.watch_id;
  RETURN NULL;
END $function$;
