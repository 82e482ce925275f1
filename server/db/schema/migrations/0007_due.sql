-- When a source is due, and who has it, stands in a narrow table: it moves with every look, twice, and what else is
-- known of a source
-- need not be written anew for it, nor its indexes.
CREATE TABLE due (
  source_id int PRIMARY KEY REFERENCES source ON DELETE CASCADE,
  host text NOT NULL REFERENCES host,
  way text NOT NULL,
  due_at timestamptz,
  lease_until timestamptz,
  lease_token uuid,
  -- Runs that were begun and came to no end, because the process that made them did: those of this process, which
  -- lives, do not count.
  -- A source that may have ended a process is run by itself; the second time it is set aside.
  begun_by uuid,
  deaths int NOT NULL DEFAULT 0
) WITH (fillfactor = 50);
INSERT INTO due (source_id, host, way, due_at, lease_until, lease_token, begun_by, deaths)
SELECT id, host, way, due_at, lease_until, lease_token, begun_by, deaths FROM source;
CREATE INDEX due_by_time ON due (due_at) WHERE due_at IS NOT NULL;
CREATE INDEX due_leased ON due (host, lease_until) WHERE lease_until IS NOT NULL;

DROP FUNCTION claim_due(timestamptz, timestamptz, int, uuid, text[], uuid, boolean);
ALTER TABLE source DROP COLUMN due_at, DROP COLUMN lease_until, DROP COLUMN lease_token, DROP COLUMN begun_by,
  DROP COLUMN deaths;

-- Leases due sources to a worker, never more of one host at once than its allowance. Claims are made one after another:
-- the lock comes
-- in a statement of its own, so that what follows sees the claim before it. Sources that are slow by nature, as
-- rendered pages are, keep
-- the quick ones waiting no longer: a worker claims each kind by itself. Hosts that are asked as much as they allow are
-- passed over
-- before the earliest are chosen, so that a slow one with many sources keeps no other host waiting.
CREATE FUNCTION claim_due(at timestamptz, lease_end timestamptz, most int, token uuid, ways text[], process uuid,
  suspects boolean) RETURNS SETOF due
LANGUAGE plpgsql AS $$
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
      SELECT h.name, CASE WHEN h.pause_ms > 0 THEN 1 ELSE h.most_at_once END - coalesce(b.n, 0) AS places
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
      SELECT c.source_id, c.due_at, c.places, row_number() OVER (PARTITION BY c.host ORDER BY c.due_at) AS place
      FROM candidate c
    ), chosen AS (
      SELECT ranked.source_id FROM ranked WHERE place <= places ORDER BY ranked.due_at LIMIT most
    )
    UPDATE due d SET lease_until = lease_end, lease_token = token, begun_by = process,
      deaths = d.deaths + (d.lease_token IS NOT NULL AND d.begun_by IS DISTINCT FROM process)::int
    FROM chosen WHERE d.source_id = chosen.source_id RETURNING d.*;
END $$;
