-- Ids of what runs bring forth are handed out in blocks of 100, so that a run needs no round trip for them.
CREATE SEQUENCE record_id INCREMENT BY 100;

CREATE TABLE person (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  name text NOT NULL,
  email text NOT NULL UNIQUE,
  locale text NOT NULL DEFAULT 'en-GB',
  zone text NOT NULL DEFAULT 'Europe/London',
  confirmed_at timestamptz,
  last_looked_at timestamptz,
  looked_until timestamptz
);

CREATE TABLE session (
  token_hash bytea PRIMARY KEY,
  person_id int NOT NULL REFERENCES person ON DELETE CASCADE,
  created_at timestamptz NOT NULL,
  expires_at timestamptz NOT NULL
);

CREATE TABLE list (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  name text NOT NULL UNIQUE
);

CREATE TABLE list_member (
  list_id int NOT NULL REFERENCES list ON DELETE CASCADE,
  person_id int NOT NULL REFERENCES person ON DELETE CASCADE,
  PRIMARY KEY (list_id, person_id)
);

CREATE TABLE host (
  name text PRIMARY KEY,
  most_at_once int NOT NULL DEFAULT 2 CHECK (most_at_once > 0)
);

CREATE TABLE source (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  address text NOT NULL,
  way text NOT NULL DEFAULT 'plain' CHECK (way IN ('plain')),
  host text NOT NULL REFERENCES host,
  site text NOT NULL,
  created_at timestamptz NOT NULL,
  -- The shortest interval any running watch asks; null while nothing watches it.
  interval_ms bigint CHECK (interval_ms > 0),
  due_at timestamptz,
  lease_until timestamptz,
  lease_token uuid,
  -- What the last good fetch brought, to ask for less the next time.
  etag text,
  last_modified text,
  body_hash bytea,
  snapshot_id bigint,
  last_run_at timestamptz,
  failing_since timestamptz,
  UNIQUE (address, way)
);
CREATE INDEX source_due ON source (due_at) WHERE due_at IS NOT NULL;
CREATE INDEX source_leased ON source (host, lease_until) WHERE lease_until IS NOT NULL;

-- Leases due sources to a worker, never more of one host at once than its allowance. Claims are made one after
-- another: the lock comes in a statement of its own, so that what follows sees the claim before it.
CREATE FUNCTION claim_due(at timestamptz, lease_end timestamptz, most int, token uuid) RETURNS SETOF source
LANGUAGE plpgsql AS $$
BEGIN
  PERFORM FROM source WHERE due_at <= at AND (lease_until IS NULL OR lease_until < at) LIMIT 1;
  IF NOT FOUND THEN
    RETURN;
  END IF;
  PERFORM pg_advisory_xact_lock(hashtext('shrike claim'));
  RETURN QUERY
    WITH busy AS (
      SELECT host, count(*) AS n FROM source WHERE lease_until >= at GROUP BY host
    ), candidate AS (
      SELECT s.id, s.host, s.due_at FROM source s
      WHERE s.due_at <= at AND (s.lease_until IS NULL OR s.lease_until < at)
      ORDER BY s.due_at LIMIT 4 * most FOR UPDATE SKIP LOCKED
    ), ranked AS (
      SELECT c.id, c.due_at, row_number() OVER (PARTITION BY c.host ORDER BY c.due_at) + coalesce(b.n, 0) AS place,
        h.most_at_once
      FROM candidate c JOIN host h ON h.name = c.host LEFT JOIN busy b ON b.host = c.host
    ), chosen AS (
      SELECT ranked.id FROM ranked WHERE place <= most_at_once ORDER BY ranked.due_at LIMIT most
    )
    UPDATE source s SET lease_until = lease_end, lease_token = token FROM chosen WHERE s.id = chosen.id RETURNING s.*;
END $$;

CREATE TABLE run (
  id bigint PRIMARY KEY,
  source_id int NOT NULL REFERENCES source ON DELETE CASCADE,
  due_at timestamptz NOT NULL,
  started_at timestamptz NOT NULL,
  took_ms int NOT NULL,
  late_ms bigint NOT NULL,
  outcome text NOT NULL CHECK (outcome IN ('first', 'same', 'changed', 'failed')),
  status int,
  bytes int NOT NULL DEFAULT 0,
  problem jsonb,
  snapshot_id bigint
);
CREATE INDEX run_of_source ON run (source_id, started_at DESC);

CREATE TABLE snapshot (
  id bigint PRIMARY KEY,
  source_id int NOT NULL REFERENCES source ON DELETE CASCADE,
  run_id bigint NOT NULL,
  taken_at timestamptz NOT NULL,
  body_hash bytea NOT NULL,
  body text COMPRESSION lz4 NOT NULL,
  address text NOT NULL,
  -- Kept for good: a change was read from it or against it. Others go when the next one comes.
  kept boolean NOT NULL DEFAULT false
);
CREATE INDEX snapshot_of_source ON snapshot (source_id, id DESC);

