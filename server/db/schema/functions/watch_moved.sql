CREATE OR REPLACE FUNCTION watch_moved()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  IF NEW.state = 'deleted' THEN
    DELETE FROM standing WHERE watch_id = NEW.id;
  ELSIF OLD.state = 'deleted' THEN
    INSERT INTO standing (watch_id, subject, paused) VALUES (NEW.id, NEW.subject, NEW.state = 'paused')
    ON CONFLICT DO NOTHING;
  ELSE
    UPDATE standing SET subject = NEW.subject, paused = NEW.state = 'paused', due_at = '-infinity'
    WHERE watch_id = NEW.id;
  END IF;
  RETURN NULL;
END $function$;
