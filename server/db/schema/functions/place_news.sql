CREATE OR REPLACE FUNCTION place_news()
 RETURNS bigint
 LANGUAGE plpgsql
AS $function$
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
END $function$;
