-- A rule bears what a run has to know of it before its text is read: the version with which its states began and when
-- that was saved, when
-- its baseline was judged, and when it was begun; until then a run passes it over. `whole` of those that look beyond
-- the records that came.
ALTER TABLE rule
  ADD COLUMN judged_version int,
  ADD COLUMN judged_at timestamptz,
  ADD COLUMN begun_at timestamptz,
  ADD COLUMN baseline_at timestamptz,
  ADD COLUMN field text,
  ADD COLUMN whole boolean NOT NULL DEFAULT false,
  ADD COLUMN hears_failures boolean NOT NULL DEFAULT false,
  ADD COLUMN off boolean NOT NULL DEFAULT false,
  ADD COLUMN ends_at timestamptz;
UPDATE rule r SET judged_version = r.version, judged_at = v.made_at, begun_at = v.made_at, baseline_at = v.made_at,
  field = v.definition->'condition'->>'field'
FROM rule_version v WHERE v.rule_id = r.id AND v.version = r.version;
ALTER TABLE rule ALTER COLUMN judged_version SET NOT NULL, ALTER COLUMN judged_at SET NOT NULL;
CREATE INDEX rule_to_begin ON rule (id) WHERE begun_at IS NULL AND ended_at IS NULL AND NOT off;
CREATE INDEX rule_to_end ON rule (ends_at) WHERE ends_at IS NOT NULL AND ended_at IS NULL;
CREATE INDEX rule_hearing_failures ON rule (watch_id) WHERE hears_failures AND ended_at IS NULL;

-- Which other watches a rule asks: it is judged when they are read, too.
CREATE TABLE rule_asks (
  rule_id int NOT NULL REFERENCES rule ON DELETE CASCADE,
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  PRIMARY KEY (rule_id, watch_id)
);
CREATE INDEX rule_asks_of_watch ON rule_asks (watch_id);

-- What was remembered of one limit alone, as it is remembered of a condition of any kind.
UPDATE rule_state t SET memory = jsonb_build_object(
  'v', 2,
  'judged', jsonb_build_object(
    'clauses', jsonb_build_array(jsonb_build_object(
      'own', jsonb_build_object('side', t.memory->>'clause', 'last', s.value, 'read', true),
      'standing', CASE
        WHEN t.memory->'state'->>'is' IN ('holding', 'raised')
          OR (t.memory->>'clause' = 'passed over' AND v.definition->'condition'->>'kind' = 'level')
          THEN '{"is": "met"}'::jsonb
        WHEN t.memory->'state'->>'is' = 'calm' THEN '{"is": "unmet"}'
        WHEN t.memory->>'clause' = 'afresh' THEN '{"is": "undecided", "unlike": true}'
        ELSE '{"is": "undecided"}' END)),
    'state', (t.memory->'state') - 'latestAt' - 'value',
    'heldBack', CASE WHEN t.memory->>'clause' = 'passed over' AND v.definition->'condition'->>'kind' = 'level'
      THEN '[0]'::jsonb ELSE '[]' END,
    'begun', t.memory->>'clause' <> 'unjudged',
    'ended', (extract(epoch FROM t.since) * 1000)::bigint,
    'clock', (extract(epoch FROM t.since) * 1000)::bigint,
    'lateBefore', -8640000000000000,
    'latest', coalesce(t.memory->'state'->'latestAt', to_jsonb((extract(epoch FROM w.last_good_at) * 1000)::bigint)),
    'openSince', null,
    'saidOpen', false),
  'telling',
    jsonb_build_object('resting', false, 'gateUntil', null, 'held', 0, 'heldSince', null, 'waiting', null,
    'putOffUntil', null,
    'remindAt', null, 'open', t.name = 'raised', 'takenOn', false, 'clock',
      (extract(epoch FROM t.since) * 1000)::bigint))
FROM rule r
JOIN rule_version v ON v.rule_id = r.id AND v.version = r.version
JOIN watch w ON w.id = r.watch_id, record c
LEFT JOIN series s ON s.record_id = c.id
WHERE t.rule_id = r.id AND c.id = t.record_id AND t.version = r.version
  AND (s.field IS NULL OR s.field = v.definition->'condition'->>'field');
DELETE FROM rule_state t USING rule r WHERE r.id = t.rule_id AND (t.version <> r.version OR t.memory->>'v' <> '2');

-- An alert and a verdict may come of the clock or of a person's deed, and of a record of which no field was read.
ALTER TABLE alert ALTER COLUMN run_id DROP NOT NULL, ALTER COLUMN series_id DROP NOT NULL,
  ADD COLUMN record_id bigint REFERENCES record ON DELETE CASCADE,
  ADD COLUMN told text NOT NULL DEFAULT 'alert';
UPDATE alert a SET record_id = s.record_id FROM series s WHERE s.id = a.series_id;
CREATE INDEX alert_of_record ON alert (record_id, seen_at DESC);
ALTER TABLE verdict ALTER COLUMN run_id DROP NOT NULL, ALTER COLUMN series_id DROP NOT NULL,
  ADD COLUMN record_id bigint;

-- What is done about an episode by people, for ever: seen, taken on, put off, closed.
ALTER TABLE episode ADD COLUMN taken_on_at timestamptz, ADD COLUMN note text, ADD COLUMN put_off_until timestamptz;
CREATE TABLE episode_deed (
  id bigint PRIMARY KEY,
  episode_id bigint NOT NULL REFERENCES episode ON DELETE CASCADE,
  person_id int NOT NULL REFERENCES person,
  what text NOT NULL CHECK (what IN ('seen', 'taken on', 'let go', 'put off', 'closed', 'opened')),
  note text,
  until timestamptz,
  done_at timestamptz NOT NULL
);
CREATE INDEX deed_of_episode ON episode_deed (episode_id, done_at);
CREATE INDEX deed_of_person ON episode_deed (person_id);
CREATE INDEX episode_raised ON episode (raised_at DESC) WHERE closed_at IS NULL;
CREATE INDEX episode_over ON episode (closed_at DESC) WHERE closed_at IS NOT NULL;
CREATE INDEX episode_of_taker ON episode (taken_on_by) WHERE taken_on_by IS NOT NULL;
