CREATE OR REPLACE FUNCTION site_moved()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  UPDATE standing SET due_at = '-infinity' FROM watch w JOIN source s ON s.id = w.source_id
  WHERE w.id = standing.watch_id AND s.site_id = NEW.id;
  RETURN NULL;
END $function$;
