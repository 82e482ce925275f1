-- The records of a watch as its page lists them.
CREATE INDEX record_in_order ON record (watch_id, (gone_since IS NOT NULL), id);

-- Where sources live, as people call it: our own, a rival's, a channel, or none of these.
CREATE TABLE site (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  name text NOT NULL UNIQUE CHECK (name <> ''),
  -- As its pages call it; by that it is known again when somebody has called it otherwise.
  said text NOT NULL UNIQUE,
  kind text CHECK (kind IN ('own', 'rival', 'channel'))
);

DROP TRIGGER source_moved ON source;
ALTER TABLE source ADD COLUMN site_id int REFERENCES site (id);
INSERT INTO site (name, said) SELECT DISTINCT s.called, s.called
FROM (SELECT left(coalesce(nullif(site, ''), host), 120) AS called FROM source) s ORDER BY 1;
UPDATE source SET site_id = site.id FROM site
WHERE site.name = left(coalesce(nullif(source.site, ''), source.host), 120);
ALTER TABLE source ALTER COLUMN site_id SET NOT NULL, DROP COLUMN site;
CREATE INDEX source_of_site ON source (site_id);
CREATE TRIGGER source_moved AFTER UPDATE OF site_id, address, host ON source FOR EACH ROW
  WHEN ((OLD.site_id, OLD.address, OLD.host)
  IS DISTINCT FROM (NEW.site_id, NEW.address, NEW.host)) EXECUTE FUNCTION source_moved();

CREATE FUNCTION site_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE standing SET due_at = '-infinity' FROM watch w JOIN source s ON s.id = w.source_id
  WHERE w.id = standing.watch_id AND s.site_id = NEW.id;
  RETURN NULL;
END $$;
CREATE TRIGGER site_moved AFTER UPDATE OF name ON site FOR EACH ROW
  WHEN (OLD.name <> NEW.name) EXECUTE FUNCTION site_moved();
