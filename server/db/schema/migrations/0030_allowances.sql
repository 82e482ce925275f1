-- How much may go out: mails within an hour and a day, in all and to each reader, and short texts within a month.
CREATE TABLE allowance (
  of text PRIMARY KEY CHECK (of IN ('mails', 'mails a reader', 'texts')),
  an_hour int CHECK (an_hour > 0),
  a_day int CHECK (a_day > 0),
  a_month int CHECK (a_month > 0),
  -- Who said so, and is told before it is spent.
  owner_id int NOT NULL REFERENCES person,
  CHECK (num_nonnulls(an_hour, a_day, a_month) > 0)
);
CREATE INDEX allowance_of_owner ON allowance (owner_id);
-- How often a host may be looked at in a day of a zone.
ALTER TABLE host
  ADD COLUMN looks_a_day int CHECK (looks_a_day > 0),
  ADD COLUMN looks_zone text,
  ADD COLUMN looks_owner int REFERENCES person,
  ADD COLUMN looks int NOT NULL DEFAULT 0,
  ADD COLUMN looks_until timestamptz;
CREATE INDEX host_with_looks ON host (name) WHERE looks_a_day IS NOT NULL;
CREATE INDEX host_of_looks_owner ON host (looks_owner) WHERE looks_owner IS NOT NULL;
-- What its owner was told is nearly spent; taken away when it is not any more.
CREATE TABLE allowance_told (
  of text NOT NULL,
  about text NOT NULL,
  told_at timestamptz NOT NULL,
  PRIMARY KEY (of, about)
);
-- When that was looked at last, by whichever worker.
CREATE TABLE allowance_check (checked_at timestamptz NOT NULL);
INSERT INTO allowance_check VALUES ('-infinity');

ALTER TABLE delivery DROP CONSTRAINT delivery_purpose_check;
ALTER TABLE delivery ADD CONSTRAINT delivery_purpose_check CHECK (purpose IN ('edition', 'confirmation', 'warning'));
CREATE INDEX delivery_sent_to ON delivery (person_id, sent_at) WHERE route = 'mail' AND sent_at IS NOT NULL;
CREATE INDEX delivery_texts ON delivery (ordered_at) WHERE route = 'text';

-- Until when no further mail may go to a reader; null where one may. `ordered` counts those, too, that wait to be sent.
CREATE FUNCTION mails_spent_until(reader int, at timestamptz, ordered boolean) RETURNS timestamptz LANGUAGE sql
  STABLE AS $$
  SELECT max(last.t + w.within)
  FROM allowance a
  CROSS JOIN LATERAL (VALUES (a.an_hour, interval '60 minutes'), (a.a_day, interval '24 hours')) AS w(most, within)
  CROSS JOIN LATERAL (
    SELECT x.t FROM (
      (SELECT d.sent_at AS t FROM delivery d WHERE a.of = 'mails' AND d.route = 'mail' AND d.sent_at > at - w.within
      ORDER BY d.sent_at DESC LIMIT w.most)
      UNION ALL
      (SELECT d.sent_at FROM delivery d
      WHERE a.of = 'mails a reader' AND d.person_id = reader AND d.route = 'mail' AND d.sent_at > at - w.within
        ORDER BY d.sent_at DESC LIMIT w.most)
      UNION ALL
      (SELECT at FROM delivery d
      WHERE d.route = 'mail' AND d.state <> 'sent' AND (a.of = 'mails' OR d.person_id = reader)
        AND (d.state = 'sending'
          OR (ordered AND d.number IS NOT NULL
          AND (d.state IN ('queued', 'refused') OR (d.state = 'kept back' AND d.reason = 'allowance'))))
        LIMIT w.most)
    ) x ORDER BY x.t DESC OFFSET w.most - 1 LIMIT 1
  ) last
  WHERE a.of IN ('mails', 'mails a reader') AND w.most IS NOT NULL
$$;

-- Whether the short texts of this month, by the clock of whoever allowed them, are spent.
CREATE FUNCTION texts_spent(at timestamptz) RETURNS boolean LANGUAGE sql STABLE AS $$
  SELECT EXISTS (
    SELECT FROM allowance a JOIN person q ON q.id = a.owner_id
    WHERE a.of = 'texts' AND a.a_month <= (
      SELECT count(*) FROM delivery d WHERE d.route = 'text' AND d.state <> 'given up'
        AND d.ordered_at >= date_trunc('month', at AT TIME ZONE q.zone) AT TIME ZONE q.zone))
$$;

-- As before, and no more of a host in a day than it allows.
CREATE
  OR REPLACE FUNCTION claim_due(at timestamptz, lease_end timestamptz, most int, token uuid, ways text[], process uuid,
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
      SELECT h.name, least(CASE WHEN h.pause_ms > 0 THEN 1 ELSE h.most_at_once END - coalesce(b.n, 0),
        h.looks_a_day - CASE WHEN h.looks_until > at THEN h.looks ELSE 0 END) AS places
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
      UPDATE host h SET looks = c.n + CASE WHEN h.looks_until > at THEN h.looks ELSE 0 END,
        looks_until = CASE WHEN h.looks_until > at THEN h.looks_until
          ELSE (date_trunc('day', at AT TIME ZONE h.looks_zone) + interval '1 day') AT TIME ZONE h.looks_zone END
      FROM (SELECT host, count(*)::int AS n FROM chosen GROUP BY host) c
      WHERE h.name = c.host AND h.looks_a_day IS NOT NULL
    )
    UPDATE due d SET lease_until = lease_end, lease_token = token, begun_by = process,
      deaths = d.deaths + (d.lease_token IS NOT NULL AND d.begun_by IS DISTINCT FROM process)::int
    FROM chosen WHERE d.source_id = chosen.source_id RETURNING d.*;
END $$;
