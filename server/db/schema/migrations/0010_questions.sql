-- A value that was found under another frame than before is set aside, and a person is asked what it is.
CREATE TABLE question (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  field text NOT NULL,
  -- The first record that it is asked of, and of how many.
  identity text NOT NULL,
  records int NOT NULL,
  -- The same at every watch that asks the same.
  same_as text NOT NULL,
  was jsonb,
  found jsonb NOT NULL,
  found_text text NOT NULL,
  changes jsonb NOT NULL,
  frame jsonb,
  around boolean NOT NULL,
  asked_at timestamptz NOT NULL,
  seen_at timestamptz NOT NULL,
  -- What was fetched when it was asked, and before.
  snapshot_id bigint,
  snapshot_before bigint,
  answer text CHECK (answer IN ('yes', 'no', 'passed')),
  answered_at timestamptz,
  answered_by int REFERENCES person (id)
);
CREATE INDEX question_of_watch ON question (watch_id, answer);
CREATE INDEX question_same ON question (md5(same_as)) WHERE answer IS NULL;
CREATE INDEX question_answered_by ON question (answered_by);

-- What is asked of a watch, and what was denied, as a run has to know it: so that it asks nothing twice.
ALTER TABLE watch ADD COLUMN asks jsonb NOT NULL DEFAULT '[]';

ALTER TABLE notice DROP CONSTRAINT notice_kind_check, ADD CHECK (kind IN ('failing', 'recovered', 'question'));