CREATE TABLE watch (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  source_id int NOT NULL REFERENCES source,
  owner_id int NOT NULL REFERENCES person,
  state text NOT NULL CHECK (state IN ('running', 'paused', 'deleted')),
  version int NOT NULL,
  interval_ms bigint NOT NULL CHECK (interval_ms > 0),
  created_at timestamptz NOT NULL,
  read_due_at timestamptz NOT NULL,
  asked_at timestamptz,
  last_read_at timestamptz,
  last_good_at timestamptz,
  reads bigint NOT NULL DEFAULT 0,
  failing_since timestamptz,
  problem jsonb,
  -- The last good reading was made under the present version, and no rule on it waits for time to pass.
  settled boolean NOT NULL DEFAULT false
);
CREATE INDEX watch_of_source ON watch (source_id) WHERE state = 'running';

CREATE TABLE watch_version (
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  version int NOT NULL,
  definition jsonb NOT NULL,
  frequency jsonb NOT NULL,
  made_by int NOT NULL REFERENCES person,
  made_at timestamptz NOT NULL,
  PRIMARY KEY (watch_id, version)
);

CREATE TABLE watch_run (
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  run_id bigint NOT NULL,
  started_at timestamptz NOT NULL,
  outcome text NOT NULL CHECK (outcome IN ('first', 'same', 'changed', 'failed')),
  problem jsonb,
  PRIMARY KEY (watch_id, started_at, run_id)
);

CREATE TABLE record (
  id bigint PRIMARY KEY,
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  identity text NOT NULL,
  first_seen timestamptz NOT NULL,
  UNIQUE (watch_id, identity)
);

CREATE TABLE series (
  id bigint PRIMARY KEY,
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  record_id bigint NOT NULL REFERENCES record ON DELETE CASCADE,
  field text NOT NULL,
  -- The open reading, repeated here so that a run need not look for it.
  value jsonb NOT NULL,
  open_since timestamptz NOT NULL,
  last_good_at timestamptz NOT NULL,
  -- Set while the field cannot be read; the value above then stands, stale.
  problem jsonb,
  UNIQUE (record_id, field)
);
CREATE INDEX series_of_watch ON series (watch_id);

CREATE TABLE reading (
  series_id bigint NOT NULL,
  first_seen timestamptz NOT NULL,
  last_seen timestamptz NOT NULL,
  runs bigint NOT NULL DEFAULT 1,
  kind text NOT NULL CHECK (kind IN ('money', 'number', 'text', 'absent')),
  amount numeric,
  unit text,
  words text,
  run_id bigint NOT NULL,
  PRIMARY KEY (series_id, first_seen)
) PARTITION BY RANGE (first_seen);

CREATE TABLE reading_rest PARTITION OF reading DEFAULT WITH (fillfactor = 70);

-- Makes the monthly partitions of readings from the month of the first moment to that of the second.
CREATE FUNCTION make_reading_partitions(from_moment timestamptz, to_moment timestamptz) RETURNS void
LANGUAGE plpgsql AS $$
DECLARE
  month timestamp := date_trunc('month', from_moment AT TIME ZONE 'UTC');
  name text;
BEGIN
  PERFORM pg_advisory_xact_lock(hashtext('shrike reading partitions'));
  WHILE month <= to_moment AT TIME ZONE 'UTC' LOOP
    name := 'reading_' || to_char(month, 'YYYY_MM');
    IF to_regclass(name) IS NULL THEN
      EXECUTE format('CREATE TABLE %I PARTITION OF reading FOR VALUES FROM (%L) TO (%L) WITH (fillfactor = 70)',
        name, (month AT TIME ZONE 'UTC'), ((month + interval '1 month') AT TIME ZONE 'UTC'));
    END IF;
    month := month + interval '1 month';
  END LOOP;
END $$;

CREATE TABLE rule (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  version int NOT NULL,
  ended_at timestamptz
);
CREATE INDEX rule_of_watch ON rule (watch_id) WHERE ended_at IS NULL;

CREATE TABLE rule_version (
  rule_id int NOT NULL REFERENCES rule ON DELETE CASCADE,
  version int NOT NULL,
  definition jsonb NOT NULL,
  made_by int NOT NULL REFERENCES person,
  made_at timestamptz NOT NULL,
  PRIMARY KEY (rule_id, version)
);

CREATE TABLE rule_state (
  rule_id int NOT NULL REFERENCES rule ON DELETE CASCADE,
  series_id bigint NOT NULL REFERENCES series ON DELETE CASCADE,
  version int NOT NULL,
  name text NOT NULL CHECK (name IN ('undecided', 'calm', 'holding', 'raised')),
  waiting boolean NOT NULL,
  since timestamptz NOT NULL,
  PRIMARY KEY (rule_id, series_id)
);

