-- Pictures that mails bear, drawn when the first of them is sent or shown, and kept as they were; without a body where
-- there was nothing to draw.
CREATE TABLE drawn (
  name text PRIMARY KEY,
  type text,
  body bytea,
  drawn_at timestamptz NOT NULL
);
CREATE INDEX drawn_by_time ON drawn (drawn_at);
