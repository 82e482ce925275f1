CREATE OR REPLACE FUNCTION claim_due(
  at timestamp with time zone, lease_end timestamp with time zone, most integer, token uuid, ways text[],
  process uuid, suspects boolean
)
 RETURNS SETOF due
 LANGUAGE plpgsql
AS $function$
BEGIN
  PERFORM FROM due WHERE due_at <= at AND (lease_until IS NULL OR lease_until < at) AND way = ANY(ways) LIMIT 1;
  IF NOT FOUND THEN
    RETURN;
  END IF;
  PERFORM pg_advisory_xact_lock(hashtext('shrike claim'));
  RETURN QUERY
    WITH busy AS (
      SELECT host, count(*) AS n FROM due WHERE lease_until >= at GROUP BY host
    ), room AS (
      -- A host with a pause between requests is asked one thing at a time.
      SELECT h.name, least(CASE WHEN h.pause_ms > 0 THEN 1 ELSE h.most_at_once END - coalesce(b.n, 0),
        h.runs_a_day - CASE WHEN h.runs_until > at THEN h.runs_made ELSE 0 END) AS places
      FROM host h LEFT JOIN busy b ON b.host = h.name
      WHERE h.paused_at IS NULL AND (h.next_at IS NULL OR h.next_at <= at)
    ), candidate AS (
      SELECT d.source_id, d.host, d.due_at, room.places FROM due d JOIN room ON room.name = d.host
      WHERE d.due_at <= at AND (d.lease_until IS NULL OR d.lease_until < at) AND d.way = ANY(ways) AND room.places > 0
        -- A run without an end, by a process other than this one, is suspect from now on.
        AND (suspects IS NULL
          OR suspects = (d.deaths > 0 OR (d.lease_token IS NOT NULL AND d.begun_by IS DISTINCT FROM process)))
      ORDER BY d.due_at LIMIT 4 * most FOR UPDATE OF d SKIP LOCKED
    ), ranked AS (
      SELECT c.source_id, c.host, c.due_at, c.places, row_number() OVER (PARTITION BY c.host ORDER BY c.due_at) AS place
      FROM candidate c
    ), chosen AS (
      SELECT ranked.source_id, ranked.host FROM ranked WHERE place <= places ORDER BY ranked.due_at LIMIT most
    ), counted AS (
      UPDATE host h SET runs_made = c.n + CASE WHEN h.runs_until > at THEN h.runs_made ELSE 0 END,
        runs_until = CASE WHEN h.runs_until > at THEN h.runs_until
          ELSE (date_trunc('day', at AT TIME ZONE h.runs_zone) + interval '1 day') AT TIME ZONE h.runs_zone END
      FROM (SELECT host, count(*)::int AS n FROM chosen GROUP BY host) c
      WHERE h.name = c.host AND h.runs_a_day IS NOT NULL
    )
    UPDATE due d SET lease_until = lease_end, lease_token = token, begun_by = process,
      deaths = d.deaths + (d.lease_token IS NOT NULL AND d.begun_by IS DISTINCT FROM process)::int
    FROM chosen WHERE d.source_id = chosen.source_id RETURNING d.*;
END $function$;
