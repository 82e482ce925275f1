-- What watches are sorted, filtered and grouped by.
ALTER TABLE watch ADD COLUMN tags text[] NOT NULL DEFAULT '{}';
ALTER TABLE standing ADD COLUMN site text NOT NULL DEFAULT '', ADD COLUMN owner text NOT NULL DEFAULT '',
  ADD COLUMN tags text[] NOT NULL DEFAULT '{}',
  ADD COLUMN moved_at timestamptz;
CREATE INDEX standing_tags ON standing USING gin (tags);
UPDATE standing SET due_at = '-infinity';

-- A watch that was deleted may be brought back.
CREATE OR REPLACE FUNCTION watch_moved() RETURNS trigger LANGUAGE plpgsql AS $$
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
END $$;
CREATE TRIGGER watch_tagged AFTER UPDATE OF tags ON watch FOR EACH ROW WHEN (OLD.tags
IS DISTINCT FROM NEW.tags) EXECUTE FUNCTION watch_moved();

-- The tags that watches bear, and how many bear each, so that a list of them is no walk through all watches.
CREATE TABLE tag (name text PRIMARY KEY, watches int NOT NULL DEFAULT 0);
CREATE FUNCTION tags_counted() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO tag (name, watches)
  SELECT n.name, sum(n.by) FROM (
    SELECT unnest(CASE WHEN OLD.state = 'deleted' THEN '{}' ELSE OLD.tags END) AS name, -1 AS by
    UNION ALL
    SELECT unnest(CASE WHEN NEW.state = 'deleted' THEN '{}' ELSE NEW.tags END), 1
  ) n GROUP BY n.name HAVING sum(n.by) <> 0 ORDER BY n.name
  ON CONFLICT (name) DO UPDATE SET watches = tag.watches + excluded.watches;
  RETURN NULL;
END $$;
CREATE TRIGGER tags_counted AFTER UPDATE OF tags, state ON watch FOR EACH ROW
  WHEN ((OLD.tags, OLD.state) IS DISTINCT FROM (NEW.tags, NEW.state)) EXECUTE FUNCTION tags_counted();
CREATE INDEX watch_of_owner ON watch (owner_id);
