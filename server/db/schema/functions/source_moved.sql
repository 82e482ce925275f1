CREATE OR REPLACE FUNCTION source_moved()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  UPDATE standing SET due_at = '-infinity' FROM watch w WHERE w.id = standing.watch_id AND w.source_id = NEW.id;
  RETURN NULL;
END $function$;
