-- What is kept of a draft says on which state of it it builds, so that two tabs do not overwrite one another unsaid.
ALTER TABLE draft
  ADD COLUMN revision int NOT NULL DEFAULT 0,
  ADD COLUMN edited_by text;

-- The watch that a draft became: whoever asks once more is answered with it.
CREATE TABLE draft_done (
  draft_id int PRIMARY KEY,
  person_id int NOT NULL REFERENCES person ON DELETE CASCADE,
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  done_at timestamptz NOT NULL
);

-- An attempt at a delivery is a lease: until then nobody else tries, and from then on its outcome is unknown.
ALTER TABLE delivery ADD COLUMN attempt_until timestamptz;

-- Who may sign in.
CREATE TABLE account (
  person_id int PRIMARY KEY REFERENCES person ON DELETE CASCADE,
  -- Argon2id, in the PHC string format.
  password text NOT NULL,
  made_at timestamptz NOT NULL
);

-- Runs that were begun and came to no end, because the process that made them did: those of this process, which lives,
-- do not count.
-- A source that may have ended a process is run by itself; the second time it is set aside.
ALTER TABLE source
  ADD COLUMN deaths int NOT NULL DEFAULT 0,
  ADD COLUMN begun_by uuid;
ALTER TABLE look ADD COLUMN begun int NOT NULL DEFAULT 0;

DROP FUNCTION claim_due(timestamptz, timestamptz, int, uuid, text[]);

CREATE FUNCTION claim_due(at timestamptz, lease_end timestamptz, most int, token uuid, ways text[], process uuid,
  suspects boolean) RETURNS SETOF source
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
      SELECT h.name, CASE WHEN h.pause_ms > 0 THEN 1 ELSE h.most_at_once END - coalesce(b.n, 0) AS places
      FROM host h LEFT JOIN busy b ON b.host = h.name
      WHERE h.paused_at IS NULL AND (h.next_at IS NULL OR h.next_at <= at)
    ), candidate AS (
      SELECT s.id, s.host, s.due_at, room.places FROM source s JOIN room ON room.name = s.host
      WHERE s.due_at <= at AND (s.lease_until IS NULL OR s.lease_until < at) AND s.way = ANY(ways) AND room.places > 0
        -- A run without an end, by a process other than this one, is suspect from now on.
        AND (suspects IS NULL
          OR suspects = (s.deaths > 0 OR (s.lease_token IS NOT NULL AND s.begun_by IS DISTINCT FROM process)))
      ORDER BY s.due_at LIMIT 4 * most FOR UPDATE OF s SKIP LOCKED
    ), ranked AS (
      SELECT c.id, c.due_at, c.places, row_number() OVER (PARTITION BY c.host ORDER BY c.due_at) AS place
      FROM candidate c
    ), chosen AS (
      SELECT ranked.id FROM ranked WHERE place <= places ORDER BY ranked.due_at LIMIT most
    )
    UPDATE source s SET lease_until = lease_end, lease_token = token, begun_by = process,
      deaths = s.deaths + (s.lease_token IS NOT NULL AND s.begun_by IS DISTINCT FROM process)::int
    FROM chosen WHERE s.id = chosen.id RETURNING s.*;
END $$;

-- What has grown old is found by its time, and not removed while news leans on it.
CREATE INDEX run_by_time ON run USING brin (started_at);
CREATE INDEX watch_run_by_time ON watch_run USING brin (started_at);
CREATE INDEX verdict_by_time ON verdict USING brin (made_at);
CREATE INDEX snapshot_by_time ON snapshot USING brin (taken_at);
CREATE INDEX change_of_run ON change (run_id);
CREATE INDEX alert_of_run ON alert (run_id);
CREATE INDEX alert_of_episode ON alert (episode_id);
CREATE INDEX notice_of_run ON notice (run_id);
CREATE INDEX edition_alert_of_alert ON edition_alert (alert_id);
CREATE INDEX edition_notice_of_notice ON edition_notice (notice_id);

-- A text of any length as it is shown in passing: its beginning, and how long it is.
CREATE FUNCTION shown(value jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
  SELECT CASE WHEN value->>'kind' = 'text' AND length(value->>'text') > 2000
    THEN value || jsonb_build_object('text', left(value->>'text', 2000) || '…', 'whole', length(value->>'text'))
      ELSE value END
$$;

-- Of a change between long texts, what differs with its neighbourhood; null where both are short.
ALTER TABLE change ADD COLUMN was_shown jsonb, ADD COLUMN now_shown jsonb;
