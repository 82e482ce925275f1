-- Sources that are slow by nature, as rendered pages are, keep the quick ones waiting no longer: a worker claims each
-- kind by itself. Hosts that are asked as much as they allow are passed over before the earliest are chosen, so that a
-- slow one with many sources keeps no other host waiting.
DROP FUNCTION claim_due(timestamptz, timestamptz, int, uuid);

CREATE FUNCTION claim_due(at timestamptz, lease_end timestamptz, most int, token uuid, ways text[]) RETURNS SETOF source
LANGUAGE plpgsql AS $$
BEGIN
  PERFORM FROM source WHERE due_at <= at AND (lease_until IS NULL OR lease_until < at) AND way = ANY(ways) LIMIT 1;
  IF NOT FOUND THEN
    RETURN;
  END IF;
  PERFORM pg_advisory_xact_lock(hashtext('shrike claim'));
  RETURN QUERY
    WITH busy AS (
      SELECT host, count(*) AS n FROM source WHERE lease_until >= at GROUP BY host
    ), room AS (
      -- A host with a pause between requests is asked one thing at a time.
      SELECT h.name, h.pause_ms, CASE WHEN h.pause_ms > 0 THEN 1 ELSE h.most_at_once END - coalesce(b.n, 0) AS places
      FROM host h LEFT JOIN busy b ON b.host = h.name
      WHERE h.paused_at IS NULL AND (h.next_at IS NULL OR h.next_at <= at)
    ), candidate AS (
      SELECT s.id, s.host, s.due_at, room.places FROM source s JOIN room ON room.name = s.host
      WHERE s.due_at <= at AND (s.lease_until IS NULL OR s.lease_until < at) AND s.way = ANY(ways) AND room.places > 0
      ORDER BY s.due_at LIMIT 4 * most FOR UPDATE OF s SKIP LOCKED
    ), ranked AS (
      SELECT c.id, c.host, c.due_at, c.places, row_number() OVER (PARTITION BY c.host ORDER BY c.due_at) AS place FROM candidate c
    ), chosen AS (
      SELECT ranked.id, ranked.host FROM ranked WHERE place <= places ORDER BY ranked.due_at LIMIT most
    ), paced AS (
      UPDATE host h SET next_at = at + h.pause_ms * interval '1 ms' WHERE h.pause_ms > 0 AND h.name IN (SELECT chosen.host FROM chosen)
    )
    UPDATE source s SET lease_until = lease_end, lease_token = token FROM chosen WHERE s.id = chosen.id RETURNING s.*;
END $$;