-- The one place that says in which order news was committed: its row is locked by the commit itself.
CREATE TABLE commit_order (
  the_one boolean PRIMARY KEY DEFAULT true CHECK (the_one),
  last bigint NOT NULL DEFAULT 0
);
INSERT INTO commit_order DEFAULT VALUES;

CREATE TABLE change (
  id bigint PRIMARY KEY,
  -- Its place in the order of commits; given by the commit.
  seq bigint UNIQUE,
  run_id bigint NOT NULL,
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  watch_version int NOT NULL,
  series_id bigint NOT NULL REFERENCES series ON DELETE CASCADE,
  field text NOT NULL,
  kind text NOT NULL CHECK (kind IN ('amount', 'unit', 'presence', 'text')),
  was jsonb NOT NULL,
  now jsonb NOT NULL,
  difference numeric,
  percent numeric,
  sense text NOT NULL CHECK (sense IN ('better', 'worse', 'neither')),
  seen_at timestamptz NOT NULL,
  looked_before timestamptz NOT NULL
);
CREATE INDEX change_of_watch ON change (watch_id, seen_at DESC);
CREATE INDEX change_by_time ON change (seen_at DESC);

CREATE TABLE verdict (
  id bigint PRIMARY KEY,
  run_id bigint NOT NULL,
  change_id bigint REFERENCES change ON DELETE CASCADE,
  rule_id int NOT NULL REFERENCES rule ON DELETE CASCADE,
  rule_version int NOT NULL,
  series_id bigint NOT NULL REFERENCES series ON DELETE CASCADE,
  state_before text NOT NULL,
  state_after text NOT NULL,
  taken boolean NOT NULL,
  reason text NOT NULL,
  inputs jsonb NOT NULL,
  made_at timestamptz NOT NULL
);
CREATE INDEX verdict_of_change ON verdict (change_id);
CREATE INDEX verdict_of_series ON verdict (series_id, made_at DESC);

CREATE TABLE episode (
  id bigint PRIMARY KEY,
  rule_id int NOT NULL REFERENCES rule ON DELETE CASCADE,
  series_id bigint NOT NULL REFERENCES series ON DELETE CASCADE,
  opened_at timestamptz NOT NULL,
  peak jsonb NOT NULL,
  peak_at timestamptz NOT NULL,
  closed_at timestamptz,
  taken_on_by int REFERENCES person
);
CREATE UNIQUE INDEX episode_open ON episode (rule_id, series_id) WHERE closed_at IS NULL;
CREATE INDEX episode_of_series ON episode (series_id, opened_at DESC);

CREATE TABLE alert (
  id bigint PRIMARY KEY,
  seq bigint UNIQUE,
  run_id bigint NOT NULL,
  rule_id int NOT NULL REFERENCES rule ON DELETE CASCADE,
  rule_version int NOT NULL,
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  series_id bigint NOT NULL REFERENCES series ON DELETE CASCADE,
  change_id bigint REFERENCES change ON DELETE CASCADE,
  episode_id bigint REFERENCES episode ON DELETE CASCADE,
  news jsonb NOT NULL,
  seen_at timestamptz NOT NULL
);
CREATE INDEX alert_of_watch ON alert (watch_id, seen_at DESC);
CREATE INDEX alert_by_time ON alert (seen_at DESC);
CREATE INDEX alert_of_change ON alert (change_id);

-- Gives news its place in the order of commits. Deferred, so that it runs inside the commit and the order's row is
-- locked
-- no longer than that takes; a transaction that needs the numbers earlier sets the constraint immediate, last of all.
CREATE FUNCTION place_news() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  place bigint;
BEGIN
  UPDATE commit_order SET last = last + 1 RETURNING last INTO place;
  IF TG_TABLE_NAME = 'change' THEN
    UPDATE change SET seq = place WHERE id = NEW.id;
  ELSE
    UPDATE alert SET seq = place WHERE id = NEW.id;
  END IF;
  RETURN NULL;
END $$;
CREATE CONSTRAINT TRIGGER placed_change AFTER INSERT ON change DEFERRABLE INITIALLY DEFERRED FOR EACH ROW EXECUTE
  FUNCTION place_news();
CREATE CONSTRAINT TRIGGER placed_alert AFTER INSERT ON alert DEFERRABLE INITIALLY DEFERRED FOR EACH ROW EXECUTE FUNCTION
  place_news();

CREATE TABLE report (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  name text NOT NULL,
  version int NOT NULL,
  editions int NOT NULL DEFAULT 0,
  -- The place in the commit order up to which editions have been cut.
  cut_seq bigint NOT NULL DEFAULT 0,
  ended_at timestamptz
);

