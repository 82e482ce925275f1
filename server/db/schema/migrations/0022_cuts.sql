-- Reports that are cut by the clock or by hand, beside those that tell at once.
ALTER TABLE report
  ADD COLUMN owner_id int REFERENCES person,
  ADD COLUMN made_at timestamptz,
  -- Up to when it was cut last, and when it is due next by its cadence; null where none is planned.
  ADD COLUMN cut_at timestamptz,
  ADD COLUMN due_at timestamptz,
  ADD COLUMN cuts int NOT NULL DEFAULT 0;
UPDATE report r SET owner_id = v.made_by, made_at = v.made_at,
  cut_at = coalesce((SELECT max(e.made_at) FROM edition e WHERE e.report_id = r.id), v.made_at)
FROM report_version v WHERE v.report_id = r.id AND v.version = 1;
ALTER TABLE report ALTER COLUMN owner_id SET NOT NULL, ALTER COLUMN made_at SET NOT NULL, ALTER COLUMN cut_at
SET NOT NULL;
CREATE INDEX report_due ON report (due_at) WHERE due_at IS NOT NULL AND ended_at IS NULL;
CREATE INDEX report_of_owner ON report (owner_id);

-- What was only said as 'at once' is a whole standing order.
UPDATE report_version SET definition = jsonb_build_object(
  'v', 0, 'cadence', jsonb_build_object('cut', 'at once'),
  'takes',
    '{"sorts": ["alerts", "failures"], "only": {"watches": [], "sites": [], "kinds": [], "tags": []}, "not": {"watches": [], "sites": [], "ours": false}}'::jsonb,
  'size', '{"falls": {"is": "any"}, "rises": {"is": "any"}}'::jsonb, 'shows', 'each', 'by', 'none',
  'sort', '{"groups": {"by": "percent", "down": true}, "lines": {"by": "percent", "down": true}}'::jsonb,
  'most', NULL, 'items', 'whole', 'whenNothing', 'skip', 'readers', definition->'readers');

-- A moment at which a report takes a stretch of the record: (from_seq, to_seq] in the order of commits. It is taken
-- under the report's lock;
-- its editions are made of it afterwards, from what cannot change any more.
CREATE TABLE cut (
  id bigint PRIMARY KEY,
  report_id int NOT NULL REFERENCES report ON DELETE CASCADE,
  report_version int NOT NULL,
  number int NOT NULL,
  from_seq bigint NOT NULL,
  to_seq bigint NOT NULL,
  from_at timestamptz NOT NULL,
  made_at timestamptz NOT NULL,
  -- The first planned moment that it is for, and how many it is for; none of a cut by hand.
  due_at timestamptz,
  planned int NOT NULL DEFAULT 0,
  -- Until its editions are made: when that is tried next, and what went wrong.
  composed_at timestamptz,
  try_at timestamptz,
  tries int NOT NULL DEFAULT 0,
  problem text,
  -- How many lines it told.
  lines int,
  CHECK (from_seq <= to_seq),
  UNIQUE (report_id, number)
);
CREATE INDEX cut_to_compose ON cut (try_at) WHERE try_at IS NOT NULL;

ALTER TABLE edition ADD COLUMN cut_id bigint REFERENCES cut ON DELETE CASCADE, ADD COLUMN document jsonb;
CREATE INDEX edition_of_cut ON edition (cut_id) WHERE cut_id IS NOT NULL;
-- How a series stood at a place in the order of commits is what the first change after it found.
DROP INDEX change_of_series;
CREATE INDEX change_of_series ON change (series_id, seq) WHERE series_id IS NOT NULL;
