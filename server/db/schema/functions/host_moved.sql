CREATE OR REPLACE FUNCTION host_moved()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  UPDATE standing SET due_at = '-infinity' FROM watch w JOIN source s ON s.id = w.source_id
  WHERE w.id = standing.watch_id AND s.host = NEW.name;
  RETURN NULL;
END $function$;
