-- What was printed at the start, as its hash: without it nobody becomes the first owner. One at a time.
CREATE TABLE first_owner_code (
  one bool PRIMARY KEY DEFAULT true CHECK (one),
  hash bytea NOT NULL,
  made_at timestamptz NOT NULL
);
