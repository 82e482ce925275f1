-- What every look brings is kept in partitions by week, and let go of a week at a time. Nothing points at its rows by a
-- constraint, so
-- that a run looks up no other row for each that it writes: a source, a watch or a rule is never removed, only ended.
DROP FUNCTION make_reading_partitions(timestamptz, timestamptz);

-- Makes the partitions of a table by weeks or months, from that of the first moment to that of the second.
CREATE FUNCTION make_partitions(parent text, unit text, from_moment timestamptz, to_moment timestamptz) RETURNS void
LANGUAGE plpgsql AS $$
DECLARE
  start timestamp := date_trunc(unit, from_moment AT TIME ZONE 'UTC');
  step interval := ('1 ' || unit)::interval;
  name text;
BEGIN
  PERFORM pg_advisory_xact_lock(hashtext('shrike partitions'));
  WHILE start <= to_moment AT TIME ZONE 'UTC' LOOP
    name := parent || to_char(start, CASE unit WHEN 'month' THEN '_YYYY_MM' ELSE '_YYYY_MM_DD' END);
    IF to_regclass(name) IS NULL THEN
      EXECUTE format('CREATE TABLE %I PARTITION OF %I FOR VALUES FROM (%L) TO (%L) %s', name, parent,
        start AT TIME ZONE 'UTC',
        (start + step) AT TIME ZONE 'UTC', CASE parent WHEN 'reading' THEN 'WITH (fillfactor = 70)' ELSE '' END);
    END IF;
    start := start + step;
  END LOOP;
END $$;

ALTER TABLE run RENAME TO former_run;
ALTER TABLE former_run RENAME CONSTRAINT run_pkey TO former_run_pkey;
DROP INDEX run_of_source, run_by_time;
CREATE TABLE run (
  id bigint NOT NULL,
  source_id int NOT NULL,
  due_at timestamptz NOT NULL,
  started_at timestamptz NOT NULL,
  took_ms int NOT NULL,
  late_ms bigint NOT NULL,
  outcome text NOT NULL CHECK (outcome IN ('first', 'same', 'changed', 'failed')),
  status int,
  bytes int NOT NULL DEFAULT 0,
  problem jsonb,
  snapshot_id bigint,
  PRIMARY KEY (id, started_at)
) PARTITION BY RANGE (started_at);
CREATE TABLE run_rest PARTITION OF run DEFAULT;
CREATE INDEX run_by_time ON run USING brin (started_at) WITH (pages_per_range = 16);

ALTER TABLE watch_run RENAME TO former_watch_run;
ALTER TABLE former_watch_run RENAME CONSTRAINT watch_run_pkey TO former_watch_run_pkey;
DROP INDEX watch_run_by_time;
CREATE TABLE watch_run (
  watch_id int NOT NULL,
  run_id bigint NOT NULL,
  started_at timestamptz NOT NULL,
  outcome text NOT NULL CHECK (outcome IN ('first', 'same', 'changed', 'failed')),
  problem jsonb,
  PRIMARY KEY (watch_id, started_at, run_id)
) PARTITION BY RANGE (started_at);
CREATE TABLE watch_run_rest PARTITION OF watch_run DEFAULT;
CREATE INDEX watch_run_by_time ON watch_run USING brin (started_at) WITH (pages_per_range = 16);

ALTER TABLE verdict RENAME TO former_verdict;
DROP INDEX verdict_of_change, verdict_of_series, verdict_by_time;
CREATE TABLE verdict (
  id bigint NOT NULL,
  run_id bigint NOT NULL,
  change_id bigint,
  rule_id int NOT NULL,
  rule_version int NOT NULL,
  series_id bigint NOT NULL,
  state_before text NOT NULL,
  state_after text NOT NULL,
  taken boolean NOT NULL,
  reason jsonb NOT NULL,
  inputs jsonb NOT NULL,
  made_at timestamptz NOT NULL
) PARTITION BY RANGE (made_at);
CREATE TABLE verdict_rest PARTITION OF verdict DEFAULT;
CREATE INDEX verdict_of_change ON verdict (change_id) WHERE change_id IS NOT NULL;

DO $$
DECLARE
  first timestamptz := (SELECT min(started_at) FROM former_run);
  last timestamptz := (SELECT max(started_at) FROM former_run);
BEGIN
  IF first IS NOT NULL THEN
    PERFORM make_partitions(name, 'week', first, last + interval '40 days')
    FROM unnest(ARRAY['run', 'watch_run', 'verdict']) name;
  END IF;
END $$;
INSERT INTO run (id, source_id, due_at, started_at, took_ms, late_ms, outcome, status, bytes, problem, snapshot_id)
SELECT id, source_id, due_at, started_at, took_ms, late_ms, outcome, status, bytes, problem, snapshot_id
FROM former_run;
INSERT INTO watch_run (watch_id, run_id, started_at, outcome, problem)
SELECT watch_id, run_id, started_at, outcome, problem FROM former_watch_run;
INSERT INTO verdict (id, run_id, change_id, rule_id, rule_version, series_id, state_before, state_after, taken, reason,
  inputs, made_at)
SELECT id, run_id, change_id, rule_id, rule_version, series_id, state_before, state_after, taken, reason, inputs,
  made_at FROM former_verdict;
DROP TABLE former_run, former_watch_run, former_verdict;

-- How long the last run of a source took, where it is looked up again and again.
ALTER TABLE source ADD COLUMN last_took_ms int;
UPDATE source s
SET last_took_ms = (SELECT took_ms FROM run r WHERE r.source_id = s.id ORDER BY started_at DESC LIMIT 1);
