-- What watches are sorted, filtered and grouped by.
ALTER TABLE watch ADD COLUMN tags text[] NOT NULL DEFAULT '{}';
ALTER TABLE standing ADD COLUMN site text NOT NULL DEFAULT '', ADD COLUMN owner text NOT NULL DEFAULT '', ADD COLUMN tags text[] NOT NULL DEFAULT '{}',
  ADD COLUMN moved_at timestamptz;
CREATE INDEX standing_tags ON standing USING gin (tags);
UPDATE standing SET due_at = '-infinity';

-- A watch that was deleted may be brought back.
CREATE OR REPLACE FUNCTION watch_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF NEW.state = 'deleted' THEN
    DELETE FROM standing WHERE watch_id = NEW.id;
  ELSIF OLD.state = 'deleted' THEN
    INSERT INTO standing (watch_id, subject, paused) VALUES (NEW.id, NEW.subject, NEW.state = 'paused') ON CONFLICT DO NOTHING;
  ELSE
    UPDATE standing SET subject = NEW.subject, paused = NEW.state = 'paused', due_at = '-infinity' WHERE watch_id = NEW.id;
  END IF;
  RETURN NULL;
END $$;
CREATE TRIGGER watch_tagged AFTER UPDATE OF tags ON watch FOR EACH ROW WHEN (OLD.tags IS DISTINCT FROM NEW.tags) EXECUTE FUNCTION watch_moved();
