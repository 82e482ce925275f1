-- Who is told next of an episode that nobody takes on, and when.
ALTER TABLE episode ADD COLUMN step int NOT NULL DEFAULT 0, ADD COLUMN step_at timestamptz;
CREATE INDEX episode_step ON episode (step_at) WHERE step_at IS NOT NULL AND closed_at IS NULL;
