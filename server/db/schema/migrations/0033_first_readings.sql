-- What was read first of each series that is told of: news of its own, in the order of commits with the rest.
CREATE TABLE first_reading (
  series_id bigint PRIMARY KEY REFERENCES series ON DELETE CASCADE,
  seq bigint UNIQUE,
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  value jsonb NOT NULL,
  seen_at timestamptz NOT NULL
);
CREATE INDEX first_reading_unplaced ON first_reading (series_id) WHERE seq IS NULL;
CREATE INDEX first_reading_of_watch ON first_reading (watch_id);

-- Of what is placed together the earlier comes first: numbers are handed out in blocks, so that a later look may have
-- the lower ones.
CREATE OR REPLACE FUNCTION place_news() RETURNS bigint LANGUAGE plpgsql AS $$
DECLARE
  reached bigint;
BEGIN
  SELECT last INTO reached FROM commit_order FOR UPDATE;
  WITH unplaced AS (
    SELECT id, seen_at AS at FROM change WHERE seq IS NULL
    UNION ALL SELECT id, seen_at FROM alert WHERE seq IS NULL
    UNION ALL SELECT id, made_at FROM notice WHERE seq IS NULL
    UNION ALL SELECT series_id, seen_at FROM first_reading WHERE seq IS NULL
  ), numbered AS (
    SELECT id, reached + row_number() OVER (ORDER BY at, id) AS place FROM unplaced
  ), changes AS (
    UPDATE change t SET seq = place FROM numbered n WHERE t.id = n.id AND t.seq IS NULL
  ), alerts AS (
    UPDATE alert t SET seq = place FROM numbered n WHERE t.id = n.id AND t.seq IS NULL
  ), notices AS (
    UPDATE notice t SET seq = place FROM numbered n WHERE t.id = n.id AND t.seq IS NULL
  ), firsts AS (
    UPDATE first_reading t SET seq = place FROM numbered n WHERE t.series_id = n.id AND t.seq IS NULL
  )
  UPDATE commit_order SET last = coalesce((SELECT max(place) FROM numbered), last) RETURNING last INTO reached;
  RETURN reached;
END $$;
