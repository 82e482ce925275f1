-- What is kept of a draft says on which state of it it builds, so that two tabs do not overwrite one another unsaid.
ALTER TABLE draft ADD COLUMN revision int NOT NULL DEFAULT 0;

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

-- Runs and looks that were begun and did not come to any end: the process that made them died. The second time they are set aside.
ALTER TABLE source
  ADD COLUMN begun int NOT NULL DEFAULT 0,
  ADD COLUMN set_aside_at timestamptz;
ALTER TABLE look ADD COLUMN begun int NOT NULL DEFAULT 0;
