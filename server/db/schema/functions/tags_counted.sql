CREATE OR REPLACE FUNCTION tags_counted()
 RETURNS trigger
 LANGUAGE plpgsql
AS $function$
BEGIN
  INSERT INTO tag (name, watches)
  SELECT n.name, sum(n.by) FROM (
    SELECT unnest(CASE WHEN OLD.state = 'deleted' THEN '{}' ELSE OLD.tags END) AS name, -1 AS by
    UNION ALL
    SELECT unnest(CASE WHEN NEW.state = 'deleted' THEN '{}' ELSE NEW.tags END), 1
  ) n GROUP BY n.name HAVING sum(n.by) <> 0 ORDER BY n.name
  ON CONFLICT (name) DO UPDATE SET watches = tag.watches + excluded.watches;
  RETURN NULL;
END $function$;