CREATE TABLE report_version (
  report_id int NOT NULL REFERENCES report ON DELETE CASCADE,
  version int NOT NULL,
  definition jsonb NOT NULL,
  made_by int NOT NULL REFERENCES person,
  made_at timestamptz NOT NULL,
  PRIMARY KEY (report_id, version)
);

-- Who reads a report in its present version: a person or a list.
CREATE TABLE report_reader (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  report_id int NOT NULL REFERENCES report ON DELETE CASCADE,
  person_id int REFERENCES person,
  list_id int REFERENCES list,
  CHECK (num_nonnulls(person_id, list_id) = 1),
  UNIQUE (report_id, person_id, list_id)
);

-- Which rules a report takes, from when until when.
CREATE TABLE report_rule (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  report_id int NOT NULL REFERENCES report ON DELETE CASCADE,
  rule_id int NOT NULL REFERENCES rule ON DELETE CASCADE,
  joined_at timestamptz NOT NULL,
  left_at timestamptz
);
CREATE UNIQUE INDEX report_rule_now ON report_rule (report_id, rule_id) WHERE left_at IS NULL;
CREATE INDEX report_rule_of_rule ON report_rule (rule_id) WHERE left_at IS NULL;

CREATE TABLE edition (
  id bigint PRIMARY KEY,
  report_id int NOT NULL REFERENCES report ON DELETE CASCADE,
  report_version int NOT NULL,
  number int NOT NULL,
  from_seq bigint NOT NULL,
  to_seq bigint NOT NULL,
  made_at timestamptz NOT NULL,
  CHECK (from_seq <= to_seq),
  UNIQUE (report_id, number)
);

CREATE TABLE edition_alert (
  edition_id bigint NOT NULL REFERENCES edition ON DELETE CASCADE,
  report_id int NOT NULL,
  alert_id bigint NOT NULL REFERENCES alert ON DELETE CASCADE,
  PRIMARY KEY (edition_id, alert_id),
  UNIQUE (report_id, alert_id)
);

CREATE TABLE delivery (
  id bigint PRIMARY KEY,
  edition_id bigint NOT NULL REFERENCES edition ON DELETE CASCADE,
  person_id int NOT NULL REFERENCES person,
  route text NOT NULL CHECK (route IN ('mail')),
  address text NOT NULL,
  message_id text NOT NULL UNIQUE,
  number int NOT NULL,
  state text NOT NULL CHECK (state IN ('queued', 'kept back', 'sending', 'sent', 'refused', 'given up')),
  reason text,
  subject text NOT NULL,
  html text NOT NULL,
  plain text NOT NULL,
  attempts int NOT NULL DEFAULT 0,
  sent_again boolean NOT NULL DEFAULT false,
  ordered_at timestamptz NOT NULL,
  next_attempt_at timestamptz,
  sent_at timestamptz,
  response text,
  UNIQUE (edition_id, person_id, route)
);
CREATE INDEX delivery_by_time ON delivery (ordered_at DESC);
CREATE INDEX delivery_waiting ON delivery (state) WHERE state <> 'sent';

-- How many mails each reader has had of each report, so that a lost one shows.
CREATE TABLE reader_number (
  report_id int NOT NULL REFERENCES report ON DELETE CASCADE,
  person_id int NOT NULL REFERENCES person,
  last int NOT NULL,
  PRIMARY KEY (report_id, person_id)
);

CREATE TABLE delivery_attempt (
  delivery_id bigint NOT NULL REFERENCES delivery ON DELETE CASCADE,
  attempt int NOT NULL,
  started_at timestamptz NOT NULL,
  ended_at timestamptz,
  outcome text CHECK (outcome IN ('accepted', 'refused', 'no answer', 'unknown')),
  response text,
  PRIMARY KEY (delivery_id, attempt)
);

-- Who heard of an alert through which report, or why not; written when it was decided.
CREATE TABLE telling (
  alert_id bigint NOT NULL REFERENCES alert ON DELETE CASCADE,
  report_id int NOT NULL REFERENCES report ON DELETE CASCADE,
  person_id int NOT NULL REFERENCES person,
  decision text NOT NULL CHECK (decision IN ('told', 'stood back', 'kept back')),
  in_favour_of int REFERENCES report,
  delivery_id bigint REFERENCES delivery ON DELETE CASCADE,
  PRIMARY KEY (alert_id, report_id, person_id)
);

CREATE TABLE draft (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  person_id int NOT NULL REFERENCES person ON DELETE CASCADE,
  address text NOT NULL,
  content jsonb NOT NULL,
  body text COMPRESSION lz4,
  fetched_at timestamptz,
  updated_at timestamptz NOT NULL
);

CREATE TABLE worker (
  id uuid PRIMARY KEY,
  process text NOT NULL,
  started_at timestamptz NOT NULL,
  seen_at timestamptz NOT NULL
);
