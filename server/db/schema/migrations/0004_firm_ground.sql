-- Connections to the database that a worker lost while they were idle.
ALTER TABLE worker ADD COLUMN connections_lost int NOT NULL DEFAULT 0;

-- What a rule remembers of a record, whole; the clock may have something to say of it at due_at.
ALTER TABLE rule_state RENAME TO former_rule_state;
CREATE TABLE rule_state (
  rule_id int NOT NULL REFERENCES rule ON DELETE CASCADE,
  record_id bigint NOT NULL REFERENCES record ON DELETE CASCADE,
  version int NOT NULL,
  name text NOT NULL CHECK (name IN ('undecided', 'calm', 'holding', 'raised')),
  memory jsonb NOT NULL,
  since timestamptz NOT NULL,
  due_at timestamptz,
  PRIMARY KEY (rule_id, record_id)
);
CREATE INDEX rule_state_of_record ON rule_state (record_id);
CREATE INDEX rule_state_due ON rule_state (due_at) WHERE due_at IS NOT NULL;

INSERT INTO rule_state (rule_id, record_id, version, name, memory, since)
SELECT DISTINCT ON (t.rule_id, s.record_id) t.rule_id, s.record_id, t.version,
  CASE WHEN t.waiting THEN 'calm' ELSE t.name END,
  jsonb_build_object('v', 1,
    'state', CASE WHEN t.waiting OR t.name = 'calm' THEN '{"is": "calm"}'
      WHEN t.name = 'raised'
        THEN jsonb_build_object('is', 'raised', 'raised', (extract(epoch FROM t.since) * 1000)::bigint,
        'opened', (extract(epoch FROM coalesce(e.opened_at, t.since)) * 1000)::bigint,
        'peak', CASE WHEN e.peak->>'kind' IN ('money', 'number')
          THEN jsonb_build_object('value', e.peak, 'at', (extract(epoch FROM e.peak_at) * 1000)::bigint) ELSE 'null'
            END)
      ELSE '{"is": "undecided"}' END,
    'clause', CASE WHEN t.waiting THEN 'passed over' WHEN t.name = 'raised' THEN 'beyond' WHEN t.name = 'calm'
      THEN 'clear' ELSE 'afresh' END),
  t.since
FROM former_rule_state t JOIN series s ON s.id = t.series_id
LEFT JOIN episode e ON e.rule_id = t.rule_id AND e.series_id = t.series_id AND e.closed_at IS NULL
ORDER BY t.rule_id, s.record_id, t.version DESC, t.since DESC;
DROP TABLE former_rule_state;

-- An episode is of a rule on a record, as its state is.
ALTER TABLE episode
  ADD COLUMN record_id bigint REFERENCES record ON DELETE CASCADE,
  ADD COLUMN closed_because text CHECK
    (closed_because IN ('left', 'edited', 'unlike', 'ended', 'record gone', 'by hand'));
UPDATE episode e SET record_id = s.record_id FROM series s WHERE s.id = e.series_id;
ALTER TABLE episode ALTER COLUMN record_id SET NOT NULL, DROP COLUMN series_id, ADD COLUMN raised_at timestamptz;
CREATE UNIQUE INDEX episode_open ON episode (rule_id, record_id) WHERE closed_at IS NULL;
CREATE INDEX episode_of_rule ON episode (rule_id, opened_at DESC);
CREATE INDEX episode_of_record ON episode (record_id);

-- A reason is a code with its numbers; what was stored before are words.
ALTER TABLE verdict ALTER COLUMN reason TYPE jsonb USING to_jsonb(reason);

-- News takes its place in the order of commits when an edition is cut, and now and then besides: runs do not queue for
-- the one row
-- that hands places out. What is not committed yet cannot be seen, and so falls behind the cut.
DROP TRIGGER placed_change ON change;
DROP TRIGGER placed_alert ON alert;
DROP FUNCTION place_news();
ALTER TABLE notice ADD COLUMN seq bigint UNIQUE;
CREATE INDEX change_unplaced ON change (id) WHERE seq IS NULL;
CREATE INDEX alert_unplaced ON alert (id) WHERE seq IS NULL;
CREATE INDEX notice_unplaced ON notice (id) WHERE seq IS NULL;

-- Places all news that is committed, and the caller's own; returns the last place. Whoever cuts does it last of all,
-- for from then on
-- until its commit nobody else can.
CREATE FUNCTION place_news() RETURNS bigint LANGUAGE plpgsql AS $$
DECLARE
  reached bigint;
BEGIN
  SELECT last INTO reached FROM commit_order FOR UPDATE;
  WITH unplaced AS (
    SELECT id FROM change WHERE seq IS NULL UNION ALL SELECT id FROM alert WHERE seq IS NULL UNION ALL SELECT id
    FROM notice WHERE seq IS NULL
  ), numbered AS (
    SELECT id, reached + row_number() OVER (ORDER BY id) AS place FROM unplaced
  ), changes AS (
    UPDATE change t SET seq = place FROM numbered n WHERE t.id = n.id AND t.seq IS NULL
  ), alerts AS (
    UPDATE alert t SET seq = place FROM numbered n WHERE t.id = n.id AND t.seq IS NULL
  ), notices AS (
    UPDATE notice t SET seq = place FROM numbered n WHERE t.id = n.id AND t.seq IS NULL
  )
  UPDATE commit_order SET last = coalesce((SELECT max(place) FROM numbered), last) RETURNING last INTO reached;
  RETURN reached;
END $$;

-- A look that brings nothing new writes no row for each series: it counts on the watch. What an open reading has to its
-- credit since it
-- was last written is what the watch counts beyond the series' mark.
ALTER TABLE watch ADD COLUMN settled_runs bigint NOT NULL DEFAULT 0, ADD COLUMN settled_at timestamptz;
ALTER TABLE series ADD COLUMN read_mark bigint NOT NULL DEFAULT 0;

CREATE VIEW reading_seen AS
SELECT r.series_id, r.first_seen,
  CASE WHEN held.mark IS NULL THEN r.last_seen ELSE greatest(r.last_seen, held.settled_at) END AS last_seen,
  r.runs + coalesce(held.settled_runs - held.mark, 0) AS runs, r.kind, r.amount, r.unit, r.words, r.run_id, r.quality,
    r.late
FROM reading r LEFT JOIN LATERAL (
  SELECT s.read_mark AS mark, w.settled_runs, w.settled_at FROM series s JOIN record c ON c.id = s.record_id
  JOIN watch w ON w.id = s.watch_id
  WHERE s.id = r.series_id AND s.open_since = r.first_seen AND s.problem IS NULL AND c.gone_since IS NULL
    AND w.settled_runs > s.read_mark
) held ON true;

-- An account is one who signs in, apart from the person that is told: a person without one stays a reader.
ALTER TABLE account DROP CONSTRAINT account_pkey, ADD COLUMN id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  ADD UNIQUE (person_id), ADD COLUMN role text NOT NULL DEFAULT 'owner' CHECK (role IN ('owner'));
ALTER TABLE session ADD COLUMN account_id int REFERENCES account ON DELETE CASCADE;
UPDATE session s SET account_id = a.id FROM account a WHERE a.person_id = s.person_id;
DELETE FROM session WHERE account_id IS NULL;
ALTER TABLE session ALTER COLUMN account_id SET NOT NULL, DROP COLUMN person_id;
CREATE INDEX session_of_account ON session (account_id);
